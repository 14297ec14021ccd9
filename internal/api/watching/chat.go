package watching

import (
	"bytes"
	"context"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/chat"
	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/viewing"
	"latelantern/internal/format/chatfile"
	"latelantern/internal/recordings"
	"latelantern/internal/roster"
	"latelantern/internal/schedule"
)

// SaidIn is what was said while a recording was captured, and asked of it since.
type SaidIn struct {
	Lines   []page.ChatLine `json:"lines" nullable:"false" doc:"in order of their moments, in the time of what plays"`
	Teaches bool            `json:"teaches" doc:"who asks"`
}

// Question is one that waits for its answer.
type Question struct {
	page.ChatLine
	Lecture   uuid.UUID  `json:"lecture" format:"uuid"`
	Topic     string     `json:"topic" doc:"of the lecture; may be empty"`
	StartsAt  time.Time  `json:"starts_at" doc:"of the lecture"`
	Recording *uuid.UUID `json:"recording,omitempty" format:"uuid" doc:"in which its moment lies"`
}

// Questions are those of a course that wait.
type Questions struct {
	Zone      string     `json:"zone"`
	Questions []Question `json:"questions" nullable:"false" doc:"the oldest first"`
}

type chatInput struct {
	edge.OfRecording
	Uncut bool `query:"uncut" doc:"for those who teach it: as it was captured"`
}

type askInput struct {
	edge.OfRecording
	Body struct {
		ID      uuid.UUID `json:"id" format:"uuid" doc:"which the page makes, so that it is kept once"`
		Text    string    `json:"text" maxLength:"40000"`
		Edition uuid.UUID `json:"edition" format:"uuid" doc:"that is watched"`
		At      int64     `json:"at" minimum:"0" maximum:"604800000" doc:"its moment, in published time"`
		AgoMs   int64     `json:"ago_ms,omitempty" minimum:"0"`
	}
}

func (a *API) chatRoutes() {
	edge.On(a.Edge, edge.SignedIn, http.MethodGet, "/api/watch/{recording}/chat", "said-in",
		"What was said while a recording was captured, and asked of it since", a.saidIn)
	edge.On(a.Edge, edge.SignedIn, http.MethodPost, "/api/watch/{recording}/questions", "ask-moment",
		"Ask those who teach about a moment", a.askMoment)
	edge.On(a.Edge, edge.Staff, http.MethodGet, "/api/courses/{course}/questions", "questions",
		"The questions of a course that wait for an answer", a.waitingIn)
	edge.On(a.Edge, edge.Staff, http.MethodGet, "/api/recordings/{recording}/lost", "lost-of",
		"How many were lost when while a recording was captured", a.lostOf)
	a.Plain(edge.Staff, http.MethodGet, "/api/recordings/:recording/chat/file", a.chatOut)
}

// LostMoment is how many were lost about a moment of a recording.
type LostMoment struct {
	At     int64 `json:"at" doc:"on the clock of the recording, in milliseconds"`
	People int   `json:"people"`
}

// LostMoments are those of a recording.
type LostMoments struct {
	Moments []LostMoment `json:"moments" nullable:"false" doc:"in order, each for a minute in which anyone was"`
}

func (a *API) lostOf(ctx context.Context, _ roster.Person, in *edge.OfRecording) (*edge.Body[LostMoments], error) {
	r, err := a.Recordings.Recording(ctx, in.Recording)
	if err != nil {
		return nil, err
	}
	list, err := a.Chat.LostOf(ctx, r.LectureID, r.ID)
	out := LostMoments{Moments: []LostMoment{}}
	for _, x := range list {
		out.Moments = append(out.Moments, LostMoment{x.At.Milliseconds(), x.People})
	}
	return edge.Answer(out), err
}

// readerOf is p as they read the chat of a recording that they may watch: those of the course of its lecture read what
// was said there; everyone else what they asked, and what is shown to all.
func (a *API) readerOf(ctx context.Context, p roster.Person, r recordings.Recording) (chat.Reader, error) {
	v, err := a.Roster.Viewer(ctx, p.ID, r.CourseID)
	teaches := v.Coordinator || v.Role.Staff()
	return chat.Reader{Person: p.ID, Teaches: teaches, Of: teaches || v.Role != viewing.Nobody}, err
}

func (a *API) saidIn(ctx context.Context, p roster.Person, in *chatInput) (*edge.Body[SaidIn], error) {
	shown, err := a.open(ctx, p, in.Recording)
	if err != nil {
		return nil, err
	}
	r, err := a.Recordings.Recording(ctx, in.Recording)
	if err != nil {
		return nil, err
	}
	reader, err := a.readerOf(ctx, p, r)
	if err != nil {
		return nil, err
	}
	lines, err := a.Chat.Of(ctx, r.ID, reader)
	if err != nil {
		return nil, err
	}
	_, carrier := carrierOf(r, shown, in.Uncut)
	out := SaidIn{Lines: []page.ChatLine{}, Teaches: reader.Teaches}
	for _, l := range lines {
		if at, ok := momentOf(carrier, l); ok {
			out.Lines = append(out.Lines, page.ChatLineOf(l, reader, &at))
		}
	}
	return edge.Answer(out), nil
}

