package audience

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/fault"
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
	Gain, Lose []Name  // who can watch some lit recording afterwards that was closed before, and the other way round
	More, Less []Shift // of those who can watch one before and after, what else they may then do with it, or no more
	Can, Of    int     // students who could watch at least one lit recording afterwards, of all
	Covered    int     // students that the rule speaks of, whether or not anything is lit
	Recordings int     // that are lit, which is what this is about
}

// Shift is a use that people gain or lose.
type Shift struct {
	Use    string
	People []Name
}

// decided is a decision of decisionsSQL.
type decided struct {
	PersonID, RecordingID uuid.UUID
	Reason                viewing.Reason
	Uses                  string // of the rule, by name with blanks between
}

// usesIn are the uses that some decisions let one do. There are few kinds of them, and many decisions.
type usesIn map[string]viewing.Uses

func (u usesIn) of(d decided) viewing.Uses {
	if d.Reason != viewing.ByRule {
		return 0
	}
	uses, known := u[d.Uses]
	if !known {
		uses, _ = viewing.UsesOf(strings.Fields(d.Uses)...) // what is none lets nobody in
		u[d.Uses] = uses
	}
	return uses
}

// Preview says what a rule would change, before it is kept. Its error is ErrUnknown or ErrInvalid.
func (s *Service) Preview(ctx context.Context, of Scope, r viewing.Rule) (Change, error) {
	if err := s.Possible(ctx, of, r); err != nil {
		return Change{}, err
	}
	proposed, err := proposals(proposal{of, &r})
	if err != nil {
		return Change{}, err
	}
	courses, err := s.reached(ctx, of)
	if err != nil {
		return Change{}, err
	}
	const query = `select d.person_id, d.recording_id, d.reason, d.uses from (` + decisionsSQL + `) d
		where ($4::uuid is null or d.recording_id = $4) and d.reason <> 'not_lit'`
	only, now := postgres.OrNil(of.Recording), s.Clock.Now()
	before, err := postgres.All[decided](ctx, s.DB, query, courses, nil, now, only)
	if err != nil {
		return Change{}, fmt.Errorf("decide under the rule as it is: %w", err)
	}
	after, err := postgres.All[decided](ctx, s.DB, query, courses, proposed, now, only)
	if err != nil {
		return Change{}, fmt.Errorf("decide under a proposed rule: %w", err)
	}
	const students = `select p.id as person_id, p.name, m.group_name as "group" from membership m
		join person p on p.id = m.person_id where m.course_id = any($1) and m.role = 'student' order by p.name, p.id`
	people, err := postgres.All[struct {
		Name
		Group string
	}](ctx, s.DB, students, courses)
	if err != nil {
		return Change{}, fmt.Errorf("list the students of a course: %w", err)
	}
	var list []Name
	covered := 0
	for _, p := range people {
		list = append(list, p.Name)
		if r.Covers(p.Group) {
			covered++
		}
	}
	out := compare(list, before, after)
	out.Of, out.Covered = len(people), covered
	return out, nil
}

// reached are the courses in which a rule of a scope would hold: of the college, those without a rule.
func (s *Service) reached(ctx context.Context, of Scope) ([]uuid.UUID, error) {
	if of.Course != uuid.Nil {
		return []uuid.UUID{of.Course}, nil
	}
	const query = `select id from course k where not exists (select 1 from viewing_rule v
		where v.course_id = k.id and v.recording_id is null and v.ended_at is null)`
	courses, err := postgres.Values[uuid.UUID](ctx, s.DB, query)
	if err != nil {
		return nil, fmt.Errorf("list the courses without a rule: %w", err)
	}
	return courses, nil
}

// Possible finds fault with a rule under which nobody of a scope could ever watch. Its error is ErrUnknown, or
// ErrInvalid, and the error that wraps can be shown.
func (s *Service) Possible(ctx context.Context, of Scope, r viewing.Rule) error {
	return s.possible(ctx, s.DB, of, r)
}

