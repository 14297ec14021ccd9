package live

import (
	"context"
	"net/http"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/chat"
	core "latelantern/internal/core/presence"
	"latelantern/internal/format/registerfile"
	"latelantern/internal/presence"
	"latelantern/internal/remind"
	"latelantern/internal/roster"
)

// Register is who was there in a lecture.
type Register struct {
	From   time.Time      `json:"from" doc:"when it was held in fact"`
	Until  time.Time      `json:"until" doc:"up to now, while it is on"`
	Lines  []RegisterLine `json:"lines" nullable:"false" doc:"of the students of its course, by name"`
	Guests []FollowerLine `json:"guests" nullable:"false"`
	Rules  RegisterRules  `json:"rules"`
}

// RegisterRules are what a course calls late, early and there.
type RegisterRules struct {
	LateMin  int `json:"late_min" doc:"who comes so many minutes after the beginning, or later, is late"`
	EarlyMin int `json:"early_min" doc:"who leaves so many minutes before the end, or earlier, left early"`
	Least    int `json:"least" doc:"per cent of the lecture below which one counts as absent; 0 for none"`
}

// StandsText is how somebody stands in a register.
type StandsText struct {
	State    core.State `json:"state" enum:",present,late,left_early,late_left_early,absent,excused"`
	LateMin  int        `json:"late_min"`
	EarlyMin int        `json:"early_min"`
	There    bool       `json:"there" doc:"they were there, also late, or until they left early"`
	Late     bool       `json:"late" doc:"they came late"`
	Early    bool       `json:"early" doc:"they left early"`
	ThereMin int        `json:"there_min" doc:"how long they were there, as far as it is known"`
}

// RegisterLine is how one student stands in the register of a lecture.
type RegisterLine struct {
	StandsText
	Person   uuid.UUID  `json:"person" format:"uuid"`
	Name     string     `json:"name"`
	Group    string     `json:"group"`
	Reckoned StandsText `json:"reckoned" doc:"from what is known, whatever was said by hand"`
	Mark     *MarkText  `json:"mark,omitempty" doc:"what somebody who teaches says instead"`
	Word     *WordText  `json:"word,omitempty" doc:"what the student says of it"`
	Stays    []StayLine `json:"stays" nullable:"false" doc:"in order"`
}

// MarkText is what somebody who teaches says of a line.
type MarkText struct {
	Reason string    `json:"reason"`
	By     string    `json:"by"`
	At     time.Time `json:"at"`
	ByFile bool      `json:"by_file" doc:"it came by a file that they brought"`
}

// WordText is what a student says of their line.
type WordText struct {
	Text    string    `json:"text"`
	At      time.Time `json:"at"`
	Settled bool      `json:"settled" doc:"whoever teaches has looked at it"`
}

// OwnLine is how one stands in the register of a lecture.
type OwnLine struct {
	StandsText
	Lecture  uuid.UUID `json:"lecture" format:"uuid"`
	Topic    string    `json:"topic"`
	StartsAt time.Time `json:"starts_at"`
	ByHand   bool      `json:"by_hand" doc:"somebody who teaches said so"`
	Reason   string    `json:"reason"`
	Word     *WordText `json:"word,omitempty"`
}

// OwnRegister is how one stands in the registers of a course.
type OwnRegister struct {
	Zone  string        `json:"zone"`
	Lines []OwnLine     `json:"lines" nullable:"false" doc:"of the lectures that have begun, in order"`
	Rules RegisterRules `json:"rules"`
}

// HallCode is the code that is shown in a hall.
type HallCode struct {
	Code   string `json:"code"`
	LeftMs int64  `json:"left_ms" doc:"how long it is shown; after it the next"`
}

// OfSeat is the input of operations about the line of a student.
type OfSeat struct {
	edge.OfLecture
	Person uuid.UUID `path:"person" format:"uuid"`
}

