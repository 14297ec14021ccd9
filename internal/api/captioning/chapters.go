package captioning

import (
	"bytes"
	"context"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/core/caption"
	"latelantern/internal/core/chapter"
	"latelantern/internal/format/captionfile"
	"latelantern/internal/format/rss"
	"latelantern/internal/roster"
)

// Chapters are the parts of a recording, on its clock.
type Chapters struct {
	ByHand   bool           `json:"by_hand" doc:"a person kept them; otherwise markers and slides propose them"`
	Unread   bool           `json:"unread" doc:"slides are still being read, and may propose more"`
	CanUndo  bool           `json:"can_undo"`
	CanRedo  bool           `json:"can_redo"`
	Chapters []page.Chapter `json:"chapters" nullable:"false"`
}

func chaptersOf(list []page.Chapter) []chapter.Chapter {
	out := []chapter.Chapter{}
	for _, c := range list {
		out = append(out, chapter.Chapter{At: time.Duration(c.At) * time.Millisecond, Title: c.Title})
	}
	return out
}

func (a *API) chapterRoutes() {
	type chaptersInput struct {
		edge.OfRecording
		Body struct {
			Seen     []page.Chapter `json:"seen" nullable:"false" doc:"the chapters as they were seen; when there are others by now, nothing is kept"`
			Chapters []page.Chapter `json:"chapters" nullable:"false" maxItems:"1000"`
			Proposed bool           `json:"proposed,omitempty" doc:"those that are proposed stand there again"`
		}
	}
	edge.On(a.Edge, edge.Staff, http.MethodGet, "/api/recordings/{recording}/chapters", "chapters",
		"The chapters of a recording",
		func(ctx context.Context, _ roster.Person, in *edge.OfRecording) (*edge.Body[Chapters], error) {
			return a.chapters(ctx, in.Recording)
		})
	edge.On(a.Edge, edge.Staff, http.MethodPut, "/api/recordings/{recording}/chapters", "set-chapters",
		"Keep the chapters of a recording",
		func(ctx context.Context, p roster.Person, in *chaptersInput) (*edge.Body[Chapters], error) {
			r, err := a.Recordings.Recording(ctx, in.Recording)
			if err != nil {
				return nil, err
			}
			list := chaptersOf(in.Body.Chapters)
			if in.Body.Proposed {
				list = nil
			}
			if err := a.Words.SetChapters(ctx, r.ID, p.ID, r.Kept(), r.Length, chaptersOf(in.Body.Seen),
				list); err != nil {
				return nil, err
			}
			return a.chapters(ctx, r.ID)
		})
	turn := func(do func(ctx context.Context, recording, by uuid.UUID) error) func(context.Context, roster.Person,
		*edge.OfRecording) (*edge.Body[Chapters], error) {
		return func(ctx context.Context, p roster.Person, in *edge.OfRecording) (*edge.Body[Chapters], error) {
			if err := do(ctx, in.Recording, p.ID); err != nil {
				return nil, err
			}
			return a.chapters(ctx, in.Recording)
		}
	}
	edge.On(a.Edge, edge.Staff, http.MethodPost, "/api/recordings/{recording}/chapters/undo", "undo-chapters",
		"Take the last change of chapters back", turn(a.Words.UndoChapters))
	edge.On(a.Edge, edge.Staff, http.MethodPost, "/api/recordings/{recording}/chapters/redo", "redo-chapters",
		"Make a change of chapters again", turn(a.Words.RedoChapters))
	a.Plain(edge.Staff, http.MethodGet, "/api/recordings/:recording/chapters/file", a.chaptersOut)
}

func (a *API) chapters(ctx context.Context, recording uuid.UUID) (*edge.Body[Chapters], error) {
	r, err := a.Recordings.Recording(ctx, recording)
	if err != nil {
		return nil, err
	}
	now, err := a.Words.Chapters(ctx, r.ID, r.Kept())
	if err != nil {
		return nil, err
	}
	out := Chapters{ByHand: now.ByHand, Unread: now.Unread, CanUndo: now.Undo, CanRedo: now.Redo,
		Chapters: []page.Chapter{}}
	for _, c := range now.List {
		out.Chapters = append(out.Chapters, page.Chapter{At: c.At.Milliseconds(), Title: c.Title})
	}
	return edge.Answer(out), nil
}

// chaptersOut is the chapters of what is published as a file: WebVTT, or the JSON that feeds name.
func (a *API) chaptersOut(c *gin.Context) {
	ctx := c.Request.Context()
	id := edge.RecordingOf(c)
	b, name, kind, err := a.chapterFile(ctx, id, c.DefaultQuery("form", "vtt"))
	if err != nil {
		a.Refuse(c, err)
		return
	}
	edge.AsFile(c, name)
	c.Data(http.StatusOK, kind, b)
}

func (a *API) chapterFile(ctx context.Context, id uuid.UUID, form string) (b []byte, name, kind string, err error) {
	r, err := a.Recordings.Recording(ctx, id)
	if err != nil {
		return nil, "", "", err
	}
	by, err := a.published(ctx, r)
	if err != nil {
		return nil, "", "", err
	}
	list, err := a.Words.Carried(ctx, r, by)
	if err != nil {
		return nil, "", "", err
	}
	title, err := a.titleOf(ctx, r)
	if err != nil {
		return nil, "", "", err
	}
	title = edge.FileName(title)
	if form == "json" {
		b, err := rss.Chapters(list)
		return b, title + ".chapters.json", rss.ChaptersType, err
	}
	var sheet caption.Sheet
	for _, c := range list {
		sheet.Cues = append(sheet.Cues, caption.Cue{Span: c.Span, Text: c.Title})
	}
	var w bytes.Buffer
	err = captionfile.WriteWebVTT(&w, sheet)
	return w.Bytes(), title + ".chapters.vtt", "text/vtt; charset=utf-8", err
}
