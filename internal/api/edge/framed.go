package edge

import (
	"context"
	"crypto/sha256"
	"encoding/base64"
	"encoding/binary"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"net/url"
	"path"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"latelantern/internal/core/embedding"
	"latelantern/internal/core/fault"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/platform/seal"
	"latelantern/internal/roster"
)

// Below this address lie the pages that other sites may show in a frame, and the one that opens beside such a frame.
const (
	framePages = "/embed/"
	besidePage = "/embed/enter"
)

// A session in a frame is one of its own: the site around it decides neither that it begins nor what it may, it comes
// to no more than a guest does, and it ends with the session beside it of which it was begun.
const (
	frameKeyLasts = 2 * time.Minute
	frameLasts    = 12 * time.Hour
	frameCookie   = "late_lantern_frame"
)

// allowFrame lets the sites that may show the pages that are made for it. The page beside them, where one signs in, is
// known to the frame that opened it, and is itself shown in none.
func (e *Edge) allowFrame(c *gin.Context) {
	at := path.Clean(c.Request.URL.Path)
	if !strings.HasPrefix(at, framePages) {
		return
	}
	c.Header("Cross-Origin-Opener-Policy", "unsafe-none")
	if at == besidePage {
		return
	}
	sites, err := e.parts.Frames.Sites(c.Request.Context())
	if err != nil {
		slog.Warn("which sites may show a page cannot be asked for", "error", err)
		return // then none may
	}
	c.Header("Content-Security-Policy", policy+embedding.Ancestors(sites))
}

// discover says of the page of a recording where its oEmbed answer is (oEmbed 1.0, 4), whatever is there.
func (e *Edge) discover(c *gin.Context) {
	at := c.Request.URL.Path
	if id, watch := strings.CutPrefix(at, "/watch/"); !watch || uuid.Validate(id) != nil {
		return
	}
	for _, format := range []string{"json", "xml"} {
		kind := map[string]string{"json": "application/json+oembed", "xml": "text/xml+oembed"}[format]
		query := url.Values{"url": {e.parts.Public + at}, "format": {format}}
		c.Writer.Header().Add("Link", fmt.Sprintf(`<%s/api/oembed?%s>; rel="alternate"; type="%s"`, e.parts.Public,
			query.Encode(), kind))
	}
}

// sessionTokens are the tokens that a request has, first that of a session of its browser, then that of one in a frame,
// which counts where the first is none or has ended. There is always one, "" for none.
func (e *Edge) sessionTokens(c *gin.Context) []string {
	var out []string
	for _, name := range []string{e.sessions.Cookie.Name, cookieName(e.parts.Secure, frameCookie)} {
		if cookie, err := c.Request.Cookie(name); err == nil && cookie.Value != "" {
			out = append(out, cookie.Value)
		}
	}
	if len(out) == 0 {
		out = []string{""}
	}
	return out
}

// lasts reports whether a session that is kept under a digest has not ended.
func (e *Edge) lasts(ctx context.Context, digest string) (bool, error) {
	there, err := postgres.Value[bool](ctx, e.parts.DB,
		`select exists (select 1 from sessions where token = $1 and expiry > now())`, digest)
	if err != nil {
		return false, fmt.Errorf("look for the session beside a frame: %w", err)
	}
	return there, nil
}

// isFramed reports whether the session of a request is one in a frame.
func isFramed(ctx context.Context) bool {
	framed, _ := ctx.Value(framedKey).(bool)
	return framed
}

// aboutFrame is how long what a key says is: a person, the era of their sessions, its end, and the digest of a session.
const aboutFrame = 16 + 8 + 8 + sha256.Size

// FrameKey is what a page in a frame begins its session with, within two minutes, as the person p who has signed in
// beside it, in the session of ctx.
func (e *Edge) FrameKey(ctx context.Context, p roster.Person) string {
	about := make([]byte, 0, aboutFrame)
	about = append(about, p.ID[:]...)
	about = binary.BigEndian.AppendUint64(about, uint64(p.SessionEra))
	about = binary.BigEndian.AppendUint64(about, uint64(time.Now().Add(frameKeyLasts).Unix()))
	beside := sha256.Sum256([]byte(e.sessions.Token(ctx)))
	return seal.Key(e.parts.Secret, "frame", append(about, beside[:]...))
}

// ErrFrameKey says that a key opens no session in a frame, or no longer.
var ErrFrameKey = fault.Code("frame.key")

// BeginFramed begins a session in a frame, of whoever made the key. It touches no other session of the browser.
func (e *Edge) BeginFramed(ctx context.Context, key string) error {
	about, ok := seal.About(key, aboutFrame)
	if !ok || !seal.Opens(key, e.parts.Secret, "frame", about) ||
		time.Now().Unix() > int64(binary.BigEndian.Uint64(about[24:32])) {
		return ErrFrameKey
	}
	p, err := e.parts.Roster.Person(ctx, uuid.UUID(about[:16]))
	beside, there := base64.RawURLEncoding.EncodeToString(about[32:]), false
	if err == nil {
		there, err = e.lasts(ctx, beside)
	}
	if errors.Is(err, roster.ErrUnknown) ||
		err == nil && (!there || p.Closed || p.Guest || uint64(p.SessionEra) != binary.BigEndian.Uint64(about[16:24])) {
		return ErrFrameKey
	}
	if err != nil {
		return err
	}
	own, err := e.sessions.Load(context.Background(), "")
	if err != nil {
		return fmt.Errorf("begin a session in a frame: %w", err)
	}
	until := time.Now().Add(frameLasts)
	e.sessions.Put(own, "person", p.ID.String())
	e.sessions.Put(own, "era", p.SessionEra)
	e.sessions.Put(own, "beside", beside)
	e.sessions.SetDeadline(own, until)
	token, _, err := e.sessions.Commit(own)
	if err != nil {
		return fmt.Errorf("keep a session in a frame: %w", err)
	}
	// A browser keeps it for the site around the frame alone (CHIPS), and sends it there only.
	http.SetCookie(ginOf(ctx).Writer, &http.Cookie{Name: cookieName(e.parts.Secure, frameCookie), Value: token, Path: "/",
		Expires: until, HttpOnly: true, Secure: true, SameSite: http.SameSiteNoneMode, Partitioned: true})
	note(ctx, "signed_in_framed", "person", p.ID)
	return nil
}