func (a *API) registerRoutes() {
	edge.On(a.Edge, edge.Staff, http.MethodGet, "/api/lectures/{lecture}/register", "register",
		"Who was there in a lecture, from when to when",
		func(ctx context.Context, _ roster.Person, in *edge.OfLecture) (*edge.Body[Register], error) {
			return a.register(ctx, in.Lecture)
		})
	type seatMarkInput struct {
		OfSeat
		Body struct {
			State    core.State `json:"state" enum:"present,late,left_early,late_left_early,absent,excused"`
			LateMin  int        `json:"late_min,omitempty" minimum:"0" maximum:"720"`
			EarlyMin int        `json:"early_min,omitempty" minimum:"0" maximum:"720"`
			Reason   string     `json:"reason,omitempty" maxLength:"4000"`
		}
	}
	edge.On(a.Edge, edge.Staff, http.MethodPut, "/api/lectures/{lecture}/register/{person}", "mark-register",
		"Say how a student stands in the register",
		func(ctx context.Context, p roster.Person, in *seatMarkInput) (*edge.Body[Register], error) {
			b := in.Body
			err := a.Presence.SetMark(ctx, in.Lecture, in.Person, p.ID, &presence.MarkForm{State: b.State,
				Late: time.Duration(b.LateMin) * time.Minute, Early: time.Duration(b.EarlyMin) * time.Minute,
				Reason: b.Reason})
			if err != nil {
				return nil, err
			}
			return a.register(ctx, in.Lecture)
		}, edge.Changes("register"))
	edge.On(a.Edge, edge.Staff, http.MethodDelete, "/api/lectures/{lecture}/register/{person}", "unmark-register",
		"Let a student stand in the register as it was reckoned",
		func(ctx context.Context, p roster.Person, in *OfSeat) (*edge.Body[Register], error) {
			if err := a.Presence.SetMark(ctx, in.Lecture, in.Person, p.ID, nil); err != nil {
				return nil, err
			}
			return a.register(ctx, in.Lecture)
		}, edge.Changes("register"))
	type settleInput struct {
		OfSeat
		Body struct {
			Settled bool `json:"settled"`
		}
	}
	edge.On(a.Edge, edge.Staff, http.MethodPut, "/api/lectures/{lecture}/register/{person}/word", "settle-word",
		"Say that one has looked at what a student says of the register",
		func(ctx context.Context, _ roster.Person, in *settleInput) (*edge.Empty, error) {
			return nil, a.Presence.Settle(ctx, in.Lecture, in.Person, in.Body.Settled)
		})
	a.bringRoutes()
	a.registerOfCourseRoutes()
	a.ownRegisterRoutes()
	edge.On(a.Edge, edge.Staff, http.MethodGet, "/api/courses/{course}/registers", "registers",
		"How many were there in the lectures of a course", a.registers)
	a.Plain(edge.Staff, http.MethodGet, "/api/lectures/:lecture/register/file", a.registerOut)
	a.Plain(edge.Staff, http.MethodGet, "/api/courses/:course/register/file", a.termRegisterOut)
}

// registerOfCourseRoutes adds what a course calls late, the code of the hall, and who is told to come.
func (a *API) registerOfCourseRoutes() {
	edge.On(a.Edge, edge.Staff, http.MethodGet, "/api/courses/{course}/register-rules", "register-rules",
		"What a course calls late, early and there",
		func(ctx context.Context, _ roster.Person, in *edge.OfCourse) (*edge.Body[RegisterRules], error) {
			r, err := a.Presence.Rules(ctx, in.Course)
			return edge.Answer(rulesText(r)), err
		})
	type rulesInput struct {
		edge.OfCourse
		Body RegisterRules
	}
	edge.On(a.Edge, edge.Staff, http.MethodPut, "/api/courses/{course}/register-rules", "set-register-rules",
		"Say what a course calls late, early and there",
		func(ctx context.Context, _ roster.Person, in *rulesInput) (*edge.Empty, error) {
			return nil, a.Presence.SetRules(ctx, in.Course, core.Rules{
				Late:  time.Duration(in.Body.LateMin) * time.Minute,
				Early: time.Duration(in.Body.EarlyMin) * time.Minute, Least: in.Body.Least})
		}, edge.Changes("register"))
	edge.On(a.Edge, edge.Staff, http.MethodGet, "/api/lectures/{lecture}/code", "hall-code",
		"The code that is shown in the hall",
		func(_ context.Context, _ roster.Person, in *edge.OfLecture) (*edge.Body[HallCode], error) {
			code, until := a.Presence.Code(in.Lecture)
			return edge.Answer(HallCode{code, max(1, until.Sub(a.Clock.Now()).Milliseconds())}), nil
		})
	type toldAnswer struct {
		Told int `json:"told" doc:"to how many was written now; to nobody twice"`
	}
	edge.On(a.Edge, edge.Staff, http.MethodPost, "/api/lectures/{lecture}/remind-absent", "remind-absent",
		"Write to those who are not there that the lecture is on",
		func(ctx context.Context, _ roster.Person, in *edge.OfLecture) (*edge.Body[toldAnswer], error) {
			roll, err := a.roll(ctx, in.Lecture)
			if err != nil {
				return nil, err
			}
			n, err := a.Remind.Absent(ctx, in.Lecture, roll.Missing())
			return edge.Answer(toldAnswer{n}), err
		})
}

// ownRegisterRoutes adds what students do about their own lines.
func (a *API) ownRegisterRoutes() {
	edge.On(a.Edge, edge.Members, http.MethodGet, "/api/courses/{course}/own-register", "own-register",
		"How one stands in the registers of a course", a.ownRegister)
	type objectInput struct {
		edge.OfLecture
		Body struct {
			Text string `json:"text" maxLength:"4000" doc:"empty takes it back"`
		}
	}
	edge.On(a.Edge, edge.Members, http.MethodPut, "/api/lectures/{lecture}/own-register", "object-register",
		"Say something of one's own line in the register",
		func(ctx context.Context, p roster.Person, in *objectInput) (*edge.Empty, error) {
			return nil, a.Presence.Object(ctx, in.Lecture, p.ID, in.Body.Text)
		})
	type hereInput struct {
		edge.OfLecture
		Body struct {
			Code string `json:"code" maxLength:"40"`
		}
	}
	edge.On(a.Edge, edge.Inside, http.MethodPost, "/api/lectures/{lecture}/here", "here",
		"Say with the code that is shown that one is in the hall",
		func(ctx context.Context, p roster.Person, in *hereInput) (*edge.Empty, error) {
			at, err := a.Seen.Enters(ctx, p, in.Lecture)
			if err == nil && !a.goes(at.Opens, at.Ends, at.Running) {
				err = chat.ErrClosed
			}
			if err != nil {
				return nil, err
			}
			return nil, a.Presence.SignIn(ctx, in.Lecture, p.ID, in.Body.Code)
		})
}

