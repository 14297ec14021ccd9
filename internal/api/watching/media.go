package watching

import (
	"bytes"
	"context"
	"errors"
	"io"
	"log/slog"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/core/viewing"
	"latelantern/internal/format/hls"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/recordings"
	"latelantern/internal/roster"
)

func (a *API) mediaRoutes() {
	get := func(name string, do gin.HandlerFunc) {
		for _, method := range []string{http.MethodGet, http.MethodHead} {
			a.Plain(edge.Holders, method, "/media/:token/"+name, func(c *gin.Context) {
				edge.Lasting(c, mediaLasts)
				do(c)
			})
		}
	}
	type rendition = func(*recordings.Presentation) *recordings.Rendition
	renditions := func(name string, with func(func(*gin.Context, edge.Token, *recordings.Presentation)) gin.HandlerFunc,
		of rendition) {
		get(name+".m3u8",
			with(func(c *gin.Context, _ edge.Token, r *recordings.Presentation) { a.mediaPlaylist(c, r, of(r), name) }))
		get(name+"/:segment",
			with(func(c *gin.Context, t edge.Token, r *recordings.Presentation) { a.segment(c, t, of(r)) }))
	}
	pictures := func(r *recordings.Presentation) *recordings.Rendition { return r.Video }
	sound := func(r *recordings.Presentation) *recordings.Rendition { return r.Audio }
	get("index.m3u8", a.withPresentation(a.multivariant))
	get("listen.m3u8", a.withPresentation(a.listen))
	renditions("pictures", a.withPresentation, pictures)
	renditions("sound", a.withPresentation, sound)
	renditions("second", a.withPresentation,
		func(r *recordings.Presentation) *recordings.Rendition { return r.SecondVideo })
	renditions("small", a.withSmall, pictures)
	renditions("small-sound", a.withSmall, sound)
	get("slides/:picture", a.slide)
	get("copy/:kind", a.copy)
}

// mediaLasts is how long one answer with media may take on a slow line.
const mediaLasts = 30 * time.Minute

// admit decides anew, for each request, whether the caller may have what the address is
// for. Whatever the reason, a closed address looks like one that was never there.
func (a *API) admit(c *gin.Context) (edge.Token, bool) {
	t, _, ok := a.decide(c)
	return t, ok
}

// decide is admit with the decision.
func (a *API) decide(c *gin.Context) (edge.Token, viewing.Decision, bool) {
	ctx := c.Request.Context()
	no := func() (edge.Token, viewing.Decision, bool) {
		c.AbortWithStatus(http.StatusNotFound)
		return edge.Token{}, viewing.Decision{}, false
	}
	t, ok := a.ReadToken(c.Param("token"))
	p, known := edge.Caller(ctx)
	if !ok || !known || p.ID != t.Person {
		return no()
	}
	access, err := a.Audience.Recall(ctx, p.ID, t.Recording)
	if postgres.Away(err) {
		c.Header("Retry-After", "2")
		c.AbortWithStatus(http.StatusServiceUnavailable)
		return edge.Token{}, viewing.Decision{}, false
	}
	if err != nil {
		return no()
	}
	switch t.Use {
	case edge.AsPublished:
		// It holds for the edition that is published now: what was struck since is no longer there.
		ok = access.Watch() && access.Edition != nil && *access.Edition == t.Edition
	case edge.AsCaptured:
		ok = access.Reason == viewing.AsStaff
	case edge.AsItRuns:
		ok = a.follows(ctx, p, t.Recording) == nil
	default:
		ok = false
	}
	if !ok {
		return no()
	}
	return t, access.Decision, true
}

// follows refuses who cannot follow a recording now.
func (a *API) follows(ctx context.Context, p roster.Person, recording uuid.UUID) error {
	r, err := a.Recordings.Recording(ctx, recording)
	if err != nil {
		return err
	}
	live, err := a.Door.Live(ctx, recording)
	if err != nil {
		return err
	}
	if !live.Open {
		return edge.ErrNowhere
	}
	if err := a.Seen.MayEnter(ctx, p, r.LectureID); err != nil {
		return err
	}
	return a.Seen.NoticeProblem(ctx, p, r.LectureID, r.CourseID)
}

