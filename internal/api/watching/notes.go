package watching

import (
	"bytes"
	"context"
	"fmt"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/core/cutlist"
	"latelantern/internal/format/notefile"
	"latelantern/internal/notes"
	"latelantern/internal/recordings"
	"latelantern/internal/roster"
)

// NoteLine is what who asks noted for themselves.
type NoteLine struct {
	ID     uuid.UUID `json:"id" format:"uuid"`
	At     int64     `json:"at" doc:"its moment, in the time of what plays, in milliseconds"`
	Struck bool      `json:"struck" doc:"its moment was struck since: it stands at the cut"`
	Text   string    `json:"text"`
	Kept   time.Time `json:"kept_at" doc:"last"`
}

// Notes are what who asks noted in a recording.
type Notes struct {
	Notes []NoteLine `json:"notes" nullable:"false" doc:"in order of their moments"`
}

// OfNote is the input of operations about a note.
type OfNote struct {
	edge.OfRecording
	Note uuid.UUID `path:"note" format:"uuid" doc:"which the page makes, so that it is kept once"`
}

type noteInput struct {
	OfNote
	Body struct {
		Text    string    `json:"text" maxLength:"40000"`
		Edition uuid.UUID `json:"edition" format:"uuid" doc:"that is watched"`
		At      int64     `json:"at" minimum:"0" maximum:"604800000" doc:"its moment, in the time of what plays"`
		Uncut   bool      `json:"uncut,omitempty" doc:"for those who teach it: that it plays as it was captured"`
	}
}

func (a *API) noteRoutes() {
	edge.On(a.Edge, edge.SignedIn, http.MethodGet, "/api/watch/{recording}/notes", "notes",
		"What one noted for oneself in a recording", a.notesIn)
	edge.On(a.Edge, edge.SignedIn, http.MethodPut, "/api/watch/{recording}/notes/{note}", "keep-note",
		"Note something for oneself at a moment, or change what one noted", a.keepNote)
	edge.On(a.Edge, edge.SignedIn, http.MethodDelete, "/api/watch/{recording}/notes/{note}", "remove-note",
		"Remove what one noted",
		func(ctx context.Context, p roster.Person, in *OfNote) (*edge.Empty, error) {
			if _, err := a.open(ctx, p, in.Recording); err != nil {
				return nil, err
			}
			return nil, a.Notes.Remove(ctx, p.ID, in.Note)
		})
	a.Plain(edge.SignedIn, http.MethodGet, "/api/watch/:recording/notes/file", a.notesOut)
}

func (a *API) keepNote(ctx context.Context, p roster.Person, in *noteInput) (*edge.Empty, error) {
	published, carrier, err := a.playing(ctx, p, in.Recording, in.Body.Edition)
	if err != nil {
		return nil, err
	}
	if !published { // then what plays may be what would be published
		shown, err := a.open(ctx, p, in.Recording)
		if err != nil {
			return nil, err
		}
		r, err := a.Recordings.Recording(ctx, in.Recording)
		if err != nil {
			return nil, err
		}
		_, carrier = carrierOf(r, shown, in.Body.Uncut)
	}
	return nil, a.Notes.Keep(ctx, notes.Writing{ID: in.Note, Person: p.ID, Recording: in.Recording,
		At: carrier.Source(time.Duration(in.Body.At) * time.Millisecond), Text: in.Body.Text})
}

func (a *API) notesIn(ctx context.Context, p roster.Person, in *chatInput) (*edge.Body[Notes], error) {
	_, carrier, list, err := a.notesOf(ctx, p, in.Recording, in.Uncut)
	if err != nil {
		return nil, err
	}
	out := Notes{Notes: []NoteLine{}}
	for _, n := range list {
		at, shown := carrier.Moment(n.At)
		out.Notes = append(out.Notes, NoteLine{n.ID, at.Milliseconds(), !shown, n.Text, n.Kept})
	}
	return edge.Answer(out), nil
}

// notesOf are the notes of p in a recording that they may watch, and what carries its moments to what plays.
func (a *API) notesOf(ctx context.Context, p roster.Person, id uuid.UUID, uncut bool) (recordings.Recording,
	cutlist.Carrier, []notes.Note, error) {
	shown, err := a.open(ctx, p, id)
	if err != nil {
		return recordings.Recording{}, nil, nil, err
	}
	r, err := a.Recordings.Recording(ctx, id)
	if err != nil {
		return r, nil, nil, err
	}
	_, carrier := carrierOf(r, shown, uncut)
	list, err := a.Notes.Of(ctx, p.ID, id)
	return r, carrier, list, err
}

// notesOut is what one noted in a recording as a file.
func (a *API) notesOut(c *gin.Context) {
	ctx := c.Request.Context()
	p, _ := edge.Caller(ctx)
	form := notefile.Form(c.DefaultQuery("form", string(notefile.Text)))
	if form.Kind() == "" {
		a.Refuse(c, edge.ErrNowhere)
		return
	}
	b, name, err := a.noteFile(ctx, p, edge.RecordingOf(c), form)
	if err != nil {
		a.Refuse(c, err)
		return
	}
	edge.AsFile(c, name)
	c.Data(http.StatusOK, form.Kind(), b)
}

func (a *API) noteFile(ctx context.Context, p roster.Person, id uuid.UUID, form notefile.Form) (b []byte, name string,
	err error) {
	r, carrier, list, err := a.notesOf(ctx, p, id, false)
	if err != nil {
		return nil, "", err
	}
	title, term, lecture, err := a.titled(ctx, r)
	if err != nil {
		return nil, "", err
	}
	sheet := notefile.Sheet{Title: title,
		Of: fmt.Sprintf("%s, %s", lecture.Code, lecture.StartsAt.In(term.Zone).Format(time.DateOnly)),
		Link: func(at time.Duration) string {
			return fmt.Sprintf("%s/watch/%s?at=%d", a.Public, id, at.Milliseconds())
		}}
	for _, n := range list {
		at, _ := carrier.Moment(n.At)
		sheet.Notes = append(sheet.Notes, notefile.Note{At: at, Text: n.Text})
	}
	var w bytes.Buffer
	err = notefile.Write(&w, form, sheet)
	return w.Bytes(), edge.FileName(title, "notes", string(form)), err
}

var noteProblems = edge.Problems{
	notes.ErrTaken:   http.StatusConflict,
	notes.ErrMany:    http.StatusConflict,
	notes.ErrNothing: http.StatusConflict,
}
