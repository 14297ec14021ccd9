// Package edge is where HTTP comes in: who calls and what they may, problems, sessions, tokens, and the one way to add
// a route.
package edge

import (
	"context"
	"fmt"
	"io/fs"
	"log/slog"
	"net/http"
	"reflect"
	"strings"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"
	"github.com/gin-contrib/gzip"
	"github.com/gin-gonic/gin"
	"github.com/google/uuid"
	lru "github.com/hashicorp/golang-lru/v2"
	"github.com/jackc/pgx/v5/pgxpool"

	"latelantern/internal/door"
	"latelantern/internal/halls"
	"latelantern/internal/platform/recall"
	"latelantern/internal/roster"
)

// Services is what the edge needs. All are needed but Web.
type Services struct {
	DB       *pgxpool.Pool
	Line     *recall.Line // nil: nothing is remembered
	Roster   *roster.Service
	Door     *door.Service
	Links    Links
	Frames   Frames
	Halls    *halls.Service
	Courses  Courses
	Problems Problems // with which status an answer says each code
	Secret   []byte   // signs addresses of media; at least 32 bytes
	Web      fs.FS    // the built front end; nil for none
	Public   string   // address under which people reach the application, without a slash at its end
	Secure   bool     // cookies over HTTPS alone
	Proxies  []string // whose word about who calls is believed
}

// Courses says to which course something belongs. Their errors say that there is no such thing.
type Courses struct {
	Course, Lecture, Recording, Track func(context.Context, uuid.UUID) (uuid.UUID, error)
}

// Links says to what guests come by links.
type Links interface {
	// Holds is a recording, or the opening by which they came to a playlist; both are uuid.Nil for who has no link that
	// holds.
	Holds(ctx context.Context, person uuid.UUID) (recording, opening uuid.UUID, err error)
}

// Frames says which other sites may show pages of ours.
type Frames interface {
	// Sites are they, each as a host source of Content Security Policy.
	Sites(ctx context.Context) ([]string, error)
}

// Edge is the HTTP of the application: groups of routes are added to it.
type Edge struct {
	parts    Services
	sessions *scs.SessionManager
	tokens   *lru.Cache[string, Token]
	seats    *recall.Memory[string, seat] // by the token of a session
	huma     huma.API
	engine   *gin.Engine
	gates    map[string]gate // by method and path
	statuses Problems
	large    *Places // for large bodies that are being read
}

// New builds an edge that has no routes but the contract, its health and the front end.
func New(p Services) *Edge {
	gin.SetMode(gin.ReleaseMode)
	e := &Edge{parts: p, sessions: newSessions(p), seats: recall.NewMemory[string, seat](p.Line, mostSeats, time.Now),
		tokens: newTokens(), engine: gin.New(), gates: map[string]gate{},
		statuses: Join(accessProblems, p.Problems), large: NewPlaces(largeAtOnce, 1)}
	e.engine.HandleMethodNotAllowed = true
	if err := e.engine.SetTrustedProxies(p.Proxies); err != nil {
		panic(err) // they were checked with the settings
	}
	e.engine.Use(gin.CustomRecovery(func(c *gin.Context, err any) {
		slog.Error("a request failed", "route", c.FullPath(), "panic", fmt.Sprint(err))
		c.AbortWithStatus(http.StatusInternalServerError)
	}), e.headers, e.identify, e.admission)

	config := huma.DefaultConfig("Late Lantern", "1")
	config.OpenAPIPath = "/api/openapi"
	config.DocsPath = ""
	config.SchemasPath = ""
	config.CreateHooks = nil // no $schema in bodies
	config.Formats = map[string]huma.Format{"application/json": plainJSON, "json": plainJSON}
	json := e.engine.Group("", gzip.Gzip(gzip.BestSpeed))
	e.huma = humagin.NewWithGroup(e.engine, json, config)
	for _, name := range []string{"openapi.json", "openapi.yaml", "openapi-3.0.json", "openapi-3.0.yaml"} {
		e.guard(http.MethodGet, "/api/"+name, gate{who: Anyone})
	}
	e.Plain(Anyone, http.MethodGet, "/healthz", e.healthz)
	e.engine.NoRoute(e.web)
	return e
}

