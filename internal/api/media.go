package api

import (
	"context"
	"errors"
	"log/slog"
	"mime"
	"net/http"
	"path"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"latelantern/internal/core/chapter"
	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/viewing"
	"latelantern/internal/format/hls"
	"latelantern/internal/library"
)

func (a *API) mediaRoutes() {
	g := a.engine.Group("/media/:token")
	g.GET("/index.m3u8", a.withRendition(a.multivariant))
	g.GET("/pictures.m3u8", a.withRendition(func(c *gin.Context, _ token, r *library.Rendition) { a.rail(c, r, r.Pictures, "pictures") }))
	g.GET("/sound.m3u8", a.withRendition(func(c *gin.Context, _ token, r *library.Rendition) { a.rail(c, r, r.Sound, "sound") }))
	g.GET("/listen.m3u8", a.withRendition(a.listen))
	g.GET("/small.m3u8", a.withSmall(func(c *gin.Context, r *library.Rendition) { a.rail(c, r, r.Pictures, "small") }))
	g.GET("/small-sound.m3u8", a.withSmall(func(c *gin.Context, r *library.Rendition) { a.rail(c, r, r.Sound, "small-sound") }))
	g.GET("/small/:segment", a.withSmall(func(c *gin.Context, r *library.Rendition) { a.segment(c, r.Pictures) }))
	g.GET("/small-sound/:segment", a.withSmall(func(c *gin.Context, r *library.Rendition) { a.segment(c, r.Sound) }))
	g.GET("/second.m3u8", a.withRendition(func(c *gin.Context, _ token, r *library.Rendition) { a.rail(c, r, r.Second, "second") }))
	g.GET("/second/:segment", a.withRendition(func(c *gin.Context, _ token, r *library.Rendition) { a.segment(c, r.Second) }))
	g.GET("/pictures/:segment", a.withRendition(func(c *gin.Context, _ token, r *library.Rendition) { a.segment(c, r.Pictures) }))
	g.GET("/sound/:segment", a.withRendition(func(c *gin.Context, _ token, r *library.Rendition) { a.segment(c, r.Sound) }))
	g.GET("/slides/:picture", a.slide)
	g.GET("/copy.mp4", a.copy)
}

// admit decides anew, for each request, whether the caller may have what the address is
// for. Whatever the reason, a closed address looks like one that was never there.
func (a *API) admit(c *gin.Context) (token, bool) {
	t, _, ok := a.decide(c)
	return t, ok
}

// decide is admit with the decision.
func (a *API) decide(c *gin.Context) (token, viewing.Decision, bool) {
	ctx := c.Request.Context()
	no := func() (token, viewing.Decision, bool) {
		c.AbortWithStatus(http.StatusNotFound)
		return token{}, viewing.Decision{}, false
	}
	t, ok := a.readToken(c.Param("token"))
	p, known := caller(ctx)
	if !ok || !known || p.ID != t.Person {
		return no()
	}
	door, err := a.Audience.Decide(ctx, p.ID, t.Recording)
	if err != nil {
		return no()
	}
	switch t.Use {
	case asPublished:
		ok = door.Watch
	case asCaptured:
		ok = door.Reason == viewing.AsStaff
	case asItRuns:
		r, err := a.Library.Recording(ctx, t.Recording)
		at, err2 := a.Door.Stands(ctx, p.ID, r.LectureID)
		ok = err == nil && err2 == nil && at.Enter && (r.StoppedAt == nil || a.Clock.Now().Sub(*r.StoppedAt) < tailTime)
	default:
		ok = false
	}
	if !ok {
		return no()
	}
	return t, door.Decision, true
}

// tailTime is how long those who followed a lecture can see its last minutes after the stop.
const tailTime = 2 * time.Minute

