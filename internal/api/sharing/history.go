package sharing

import (
	"context"
	"net/http"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/audience"
	"latelantern/internal/core/viewing"
	"latelantern/internal/roster"
)

// RightHistory is what was changed of who may watch, the last first.
type RightHistory struct {
	Changes []RightChange `json:"changes" nullable:"false"`
	Before  *time.Time    `json:"before,omitempty" doc:"there is more, from before this; none when there is not"`
	Zone    string        `json:"zone"`
}

// RightChange is one change of who may watch, as it was made.
type RightChange struct {
	At         time.Time   `json:"at"`
	By         string      `json:"by" doc:"name of who made it; empty when nobody knows"`
	What       string      `json:"what" enum:"ruled,unruled,lit,darkened,shut_out,let_in,opened,changed,taken_back,given_again,renewed"`
	Recordings []NamedOne  `json:"recordings" nullable:"false" doc:"that it was about; none for all of the course"`
	Rule       *RuleText   `json:"rule,omitempty" doc:"that was made"`
	Was        *RuleText   `json:"was,omitempty" doc:"in its place before, or taken away"`
	Opening    *OpenedText `json:"opening,omitempty" doc:"as it was afterwards"`
	OpeningWas *OpenedText `json:"opening_was,omitempty" doc:"and before, when it was changed"`
	Person     string      `json:"person,omitempty" doc:"name of who was shut out"`
	Until      *time.Time  `json:"until,omitempty" doc:"they are shut out; none for good"`
}

// NamedOne is a recording by its title.
type NamedOne struct {
	Recording uuid.UUID `json:"recording_id" format:"uuid"`
	Title     string    `json:"title"`
}

// OpenedText is an opening as it once was.
type OpenedText struct {
	Kind   string   `json:"kind" enum:"people,everyone,link"`
	Name   string   `json:"name,omitempty" doc:"of a link"`
	People int      `json:"people" doc:"how many it named"`
	List   *string  `json:"list,omitempty" doc:"title of the playlist that it opens, empty for the main one; none for a recording"`
	Uses   []string `json:"uses" nullable:"false" enum:"watch,read,take_video,take_small,take_sound,take_text"`
	WindowText
}

type historyInput struct {
	RuleOf
	Before time.Time `query:"before" doc:"what was changed before this; of none, the last"`
}

func (a *API) historyRoutes() {
	edge.On(a.Edge, edge.Staff, http.MethodGet, "/api/courses/{course}/rule/history", "rule-history",
		"What was changed of who may watch in a course, or one recording in it",
		func(ctx context.Context, _ roster.Person, in *historyInput) (*edge.Body[RightHistory], error) {
			if in.Before.IsZero() {
				in.Before = a.Clock.Now().AddDate(1, 0, 0)
			}
			term, err := a.Schedule.TermOf(ctx, in.Course)
			if err != nil {
				return nil, err
			}
			list, next, err := a.Audience.History(ctx, in.scope(), in.Before)
			if err != nil {
				return nil, err
			}
			out := RightHistory{Changes: []RightChange{}, Zone: term.Zone.String()}
			if !next.IsZero() {
				out.Before = &next
			}
			for _, x := range list {
				out.Changes = append(out.Changes, changedOf(x))
			}
			return edge.Answer(out), nil
		})
}

func changedOf(x audience.Past) RightChange {
	rule := func(r *viewing.Rule) *RuleText {
		if r == nil {
			return nil
		}
		text := ruleText(*r)
		return &text
	}
	opened := func(o *audience.Opened) *OpenedText {
		if o == nil {
			return nil
		}
		return &OpenedText{Kind: string(o.Kind), Name: o.Name, People: o.People, List: o.List, Uses: o.Uses.Names(),
			WindowText: windowText(o.Window)}
	}
	out := RightChange{At: x.At, By: x.By, What: string(x.What), Recordings: []NamedOne{}, Rule: rule(x.Rule),
		Was: rule(x.Was), Opening: opened(x.Opening), OpeningWas: opened(x.OpeningWas),
		Person: x.Person, Until: x.Until}
	for _, r := range x.Recordings {
		out.Recordings = append(out.Recordings, NamedOne{r.Recording, r.Title})
	}
	return out
}
