package watching

import (
	"bytes"
	"context"
	"errors"
	"log/slog"
	"mime"
	"net/http"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/core/caption"
	"latelantern/internal/core/chapter"
	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/viewing"
	"latelantern/internal/format/captionfile"
	"latelantern/internal/publication"
	"latelantern/internal/recordings"
	"latelantern/internal/roster"
)

// Copy is how far a copy of a recording is that can be taken away as one file.
type Copy struct {
	State   string `json:"state" enum:",making,ready,failed" doc:"empty before anyone asked for it"`
	Percent int    `json:"percent"`
	Bytes   int64  `json:"bytes" doc:"once it is ready"`
	Address string `json:"address" doc:"of the file; empty until it is ready"`
}

// TakeLine is what of a recording may be taken away.
type TakeLine struct {
	Kind       string `json:"kind" enum:"video,small,sound,text"`
	StaffAlone bool   `json:"staff_alone" doc:"by those who teach it alone: the viewing rule lets nobody else"`
}

// takes are the kinds with the use that lets one take each away.
var takes = []struct {
	kind string
	use  viewing.Use
}{
	{string(publication.CopyVideo), viewing.TakeVideo}, {string(publication.CopySmall), viewing.TakeSmall},
	{string(publication.CopySound), viewing.TakeSound}, {"text", viewing.TakeText},
}

// useOf is the use that lets one take a kind away; 0 for no kind.
func useOf(kind string) viewing.Use {
	for _, x := range takes {
		if x.kind == kind {
			return x.use
		}
	}
	return 0
}

// takeLines are what of a recording may be taken away, and is there.
func takeLines(w Watch, shown opened) []TakeLine {
	there := map[viewing.Use]bool{viewing.TakeVideo: true, viewing.TakeSmall: w.SmallBytes > 0 && w.Video,
		viewing.TakeSound: w.SoundBytes > 0, viewing.TakeText: len(w.Languages) > 0}
	out := []TakeLine{}
	for _, x := range takes {
		if shown.edition != uuid.Nil && shown.uses.Has(x.use) && there[x.use] {
			out = append(out, TakeLine{x.kind, !shown.ruled.Has(x.use)})
		}
	}
	return out
}

type copyInput struct {
	edge.OfRecording
	Kind string `path:"kind" enum:"video,small,sound"`
}

func (a *API) copyRoutes() {
	const path = "/api/watch/{recording}/copies/{kind}"
	edge.On(a.Edge, edge.Inside, http.MethodGet, path, "copy", "How far a copy of a recording is",
		func(ctx context.Context, p roster.Person, in *copyInput) (*edge.Body[Copy], error) {
			x, err := a.taken(ctx, p, in.Recording, in.Kind)
			if err != nil {
				return nil, err
			}
			state, err := a.Publication.CopyOf(ctx, x.edition, publication.CopyKind(in.Kind))
			return edge.Answer(x.copy(in.Kind, state)), err
		})
	edge.On(a.Edge, edge.Inside, http.MethodPost, path, "make-copy",
		"Have a copy of a recording made, unless it is there",
		func(ctx context.Context, p roster.Person, in *copyInput) (*edge.Body[Copy], error) {
			x, err := a.taken(ctx, p, in.Recording, in.Kind)
			if err != nil {
				return nil, err
			}
			chapters, err := a.copiedChapters(ctx, in.Recording, x)
			if err != nil {
				return nil, err
			}
			state, err := a.Publication.AskCopy(ctx, x.edition, publication.CopyKind(in.Kind), chapters)
			return edge.Answer(x.copy(in.Kind, state)), err
		})
	edge.On(a.Edge, edge.Inside, http.MethodGet, "/api/watch/{recording}/text", "take-text",
		"What is said in a recording, as captions or as plain text", a.text)
}

// errTakeaway says that a recording may be watched, and not taken away.
var errTakeaway = fault.Code("takeaway")

// taken is the edition of a recording of which p may take a kind away.
func (a *API) taken(ctx context.Context, p roster.Person, recording uuid.UUID, kind string) (opened, error) {
	x, err := a.open(ctx, p, recording)
	if err == nil && (!x.uses.Has(useOf(kind)) || x.edition == uuid.Nil) {
		err = errTakeaway
	}
	return x, err
}