func (a *API) withRendition(do func(*gin.Context, token, *library.Rendition)) gin.HandlerFunc {
	return func(c *gin.Context) {
		t, ok := a.admit(c)
		if !ok {
			return
		}
		var r *library.Rendition
		var err error
		if t.Use == asPublished {
			r, err = a.Library.Edition(c.Request.Context(), t.Edition)
		} else {
			r, err = a.Library.Captured(c.Request.Context(), t.Recording)
		}
		if errors.Is(err, library.ErrNotReady) || errors.Is(err, library.ErrUnknown) {
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
func (a *API) withSmall(do func(*gin.Context, *library.Rendition)) gin.HandlerFunc {
	return func(c *gin.Context) {
		t, ok := a.admit(c)
		if !ok {
			return
		}
		r, err := a.small(c, t)
		if err != nil {
			if !errors.Is(err, library.ErrNotReady) {
				slog.Error("a small copy cannot be read", "recording", t.Recording, "error", err)
			}
			c.AbortWithStatus(http.StatusNotFound)
			return
		}
		do(c, r)
	}
}

func (a *API) small(c *gin.Context, t token) (*library.Rendition, error) {
	if t.Use != asPublished {
		return nil, library.ErrNotReady
	}
	return a.Library.Small(c.Request.Context(), t.Edition)
}

// variant is a rendition as one way to play it, by the addresses of its playlists.
func variant(r *library.Rendition, pictures, sound string) hls.Variant {
	var v hls.Variant
	var bytes int64
	if r.Pictures != nil {
		x := r.Pictures.Shown()
		v.Pictures, v.PicturesCodec, v.Width, v.Height = pictures, x.Codec, x.Width, x.Height
		bytes += r.Pictures.Bytes()
	}
	if r.Sound != nil {
		v.Sound, v.SoundCodec = sound, r.Sound.Shown().Codec
		bytes += r.Sound.Bytes()
	}
	v.BitsPerSecond = int(float64(bytes*8) / max(1, r.Length.Seconds()))
	return v
}

func (a *API) multivariant(c *gin.Context, t token, r *library.Rendition) {
	all := []hls.Variant{variant(r, "pictures.m3u8", "sound.m3u8")}
	if small, err := a.small(c, t); err == nil && r.Pictures != nil {
		all = append(all, variant(small, "small.m3u8", "small-sound.m3u8"))
	}
	sendPlaylist(c, hls.Multivariant(all...))
}

// listen is the sound alone, of the small copy where there is one.
func (a *API) listen(c *gin.Context, t token, r *library.Rendition) {
	address := "sound.m3u8"
	if small, err := a.small(c, t); err == nil && small.Sound != nil {
		r, address = small, "small-sound.m3u8"
	}
	if r.Sound == nil {
		c.AbortWithStatus(http.StatusNotFound)
		return
	}
	sendPlaylist(c, hls.Multivariant(variant(&library.Rendition{Sound: r.Sound, Length: r.Length}, "", address)))
}

func (a *API) rail(c *gin.Context, r *library.Rendition, rail *library.Rail, name string) {
	if rail == nil {
		c.AbortWithStatus(http.StatusNotFound)
		return
	}
	heads := make([]int, len(rail.Items))
	for i, it := range rail.Items {
		heads[i] = it.Reel
	}
	sendPlaylist(c, hls.Media(hls.Track{Head: name + "/head-%d.mp4", Heads: heads, Pattern: name + "/%d.m4s", Segments: rail.Durations(), Ended: r.Ended}))
}

func (a *API) segment(c *gin.Context, rail *library.Rail) {
	if rail == nil {
		c.AbortWithStatus(http.StatusNotFound)
		return
	}
	c.Header("Cache-Control", "private, max-age=3600, immutable")
	name := c.Param("segment")
	var b []byte
	head, err := strconv.Atoi(strings.TrimSuffix(strings.TrimPrefix(name, "head-"), ".mp4"))
	if err == nil && strings.HasPrefix(name, "head-") {
		b, err = rail.HeadOf(head)
	} else {
		n, wrong := strconv.Atoi(strings.TrimSuffix(name, ".m4s"))
		if wrong != nil || path.Ext(name) != ".m4s" {
			c.AbortWithStatus(http.StatusNotFound)
			return
		}
		b, err = a.Library.Segment(rail, n)
	}
	if errors.Is(err, library.ErrUnknown) {
		c.AbortWithStatus(http.StatusNotFound)
		return
	}
	if err != nil {
		slog.Error("a segment cannot be read", "error", err)
		c.AbortWithStatus(http.StatusInternalServerError)
		return
	}
	c.Data(http.StatusOK, "video/mp4", b)
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
	if err != nil || wrong != nil || t.Use != asCaptured {
		c.AbortWithStatus(http.StatusNotFound)
		return
	}
	b, err := a.Library.SlidePicture(c.Request.Context(), t.Recording, track, at)
	if err != nil {
		c.AbortWithStatus(http.StatusNotFound)
		return
	}
	c.Header("Cache-Control", "private, max-age=3600, immutable")
	c.Data(http.StatusOK, "image/jpeg", b)
}

// copiedChapters are the chapters that go into a copy.
func (a *API) copiedChapters(ctx context.Context, t token) ([]chapter.Stretch, error) {
	r, err := a.Library.Recording(ctx, t.Recording)
	if err != nil {
		return nil, err
	}
	x, err := a.Library.Edition(ctx, t.Edition)
	if err != nil {
		return nil, err
	}
	return a.carriedChapters(ctx, r, cutlist.Carrier(x.Stretches))
}

// copy sends an edition as one file to those who may take it away.
func (a *API) copy(c *gin.Context) {
	ctx := c.Request.Context()
	t, decision, ok := a.decide(c)
	if !ok {
		return
	}
	if t.Use != asPublished || !decision.Download {
		c.AbortWithStatus(http.StatusNotFound)
		return
	}
	chapters, err := a.copiedChapters(ctx, t)
	if err != nil {
		slog.Error("the chapters of a copy cannot be read", "recording", t.Recording, "error", err)
	}
	key, err := a.Library.Copy(ctx, t.Edition, chapters)
	if err != nil {
		slog.Error("a copy cannot be made", "recording", t.Recording, "error", err)
		c.AbortWithStatus(http.StatusInternalServerError)
		return
	}
	f, err := a.Library.Blobs.Open(key)
	if err != nil {
		slog.Error("a copy cannot be read", "recording", t.Recording, "error", err)
		c.AbortWithStatus(http.StatusInternalServerError)
		return
	}
	defer f.Close()
	name := "lecture"
	if r, err := a.Library.Recording(ctx, t.Recording); err == nil && r.Title != "" {
		name = strings.NewReplacer("/", "-", "\\", "-").Replace(r.Title)
	}
	c.Header("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": name + ".mp4"}))
	c.Header("Content-Type", "video/mp4")
	http.ServeContent(c.Writer, c.Request, "", time.Time{}, f)
}
