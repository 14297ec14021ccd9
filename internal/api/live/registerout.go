package live

import (
	"bytes"
	"context"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	core "latelantern/internal/core/presence"
	"latelantern/internal/format/registerfile"
	"latelantern/internal/presence"
	"latelantern/internal/roster"
)

// RegisterSum is how many were there in a lecture.
type RegisterSum struct {
	Lecture  uuid.UUID `json:"lecture" format:"uuid"`
	Topic    string    `json:"topic"`
	StartsAt time.Time `json:"starts_at"`
	There    int       `json:"there" doc:"also late, or left early"`
	Late     int       `json:"late"`
	Early    int       `json:"left_early"`
	Absent   int       `json:"absent"`
	Excused  int       `json:"excused"`
	Words    int       `json:"words" doc:"of students who say something of their line at which nobody has looked"`
}

// Registers are those of the lectures of a course.
type Registers struct {
	Zone  string        `json:"zone"`
	Sums  []RegisterSum `json:"sums" nullable:"false" doc:"of the lectures that have begun, in order"`
	Rules RegisterRules `json:"rules"`
}

func (a *API) registers(ctx context.Context, _ roster.Person, in *edge.OfCourse) (*edge.Body[Registers], error) {
	term, err := a.Schedule.TermOf(ctx, in.Course)
	if err != nil {
		return nil, err
	}
	rules, err := a.Presence.Rules(ctx, in.Course)
	if err != nil {
		return nil, err
	}
	rolls, err := a.Presence.Rolls(ctx, in.Course)
	if err != nil {
		return nil, err
	}
	out := Registers{Zone: term.Zone.String(), Sums: []RegisterSum{}, Rules: rulesText(rules)}
	for _, r := range rolls {
		x := RegisterSum{Lecture: r.Lecture, Topic: r.Topic, StartsAt: r.StartsAt}
		for _, e := range r.Entries {
			s := e.Stands().State
			count := func(n *int, yes bool) {
				if yes {
					*n++
				}
			}
			count(&x.There, s.There())
			count(&x.Late, s.CameLate())
			count(&x.Early, s.WentEarly())
			count(&x.Absent, s == core.Absent)
			count(&x.Excused, s == core.Excused)
			count(&x.Words, e.Word != nil && !e.Word.Settled)
		}
		out.Sums = append(out.Sums, x)
	}
	return edge.Answer(out), nil
}

// registerOut is the register of a lecture as a sheet.
func (a *API) registerOut(c *gin.Context) {
	ctx := c.Request.Context()
	lecture, err := uuid.Parse(c.Param("lecture"))
	if err != nil {
		a.Refuse(c, edge.ErrNowhere)
		return
	}
	roll, err := a.roll(ctx, lecture)
	if err != nil {
		a.Refuse(c, err)
		return
	}
	course, err := edge.OfLecture{Lecture: lecture}.Belongs(ctx, a.Edge)
	if err != nil {
		a.Refuse(c, err)
		return
	}
	a.sheet(c, course, "", []presence.Roll{roll})
}

// termRegisterOut is that of all lectures of a course.
func (a *API) termRegisterOut(c *gin.Context) {
	course, err := uuid.Parse(c.Param("course"))
	if err != nil {
		a.Refuse(c, edge.ErrNowhere)
		return
	}
	rolls, err := a.Presence.Rolls(c.Request.Context(), course)
	if err != nil {
		a.Refuse(c, err)
		return
	}
	a.sheet(c, course, "term", rolls)
}

// sheet writes registers of a course; of says of what they are, "" the day of the one.
func (a *API) sheet(c *gin.Context, course uuid.UUID, of string, rolls []presence.Roll) {
	ctx := c.Request.Context()
	term, err := a.Schedule.TermOf(ctx, course)
	if err != nil {
		a.Refuse(c, err)
		return
	}
	named, err := a.Schedule.Course(ctx, course)
	if err != nil {
		a.Refuse(c, err)
		return
	}
	if of == "" {
		of = rolls[0].StartsAt.In(term.Zone).Format(time.DateOnly)
	}
	var lines []registerfile.Line
	for _, r := range rolls {
		for _, e := range r.Entries {
			x := registerfile.Line{Starts: r.StartsAt.In(term.Zone), Topic: r.Topic, Name: e.Name, Email: e.Email,
				Group: e.Group, Stands: e.Stands()}
			if e.Mark != nil {
				x.By, x.Reason = e.Mark.By, e.Mark.Reason
			}
			lines = append(lines, x)
		}
	}
	var w bytes.Buffer
	if err := registerfile.Write(&w, lines); err != nil {
		a.Refuse(c, err)
		return
	}
	edge.AsFile(c, edge.FileName(named.Code, "register", of, "csv"))
	c.Data(http.StatusOK, "text/csv; charset=utf-8", w.Bytes())
}
