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

// RulePage is the viewing rule of a course.
type RulePage struct {
	Course   page.CourseName `json:"course"`
	Students int             `json:"students"`
	Groups   []string        `json:"groups" nullable:"false" doc:"that the course has"`
	Set      bool            `json:"set" doc:"false when the course has no rule yet; the rule is then a proposal"`
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

type ruleInput struct {
	edge.OfCourse
	Body RuleText
}

// proposedRule is what most courses want.
var proposedRule = viewing.Rule{Audience: viewing.Everyone, From: viewing.FromLecture, Until: viewing.UntilTerm,
	DaysAfterTerm: 30}

func (a *API) ruleRoutes() {
	page := func(ctx context.Context, course uuid.UUID) (*edge.Body[RulePage], error) {
		c, err := a.Schedule.Course(ctx, course)
		if err != nil {
			return nil, err
		}
		term, err := a.Schedule.TermOf(ctx, course)
		if err != nil {
			return nil, err
		}
		groups, err := a.Roster.Groups(ctx, course)
		if err != nil {
			return nil, err
		}
		r, err := a.Audience.Rule(ctx, audience.Scope{Course: course})
		if err != nil {
			return nil, err
		}
		out := RulePage{Course: page.CourseName{ID: c.ID, Code: c.Code, Title: c.Title}, Students: c.Students,
			Groups: append([]string{}, groups...), Set: r != nil, Rule: ruleText(proposedRule),
			Zone: term.Zone.String()}
		if r != nil {
			out.Rule = ruleText(*r)
		}
		return edge.Answer(out), nil
	}
	edge.On(a.Edge, edge.Staff, http.MethodGet, "/api/courses/{course}/rule", "rule", "The viewing rule of a course",
		func(ctx context.Context, _ roster.Person, in *edge.OfCourse) (*edge.Body[RulePage], error) {
			return page(ctx, in.Course)
		})
	edge.On(a.Edge, edge.Staff, http.MethodPut, "/api/courses/{course}/rule", "set-rule", "Make this the viewing rule of a course",
		func(ctx context.Context, p roster.Person, in *ruleInput) (*edge.Body[RulePage], error) {
			r := in.Body.rule()
			if err := a.Audience.SetRule(ctx, audience.Scope{Course: in.Course}, p.ID, &r); err != nil {
				return nil, err
			}
			return page(ctx, in.Course)
		}, edge.Changes("rule"))
	edge.On(a.Edge, edge.Staff, http.MethodDelete, "/api/courses/{course}/rule", "clear-rule",
		"Take the viewing rule of a course away",
		func(ctx context.Context, p roster.Person, in *edge.OfCourse) (*edge.Body[RulePage], error) {
			if err := a.Audience.SetRule(ctx, audience.Scope{Course: in.Course}, p.ID, nil); err != nil {
				return nil, err
			}
			return page(ctx, in.Course)
		}, edge.Changes("rule"))
	edge.On(a.Edge, edge.Staff, http.MethodPost, "/api/courses/{course}/rule/preview", "preview-rule",
		"What a viewing rule would change",
		func(ctx context.Context, _ roster.Person, in *ruleInput) (*edge.Body[RuleChange], error) {
			x, err := a.Audience.Preview(ctx, in.Course, in.Body.rule())
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
}