// momentOf is where a line lies in what plays, in milliseconds; ok is false for what is struck. What was asked of it
// afterwards, at a moment that was struck since, stands at the cut: it still waits for its answer.
func momentOf(carrier cutlist.Carrier, l chat.Line) (ms int64, ok bool) {
	at, ok := carrier.Moment(time.Duration(*l.AtMs) * time.Millisecond)
	return at.Milliseconds(), ok || l.Later
}

func (a *API) askMoment(ctx context.Context, p roster.Person, in *askInput) (*edge.Empty, error) {
	_, carrier, err := a.playing(ctx, p, in.Recording, in.Body.Edition)
	if err != nil {
		return nil, err
	}
	r, err := a.Recordings.Recording(ctx, in.Recording)
	if err != nil {
		return nil, err
	}
	return nil, a.Chat.Say(ctx, chat.Saying{ID: in.Body.ID, Lecture: r.LectureID, Person: p.ID, Text: in.Body.Text,
		Question: true, Later: true, Ago: time.Duration(in.Body.AgoMs) * time.Millisecond,
		Heard: &chat.Heard{Recording: r.ID, At: carrier.Source(time.Duration(in.Body.At) * time.Millisecond)}})
}

// chatOut is the chat of a recording as a file, by the clock of what is published.
func (a *API) chatOut(c *gin.Context) {
	ctx := c.Request.Context()
	form := chatfile.Form(c.DefaultQuery("form", string(chatfile.WebVTT)))
	if form.Kind() == "" {
		a.Refuse(c, edge.ErrNowhere)
		return
	}
	b, name, err := a.chatFile(ctx, edge.RecordingOf(c), form)
	if err != nil {
		a.Refuse(c, err)
		return
	}
	edge.AsFile(c, name)
	c.Data(http.StatusOK, form.Kind(), b)
}

// published is a recording with what carries its moments to what is published, or would be.
func (a *API) published(ctx context.Context, id uuid.UUID) (recordings.Recording, cutlist.Carrier, error) {
	r, err := a.Recordings.Recording(ctx, id)
	if err != nil || r.EditionID == nil {
		return r, cutlist.CarrierOf(r.Kept()), err
	}
	carrier, err := a.Publication.Carrier(ctx, id, *r.EditionID)
	return r, carrier, err
}

func (a *API) chatFile(ctx context.Context, id uuid.UUID, form chatfile.Form) (b []byte, name string, err error) {
	r, carrier, err := a.published(ctx, id)
	if err != nil {
		return nil, "", err
	}
	lines, err := a.Chat.Of(ctx, id, chat.Reader{Teaches: true})
	if err != nil {
		return nil, "", err
	}
	title, term, _, err := a.titled(ctx, r)
	if err != nil {
		return nil, "", err
	}
	var said []chat.Line
	for _, l := range lines {
		if at, ok := momentOf(carrier, l); ok {
			l.AtMs = &at
			said = append(said, l)
		}
	}
	var w bytes.Buffer
	err = chatfile.Write(&w, form, page.ChatFileLines(said, term.Zone, func(l chat.Line) *time.Duration {
		at := time.Duration(*l.AtMs) * time.Millisecond
		return &at
	}))
	return w.Bytes(), edge.FileName(title, "chat", string(form)), err
}

// titled is what a recording is called, with its term and its lecture.
func (a *API) titled(ctx context.Context, r recordings.Recording) (string, schedule.Term, schedule.Lecture, error) {
	lecture, err := a.Schedule.OfRecording(ctx, r.LectureID, r.ID)
	if err != nil {
		return "", schedule.Term{}, lecture, err
	}
	term, err := a.Schedule.TermOf(ctx, r.CourseID)
	if r.Title != "" || err != nil {
		return r.Title, term, lecture, err
	}
	return lecture.SuggestedTitle(term), term, lecture, nil
}

// waitingIn are the questions of a course that wait for an answer, with the recording in which each has its moment.
func (a *API) waitingIn(ctx context.Context, p roster.Person, in *edge.OfCourse) (*edge.Body[Questions], error) {
	lines, err := a.Chat.Waiting(ctx, in.Course)
	if err != nil {
		return nil, err
	}
	term, err := a.Schedule.TermOf(ctx, in.Course)
	if err != nil {
		return nil, err
	}
	reader := chat.Reader{Person: p.ID, Teaches: true, Of: true}
	out := Questions{Zone: term.Zone.String(), Questions: []Question{}}
	carriers := map[uuid.UUID]cutlist.Carrier{}
	for _, l := range lines {
		q := Question{ChatLine: page.ChatLineOf(l.Line, reader, nil), Lecture: l.LectureID, Topic: l.Topic,
			StartsAt: l.StartsAt, Recording: l.RecordingID}
		if l.RecordingID != nil {
			carrier, known := carriers[*l.RecordingID]
			if !known {
				if _, carrier, err = a.published(ctx, *l.RecordingID); err != nil {
					return nil, err
				}
				carriers[*l.RecordingID] = carrier
			}
			at, _ := momentOf(carrier, l.Line)
			q.At = &at
		}
		out.Questions = append(out.Questions, q)
	}
	return edge.Answer(out), nil
}
