package audience

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/postgres"
)

// Name is a person in a preview.
type Name struct {
	PersonID uuid.UUID
	Name     string
}

// Change is what a rule would change for the people of a course.
type Change struct {
	Gain, Lose []Name
	TakeMore   []Name // who can watch before and after, and take a copy away only after
	TakeLess   []Name // the other way round
	Can, Of    int    // students who could watch at least one lit recording afterwards, of all
	Covered    int    // students that the rule speaks of, whether or not anything is lit
	Recordings int    // that are lit, which is what this is about
}

// decided is a decision of decisionsSQL with the name of the student.
type decided struct {
	PersonID, RecordingID uuid.UUID
	Name                  string
	Reason                viewing.Reason
}

// Preview says what a rule would change, before it is kept. A person gains who can watch
// some lit recording of the course afterwards that was closed before, and loses likewise.
func (s *Service) Preview(ctx context.Context, course uuid.UUID, r viewing.Rule) (Change, error) {
	if err := r.Check(); err != nil {
		return Change{}, fmt.Errorf("%w: %w", ErrInvalid, err)
	}
	proposed, err := proposal(r)
	if err != nil {
		return Change{}, err
	}
	const query = `select d.person_id, d.recording_id, p.name, d.reason
		from (` + decisionsSQL + `) d join person p on p.id = d.person_id order by p.name, d.recording_id`
	now := s.Clock.Now()
	before, err := postgres.All[decided](ctx, s.DB, query, []uuid.UUID{course}, nil, nil, now)
	if err != nil {
		return Change{}, fmt.Errorf("decide under the rule as it is: %w", err)
	}
	after, err := postgres.All[decided](ctx, s.DB, query, []uuid.UUID{course}, course, proposed, now)
	if err != nil {
		return Change{}, fmt.Errorf("decide under a proposed rule: %w", err)
	}
	old, err := s.Rule(ctx, Scope{Course: course})
	if err != nil {
		return Change{}, err
	}
	out := compare(before, after, old != nil && old.Download, r.Download)
	const students = `select group_name from membership where course_id = $1 and role = 'student'`
	groups, err := postgres.Values[string](ctx, s.DB, students, course)
	if err != nil {
		return Change{}, fmt.Errorf("list the students of a course: %w", err)
	}
	out.Of = len(groups)
	for _, group := range groups {
		if r.Covers(group) {
			out.Covered++
		}
	}
	return out, nil
}

// proposal is a rule as rulesSQL takes it.
func proposal(r viewing.Rule) ([]byte, error) {
	groups := r.Groups
	if groups == nil {
		groups = []string{}
	}
	b, err := json.Marshal(map[string]any{
		"audience": r.Audience, "groups": groups, "from_kind": r.From, "from_at": nullable(r.FromAt),
		"until_kind": r.Until, "until_at": nullable(r.UntilAt), "days_after_term": r.DaysAfterTerm,
	})
	if err != nil {
		return nil, fmt.Errorf("write a proposed rule: %w", err)
	}
	return b, nil
}

func nullable(t time.Time) *time.Time {
	if t.IsZero() {
		return nil
	}
	return &t
}

// compare says what is other after a change than before, when copies could be taken away before, or can be after.
func compare(before, after []decided, copiesBefore, copiesAfter bool) Change {
	type at struct{ person, recording uuid.UUID }
	was := map[at]bool{}
	for _, x := range before {
		was[at{x.PersonID, x.RecordingID}] = x.Reason == viewing.ByRule
	}
	var out Change
	can, lit := map[uuid.UUID]bool{}, map[uuid.UUID]bool{}
	gain, lose, more, less := names{}, names{}, names{}, names{}
	for _, x := range after {
		if x.Reason != viewing.NotLit {
			lit[x.RecordingID] = true
		}
		now, then := x.Reason == viewing.ByRule, was[at{x.PersonID, x.RecordingID}]
		if now {
			can[x.PersonID] = true
		}
		gain.add(&out.Gain, x, now && !then)
		lose.add(&out.Lose, x, !now && then)
		more.add(&out.TakeMore, x, now && then && copiesAfter && !copiesBefore)
		less.add(&out.TakeLess, x, now && then && copiesBefore && !copiesAfter)
	}
	out.Can, out.Recordings = len(can), len(lit)
	return out
}

// names are the people that a list has already.
type names map[uuid.UUID]bool

func (n names) add(to *[]Name, x decided, belongs bool) {
	if belongs && !n[x.PersonID] {
		n[x.PersonID] = true
		*to = append(*to, Name{x.PersonID, x.Name})
	}
}
