package presence

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/presence"
	"latelantern/internal/platform/postgres"
)

// Roll is the register of one lecture.
type Roll struct {
	Lecture  uuid.UUID
	Topic    string
	StartsAt time.Time
	Held     presence.Held
	Known    bool    // anything is known of anyone; else nobody counts as absent
	Entries  []Entry // of the students of its course, by name
}

// Entry is how one student stands in a register.
type Entry struct {
	Person   uuid.UUID
	Name     string
	Email    string
	Group    string
	Reckoned presence.Line // from what is known
	Mark     *Mark         // what somebody who teaches says instead; nil for nothing
	Word     *Word         // what the student says of it; nil for nothing
	Stays    []Stay        // in order
}

// Stands is how they stand: as somebody said who teaches, else as it was reckoned.
func (e Entry) Stands() presence.Line {
	if e.Mark == nil {
		return e.Reckoned
	}
	return presence.Line{State: e.Mark.State, Late: e.Mark.Late, Early: e.Mark.Early, There: e.Reckoned.There}
}

// Mark is what somebody who teaches says of a line.
type Mark struct {
	State       presence.State
	Late, Early time.Duration
	Reason      string
	By          string
	At          time.Time
	ByFile      bool // it came by a file that they brought
}

// Word is what a student says of their own line.
type Word struct {
	Text    string
	At      time.Time
	Settled bool // whoever teaches has looked at it
}

// wanted is of which lectures and people registers are made.
type wanted struct {
	course  uuid.UUID  // of all its lectures that have begun
	lecture *uuid.UUID // or of one of them
	person  *uuid.UUID // and of one student
}

// Roll is the register of a lecture. Its error is ErrUnknown for one that has none.
func (s *Service) Roll(ctx context.Context, course, lecture uuid.UUID) (Roll, error) {
	all, err := s.rolls(ctx, wanted{course: course, lecture: &lecture})
	if err != nil {
		return Roll{}, err
	}
	if len(all) == 0 {
		return Roll{}, ErrUnknown
	}
	return all[0], nil
}

// Rolls are those of all lectures of a course that have begun, in order.
func (s *Service) Rolls(ctx context.Context, course uuid.UUID) ([]Roll, error) {
	return s.rolls(ctx, wanted{course: course})
}

// RollsOf are those of one student of the course: each has their own line alone.
func (s *Service) RollsOf(ctx context.Context, course, person uuid.UUID) ([]Roll, error) {
	return s.rolls(ctx, wanted{course: course, person: &person})
}

type seat struct{ lecture, person uuid.UUID }

func (s *Service) rolls(ctx context.Context, w wanted) ([]Roll, error) {
	now := s.Clock.Now()
	rules, err := s.Rules(ctx, w.course)
	if err != nil {
		return nil, err
	}
	out, err := s.held(ctx, w, now)
	if err != nil || len(out) == 0 {
		return nil, err
	}
	lectures := make([]uuid.UUID, len(out))
	for i, r := range out {
		lectures[i] = r.Lecture
	}
	people, err := s.students(ctx, w)
	if err != nil {
		return nil, err
	}
	stays, err := s.stays(ctx, lectures, w)
	if err != nil {
		return nil, err
	}
	marks, words, err := s.said(ctx, lectures, w)
	if err != nil {
		return nil, err
	}
	for i := range out {
		r := &out[i]
		for _, p := range people {
			at := seat{r.Lecture, p.Person}
			e := p
			e.Mark, e.Word, e.Stays = marks[at], words[at], stays[at]
			there := make([]presence.Stay, len(e.Stays))
			for n, x := range e.Stays {
				there[n] = presence.Stay{From: x.FromAt, Until: x.UntilAt}
			}
			if r.Known {
				e.Reckoned = presence.Of(r.Held, there, rules)
			}
			r.Entries = append(r.Entries, e)
		}
	}
	return out, nil
}

// held are lectures that have begun and to which the course was invited, with when they were held.
func (s *Service) held(ctx context.Context, w wanted, now time.Time) ([]Roll, error) {
	type row struct {
		ID               uuid.UUID
		Topic            string
		StartsAt, EndsAt time.Time
		Began, Stopped   *time.Time
		Known            bool
	}
	const query = `select l.id, l.topic, l.starts_at,
			least(l.ends_at, greatest(l.starts_at, coalesce(e.due_at, l.ends_at))) as ends_at,
			min(c.started_at) as began,
			case when bool_and(c.stopped_at is not null) then max(c.stopped_at) end as stopped,
			exists (select 1 from attendance a where a.lecture_id = l.id) or exists (
				select 1 from register_mark m where m.lecture_id = l.id and m.ended_at is null) as known
		from lecture l left join capture c on c.lecture_id = l.id and c.source <> 'file' and not c.alone
			and c.started_at < l.ends_at and (c.stopped_at is null or c.stopped_at > l.starts_at)
		left join ended_class e on e.lecture_id = l.id and e.due_at <= $3
		where l.course_id = $1 and ($2::uuid is null or l.id = $2) and l.called_off_at is null
		and l.id not in (select id from private_lecture) and (l.starts_at <= $3 or $2 is not null)
		group by l.id, e.due_at order by l.starts_at, l.id`
	rows, err := postgres.All[row](ctx, s.DB, query, w.course, w.lecture, now)
	if err != nil {
		return nil, fmt.Errorf("read when lectures were held: %w", err)
	}
	out := make([]Roll, len(rows))
	for i, r := range rows {
		out[i] = Roll{Lecture: r.ID, Topic: r.Topic, StartsAt: r.StartsAt, Known: r.Known,
			Held: presence.Hours(r.StartsAt, r.EndsAt, r.Began, r.Stopped, now)}
	}
	return out, nil
}

