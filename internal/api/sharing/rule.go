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

// RuleText is a viewing rule, part by part of its sentence.
type RuleText struct {
	Audience      string     `json:"audience" enum:"everyone,groups"`
	Groups        []string   `json:"groups" nullable:"false"`
	Download      bool       `json:"download"`
	From          string     `json:"from" enum:"lecture,date"`
	FromAt        *time.Time `json:"from_at,omitempty"`
	Until         string     `json:"until" enum:"term,date,ever"`
	UntilAt       *time.Time `json:"until_at,omitempty"`
	DaysAfterTerm int        `json:"days_after_term" minimum:"0" maximum:"3650"`
}

func (t RuleText) rule() viewing.Rule {
	at := func(t *time.Time) time.Time {
		if t == nil {
			return time.Time{}
		}
		return t.UTC()
	}
	return viewing.Rule{
		Audience: viewing.Audience(t.Audience), Groups: t.Groups, Download: t.Download, From: viewing.From(t.From),
		FromAt: at(t.FromAt),
		Until:  viewing.Until(t.Until), UntilAt: at(t.UntilAt), DaysAfterTerm: t.DaysAfterTerm,
	}
}

func ruleText(r viewing.Rule) RuleText {
	at := func(t time.Time) *time.Time {
		if t.IsZero() {
			return nil
		}
		return &t
	}
	groups := r.Groups
	if groups == nil {
		groups = []string{}
	}
	return RuleText{string(r.Audience), groups, r.Download, string(r.From), at(r.FromAt), string(r.Until),
		at(r.UntilAt), r.DaysAfterTerm}
}

// RulePage is the viewing rule of a course, or of one recording in it.
type RulePage struct {
	Course   page.CourseName `json:"course"`
	Title    string          `json:"title,omitempty" doc:"of the recording that it is about alone"`
	OfCourse *RuleText       `json:"of_course,omitempty" doc:"of a recording: what holds without a rule of its own"`
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
	TakeMore   []string `json:"take_more" nullable:"false" doc:"names of those who can watch, and could take a copy away as well"`
	TakeLess   []string `json:"take_less" nullable:"false" doc:"names of those who could still watch, and no longer take a copy away"`
	Can        int      `json:"can" doc:"students who could watch some lit recording"`
	Of         int      `json:"of"`
	Covered    int      `json:"covered" doc:"students that the rule speaks of"`
	Recordings int      `json:"recordings" doc:"that are lit"`
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
var proposedRule = viewing.Rule{Audience: viewing.Everyone, From: viewing.FromLecture, Until: viewing.UntilTerm,
	DaysAfterTerm: 30}

// rulePage is the rule of a scope as it is now.
func (a *API) rulePage(ctx context.Context, of audience.Scope) (*edge.Body[RulePage], error) {
	c, err := a.Schedule.Course(ctx, of.Course)
	if err != nil {
		return nil, err
	}
	term, err := a.Schedule.TermOf(ctx, of.Course)
	if err != nil {
		return nil, err
	}
	groups, err := a.Roster.Groups(ctx, of.Course)
	if err != nil {
		return nil, err
	}
	r, err := a.Audience.Rule(ctx, of)
	if err != nil {
		return nil, err
	}
	held, err := a.Audience.Held(ctx, of)
	if err != nil {
		return nil, err
	}
	out := RulePage{Version: held.Version, By: held.By, MadeAt: held.At, Course: page.CourseName{ID: c.ID, Code: c.Code, Title: c.Title}, Students: c.Students,
		Groups: append([]string{}, groups...), Set: r != nil, Rule: ruleText(proposedRule), Zone: term.Zone.String()}
	if of.Recording != uuid.Nil {
		if err := a.ofOne(ctx, of, &out); err != nil {
			return nil, err
		}
	}
	if r != nil {
		out.Rule = ruleText(*r)
	}
	return edge.Answer(out), nil
}

// ofOne adds what is said of the rule of a single recording.
func (a *API) ofOne(ctx context.Context, of audience.Scope, out *RulePage) error {
	title, err := a.Audience.Title(ctx, of)
	if err != nil {
		return err
	}
	out.Title = title
	course, err := a.Audience.Rule(ctx, audience.Scope{Course: of.Course})
	if err != nil || course == nil {
		return err
	}
	text := ruleText(*course)
	out.OfCourse, out.Rule = &text, text
	return nil
}

func (a *API) ruleRoutes() {
	edge.On(a.Edge, edge.Staff, http.MethodGet, "/api/courses/{course}/rule", "rule", "The viewing rule of a course, or of one recording in it",
		func(ctx context.Context, _ roster.Person, in *RuleOf) (*edge.Body[RulePage], error) {
			return a.rulePage(ctx, in.scope())
		})
	edge.On(a.Edge, edge.Staff, http.MethodPut, "/api/courses/{course}/rule", "set-rule", "Make this the viewing rule",
		func(ctx context.Context, p roster.Person, in *ruleInput) (*edge.Body[RulePage], error) {
			r := in.Body.rule()
			if err := a.Audience.ReplaceRule(ctx, in.scope(), p.ID, &r, in.Seen); err != nil {
				return nil, err
			}
			return a.rulePage(ctx, in.scope())
		}, edge.Changes("rule"))
	edge.On(a.Edge, edge.Staff, http.MethodDelete, "/api/courses/{course}/rule", "clear-rule",
		"Take the viewing rule away; of a recording that of the course then holds",
		func(ctx context.Context, p roster.Person, in *clearInput) (*edge.Body[RulePage], error) {
			if err := a.Audience.ReplaceRule(ctx, in.scope(), p.ID, nil, in.Seen); err != nil {
				return nil, err
			}
			return a.rulePage(ctx, in.scope())
		}, edge.Changes("rule"))
	edge.On(a.Edge, edge.Staff, http.MethodPost, "/api/courses/{course}/rule/preview", "preview-rule",
		"What a viewing rule would change",
		func(ctx context.Context, _ roster.Person, in *ruleInput) (*edge.Body[RuleChange], error) {
			x, err := a.Audience.Preview(ctx, in.scope(), in.Body.rule())
			if err != nil {
				return nil, err
			}
			return edge.Answer(RuleChange{
				Gain: namesOf(x.Gain), Lose: namesOf(x.Lose), TakeMore: namesOf(x.TakeMore),
				TakeLess: namesOf(x.TakeLess),
				Can:      x.Can, Of: x.Of, Covered: x.Covered, Recordings: x.Recordings,
			}), nil
		})
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
}
