package captioning

import (
	"bytes"
	"context"
	"net/http"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/core/caption"
	"latelantern/internal/core/cutlist"
	"latelantern/internal/format/captionfile"
	"latelantern/internal/recordings"
	"latelantern/internal/roster"
	"latelantern/internal/words"
)

// CaptionFileLook is what a file of captions holds, and what is to be known before it is taken.
type CaptionFileLook struct {
	Form      string           `json:"form" enum:"vtt,srt"`
	Language  string           `json:"language" doc:"as the file says, or as it was asked for"`
	Lines     int              `json:"lines"`
	Sample    []CaptionLine    `json:"sample" nullable:"false" doc:"some of its lines"`
	Faults    []page.LineFault `json:"faults" nullable:"false" doc:"with any of them it is not taken; the first of them"`
	AllFaults int              `json:"all_faults"`
	Notes     []page.LineFault `json:"notes" nullable:"false"`
	Taken     bool             `json:"taken"`
}

type captionFileInput struct {
	edge.OfRecording
	Body struct {
		Content   []byte `json:"content" doc:"the file as it is, in base64"`
		Language  string `json:"language,omitempty" maxLength:"35" doc:"BCP 47; without it what the file says, or the language of the course"`
		Published bool   `json:"published,omitempty" doc:"its times are those of what is published"`
		Noted     bool   `json:"noted,omitempty" doc:"take it in spite of its notes"`
	}
}

// mostCaptionBody is how large the request with a file may be: much more than is taken, so that it
// can be said what is wrong with the file.
const mostCaptionBody = 6 * captionfile.MaxBytes

func (a *API) captionFileRoutes() {
	edge.On(a.Edge, edge.Staff, http.MethodPost, "/api/recordings/{recording}/caption-files", "take-captions",
		"Take the captions of a file, if nothing about it needs a word first", a.takeCaptions,
		edge.UpTo(mostCaptionBody))
	edge.On(a.Edge, edge.Staff, http.MethodGet, "/api/recordings/{recording}/search", "search-recording",
		"Look for words in what is said and shown", a.searchOne)
	a.Plain(edge.Staff, http.MethodGet, "/api/recordings/:recording/captions/:language/file", a.captionsOut)
}

// published carries to what of a recording is published; where nothing is, to what is kept.
func (a *API) published(ctx context.Context, r recordings.Recording) (cutlist.Carrier, error) {
	if r.EditionID == nil {
		return cutlist.CarrierOf(r.Kept()), nil
	}
	x, err := a.Publication.Edition(ctx, *r.EditionID)
	if err != nil {
		return nil, err
	}
	return cutlist.Carrier(x.Stretches), nil
}

func (a *API) takeCaptions(ctx context.Context, p roster.Person,
	in *captionFileInput) (*edge.Body[CaptionFileLook], error) {
	f, err := captionfile.Read(in.Body.Content)
	if err != nil {
		return nil, err
	}
	r, err := a.Recordings.Recording(ctx, in.Recording)
	if err != nil {
		return nil, err
	}
	if in.Body.Published {
		by, err := a.published(ctx, r)
		if err != nil {
			return nil, err
		}
		f.Cues = caption.Back(f.Cues, by)
	}
	language := in.Body.Language
	if language == "" {
		if language = f.Language; language == "" {
			course, err := a.Words.Course(ctx, r.CourseID)
			if err != nil {
				return nil, err
			}
			language = course.Language
		}
	}
	f.Within(r.Length)
	out := CaptionFileLook{Form: string(f.Form), Language: language, Lines: len(f.Cues), Sample: []CaptionLine{},
		Faults: saidAt(f.Faults), AllFaults: f.AllFault, Notes: saidAt(f.Notes)}
	for _, c := range f.Cues[:min(3, len(f.Cues))] {
		out.Sample = append(out.Sample,
			CaptionLine{Span: page.Span{Start: c.Start.Milliseconds(), End: c.End.Milliseconds()}, Text: c.Text,
				Speaker: c.Speaker})
	}
	if out.AllFaults > 0 || len(out.Notes) > 0 && !in.Body.Noted {
		return edge.Answer(out), nil
	}
	if err := a.Words.Take(ctx, r.ID, language, p.ID, f.Sheet); err != nil {
		return nil, err
	}
	out.Taken = true
	return edge.Answer(out), nil
}

func saidAt(list []captionfile.Said) []page.LineFault {
	out := []page.LineFault{}
	for _, s := range list {
		out = append(out, page.LineFault{Line: s.Line, Said: page.Say(s.Text)})
	}
	return out
}

// captionsOut is the captions of a recording as a file.
func (a *API) captionsOut(c *gin.Context) {
	ctx := c.Request.Context()
	id := edge.RecordingOf(c)
	language, form := c.Param("language"), captionfile.Form(c.DefaultQuery("form", string(captionfile.WebVTT)))
	if form != captionfile.WebVTT && form != captionfile.SubRip {
		a.Refuse(c, words.ErrUnknown)
		return
	}
	b, name, err := a.captionFile(ctx, id, language, form, c.Query("clock") == "published")
	if err != nil {
		a.Refuse(c, err)
		return
	}
	edge.AsFile(c, name)
	kind := "text/vtt; charset=utf-8"
	if form == captionfile.SubRip {
		kind = "application/x-subrip; charset=utf-8"
	}
	c.Data(http.StatusOK, kind, b)
}

func (a *API) captionFile(ctx context.Context, id uuid.UUID, language string, form captionfile.Form,
	published bool) (b []byte, name string, err error) {
	sheet, err := a.Words.Sheet(ctx, id, language)
	if err != nil {
		return nil, "", err
	}
	r, err := a.Recordings.Recording(ctx, id)
	if err != nil {
		return nil, "", err
	}
	if published {
		by, err := a.published(ctx, r)
		if err != nil {
			return nil, "", err
		}
		sheet.Cues = caption.Carry(sheet.Cues, by)
	}
	title, err := a.titleOf(ctx, r)
	if err != nil {
		return nil, "", err
	}
	var w bytes.Buffer
	if form == captionfile.SubRip {
		err = captionfile.WriteSubRip(&w, sheet)
	} else {
		err = captionfile.WriteWebVTT(&w, sheet)
	}
	return w.Bytes(), edge.FileName(title, language, string(form)), err
}

// titleOf is the title of a recording, or the one that is suggested for it.
func (a *API) titleOf(ctx context.Context, r recordings.Recording) (string, error) {
	if r.Title != "" {
		return r.Title, nil
	}
	l, err := a.Schedule.OfRecording(ctx, r.LectureID, r.ID)
	if err != nil {
		return "", err
	}
	term, err := a.Schedule.TermOf(ctx, r.CourseID)
	if err != nil {
		return "", err
	}
	return l.SuggestedTitle(term), nil
}