// Describe puts what no operation answers with into the contract.
func (e *Edge) Describe(of reflect.Type, name string) {
	e.huma.OpenAPI().Components.Schemas.Schema(of, true, name)
}

// ServeHTTP implements http.Handler.
func (e *Edge) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	crossOrigin.Handler(e.engine).ServeHTTP(w, r)
}

var crossOrigin = http.NewCrossOriginProtection()

// Contract is the OpenAPI document of every typed operation.
func (e *Edge) Contract() ([]byte, error) {
	b, err := e.huma.OpenAPI().MarshalJSON()
	if err != nil {
		return nil, fmt.Errorf("write the contract: %w", err)
	}
	return b, nil
}

// Routes lists method and path of every route.
func (e *Edge) Routes() []string {
	var out []string
	for _, r := range e.engine.Routes() {
		out = append(out, r.Method+" "+r.Path)
	}
	return out
}

// policy lets pages load only what this server sends. Media are put together in the page,
// which takes blob: addresses.
const policy = "default-src 'none'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; font-src 'self' data:; " +
	"connect-src 'self'; media-src 'self' blob:; worker-src 'self' blob:; manifest-src 'self'; base-uri 'none'; form-action 'self'; "

// The values of headers that many answers share. Nobody may change them.
var (
	noSniff    = []string{"nosniff"}
	sameOrigin = []string{"same-origin"}
	noStore    = []string{"no-store"}
	onlySecure = []string{"max-age=63072000; includeSubDomains"}
)

// isMedia tells the addresses of media, of which those who watch ask for some each second.
func isMedia(path string) bool { return strings.HasPrefix(path, "/media/") }

// isOften tells what many ask for all the time, or all who follow a lecture at one moment: media, what was said and
// what was put to all there; and the words of players.
func isOften(r *http.Request) bool {
	switch path := r.URL.Path; {
	case strings.HasPrefix(path, "/api/lectures/"):
		return r.Method == http.MethodGet && (strings.HasSuffix(path, "/chat") || strings.HasSuffix(path, "/to-all"))
	case strings.HasPrefix(path, "/api/watch/"):
		return r.Method == http.MethodPut && strings.HasSuffix(path, "/place")
	default:
		return isMedia(path)
	}
}

// headers says to browsers what they may do with an answer. What is kept is said where it may be: by media and by
// the files of the front end.
func (e *Edge) headers(c *gin.Context) {
	h := c.Writer.Header()
	if isMedia(c.Request.URL.Path) {
		// They are no pages, and many: only what counts for them.
		h["X-Content-Type-Options"], h["Cross-Origin-Resource-Policy"] = noSniff, sameOrigin
		h["Cache-Control"] = noStore
		if e.parts.Secure {
			h["Strict-Transport-Security"] = onlySecure
		}
		c.Next()
		return
	}
	h.Set("Content-Security-Policy", policy+"frame-ancestors 'none'")
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "same-origin")
	h.Set("X-Robots-Tag", "noindex") // what is here is for those whom it is given to
	h.Set("Cross-Origin-Opener-Policy", "same-origin")
	h.Set("Cross-Origin-Resource-Policy", "same-origin")
	h.Set("Permissions-Policy", "camera=(self), microphone=(self), display-capture=(self)")
	e.allowFrame(c)
	h.Set("Cache-Control", "no-store")
	if e.parts.Secure {
		h["Strict-Transport-Security"] = onlySecure
	}
	c.Next()
}

func (e *Edge) healthz(c *gin.Context) {
	ctx, cancel := context.WithTimeout(c.Request.Context(), 2*time.Second)
	defer cancel()
	if err := e.parts.DB.Ping(ctx); err != nil {
		c.JSON(http.StatusServiceUnavailable, gin.H{"database": "unreachable"})
		return
	}
	c.JSON(http.StatusOK, gin.H{"database": "reachable"})
}