func (a *API) withPresentation(do func(*gin.Context, edge.Token, *recordings.Presentation)) gin.HandlerFunc {
	return func(c *gin.Context) {
		t, ok := a.admit(c)
		if !ok {
			return
		}
		var r *recordings.Presentation
		var err error
		switch t.Use {
		case edge.AsPublished:
			r, err = a.Publication.Edition(c.Request.Context(), t.Edition)
		case edge.AsItRuns:
			r, err = a.Recordings.Live(c.Request.Context(), t.Recording)
		default:
			r, err = a.Recordings.Captured(c.Request.Context(), t.Recording)
		}
		if errors.Is(err, recordings.ErrNotReady) || errors.Is(err, recordings.ErrUnknown) {
			c.AbortWithStatus(http.StatusNotFound)
			return
		}
		if err != nil {
			slog.Error("media cannot be read", "recording", t.Recording, "error", err)
			c.AbortWithStatus(http.StatusInternalServerError)
			return
		}
		do(c, t, r)
	}
}

func sendPlaylist(c *gin.Context, text string) {
	c.Header("Cache-Control", "no-store")
	c.Data(http.StatusOK, "application/vnd.apple.mpegurl", []byte(text))
}

// withSmall is for the small copy of an edition, where there is one.
func (a *API) withSmall(do func(*gin.Context, edge.Token, *recordings.Presentation)) gin.HandlerFunc {
	return func(c *gin.Context) {
		t, ok := a.admit(c)
		if !ok {
			return
		}
		r, err := a.small(c, t)
		if err != nil {
			if !errors.Is(err, recordings.ErrNotReady) {
				slog.Error("a small copy cannot be read", "recording", t.Recording, "error", err)
			}
			c.AbortWithStatus(http.StatusNotFound)
			return
		}
		do(c, t, r)
	}
}

func (a *API) small(c *gin.Context, t edge.Token) (*recordings.Presentation, error) {
	if t.Use != edge.AsPublished {
		return nil, recordings.ErrNotReady
	}
	return a.Publication.Small(c.Request.Context(), t.Edition)
}

// variant is a rendition as one way to play it, by the addresses of its playlists.
func variant(r *recordings.Presentation, pictures, sound string) hls.Variant {
	var v hls.Variant
	var bytes int64
	if r.Video != nil {
		x := r.Video.Shown()
		v.Video, v.VideoCodec, v.Width, v.Height = pictures, x.Codec, x.Width, x.Height
		bytes += r.Video.Bytes()
	}
	if r.Audio != nil {
		v.Audio, v.AudioCodec = sound, r.Audio.Shown().Codec
		bytes += r.Audio.Bytes()
	}
	v.BitsPerSecond = int(float64(bytes*8) / max(1, r.Length.Seconds()))
	return v
}

func (a *API) multivariant(c *gin.Context, t edge.Token, r *recordings.Presentation) {
	all := []hls.Variant{variant(r, "pictures.m3u8", "sound.m3u8")}
	if small, err := a.small(c, t); err == nil && r.Video != nil {
		all = append(all, variant(small, "small.m3u8", "small-sound.m3u8"))
	}
	sendPlaylist(c, hls.Multivariant(all...))
}

// listen is the sound alone, of the small copy where there is one.
func (a *API) listen(c *gin.Context, t edge.Token, r *recordings.Presentation) {
	address := "sound.m3u8"
	if small, err := a.small(c, t); err == nil && small.Audio != nil {
		r, address = small, "small-sound.m3u8"
	}
	if r.Audio == nil {
		c.AbortWithStatus(http.StatusNotFound)
		return
	}
	sendPlaylist(c, hls.Multivariant(variant(&recordings.Presentation{Audio: r.Audio, Length: r.Length}, "", address)))
}

func (a *API) mediaPlaylist(c *gin.Context, r *recordings.Presentation, x *recordings.Rendition, name string) {
	if x == nil {
		c.AbortWithStatus(http.StatusNotFound)
		return
	}
	inits := make([]int, len(x.Segments))
	for i, it := range x.Segments {
		inits[i] = it.Track
	}
	sendPlaylist(c,
		hls.Media(hls.Rendition{Init: name + "/init-%d.mp4", Inits: inits, Pattern: name + "/%d.m4s",
			Segments: x.Durations(), Ended: r.Ended}))
}