func (x opened) copy(kind string, state publication.CopyState) Copy {
	out := Copy{State: state.State, Percent: state.Percent}
	if state.State == "ready" {
		out.Bytes, out.Address = state.Bytes, edge.CopyAddress(x.media, kind)
	}
	return out
}

// copiedChapters are the chapters that go into a copy.
func (a *API) copiedChapters(ctx context.Context, recording uuid.UUID, x opened) ([]chapter.Published, error) {
	r, err := a.Recordings.Recording(ctx, recording)
	if err != nil {
		return nil, err
	}
	return a.Words.Carried(ctx, r, cutlist.Carrier(x.Stretches))
}

// copy sends a copy of an edition to those who may take it away.
func (a *API) copy(c *gin.Context) {
	t, decision, ok := a.decide(c)
	if !ok {
		return
	}
	kind, _ := strings.CutSuffix(c.Param("kind"), ".mp4")
	if t.Use != edge.AsPublished || !decision.Uses.Has(useOf(kind)) || kind == "text" {
		c.AbortWithStatus(http.StatusNotFound)
		return
	}
	a.sendCopy(c, t.Recording, t.Edition, kind)
}

// copyFiles are how the file of a kind ends, and its media type.
var copyFiles = map[string][2]string{"video": {".mp4", "video/mp4"}, "small": {" (small).mp4", "video/mp4"},
	"sound": {".m4a", "audio/mp4"}}

// sendCopy sends a copy, or parts of it; 404 while there is none.
func (a *API) sendCopy(c *gin.Context, recording, edition uuid.UUID, kind string) {
	ctx := c.Request.Context()
	f, err := a.Publication.OpenCopy(ctx, edition, publication.CopyKind(kind))
	if errors.Is(err, recordings.ErrNotReady) {
		c.AbortWithStatus(http.StatusNotFound)
		return
	}
	if err != nil {
		slog.Error("a copy cannot be read", "recording", recording, "error", err)
		c.AbortWithStatus(http.StatusInternalServerError)
		return
	}
	defer f.Close()
	name := "lecture"
	if r, err := a.Recordings.Recording(ctx, recording); err == nil && r.Title != "" {
		name = strings.NewReplacer("/", "-", "\\", "-").Replace(r.Title)
	}
	c.Header("Cache-Control", "private, no-cache")
	c.Header("Content-Disposition",
		mime.FormatMediaType("attachment", map[string]string{"filename": name + copyFiles[kind][0]}))
	c.Header("Content-Type", copyFiles[kind][1])
	http.ServeContent(c.Writer, c.Request, "", time.Time{}, f)
}

type textInput struct {
	edge.OfRecording
	Language string `query:"language" maxLength:"35" doc:"of captions; without it that of the course"`
	Form     string `query:"form" enum:"vtt,txt" default:"txt"`
}

// text is what is said in an edition, on its clock.
func (a *API) text(ctx context.Context, p roster.Person, in *textInput) (*page.Download, error) {
	x, err := a.taken(ctx, p, in.Recording, "text")
	if err != nil {
		return nil, err
	}
	r, err := a.Recordings.Recording(ctx, in.Recording)
	if err != nil {
		return nil, err
	}
	cues, language, err := a.cues(ctx, r.ID, in.Language, cutlist.Carrier(x.Stretches))
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	if in.Form == "vtt" {
		if err := captionfile.WriteWebVTT(&b, caption.Sheet{Cues: cues}); err != nil {
			return nil, err
		}
		return page.File("text/vtt; charset=utf-8", b.Bytes(), r.Title, language+".vtt"), nil
	}
	b.WriteString(r.Title + "\n\n")
	for _, line := range cues {
		b.WriteString(line.Text + "\n")
	}
	return page.File("text/plain; charset=utf-8", b.Bytes(), r.Title, language+".txt"), nil
}

// cues are the captions of a recording that those who watch may read, in a language, carried to what is published.
func (a *API) cues(ctx context.Context, recording uuid.UUID, language string,
	by cutlist.Carrier) (list []caption.Cue, in string, err error) {
	list, in, _, err = a.Words.Shown(ctx, recording, language)
	return caption.Carry(list, by), in, err
}
