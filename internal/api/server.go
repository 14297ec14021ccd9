// Package api is the edge that speaks HTTP: routes by use-case, sessions, events, media
// delivery and the front end. It is the only place that knows HTTP.
package api

import (
	"context"
	"fmt"
	"io/fs"
	"log/slog"
	"net/http"
	"reflect"
	"time"

	"github.com/alexedwards/scs/pgxstore"
	"github.com/alexedwards/scs/v2"
	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"
	"github.com/gin-contrib/gzip"
	"github.com/gin-gonic/gin"
	"github.com/jackc/pgx/v5/pgxpool"

	"latelantern/internal/audience"
	"latelantern/internal/capture"
	"latelantern/internal/catchup"
	"latelantern/internal/cuts"
	"latelantern/internal/door"
	"latelantern/internal/halls"
	"latelantern/internal/library"
	"latelantern/internal/measure"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/playlists"
	"latelantern/internal/presence"
	"latelantern/internal/publication"
	"latelantern/internal/recordings"
	"latelantern/internal/release"
	"latelantern/internal/remind"
	"latelantern/internal/roster"
	"latelantern/internal/schedule"
	"latelantern/internal/signin"
	"latelantern/internal/words"
)

// Parts is what the edge serves. All are needed but Web.
type Parts struct {
	DB          *pgxpool.Pool
	Clock       clock.Clock
	Notices     *postgres.Notices
	Roster      *roster.Service
	SignIn      *signin.Service
	Schedule    *schedule.Service
	Capture     *capture.Service
	Recordings  *recordings.Reader
	Library     *library.Service
	Cuts        *cuts.Service
	Measure     *measure.Service
	Publication *publication.Service
	Audience    *audience.Service
	Releases    *release.Service
	Playlists   *playlists.Service
	CatchUp     *catchup.Service
	Presence    *presence.Service
	Door        *door.Service
	Remind      *remind.Service
	Halls       *halls.Service
	Words       *words.Service
	Secret      []byte   // signs media addresses; at least 32 bytes
	Web         fs.FS    // the built front end; nil for none
	Secure      bool     // cookies over HTTPS alone
	Public      string   // address under which people reach the application, without a slash at its end
	Proxies     []string // whose word about who calls is believed
}

// API is the edge.
type API struct {
	Parts
	sessions *scs.SessionManager
	huma     huma.API
	engine   *gin.Engine
	gates    map[string]gate // by method and path
	large    places          // for large bodies that are being read
	tellings *tellings
	streams  places // for streams of events
	played   played
}

// New builds the edge.
func New(p Parts) *API {
	gin.SetMode(gin.ReleaseMode)
	a := &API{Parts: p, sessions: newSessions(p), engine: gin.New(), gates: map[string]gate{},
		large: places{all: largeAtOnce, each: 1}, streams: places{each: mostStreams}, tellings: newTellings()}
	a.engine.HandleMethodNotAllowed = true
	if err := a.engine.SetTrustedProxies(p.Proxies); err != nil {
		panic(err) // they were checked with the settings
	}
	a.engine.Use(gin.CustomRecovery(func(c *gin.Context, err any) {
		slog.Error("a request failed", "route", c.FullPath(), "panic", fmt.Sprint(err))
		c.AbortWithStatus(http.StatusInternalServerError)
	}), a.headers, a.identify, a.admission)

	config := huma.DefaultConfig("Late Lantern", "1")
	config.OpenAPIPath = "/api/openapi"
	config.DocsPath = ""
	config.SchemasPath = ""
	config.CreateHooks = nil // no $schema in bodies
	config.Formats = map[string]huma.Format{"application/json": plainJSON, "json": plainJSON}
	json := a.engine.Group("", gzip.Gzip(gzip.BestSpeed))
	a.huma = humagin.NewWithGroup(a.engine, json, config)
	a.huma.OpenAPI().Components.Schemas.Schema(reflect.TypeFor[Event](), true, "Event") // no operation answers with it
	a.routes()
	for _, name := range []string{"openapi.json", "openapi.yaml", "openapi-3.0.json", "openapi-3.0.yaml"} {
		a.guard(http.MethodGet, "/api/"+name, gate{who: anyone})
	}
	a.plain(anyone, http.MethodGet, "/healthz", a.healthz)
	a.plain(inside, http.MethodGet, "/api/events", a.events)
	a.appendRoutes()
	a.mediaRoutes()
	a.plain(holders, http.MethodGet, "/feeds/:key", a.feed)
	a.engine.NoRoute(a.web)
	return a
}

// newSessions keeps sessions in the database, by the digest of their token.
func newSessions(p Parts) *scs.SessionManager {
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

// routes adds every typed operation.
func (a *API) routes() {
	a.signInRoutes()
	a.accountRoutes()
	a.termRoutes()
	a.courseRoutes()
	a.planRoutes()
	a.timetableRoutes()
	a.doorRoutes()
	a.rosterRoutes()
	a.peopleRoutes()
	a.runSheetRoutes()
	a.hallRoutes()
	a.fileRoutes()
	a.arrivalRoutes()
	a.originalRoutes()
	a.timelineRoutes()
	a.arrangeRoutes()
	a.versionRoutes()
	a.twinRoutes()
	a.captionRoutes()
	a.chapterRoutes()
	a.titleRoutes()
	a.recorderRoutes()
	a.boardRoutes()
	a.collegeRoutes()
	a.lectureRoutes()
	a.recordingRoutes()
	a.ruleRoutes()
	a.playlistRoutes()
	a.watchRoutes()
}

// ServeHTTP implements http.Handler.
func (a *API) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	crossOrigin.Handler(a.engine).ServeHTTP(w, r)
}

var crossOrigin = http.NewCrossOriginProtection()

// Contract is the OpenAPI document of every typed operation.
func (a *API) Contract() ([]byte, error) {
	b, err := a.huma.OpenAPI().MarshalJSON()
	if err != nil {
		return nil, fmt.Errorf("write the contract: %w", err)
	}
	return b, nil
}

// Routes lists method and path of every route.
func (a *API) Routes() []string {
	var out []string
	for _, r := range a.engine.Routes() {
		out = append(out, r.Method+" "+r.Path)
	}
	return out
}

// policy lets pages load only what this server sends. Media are put together in the page,
// which takes blob: addresses.
const policy = "default-src 'none'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; font-src 'self' data:; " +
	"connect-src 'self'; media-src 'self' blob:; worker-src 'self' blob:; manifest-src 'self'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"

// headers says to browsers what they may do with an answer. What is kept is said where it may be: by media and by
// the files of the front end.
func (a *API) headers(c *gin.Context) {
	h := c.Writer.Header()
	h.Set("Content-Security-Policy", policy)
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "same-origin")
	h.Set("Cross-Origin-Opener-Policy", "same-origin")
	h.Set("Cross-Origin-Resource-Policy", "same-origin")
	h.Set("Permissions-Policy", "camera=(self), microphone=(self), display-capture=(self)")
	h.Set("Cache-Control", "no-store")
	if a.Secure {
		h.Set("Strict-Transport-Security", "max-age=63072000; includeSubDomains")
	}
	c.Next()
}

func (a *API) healthz(c *gin.Context) {
	ctx, cancel := context.WithTimeout(c.Request.Context(), 2*time.Second)
	defer cancel()
	if err := a.DB.Ping(ctx); err != nil {
		c.JSON(http.StatusServiceUnavailable, gin.H{"database": "unreachable"})
		return
	}
	c.JSON(http.StatusOK, gin.H{"database": "reachable"})
}