// segment sends an initialization segment or a media segment.
func (a *API) segment(c *gin.Context, t edge.Token, x *recordings.Rendition) {
	name := c.Param("segment")
	if init, ok := strings.CutPrefix(name, "init-"); ok {
		n, err := strconv.Atoi(strings.TrimSuffix(init, ".mp4"))
		b, unknown := x.InitOf(n)
		if err != nil || unknown != nil {
			c.AbortWithStatus(http.StatusNotFound)
			return
		}
		immutable(c, isVideo)
		http.ServeContent(c.Writer, c.Request, "", time.Time{}, bytes.NewReader(b))
		return
	}
	number, ok := strings.CutSuffix(name, ".m4s")
	n, err := strconv.Atoi(number)
	body, unknown := a.Recordings.Body(x, n)
	if !ok || err != nil || unknown != nil {
		c.AbortWithStatus(http.StatusNotFound)
		return
	}
	if t.Use == edge.AsItRuns {
		a.sent(c.Request.Context(), t)
	}
	immutable(c, isVideo)
	if t.Use == edge.AsPublished {
		c.Writer.Header()["Etag"] = []string{`"` + number + `"`} // the address says of which edition
	}
	if err := send(c, body); err != nil && !c.Writer.Written() {
		slog.Error("a segment cannot be read", "error", err)
		c.AbortWithStatus(http.StatusInternalServerError)
	}
}

// immutable says of an answer what it is, and that what its address names never changes.
func immutable(c *gin.Context, kind []string) {
	h := c.Writer.Header()
	h["Content-Type"], h["Cache-Control"] = kind, foreverPrivate
}

// The values of headers that all segments share. Nobody may change them.
var (
	isVideo        = []string{"video/mp4"}
	foreverPrivate = []string{"private, max-age=3600, immutable"}
)

// send sends a segment: the whole in the shortest way, a part of it or whether it is still that as any content.
func send(c *gin.Context, body recordings.Body) error {
	for _, part := range []string{"Range", "If-None-Match", "If-Match"} {
		if c.GetHeader(part) != "" {
			b, err := body.Bytes()
			if err == nil {
				http.ServeContent(c.Writer, c.Request, "", time.Time{}, bytes.NewReader(b))
			}
			return err
		}
	}
	c.Writer.Header()["Content-Length"] = []string{strconv.FormatInt(body.Size(), 10)}
	if c.Request.Method == http.MethodHead {
		return nil
	}
	w := &shortest{c.Writer}
	_, err := body.WriteTo(w)
	if err != nil {
		c.Writer.Header().Del("Content-Length") // if nothing of it is written yet
	}
	return err
}

// shortest writes past gin, whose writer knows no io.ReaderFrom, once the answer has begun.
type shortest struct{ gin.ResponseWriter }

// ReadFrom implements io.ReaderFrom.
func (w shortest) ReadFrom(from io.Reader) (int64, error) {
	w.WriteHeaderNow()
	if inner, ok := w.ResponseWriter.(interface{ Unwrap() http.ResponseWriter }); ok {
		return io.Copy(inner.Unwrap(), from)
	}
	return io.Copy(struct{ io.Writer }{w.ResponseWriter}, from)
}

// sent keeps, now and then, that someone who follows a lecture was sent some of it.
func (a *API) sent(ctx context.Context, t edge.Token) {
	if !a.played.due(t.Person, t.Recording, time.Now()) {
		return
	}
	r, err := a.Recordings.Recording(ctx, t.Recording)
	if err == nil {
		err = a.Presence.Played(ctx, t.Person, r.LectureID)
	}
	if err != nil {
		slog.Error("that someone follows cannot be kept", "recording", t.Recording, "error", err)
	}
}

func (a *API) slide(c *gin.Context) {
	t, ok := a.admit(c)
	if !ok {
		return
	}
	name := strings.TrimSuffix(c.Param("picture"), ".jpg")
	dash := strings.LastIndex(name, "-")
	track, err := uuid.Parse(name[:max(0, dash)])
	at, wrong := strconv.ParseInt(name[dash+1:], 10, 64)
	if err != nil || wrong != nil || !a.showsSlide(c.Request.Context(), t, track, at) {
		c.AbortWithStatus(http.StatusNotFound)
		return
	}
	b, err := a.Recordings.SlidePicture(c.Request.Context(), t.Recording, track, at)
	if err != nil {
		c.AbortWithStatus(http.StatusNotFound)
		return
	}
	c.Header("Cache-Control", "private, max-age=3600, immutable")
	c.Data(http.StatusOK, "image/jpeg", b)
}

// showsSlide reports whether an address gives the slide of a track that begins at: of what is published those that were
// not struck.
func (a *API) showsSlide(ctx context.Context, t edge.Token, track uuid.UUID, at int64) bool {
	if t.Use != edge.AsPublished {
		return t.Use == edge.AsCaptured
	}
	published, err := a.Publication.Carriers(ctx, map[uuid.UUID]uuid.UUID{t.Recording: t.Edition})
	if err != nil {
		return false
	}
	all, err := a.Recordings.Slides(ctx, published)
	return err == nil && all[t.Recording].Shows(track, at)
}