func (s *Service) possible(ctx context.Context, db postgres.Querier, of Scope, r viewing.Rule) error {
	if of.Recording != uuid.Nil {
		if _, err := titleOf(ctx, db, of); err != nil {
			return err
		}
	}
	if err := r.Check(); err != nil {
		return fmt.Errorf("%w: %w", ErrInvalid, err)
	}
	if of.Course == uuid.Nil && r.Audience != viewing.Everyone {
		return fmt.Errorf("%w: %w", ErrInvalid, fault.Say("rule.college_groups"))
	}
	const query = `select t.last_day, t.zone, array(select distinct group_name from membership
			where course_id = k.id and role = 'student' and group_name = any($2)) as groups
		from course k join term t on t.id = k.term_id where k.id = $1`
	x, err := postgres.One[struct {
		LastDay time.Time
		Zone    string
		Groups  []string
	}](ctx, db, query, of.Course, append([]string{}, r.Groups...))
	if errors.Is(err, pgx.ErrNoRows) {
		if of.Course != uuid.Nil {
			return ErrUnknown
		}
		x.Zone = "UTC"
	} else if err != nil {
		return fmt.Errorf("look for whom a rule is: %w", err)
	}
	end, err := termEnd(x.LastDay, x.Zone)
	if err != nil {
		return err
	}
	for _, group := range r.Groups {
		if r.Audience == viewing.Groups && !slices.Contains(x.Groups, group) {
			return fmt.Errorf("%w: %w", ErrInvalid, fault.Say("rule.nobody", "group", group))
		}
	}
	closes, ends := r.Closes(viewing.Release{TermEnd: end})
	switch {
	case !ends || of.Course == uuid.Nil && r.Until == viewing.UntilTerm:
		return nil
	case r.Until == viewing.UntilDate && !s.Clock.Now().Before(closes):
		return fmt.Errorf("%w: %w", ErrInvalid, fault.Say("rule.past"))
	case r.From == viewing.FromDate && !r.FromAt.Before(closes):
		return fmt.Errorf("%w: %w", ErrInvalid, fault.Say("rule.never"))
	}
	return nil
}

// proposal is a rule that a scope would have; nil for none.
type proposal struct {
	of   Scope
	rule *viewing.Rule
}

// proposals are rules as rulesSQL takes them.
func proposals(list ...proposal) ([]byte, error) {
	out := make([]map[string]any, 0, len(list))
	for _, p := range list {
		x := map[string]any{"course_id": postgres.OrNil(p.of.Course), "recording_id": postgres.OrNil(p.of.Recording)}
		if r := p.rule; r != nil {
			w := rowOf(r.Window)
			maps.Copy(x, map[string]any{"audience": r.Audience, "groups": append([]string{}, r.Groups...),
				"uses": r.Uses.Names(), "from_kind": w.FromKind, "from_at": w.FromAt,
				"days_after_lecture": w.DaysAfterLecture, "until_kind": w.UntilKind, "until_at": w.UntilAt,
				"days_after_term": w.DaysAfterTerm})
		}
		out = append(out, x)
	}
	b, err := json.Marshal(out)
	if err != nil {
		return nil, fmt.Errorf("write proposed rules: %w", err)
	}
	return b, nil
}

// compare says what is other after a change than before, for people in their order. Who has several ways to a recording
// can do what any of them lets them do.
func compare(people []Name, before, after []decided) Change {
	type at struct{ person, recording uuid.UUID }
	uses, lit := usesIn{}, map[uuid.UUID]bool{}
	was, is := make(map[at]viewing.Uses, len(before)), make(map[at]viewing.Uses, len(after))
	for _, x := range before {
		was[at{x.PersonID, x.RecordingID}] |= uses.of(x)
	}
	for _, x := range after {
		is[at{x.PersonID, x.RecordingID}] |= uses.of(x)
		lit[x.RecordingID] = true
	}
	// what became of somebody, at any of the recordings
	type became struct {
		gain, lose, can bool
		more, less      viewing.Uses
	}
	of := map[uuid.UUID]*became{}
	tell := func(person uuid.UUID, now, then viewing.Uses) {
		b := of[person]
		if b == nil {
			b = &became{}
			of[person] = b
		}
		watch, watched := now.Has(viewing.ToWatch), then.Has(viewing.ToWatch)
		b.can, b.gain, b.lose = b.can || watch, b.gain || watch && !watched, b.lose || !watch && watched
		if watch && watched {
			b.more, b.less = b.more|now&^then, b.less|then&^now
		}
	}
	for x, now := range is {
		tell(x.person, now, was[x])
	}
	for x, then := range was {
		if _, still := is[x]; !still {
			tell(x.person, 0, then)
		}
	}
	out := Change{Recordings: len(lit)}
	for _, p := range people {
		b := of[p.PersonID]
		if b == nil {
			continue
		}
		delete(of, p.PersonID) // someone may be in several of the courses
		if b.can {
			out.Can++
		}
		if b.gain {
			out.Gain = append(out.Gain, p)
		}
		if b.lose {
			out.Lose = append(out.Lose, p)
		}
		out.More, out.Less = shift(out.More, p, b.more), shift(out.Less, p, b.less)
	}
	return out
}

// shift adds someone to those who gain or lose uses.
func shift(to []Shift, p Name, uses viewing.Uses) []Shift {
	for _, use := range uses.Names() {
		at := slices.IndexFunc(to, func(s Shift) bool { return s.Use == use })
		if at < 0 {
			to, at = append(to, Shift{Use: use}), len(to)
		}
		to[at].People = append(to[at].People, p)
	}
	return to
}
