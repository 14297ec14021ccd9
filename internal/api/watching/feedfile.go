package watching

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/audience"
	"latelantern/internal/core/caption"
	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/viewing"
	"latelantern/internal/feeds"
	"latelantern/internal/format/captionfile"
	"latelantern/internal/format/rss"
)

// fileEnd is how the address of a file of a kind ends.
func fileEnd(kind string) string {
	if kind == "sound" {
		return ".m4a"
	}
	return ".mp4"
}

// feedFile sends what a feed names: a file, its chapters, or its captions. Each time it is decided anew whether the one
// whose feed it is may have that; a closed address looks like one that was never there.
func (a *API) feedFile(c *gin.Context) {
	kind := c.Param("kind")
	name, rest, _ := strings.Cut(c.Param("file"), ".")
	recording, err := uuid.Parse(name)
	if err != nil {
		c.AbortWithStatus(http.StatusNotFound)
		return
	}
	ctx := c.Request.Context()
	of, err := a.Feeds.Recording(ctx, c.Param("key"), recording)
	var access audience.Access
	if err == nil {
		access, err = a.Audience.Decide(ctx, of.Person, recording)
	}
	if errors.Is(err, audience.ErrUnknown) {
		err = feeds.ErrUnknown
	}
	if err != nil {
		a.noFeed(c, err)
		return
	}
	if !access.Watch() || access.Edition == nil {
		a.noFeed(c, feeds.ErrUnknown)
		return
	}
	c.Header("X-Robots-Tag", "noindex")
	edge.Lasting(c, mediaLasts)
	switch {
	case slices.Contains(feedKinds, kind) && "."+rest == fileEnd(kind) && access.Uses.Has(useOf(kind)):
		c.Header("ETag", fmt.Sprintf(`"%s-%s"`, access.Edition, kind))
		a.sendCopy(c, recording, *access.Edition, kind)
	case kind == "chapters" && rest == "json" && access.Uses&viewing.Takeaway != 0:
		b, err := a.feedChapters(ctx, recording, *access.Edition)
		a.sendWords(c, rss.ChaptersType, b, err)
	case kind == "captions" && strings.HasSuffix(rest, ".vtt") && access.Uses.Has(viewing.TakeText):
		b, err := a.feedCaptions(ctx, recording, *access.Edition, strings.TrimSuffix(rest, ".vtt"))
		a.sendWords(c, "text/vtt; charset=utf-8", b, err)
	default:
		a.noFeed(c, feeds.ErrUnknown)
	}
}

func (a *API) sendWords(c *gin.Context, kind string, b []byte, err error) {
	if err != nil {
		a.noFeed(c, err)
		return
	}
	c.Header("Cache-Control", "private, no-cache")
	c.Header("Content-Type", kind)
	http.ServeContent(c.Writer, c.Request, "", time.Time{}, bytes.NewReader(b))
}

// editionCarrier carries moments of a recording to one of its editions.
func (a *API) editionCarrier(ctx context.Context, edition uuid.UUID) (cutlist.Carrier, error) {
	x, err := a.Publication.Edition(ctx, edition)
	if err != nil {
		return nil, err
	}
	return cutlist.Carrier(x.Stretches), nil
}

func (a *API) feedChapters(ctx context.Context, recording, edition uuid.UUID) ([]byte, error) {
	by, err := a.editionCarrier(ctx, edition)
	if err != nil {
		return nil, err
	}
	r, err := a.Recordings.Recording(ctx, recording)
	if err != nil {
		return nil, err
	}
	list, err := a.Words.Carried(ctx, r, by)
	if err != nil {
		return nil, err
	}
	return rss.Chapters(list)
}

// feedCaptions are the captions of a language; feeds.ErrUnknown where there are none.
func (a *API) feedCaptions(ctx context.Context, recording, edition uuid.UUID, language string) ([]byte, error) {
	by, err := a.editionCarrier(ctx, edition)
	if err != nil {
		return nil, err
	}
	cues, in, err := a.cues(ctx, recording, language, by)
	if err != nil {
		return nil, err
	}
	if in != language || language == "" {
		return nil, feeds.ErrUnknown
	}
	var b bytes.Buffer
	err = captionfile.WriteWebVTT(&b, caption.Sheet{Cues: cues})
	return b.Bytes(), err
}
