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
	Single                bool // by a rule of that recording alone
}

// Preview says what a rule would change, before it is kept. A person gains who can watch some lit recording of the
// scope afterwards that was closed before, and loses likewise. Its error is ErrUnknown or ErrInvalid.
func (s *Service) Preview(ctx context.Context, of Scope, r viewing.Rule) (Change, error) {
	if err := r.Check(); err != nil {
		return Change{}, fmt.Errorf("%w: %w", ErrInvalid, err)
	}
	if of.Recording != uuid.Nil {
		if _, err := s.Title(ctx, of); err != nil {
			return Change{}, err
		}
	}
	proposed, err := proposal(of, r)
	if err != nil {
		return Change{}, err
	}
	const query = `select d.person_id, d.recording_id, p.name, d.reason, d.single
		from (` + decisionsSQL + `) d join person p on p.id = d.person_id
		where $5::uuid is null or d.recording_id = $5 order by p.name, d.recording_id`
	only := postgres.OrNil(of.Recording)
	now := s.Clock.Now()
	before, err := postgres.All[decided](ctx, s.DB, query, []uuid.UUID{of.Course}, nil, nil, now, only)
	if err != nil {
		return Change{}, fmt.Errorf("decide under the rule as it is: %w", err)
	}
	after, err := postgres.All[decided](ctx, s.DB, query, []uuid.UUID{of.Course}, of.Course, proposed, now, only)
	if err != nil {
		return Change{}, fmt.Errorf("decide under a proposed rule: %w", err)
	}
	old, err := s.holds(ctx, of)
	if err != nil {
		return Change{}, err
	}
	out := compare(before, after, old != nil && old.Download, r.Download, of.Recording != uuid.Nil)
	const students = `select group_name from membership where course_id = $1 and role = 'student'`
	groups, err := postgres.Values[string](ctx, s.DB, students, of.Course)
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

// holds is the rule that holds in a scope: its own, else that of the course.
func (s *Service) holds(ctx context.Context, of Scope) (*viewing.Rule, error) {
	r, err := s.Rule(ctx, of)
	if err != nil || r != nil || of.Recording == uuid.Nil {
		return r, err
	}
	return s.Rule(ctx, Scope{Course: of.Course})
}

// proposal is a rule as rulesSQL takes it.
func proposal(of Scope, r viewing.Rule) ([]byte, error) {
	groups := r.Groups
	if groups == nil {
		groups = []string{}
	}
	b, err := json.Marshal(map[string]any{
		"recording_id": postgres.OrNil(of.Recording), "audience": r.Audience, "groups": groups, "from_kind": r.From, "from_at": nullable(r.FromAt),
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

// compare says what is other after a change than before, when copies could be taken away before, or can be after; of a
// single recording, or of those that have no rule of their own.
func compare(before, after []decided, copiesBefore, copiesAfter, single bool) Change {
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
		// The rule of the course is not that of a recording which has its own.
		same := now && then && x.Single == single
		more.add(&out.TakeMore, x, same && copiesAfter && !copiesBefore)
		less.add(&out.TakeLess, x, same && copiesBefore && !copiesAfter)
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
