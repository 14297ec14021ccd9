package sharing

import (
	"context"
	"net/http"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/audience"
	"latelantern/internal/core/viewing"
	"latelantern/internal/roster"
)

// WindowText is from when to when something may be watched.
type WindowText struct {
	From             string     `json:"from" enum:"once,lecture,days,date"`
	FromAt           *time.Time `json:"from_at,omitempty"`
	DaysAfterLecture int        `json:"days_after_lecture,omitempty" minimum:"0" maximum:"3650"`
	Until            string     `json:"until" enum:"term,date,ever"`
	UntilAt          *time.Time `json:"until_at,omitempty"`
	DaysAfterTerm    int        `json:"days_after_term" minimum:"0" maximum:"3650"`
}

func (t WindowText) window() viewing.Window {
	at := func(t *time.Time) time.Time {
		if t == nil {
			return time.Time{}
		}
		return t.UTC()
	}
	return viewing.Window{From: viewing.From(t.From), FromAt: at(t.FromAt), DaysAfterLecture: t.DaysAfterLecture,
		Until: viewing.Until(t.Until), UntilAt: at(t.UntilAt), DaysAfterTerm: t.DaysAfterTerm}
}

func windowText(w viewing.Window) WindowText {
	at := func(t time.Time) *time.Time {
		if t.IsZero() {
			return nil
		}
		return &t
	}
	return WindowText{string(w.From), at(w.FromAt), w.DaysAfterLecture, string(w.Until), at(w.UntilAt), w.DaysAfterTerm}
}

// usesOf are uses as they are written; what is none is watched by nobody.
func usesOf(names []string) viewing.Uses {
	uses, _ := viewing.UsesOf(names...)
	return uses
}

// RuleText is a viewing rule, part by part of its sentence.
type RuleText struct {
	Audience string   `json:"audience" enum:"everyone,groups"`
	Groups   []string `json:"groups" nullable:"false"`
	Uses     []string `json:"uses" nullable:"false" enum:"watch,read,take_video,take_small,take_sound,take_text"`
	WindowText
}

func (t RuleText) rule() viewing.Rule {
	return viewing.Rule{Audience: viewing.Audience(t.Audience), Groups: t.Groups, Uses: usesOf(t.Uses),
		Window: t.window()}
}

func ruleText(r viewing.Rule) RuleText {
	return RuleText{string(r.Audience), append([]string{}, r.Groups...), r.Uses.Names(), windowText(r.Window)}
}

// RulePage is the viewing rule of a course, or of one recording in it.
type RulePage struct {
	Course   page.CourseName `json:"course" doc:"without a name for the rule of the college"`
	Title    string          `json:"title,omitempty" doc:"of the recording that it is about alone"`
	OfCourse *RuleText       `json:"of_course,omitempty" doc:"of a recording: what holds without a rule of its own"`
	Whence   string          `json:"whence" enum:",course,college" doc:"whose rule that is, or of a course without a rule the one that holds; empty for none"`
	Students int             `json:"students"`
	Groups   []string        `json:"groups" nullable:"false" doc:"that the course has"`
	Set      bool            `json:"set" doc:"false when there is no rule of exactly this yet; the rule is then a proposal, of a recording that of the course"`
	Version  string          `json:"version" doc:"of the rule of exactly this; empty for none"`
	By       string          `json:"by,omitempty" doc:"name of who made it"`
	MadeAt   *time.Time      `json:"made_at,omitempty"`
	Rule     RuleText        `json:"rule"`
	Zone     string          `json:"zone"`
}

// RuleChange is what a rule would change.
type RuleChange struct {
	Gain       []string `json:"gain" nullable:"false" doc:"names of those who could watch more"`
	Lose       []string `json:"lose" nullable:"false"`
	More       []Shift  `json:"more" nullable:"false" doc:"of those who can watch before and after, who could do what else"`
	Less       []Shift  `json:"less" nullable:"false" doc:"and who could no longer do it"`
	Can        int      `json:"can" doc:"students who could watch some lit recording"`
	Of         int      `json:"of"`
	Covered    int      `json:"covered" doc:"students that the rule speaks of"`
	Recordings int      `json:"recordings" doc:"that are lit"`
}

// Shift is a use that people gain or lose.
type Shift struct {
	Use   string   `json:"use" enum:"watch,read,take_video,take_small,take_sound,take_text"`
	Names []string `json:"names" nullable:"false"`
}

