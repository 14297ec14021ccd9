package edge

import (
	"encoding/binary"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"
	lru "github.com/hashicorp/golang-lru/v2"

	"latelantern/internal/platform/seal"
	"latelantern/internal/recordings"
)

// Use is what a media address is for.
type Use byte

const (
	AsCaptured  Use = 'c' // for those who teach
	AsItRuns    Use = 'r' // a lecture under way, for those who are enrolled
	AsPublished Use = 'p' // an edition, for those the rule lets in
)

// Token is what a media address carries: for what, and for whom. It is worth nothing to
// anyone else, and nothing when the decision that gave it no longer holds.
type Token struct {
	Use       Use
	Recording uuid.UUID
	Edition   uuid.UUID
	Person    uuid.UUID
	Expires   time.Time
}

// lasts is how long a media address holds: a long lecture with breaks. Each request is
// decided anew within it.
const lasts = 6 * time.Hour

const tokenLength = 1 + 3*16 + 8

// Address is where the playlist of a recording is for one person. Real time counts here,
// not that of a demonstration.
func (e *Edge) Address(u Use, recording, edition, person uuid.UUID) string {
	// In steps, so that a page that asks again gets the same address and its player goes on.
	return e.AddressUntil(time.Now().Add(lasts).Truncate(time.Hour), u, recording, edition, person)
}

// AddressUntil is address with the moment from which on it is worth nothing.
func (e *Edge) AddressUntil(expires time.Time, u Use, recording, edition, person uuid.UUID) string {
	b := make([]byte, 0, tokenLength)
	b = append(b, byte(u))
	b = append(append(append(b, recording[:]...), edition[:]...), person[:]...)
	b = binary.BigEndian.AppendUint64(b, uint64(expires.Unix()))
	return "/media/" + seal.Key(e.parts.Secret, "", b) + "/index.m3u8"
}

// beside is the address of a file that stands beside a playlist.
func beside(playlist, name string) string { return strings.TrimSuffix(playlist, "index.m3u8") + name }

// SlideAddress is where a slide lies, by the address of the playlist beside it.
func SlideAddress(playlist string, x recordings.Slide) string {
	return beside(playlist, fmt.Sprintf("slides/%s-%d.jpg", x.Track, x.Picture))
}

// CopyAddress is where a copy of a kind to take away lies, by the address of the playlist beside it.
func CopyAddress(playlist, kind string) string { return beside(playlist, "copy/"+kind+".mp4") }

// newTokens are those that were read and are ours.
func newTokens() *lru.Cache[string, Token] {
	c, err := lru.New[string, Token](mostTokens)
	if err != nil {
		panic(err) // the size is positive
	}
	return c
}

// mostTokens is how many addresses are known again without reading them.
const mostTokens = 20_000

// ReadToken reads what a media address carries; ok is false for one that is not ours, or no longer holds.
func (e *Edge) ReadToken(text string) (Token, bool) {
	t, known := e.tokens.Get(text)
	if !known {
		var ours bool
		if t, ours = e.readToken(text); !ours {
			return Token{}, false
		}
		e.tokens.Add(text, t)
	}
	return t, time.Now().Before(t.Expires)
}

func (e *Edge) readToken(text string) (Token, bool) {
	b, ok := seal.About(text, tokenLength)
	if !ok || !seal.Opens(text, e.parts.Secret, "", b) {
		return Token{}, false
	}
	t := Token{Use: Use(b[0]), Expires: time.Unix(int64(binary.BigEndian.Uint64(b[49:])), 0)}
	copy(t.Recording[:], b[1:])
	copy(t.Edition[:], b[17:])
	copy(t.Person[:], b[33:])
	return t, true
}