// students are those of the course, by name.
func (s *Service) students(ctx context.Context, w wanted) ([]Entry, error) {
	type row struct {
		ID                 uuid.UUID
		Name, Email, Group string
	}
	rows, err := postgres.All[row](ctx, s.DB, `select p.id, p.name, coalesce(p.email, '') as email,
			coalesce(m.group_name, '') as "group"
		from membership m join person p on p.id = m.person_id
		where m.course_id = $1 and m.role = 'student' and ($2::uuid is null or p.id = $2) order by p.name, p.id`,
		w.course, w.person)
	if err != nil {
		return nil, fmt.Errorf("read the students of a course: %w", err)
	}
	out := make([]Entry, len(rows))
	for i, r := range rows {
		out[i] = Entry{Person: r.ID, Name: r.Name, Email: r.Email, Group: r.Group}
	}
	return out, nil
}

// stays are while people were in lectures, each in order.
func (s *Service) stays(ctx context.Context, lectures []uuid.UUID, w wanted) (map[seat][]Stay, error) {
	type row struct {
		LectureID, PersonID uuid.UUID
		FromAt, UntilAt     time.Time
		By                  string
	}
	rows, err := postgres.All[row](ctx, s.DB, `select lecture_id, person_id, from_at, until_at, by from attendance
		where lecture_id = any($1) and by <> 'hand' and ($2::uuid is null or person_id = $2)
		order by from_at, until_at`, lectures, w.person)
	if err != nil {
		return nil, fmt.Errorf("read who was in lectures: %w", err)
	}
	out := map[seat][]Stay{}
	for _, r := range rows {
		at := seat{r.LectureID, r.PersonID}
		out[at] = append(out[at], Stay{r.FromAt, r.UntilAt, r.By})
	}
	return out, nil
}

// said is what those who teach, and the students, say of lines.
func (s *Service) said(ctx context.Context, lectures []uuid.UUID, w wanted) (map[seat]*Mark, map[seat]*Word, error) {
	type mark struct {
		LectureID, PersonID uuid.UUID
		State               presence.State
		LateMin, EarlyMin   int
		Reason, By          string
		MadeAt              time.Time
		ByFile              bool
	}
	made, err := postgres.All[mark](ctx, s.DB, `select x.lecture_id, x.person_id, x.state, x.late_min, x.early_min,
			x.reason, coalesce(p.name, '') as by, x.made_at, x.brought is not null as by_file
		from register_mark x left join person p on p.id = x.made_by
		where x.ended_at is null and x.lecture_id = any($1) and ($2::uuid is null or x.person_id = $2)`,
		lectures, w.person)
	if err != nil {
		return nil, nil, fmt.Errorf("read corrections of registers: %w", err)
	}
	marks := map[seat]*Mark{}
	for _, m := range made {
		marks[seat{m.LectureID, m.PersonID}] = &Mark{m.State, time.Duration(m.LateMin) * time.Minute,
			time.Duration(m.EarlyMin) * time.Minute, m.Reason, m.By, m.MadeAt, m.ByFile}
	}
	type word struct {
		LectureID, PersonID uuid.UUID
		Text                string
		SaidAt              time.Time
		Settled             bool
	}
	told, err := postgres.All[word](ctx, s.DB, `select lecture_id, person_id, text, said_at,
			settled_at is not null as settled
		from register_word where lecture_id = any($1) and ($2::uuid is null or person_id = $2)`, lectures, w.person)
	if err != nil {
		return nil, nil, fmt.Errorf("read what students say of registers: %w", err)
	}
	words := map[seat]*Word{}
	for _, x := range told {
		words[seat{x.LectureID, x.PersonID}] = &Word{x.Text, x.SaidAt, x.Settled}
	}
	return marks, words, nil
}

// Missing are the students of whom nothing was heard in a lecture yet, and who are neither excused nor said to be
// there.
func (r Roll) Missing() []uuid.UUID {
	var out []uuid.UUID
	for _, e := range r.Entries {
		if e.Mark == nil && len(e.Stays) == 0 || e.Mark != nil && e.Mark.State == presence.Absent {
			out = append(out, e.Person)
		}
	}
	slices.SortFunc(out, func(a, b uuid.UUID) int { return cmp.Compare(a.String(), b.String()) })
	return out
}
