package api

import (
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"encoding/binary"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/recordings"
)

// use is what a media address is for.
type use byte

const (
	asCaptured  use = 'c' // for those who teach
	asItRuns    use = 'r' // a lecture under way, for those who are enrolled
	asPublished use = 'p' // an edition, for those the rule lets in
)

// token is what a media address carries: for what, and for whom. It is worth nothing to
// anyone else, and nothing when the decision that gave it no longer holds.
type token struct {
	Use       use
	Recording uuid.UUID
	Edition   uuid.UUID
	Person    uuid.UUID
	Expires   time.Time
}

// lasts is how long a media address holds: a long lecture with breaks. Each request is
// decided anew within it.
const lasts = 6 * time.Hour

const (
	tokenLength = 1 + 3*16 + 8
	macLength   = 16
)

func (a *API) sign(b []byte) []byte {
	m := hmac.New(sha256.New, a.Secret)
	m.Write(b)
	return m.Sum(nil)[:macLength]
}

// address is where the playlist of a recording is for one person. Real time counts here,
// not that of a demonstration.
func (a *API) address(u use, recording, edition, person uuid.UUID) string {
	// In steps, so that a page that asks again gets the same address and its player goes on.
	return a.addressUntil(time.Now().Add(lasts).Truncate(time.Hour), u, recording, edition, person)
}

// addressUntil is address with the moment from which on it is worth nothing.
func (a *API) addressUntil(expires time.Time, u use, recording, edition, person uuid.UUID) string {
	b := make([]byte, 0, tokenLength+macLength)
	b = append(b, byte(u))
	b = append(append(append(b, recording[:]...), edition[:]...), person[:]...)
	b = binary.BigEndian.AppendUint64(b, uint64(expires.Unix()))
	b = append(b, a.sign(b)...)
	return "/media/" + base64.RawURLEncoding.EncodeToString(b) + "/index.m3u8"
}

// beside is the address of a file that stands beside a playlist.
func beside(playlist, name string) string { return strings.TrimSuffix(playlist, "index.m3u8") + name }

func slideAddress(playlist string, x recordings.Slide) string {
	return beside(playlist, fmt.Sprintf("slides/%s-%d.jpg", x.Track, x.Picture))
}

func copyAddress(playlist string) string { return beside(playlist, "copy.mp4") }

func (a *API) readToken(text string) (token, bool) {
	b, err := base64.RawURLEncoding.DecodeString(text)
	if err != nil || len(b) != tokenLength+macLength || !hmac.Equal(a.sign(b[:tokenLength]), b[tokenLength:]) {
		return token{}, false
	}
	t := token{Use: use(b[0]), Expires: time.Unix(int64(binary.BigEndian.Uint64(b[49:])), 0)}
	copy(t.Recording[:], b[1:])
	copy(t.Edition[:], b[17:])
	copy(t.Person[:], b[33:])
	return t, time.Now().Before(t.Expires)
}
