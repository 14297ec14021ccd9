package live

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
	core "latelantern/internal/core/chat"
	"latelantern/internal/core/doorway"
	"latelantern/internal/format/chatfile"
	"latelantern/internal/roster"
)

// Chat is what changed in the chat of a lecture.
type Chat struct {
	Way     core.Way        `json:"way" enum:"off,teachers,all" doc:"for whom it is"`
	Goes    bool            `json:"goes" doc:"something can be said in it now"`
	Teaches bool            `json:"teaches" doc:"who asks"`
	Changes int64           `json:"changes" doc:"up to here: asked for after it, only what is new comes"`
	Lines   []page.ChatLine `json:"lines" nullable:"false" doc:"in the order of what was said"`
}

// LostMinute is how many were lost in a minute of a lecture.
type LostMinute struct {
	Minute time.Time `json:"minute"`
	People int       `json:"people"`
}

// OfLine is the input of operations about a line of a chat.
type OfLine struct {
	edge.OfLecture
	Line uuid.UUID `path:"line" format:"uuid"`
}

type sayInput struct {
	edge.OfLecture
	Body struct {
		ID        uuid.UUID  `json:"id" format:"uuid" doc:"which the page makes, so that it is kept once"`
		Text      string     `json:"text" maxLength:"40000"`
		Question  bool       `json:"question,omitempty"`
		AgoMs     int64      `json:"ago_ms,omitempty" minimum:"0" doc:"how long ago it was written, if it could not be sent at once"`
		Recording *uuid.UUID `json:"recording,omitempty" format:"uuid" doc:"that they follow"`
		At        int64      `json:"at,omitempty" minimum:"0" maximum:"604800000" doc:"where in it they were, on its clock"`
	}
}

func (a *API) chatRoutes() {
	type sinceInput struct {
		edge.OfLecture
		After int64 `query:"after" minimum:"0" doc:"of the answer before"`
	}
	edge.On(a.Edge, edge.Inside, http.MethodGet, "/api/lectures/{lecture}/chat", "chat", "What was said in a lecture",
		func(ctx context.Context, p roster.Person, in *sinceInput) (*edge.Body[Chat], error) {
			return a.chat(ctx, p, in.Lecture, in.After)
		})
	edge.On(a.Edge, edge.Inside, http.MethodPost, "/api/lectures/{lecture}/chat", "say", "Say something in a lecture", a.say)
	edge.On(a.Edge, edge.Inside, http.MethodPost, "/api/lectures/{lecture}/lost", "say-lost",
		"Say that one is lost, without a name",
		func(ctx context.Context, p roster.Person, in *edge.OfLecture) (*edge.Empty, error) {
			at, err := a.Seen.Enters(ctx, p, in.Lecture)
			if err == nil && !a.goes(at.Opens, at.Ends, at.Running) {
				err = chat.ErrClosed
			}
			if err != nil {
				return nil, err
			}
			return nil, a.Chat.Lose(ctx, in.Lecture, p.ID)
		})
	a.ownLineRoutes()
	a.chatStaffRoutes()
}

// ownLineRoutes adds what people do to what they said themselves. Another's is not there.
func (a *API) ownLineRoutes() {
	edge.On(a.Edge, edge.Inside, http.MethodDelete, "/api/lectures/{lecture}/chat/{line}", "withdraw-line",
		"Withdraw what one said",
		func(ctx context.Context, p roster.Person, in *OfLine) (*edge.Empty, error) {
			return nil, a.Chat.Withdraw(ctx, in.Lecture, in.Line, p.ID, false)
		})
	edge.On(a.Edge, edge.Inside, http.MethodPost, "/api/lectures/{lecture}/chat/{line}/bring-back", "bring-back-line",
		"Say again what one withdrew",
		func(ctx context.Context, p roster.Person, in *OfLine) (*edge.Empty, error) {
			return nil, a.Chat.Withdraw(ctx, in.Lecture, in.Line, p.ID, true)
		})
	type turnInput struct {
		OfLine
		Body struct {
			Question bool `json:"question"`
		}
	}
	edge.On(a.Edge, edge.Inside, http.MethodPut, "/api/lectures/{lecture}/chat/{line}/question", "turn-line",
		"Say that what one said is a question, or none",
		func(ctx context.Context, p roster.Person, in *turnInput) (*edge.Empty, error) {
			return nil, a.Chat.Turn(ctx, in.Lecture, in.Line, p.ID, in.Body.Question)
		})
}

