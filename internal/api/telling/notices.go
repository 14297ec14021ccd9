package telling

import (
	"context"
	"net/http"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/roster"
)

// Notices are what is new to somebody: what they were told and has been answered, until they have seen it, and what
// others said of the courses they teach, until somebody has looked at it.
type Notices struct {
	Zone     string   `json:"zone" doc:"IANA zone of the college"`
	Notices  []Notice `json:"notices" nullable:"false" doc:"recordings one was told of; the last first"`
	Replies  []Reply  `json:"replies" nullable:"false" doc:"answers to what one asked; the last first"`
	Asked    []Waits  `json:"asked" nullable:"false" doc:"courses of one's own in which questions wait"`
	Proposed []Waits  `json:"proposed" nullable:"false" doc:"recordings for whose captions readers propose something"`
	Objected []Waits  `json:"objected" nullable:"false" doc:"lectures of whose registers students say something"`
}

// Notice is a recording of which one was told.
type Notice struct {
	Recording uuid.UUID `json:"recording_id" format:"uuid"`
	Course    string    `json:"course" doc:"code of the course that told one"`
	Title     string    `json:"title"`
	At        time.Time `json:"at"`
}

// Reply is an answer in writing to a question of one's own.
type Reply struct {
	Question  uuid.UUID  `json:"question_id" format:"uuid"`
	Lecture   uuid.UUID  `json:"lecture_id" format:"uuid"`
	Recording *uuid.UUID `json:"recording_id" format:"uuid" doc:"in which one can watch the moment of it, if any"`
	Course    string     `json:"course"`
	Text      string     `json:"text" doc:"of the question"`
	At        time.Time  `json:"at"`
}

// Waits is what waits in one place for somebody who teaches.
type Waits struct {
	Of     uuid.UUID `json:"of" format:"uuid" doc:"the course, the recording, or the lecture"`
	Course string    `json:"course" doc:"its code"`
	Title  string    `json:"title" doc:"of the recording or the lecture; empty for a course"`
	N      int       `json:"n" doc:"how many"`
	At     time.Time `json:"at" doc:"of the last of them"`
}

type seenInput struct {
	Body struct {
		Recordings []uuid.UUID `json:"recordings" format:"uuid" nullable:"false" maxItems:"500"`
		Questions  []uuid.UUID `json:"questions,omitempty" format:"uuid" nullable:"false" maxItems:"500" doc:"answered"`
		Seen       bool        `json:"seen" doc:"false: they are news again"`
	}
}

func (a *API) noticeRoutes() {
	edge.On(a.Edge, edge.SignedIn, http.MethodGet, "/api/news", "news", "What is new to one",
		func(ctx context.Context, p roster.Person, _ *edge.Empty) (*edge.Body[Notices], error) {
			out, err := a.notices(ctx, p.ID)
			return edge.Answer(out), err
		})
	edge.On(a.Edge, edge.SignedIn, http.MethodPut, "/api/news/seen", "see-news",
		"That one has seen what one was told of or answered, or takes that back",
		func(ctx context.Context, p roster.Person, in *seenInput) (*edge.Empty, error) {
			told := a.News.Unsee
			if in.Body.Seen {
				told = a.News.Seen
			}
			if err := told(ctx, p.ID, in.Body.Recordings); err != nil {
				return nil, err
			}
			return nil, a.Chat.SeeReplies(ctx, p.ID, in.Body.Questions, in.Body.Seen)
		})
}

func (a *API) notices(ctx context.Context, person uuid.UUID) (Notices, error) {
	out := Notices{Notices: []Notice{}, Replies: []Reply{}}
	term, err := a.Schedule.CurrentTerm(ctx)
	if err != nil {
		return out, err
	}
	out.Zone = term.Zone.String()
	told, err := a.News.Unseen(ctx, person)
	if err != nil {
		return out, err
	}
	replies, err := a.Chat.Replies(ctx, person)
	if err != nil {
		return out, err
	}
	var ids []uuid.UUID
	for _, x := range told {
		ids = append(ids, x.RecordingID)
	}
	for _, x := range replies {
		if x.RecordingID != nil {
			ids = append(ids, *x.RecordingID)
		}
	}
	open, err := a.Audience.DecideAll(ctx, person, ids)
	if err != nil {
		return out, err
	}
	for _, x := range told {
		if open[x.RecordingID].Watch() {
			out.Notices = append(out.Notices, Notice{x.RecordingID, x.Code, x.Title, x.At})
		}
	}
	for _, x := range replies {
		if x.RecordingID != nil && !open[*x.RecordingID].Watch() {
			x.RecordingID = nil
		}
		if x.Of || x.RecordingID != nil {
			out.Replies = append(out.Replies, Reply{x.ID, x.LectureID, x.RecordingID, x.Code, x.Text, x.At})
		}
	}
	return out, a.waiting(ctx, person, &out)
}

// waiting adds what waits for somebody in the courses that they teach.
func (a *API) waiting(ctx context.Context, person uuid.UUID, out *Notices) error {
	asked, err := a.Chat.AskedOf(ctx, person)
	if err != nil {
		return err
	}
	proposed, err := a.Words.ProposedOf(ctx, person)
	if err != nil {
		return err
	}
	objected, err := a.Presence.ObjectionsOf(ctx, person)
	if err != nil {
		return err
	}
	out.Asked, out.Proposed, out.Objected = make([]Waits, len(asked)), make([]Waits, len(proposed)),
		make([]Waits, len(objected))
	for i, x := range asked {
		out.Asked[i] = Waits{Of: x.CourseID, Course: x.Code, N: x.N, At: x.At}
	}
	for i, x := range proposed {
		out.Proposed[i] = Waits{x.RecordingID, x.Code, x.Title, x.N, x.At}
	}
	for i, x := range objected {
		out.Objected[i] = Waits{x.LectureID, x.Code, x.Topic, x.N, x.At}
	}
	return nil
}