func shiftsOf(list []audience.Shift) []Shift {
	out := []Shift{}
	for _, x := range list {
		out = append(out, Shift{x.Use, namesOf(x.People)})
	}
	return out
}

// RuleOf is what a rule is about: all recordings of a course, or one as the course has it.
type RuleOf struct {
	edge.OfCourse
	Recording uuid.UUID `query:"recording" format:"uuid" doc:"of this recording alone"`
}

func (in RuleOf) scope() audience.Scope {
	return audience.Scope{Course: in.Course, Recording: in.Recording}
}

type ruleInput struct {
	RuleOf
	Seen string `query:"seen" maxLength:"40" doc:"the version of the rule that was seen"`
	Body RuleText
}

type clearInput struct {
	RuleOf
	Seen string `query:"seen" maxLength:"40" doc:"the version of the rule that was seen"`
}

// proposedRule is what most courses want.
var proposedRule = viewing.Rule{Audience: viewing.Everyone, Uses: viewing.WatchRead,
	Window: viewing.Window{From: viewing.FromLecture, Until: viewing.UntilTerm, DaysAfterTerm: 30}}

// rulePage is the rule of a scope as it is now.
func (a *API) rulePage(ctx context.Context, of audience.Scope) (*edge.Body[RulePage], error) {
	r, err := a.Audience.Rule(ctx, of)
	if err != nil {
		return nil, err
	}
	held, err := a.Audience.Held(ctx, of)
	if err != nil {
		return nil, err
	}
	out := RulePage{Version: held.Version, By: held.By, MadeAt: held.At, Groups: []string{}, Set: r != nil,
		Rule: ruleText(proposedRule)}
	if err := a.ruleAbout(ctx, of, &out); err != nil {
		return nil, err
	}
	if err := a.inherited(ctx, of, &out); err != nil {
		return nil, err
	}
	if r != nil {
		out.Rule = ruleText(*r)
	}
	return edge.Answer(out), nil
}

// ruleAbout adds what a rule is about.
func (a *API) ruleAbout(ctx context.Context, of audience.Scope, out *RulePage) error {
	if of.Course == uuid.Nil {
		term, err := a.Schedule.CurrentTerm(ctx)
		out.Zone = term.Zone.String()
		return err
	}
	c, err := a.Schedule.Course(ctx, of.Course)
	if err != nil {
		return err
	}
	term, err := a.Schedule.TermOf(ctx, of.Course)
	if err != nil {
		return err
	}
	groups, err := a.Roster.Groups(ctx, of.Course)
	if err != nil {
		return err
	}
	out.Course, out.Students = page.CourseName{ID: c.ID, Code: c.Code, Title: c.Title}, c.Students
	out.Groups, out.Zone = append(out.Groups, groups...), term.Zone.String()
	if of.Recording != uuid.Nil {
		out.Title, err = a.Audience.Title(ctx, of)
	}
	return err
}

// inherited adds what holds without a rule of exactly this: of a recording that of the course, else that of the
// college.
func (a *API) inherited(ctx context.Context, of audience.Scope, out *RulePage) error {
	if of.Course == uuid.Nil {
		return nil
	}
	from := []audience.Scope{{}}
	if of.Recording != uuid.Nil {
		from = []audience.Scope{{Course: of.Course}, {}}
	}
	for _, x := range from {
		r, err := a.Audience.Rule(ctx, x)
		if err != nil {
			return err
		}
		if r == nil {
			continue
		}
		text := ruleText(*r)
		out.OfCourse, out.Rule, out.Whence = &text, text, "college"
		if x.Course != uuid.Nil {
			out.Whence = "course"
		}
		return nil
	}
	return nil
}

