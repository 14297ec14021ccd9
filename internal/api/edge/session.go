package edge

import (
	"context"
	"crypto/sha256"
	"encoding/base64"
	"net/http"
	"time"

	"github.com/alexedwards/scs/pgxstore"
	"github.com/alexedwards/scs/v2"
	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"latelantern/internal/platform/postgres"
	"latelantern/internal/platform/recall"
	"latelantern/internal/platform/seal"
	"latelantern/internal/roster"
)

// newSessions keeps sessions in the database, by the digest of their token.
func newSessions(p Services) *scs.SessionManager {
	s := scs.New()
	if p.DB != nil {
		s.Store = pgxstore.New(p.DB)
	}
	s.HashTokenInStore = true
	s.Lifetime = 14 * 24 * time.Hour
	s.IdleTimeout = 3 * 24 * time.Hour
	s.Cookie.Name = cookieName(p.Secure, "late_lantern")
	s.Cookie.HttpOnly = true
	s.Cookie.SameSite = http.SameSiteLaxMode
	s.Cookie.Secure = p.Secure
	return s
}

// cookieName is the name of a cookie: over HTTPS one that no other host and no plain connection can set
// (RFC 6265bis, 4.1.3.2).
func cookieName(secure bool, name string) string {
	if secure {
		return "__Host-" + name
	}
	return name
}

// Begin begins a session of p, under a new token.
func (e *Edge) Begin(ctx context.Context, p roster.Person) error {
	if err := e.sessions.RenewToken(ctx); err != nil {
		return err
	}
	e.sessions.Put(ctx, "person", p.ID.String())
	e.sessions.Put(ctx, "era", p.SessionEra)
	token, expiry, err := e.sessions.Commit(ctx)
	if err != nil {
		return err
	}
	e.sessions.WriteSessionCookie(ctx, ginOf(ctx).Writer, token, expiry)
	if !p.Guest {
		e.knowBrowser(ctx, p.ID)
	}
	note(ctx, "signed_in", "person", p.ID)
	return nil
}

// browserLasts is how long a browser is known in which someone has signed in.
const browserLasts = 180 * 24 * time.Hour

// knowBrowser has the browser say from now on that a person has signed in with it before. That opens nothing; it keeps
// others from slowing their sign-in down.
func (e *Edge) knowBrowser(ctx context.Context, person uuid.UUID) {
	http.SetCookie(ginOf(ctx).Writer, &http.Cookie{
		Name:  cookieName(e.parts.Secure, "late_lantern_known"),
		Value: seal.Key(e.parts.Secret, "browser", person[:]),
		Path:  "/", MaxAge: int(browserLasts.Seconds()), HttpOnly: true, Secure: e.parts.Secure,
		SameSite: http.SameSiteLaxMode,
	})
}

// KnownBrowser is the person who signed in with this browser last; uuid.Nil for nobody.
func (e *Edge) KnownBrowser(ctx context.Context) uuid.UUID {
	cookie, err := ginOf(ctx).Request.Cookie(cookieName(e.parts.Secure, "late_lantern_known"))
	if err != nil {
		return uuid.Nil
	}
	b, ok := seal.About(cookie.Value, 16)
	if !ok || !seal.Opens(cookie.Value, e.parts.Secret, "browser", b) {
		return uuid.Nil
	}
	return uuid.UUID(b)
}

// ClientOf is the address on the net that calls.
func ClientOf(ctx context.Context) string { return ginOf(ctx).ClientIP() }

// ginOf is the request as gin has it.
func ginOf(ctx context.Context) *gin.Context { return ctx.Value(ginKey).(*gin.Context) }

// Holds reports whether the session of a request that lasts is still one of p.
func (e *Edge) Holds(ctx context.Context, c *gin.Context, p roster.Person) bool {
	// The context of the request has the session as it was.
	fresh, cancel := context.WithTimeout(context.Background(), askWithin)
	defer cancel()
	for _, token := range e.sessionTokens(c) {
		again, err := e.recalled(fresh, token)
		if err != nil {
			return ctx.Err() == nil // who cannot be asked for now is asked for again
		}
		if now, ok := Caller(again); ok {
			return now.ID == p.ID
		}
	}
	return false
}

// End ends the session of a request.
func (e *Edge) End(ctx context.Context) error {
	if err := e.sessions.Destroy(ctx); err != nil {
		return err
	}
	e.sessions.WriteSessionCookie(ctx, ginOf(ctx).Writer, "", time.Time{})
	// Never its storage: pieces of a capture that were not sent yet lie there.
	ginOf(ctx).Header("Clear-Site-Data", `"cache"`)
	note(ctx, "signed_out")
	return nil
}

// seat is whose a session is, and to what they can come if they are a guest.
type seat struct {
	person roster.Person
	known  bool
	guest  Guest
}

// mostSeats is how many sessions are remembered.
const mostSeats = 50_000

// recalled is session for what is asked for often, or by many at once, and for what lasts: whose a session is is
// remembered until something that it rests on changes, or it ends. Of guests it is asked each time.
func (e *Edge) recalled(ctx context.Context, token string) (context.Context, error) {
	if token == "" {
		return ctx, nil
	}
	s, err := e.seats.Get(ctx, token, func(ctx context.Context) (recall.Answer[seat], error) {
		// As it is kept (scs.SessionManager.HashTokenInStore).
		sum := sha256.Sum256([]byte(token))
		kept := []string{base64.RawURLEncoding.EncodeToString(sum[:])}
		entered, err := e.session(ctx, token)
		if err != nil {
			return recall.Answer[seat]{}, err
		}
		if isFramed(entered) {
			kept = append(kept, e.sessions.GetString(entered, "beside"))
		}
		until, err := postgres.Value[time.Time](ctx, e.parts.DB, `select case when count(*) = cardinality($1::text[])
			then min(expiry) else 'epoch' end from sessions where token = any($1)`, kept)
		if err != nil {
			return recall.Answer[seat]{}, err
		}
		out := recall.Answer[seat]{Until: until}
		out.Value.person, out.Value.known = Caller(entered)
		var guest bool
		if out.Value.guest, guest = GuestOf(entered); guest || !out.Value.known {
			out.Until = time.Now()
		}
		out.Subjects = []recall.Subject{recall.Person(out.Value.person.ID)}
		for _, digest := range kept {
			out.Subjects = append(out.Subjects, recall.Session(digest))
		}
		return out, nil
	})
	if err != nil || !s.known {
		return ctx, err
	}
	if s.guest != (Guest{}) {
		ctx = context.WithValue(ctx, guestKey, s.guest)
	}
	return context.WithValue(ctx, personKey, s.person), nil
}

// askWithin is how long it may take to ask whose a session is.
const askWithin = 10 * time.Second