// chatStaffRoutes adds what those who teach do.
func (a *API) chatStaffRoutes() {
	type wayInput struct {
		edge.OfLecture
		Body struct {
			Way core.Way `json:"way" enum:"off,teachers,all"`
		}
	}
	edge.On(a.Edge, edge.Staff, http.MethodPut, "/api/lectures/{lecture}/chat-way", "set-chat-way",
		"Say for whom the chat of a lecture is",
		func(ctx context.Context, _ roster.Person, in *wayInput) (*edge.Empty, error) {
			return nil, a.Chat.SetWay(ctx, in.Lecture, in.Body.Way)
		}, edge.Changes("chat"))
	type markInput struct {
		OfLine
		Body struct {
			State  core.State `json:"state" enum:",open,taken,answered,put_off"`
			Answer string     `json:"answer,omitempty" maxLength:"40000" doc:"in writing, which answers it"`
			Shown  bool       `json:"shown,omitempty" doc:"to all who may watch, of what was asked of a recording"`
		}
	}
	edge.On(a.Edge, edge.Staff, http.MethodPut, "/api/lectures/{lecture}/chat/{line}/state", "mark-line",
		"Say how far a question is",
		func(ctx context.Context, p roster.Person, in *markInput) (*edge.Empty, error) {
			return nil, a.Chat.Mark(ctx, in.Lecture, in.Line, p.ID,
				chat.Word{State: in.Body.State, Answer: in.Body.Answer, Shown: in.Body.Shown})
		})
	type downInput struct {
		OfLine
		Body struct {
			Down bool   `json:"down"`
			Why  string `json:"why,omitempty" maxLength:"4000"`
		}
	}
	edge.On(a.Edge, edge.Staff, http.MethodPut, "/api/lectures/{lecture}/chat/{line}/down", "take-line-down",
		"Take down what somebody said, or let it stand again",
		func(ctx context.Context, p roster.Person, in *downInput) (*edge.Empty, error) {
			return nil, a.Chat.TakeDown(ctx, in.Lecture, in.Line, p.ID, in.Body.Why, !in.Body.Down)
		}, edge.Changes("chat"))
	type lostAnswer struct {
		Minutes []LostMinute `json:"minutes" nullable:"false" doc:"in which anyone was, in order"`
	}
	edge.On(a.Edge, edge.Staff, http.MethodGet, "/api/lectures/{lecture}/lost", "lost", "How many were lost when",
		func(ctx context.Context, _ roster.Person, in *edge.OfLecture) (*edge.Body[lostAnswer], error) {
			list, err := a.Chat.LostIn(ctx, in.Lecture)
			out := lostAnswer{Minutes: []LostMinute{}}
			for _, x := range list {
				out.Minutes = append(out.Minutes, LostMinute(x))
			}
			return edge.Answer(out), err
		})
	a.Plain(edge.Staff, http.MethodGet, "/api/lectures/:lecture/chat/file", a.chatOut)
}

// goes reports whether something can be said in a lecture now by those who follow it.
func (a *API) goes(opens, ends time.Time, running bool) bool {
	return core.Hours{Opens: opens, Ends: ends, Running: running}.Goes(a.Clock.Now())
}

func (a *API) chat(ctx context.Context, p roster.Person, lecture uuid.UUID, after int64) (*edge.Body[Chat], error) {
	at, err := a.Seen.Enters(ctx, p, lecture)
	if err != nil {
		return nil, err
	}
	r := chat.Reader{Person: p.ID, Teaches: at.Reason == doorway.AsStaff, Of: true}
	x, err := a.Chat.Since(ctx, lecture, r, after)
	if err != nil {
		return nil, err
	}
	out := Chat{Way: x.Way, Goes: x.Way != core.Off && (r.Teaches || a.goes(at.Opens, at.Ends, at.Running)),
		Teaches: r.Teaches, Changes: x.Changes, Lines: []page.ChatLine{}}
	for _, l := range x.Lines {
		out.Lines = append(out.Lines, page.ChatLineOf(l, r, l.AtMs))
	}
	return edge.Answer(out), nil
}

func (a *API) say(ctx context.Context, p roster.Person, in *sayInput) (*edge.Empty, error) {
	at, err := a.Seen.Enters(ctx, p, in.Lecture)
	if err != nil {
		return nil, err
	}
	x := chat.Saying{ID: in.Body.ID, Lecture: in.Lecture, Person: p.ID, Teaches: at.Reason == doorway.AsStaff,
		Text: in.Body.Text, Question: in.Body.Question, Ago: time.Duration(in.Body.AgoMs) * time.Millisecond}
	if !x.Teaches && !a.goes(at.Opens, at.Ends, at.Running) {
		return nil, chat.ErrClosed
	}
	if in.Body.Recording != nil {
		x.Heard = &chat.Heard{Recording: *in.Body.Recording, At: time.Duration(in.Body.At) * time.Millisecond}
	}
	return nil, a.Chat.Say(ctx, x)
}

// chatOut is the chat of a lecture as a file, by the clock on the wall.
func (a *API) chatOut(c *gin.Context) {
	ctx := c.Request.Context()
	form := chatfile.Form(c.DefaultQuery("form", string(chatfile.Text)))
	lecture, err := uuid.Parse(c.Param("lecture"))
	if err != nil || form != chatfile.Text && form != chatfile.Sheet {
		a.Refuse(c, edge.ErrNowhere)
		return
	}
	b, name, err := a.chatFile(ctx, lecture, form)
	if err != nil {
		a.Refuse(c, err)
		return
	}
	edge.AsFile(c, name)
	c.Data(http.StatusOK, form.Kind(), b)
}

func (a *API) chatFile(ctx context.Context, lecture uuid.UUID, form chatfile.Form) (b []byte, name string, err error) {
	rows, err := a.Schedule.Lecture(ctx, lecture)
	if err != nil {
		return nil, "", err
	}
	term, err := a.Schedule.TermOf(ctx, rows[0].CourseID)
	if err != nil {
		return nil, "", err
	}
	x, err := a.Chat.Since(ctx, lecture, chat.Reader{Teaches: true}, 0)
	if err != nil {
		return nil, "", err
	}
	var w bytes.Buffer
	lines := page.ChatFileLines(x.Lines, term.Zone, func(chat.Line) *time.Duration { return nil })
	err = chatfile.Write(&w, form, lines)
	return w.Bytes(), edge.FileName(rows[0].SuggestedTitle(term), "chat", string(form)), err
}

var chatProblems = edge.Problems{
	chat.ErrUnknown: http.StatusNotFound,
	chat.ErrTaken:   http.StatusConflict,
	chat.ErrOff:     http.StatusConflict,
	chat.ErrClosed:  http.StatusConflict,
}