func (a *API) ruleRoutes() {
	const path = "/api/courses/{course}/rule"
	edge.On(a.Edge, edge.Staff, http.MethodGet, path, "rule", "The viewing rule of a course, or of one recording in it",
		func(ctx context.Context, _ roster.Person, in *RuleOf) (*edge.Body[RulePage], error) {
			return a.rulePage(ctx, in.scope())
		})
	edge.On(a.Edge, edge.Staff, http.MethodPut, path, "set-rule", "Make this the viewing rule",
		func(ctx context.Context, p roster.Person, in *ruleInput) (*edge.Body[RulePage], error) {
			r := in.Body.rule()
			return a.replaceRule(ctx, in.scope(), p, &r, in.Seen)
		}, edge.Changes("rule"))
	edge.On(a.Edge, edge.Staff, http.MethodDelete, path, "clear-rule",
		"Take the viewing rule away; of a recording that of the course then holds, of a course that of the college",
		func(ctx context.Context, p roster.Person, in *clearInput) (*edge.Body[RulePage], error) {
			return a.replaceRule(ctx, in.scope(), p, nil, in.Seen)
		}, edge.Changes("rule"))
	edge.On(a.Edge, edge.Staff, http.MethodPost, path+"/preview", "preview-rule", "What a viewing rule would change",
		func(ctx context.Context, _ roster.Person, in *ruleInput) (*edge.Body[RuleChange], error) {
			return a.previewRule(ctx, in.scope(), in.Body)
		})
	a.collegeRuleRoutes()
}

// collegeRuleRoutes are those of the rule that holds in courses without one.
func (a *API) collegeRuleRoutes() {
	const path = "/api/rule"
	type seenInput struct {
		Seen string `query:"seen" maxLength:"40" doc:"the version of the rule that was seen"`
	}
	type input struct {
		Seen string `query:"seen" maxLength:"40" doc:"the version of the rule that was seen"`
		Body RuleText
	}
	edge.On(a.Edge, edge.Coordinators, http.MethodGet, path, "college-rule", "The viewing rule of courses without one",
		func(ctx context.Context, _ roster.Person, _ *edge.Empty) (*edge.Body[RulePage], error) {
			return a.rulePage(ctx, audience.Scope{})
		})
	edge.On(a.Edge, edge.Coordinators, http.MethodPut, path, "set-college-rule",
		"Make this the viewing rule of courses without one",
		func(ctx context.Context, p roster.Person, in *input) (*edge.Body[RulePage], error) {
			r := in.Body.rule()
			return a.replaceRule(ctx, audience.Scope{}, p, &r, in.Seen)
		}, edge.Changes("rule"))
	edge.On(a.Edge, edge.Coordinators, http.MethodDelete, path, "clear-college-rule",
		"Take the viewing rule of courses without one away",
		func(ctx context.Context, p roster.Person, in *seenInput) (*edge.Body[RulePage], error) {
			return a.replaceRule(ctx, audience.Scope{}, p, nil, in.Seen)
		}, edge.Changes("rule"))
	edge.On(a.Edge, edge.Coordinators, http.MethodPost, path+"/preview", "preview-college-rule",
		"What a viewing rule of courses without one would change",
		func(ctx context.Context, _ roster.Person, in *input) (*edge.Body[RuleChange], error) {
			return a.previewRule(ctx, audience.Scope{}, in.Body)
		})
}

// replaceRule makes r the rule of a scope, or takes it away, for someone who saw the rule of a version.
func (a *API) replaceRule(ctx context.Context, of audience.Scope, p roster.Person, r *viewing.Rule,
	seen string) (*edge.Body[RulePage], error) {
	if err := a.Audience.ReplaceRule(ctx, of, p.ID, r, seen); err != nil {
		return nil, err
	}
	return a.rulePage(ctx, of)
}

func (a *API) previewRule(ctx context.Context, of audience.Scope, text RuleText) (*edge.Body[RuleChange], error) {
	x, err := a.Audience.Preview(ctx, of, text.rule())
	if err != nil {
		return nil, err
	}
	return edge.Answer(RuleChange{Gain: namesOf(x.Gain), Lose: namesOf(x.Lose), More: shiftsOf(x.More),
		Less: shiftsOf(x.Less), Can: x.Can, Of: x.Of, Covered: x.Covered, Recordings: x.Recordings}), nil
}

func namesOf(people []audience.Name) []string {
	out := []string{}
	for _, n := range people {
		out = append(out, n.Name)
	}
	return out
}

var ruleProblems = edge.Problems{
	audience.ErrUnknown: http.StatusNotFound,
	audience.ErrInvalid: http.StatusUnprocessableEntity,
	audience.ErrChanged: http.StatusConflict,
	audience.ErrGone:    http.StatusConflict,
	audience.ErrLink:    http.StatusNotFound,
	audience.ErrFull:    http.StatusForbidden,
	audience.ErrWait:    http.StatusTooManyRequests,
}