func rulesText(r core.Rules) RegisterRules {
	return RegisterRules{int(r.Late / time.Minute), int(r.Early / time.Minute), r.Least}
}

func standsText(l core.Line) StandsText {
	minutes := func(d time.Duration) int { return int(d / time.Minute) }
	return StandsText{State: l.State, LateMin: minutes(l.Late), EarlyMin: minutes(l.Early), There: l.State.There(),
		Late: l.State.CameLate(), Early: l.State.WentEarly(), ThereMin: minutes(l.There)}
}

func wordText(w *presence.Word) *WordText {
	if w == nil {
		return nil
	}
	return &WordText{w.Text, w.At, w.Settled}
}

// roll is the register of a lecture, by its id.
func (a *API) roll(ctx context.Context, lecture uuid.UUID) (presence.Roll, error) {
	course, err := edge.OfLecture{Lecture: lecture}.Belongs(ctx, a.Edge)
	if err != nil {
		return presence.Roll{}, err
	}
	return a.Presence.Roll(ctx, course, lecture)
}

func (a *API) register(ctx context.Context, lecture uuid.UUID) (*edge.Body[Register], error) {
	course, err := edge.OfLecture{Lecture: lecture}.Belongs(ctx, a.Edge)
	if err != nil {
		return nil, err
	}
	rules, err := a.Presence.Rules(ctx, course)
	if err != nil {
		return nil, err
	}
	roll, err := a.Presence.Roll(ctx, course, lecture)
	if err != nil {
		return nil, err
	}
	followers, err := a.Presence.Register(ctx, lecture)
	if err != nil {
		return nil, err
	}
	out := Register{From: roll.Held.From, Until: roll.Held.Until, Lines: []RegisterLine{}, Guests: []FollowerLine{},
		Rules: rulesText(rules)}
	for _, e := range roll.Entries {
		x := RegisterLine{StandsText: standsText(e.Stands()), Person: e.Person, Name: e.Name, Group: e.Group,
			Reckoned: standsText(e.Reckoned), Word: wordText(e.Word), Stays: []StayLine{}}
		if m := e.Mark; m != nil {
			x.Mark = &MarkText{m.Reason, m.By, m.At, m.ByFile}
		}
		for _, s := range e.Stays {
			x.Stays = append(x.Stays, StayLine{s.FromAt, s.UntilAt, s.By})
		}
		out.Lines = append(out.Lines, x)
	}
	for _, f := range followers {
		if !f.Guest {
			continue
		}
		x := FollowerLine{Name: f.Name, Stays: []StayLine{}}
		for _, s := range f.Stays {
			x.Stays = append(x.Stays, StayLine{s.FromAt, s.UntilAt, s.By})
		}
		out.Guests = append(out.Guests, x)
	}
	return edge.Answer(out), nil
}

func (a *API) ownRegister(ctx context.Context, p roster.Person, in *edge.OfCourse) (*edge.Body[OwnRegister], error) {
	term, err := a.Schedule.TermOf(ctx, in.Course)
	if err != nil {
		return nil, err
	}
	rules, err := a.Presence.Rules(ctx, in.Course)
	if err != nil {
		return nil, err
	}
	rolls, err := a.Presence.RollsOf(ctx, in.Course, p.ID)
	if err != nil {
		return nil, err
	}
	out := OwnRegister{Zone: term.Zone.String(), Lines: []OwnLine{}, Rules: rulesText(rules)}
	for _, r := range rolls {
		for _, e := range r.Entries {
			x := OwnLine{StandsText: standsText(e.Stands()), Lecture: r.Lecture, Topic: r.Topic, StartsAt: r.StartsAt,
				ByHand: e.Mark != nil, Word: wordText(e.Word)}
			if e.Mark != nil {
				x.Reason = e.Mark.Reason
			}
			out.Lines = append(out.Lines, x)
		}
	}
	return edge.Answer(out), nil
}

var registerProblems = edge.Problems{
	presence.ErrUnknown: http.StatusNotFound,
	presence.ErrCode:    http.StatusUnprocessableEntity,
	presence.ErrTries:   http.StatusTooManyRequests,
	remind.ErrNotOn:     http.StatusConflict,

	registerfile.ErrEmpty: http.StatusUnprocessableEntity,
	registerfile.ErrLarge: http.StatusRequestEntityTooLarge,
	registerfile.ErrRead:  http.StatusUnprocessableEntity,
	registerfile.ErrWho:   http.StatusUnprocessableEntity,
}
