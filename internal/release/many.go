package release

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/fault"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/postgres"
)

// Many are recordings as courses have them, pair by pair, to which the same is done.
type Many struct {
	Pairs []Pair
	viewing.Giving
	Tell map[uuid.UUID]string // the recordings, as they are called, of which the students are told; nil for none
}

// Pair is a recording as a course has it, or is to have it.
type Pair struct {
	Recording, Course uuid.UUID
}

// Every is each of the recordings in each of the courses.
func Every(recordings, courses []uuid.UUID) (out []Pair) {
	for _, r := range recordings {
		for _, c := range courses {
			out = append(out, Pair{r, c})
		}
	}
	return out
}

// Once are pairs, each of them once, in an order in which nobody waits for another who waits for them.
func Once(pairs []Pair) []Pair {
	pairs = slices.Clone(pairs)
	slices.SortFunc(pairs, func(a, b Pair) int {
		return cmp.Or(bytes.Compare(a.Recording[:], b.Recording[:]), bytes.Compare(a.Course[:], b.Course[:]))
	})
	return slices.Compact(pairs)
}

// ErrNothing says that what was to be lit, darkened or ruled is so already.
var ErrNothing = fault.Code("release.nothing")

// Change does the same to many, all or none of them, and gives the step by which all is taken back. What is so already
// stays as it is and is no part of the step; nothing is published anew for it. A rule is given where a course has the
// recording by then. Its error is ErrUnknown, ErrNothing when all is so already, or that of Rules.
func (s *Service) Change(ctx context.Context, by uuid.UUID, m Many) (step uuid.UUID, err error) {
	step = uuid.Must(uuid.NewV7())
	return step, postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		if err := s.keep(ctx, tx, step, by, m.Lit); err != nil {
			return err
		}
		return s.change(ctx, tx, step, by, m)
	})
}

// keep notes that a step is made, before it is.
func (s *Service) keep(ctx context.Context, tx pgx.Tx, step, by uuid.UUID, lit *bool) error {
	const keep = `insert into light_change (id, lit, made_by, made_at) values ($1, $2, $3, $4)`
	if _, err := tx.Exec(ctx, keep, step, lit, by, s.Clock.Now()); err != nil {
		return fmt.Errorf("keep a step: %w", err)
	}
	return nil
}

// change does what a step says that is kept. Its error is that of Change.
func (s *Service) change(ctx context.Context, tx pgx.Tx, step, by uuid.UUID, m Many) error {
	pairs := Once(m.Pairs)
	if m.Rule != nil {
		courses := make([]uuid.UUID, 0, len(pairs))
		for _, x := range pairs {
			courses = append(courses, x.Course)
		}
		if err := s.Rules.HoldCourses(ctx, tx, courses); err != nil {
			return err
		}
	}
	made := false
	for _, x := range pairs {
		changed, err := s.give(ctx, tx, step, by, x, m.Giving)
		if err != nil {
			return err
		}
		made = made || changed
	}
	if !made {
		return ErrNothing
	}
	return s.plan(ctx, tx, step, by, pairs, m.Tell)
}

// plan has the students told, as a part of a step.
func (s *Service) plan(ctx context.Context, tx pgx.Tx, step, by uuid.UUID, pairs []Pair,
	tell map[uuid.UUID]string) error {
	var courses, recordings []uuid.UUID
	var titles []string
	for _, x := range pairs {
		if title, told := tell[x.Recording]; told {
			courses, recordings = append(courses, x.Course), append(recordings, x.Recording)
			titles = append(titles, title)
		}
	}
	if len(titles) == 0 {
		return nil
	}
	return s.News.Plan(ctx, tx, step, by, courses, recordings, titles)
}

// give does to one pair what is done to many, as a part of a step, and says whether that changed anything.
func (s *Service) give(ctx context.Context, tx pgx.Tx, step, by uuid.UUID, x Pair,
	g viewing.Giving) (changed bool, err error) {
	if err := hold(ctx, tx, x.Course, x.Recording); err != nil {
		return false, err
	}
	if g.Lit != nil {
		done, err := s.one(ctx, tx, x.Course, x.Recording, by, *g.Lit)
		if err != nil {
			return false, err
		}
		if done.lighting != uuid.Nil {
			changed = true
			const part = `insert into light_change_part (change_id, lighting_id, entry_id) values ($1, $2, $3)`
			if _, err := tx.Exec(ctx, part, step, done.lighting, postgres.OrNil(done.entry)); err != nil {
				return false, fmt.Errorf("keep a part of a step: %w", err)
			}
		}
	}
	if g.Rule != nil {
		ruled, err := s.Rules.Give(ctx, tx, step, x.Recording, x.Course, by, g.Rule.Own)
		if err != nil {
			return false, err
		}
		changed = changed || ruled
	}
	return changed, nil
}

// one lights or darkens a recording that is held for a course unless it is so.
func (s *Service) one(ctx context.Context, tx pgx.Tx, course, recording, by uuid.UUID, lit bool) (part, error) {
	const is = `select exists (select 1 from released where recording_id = $1 and course_id = $2 and lit)`
	so, err := postgres.Value[bool](ctx, tx, is, recording, course)
	if err != nil {
		return part{}, fmt.Errorf("look whether a recording is lit: %w", err)
	}
	if so == lit {
		return part{}, nil
	}
	if lit {
		return s.light(ctx, tx, course, recording, by)
	}
	return s.darken(ctx, tx, course, recording, by)
}

// TakeBack takes a step back that the person made, or any when anyones. What was changed again since stays as it is.
// Its error is ErrUnknown for no step of theirs, and for one that was taken back.
func (s *Service) TakeBack(ctx context.Context, step, by uuid.UUID, anyones bool) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error { return s.TakeBackIn(ctx, tx, step, by, anyones) })
}

// TakeBackIn is TakeBack as a part of tx.
func (s *Service) TakeBackIn(ctx context.Context, tx pgx.Tx, step, by uuid.UUID, anyones bool) error {
	const end = `update light_change set undone_at = $3
		where id = $1 and undone_at is null and (made_by = $2 or $4) returning lit`
	lit, err := postgres.Value[*bool](ctx, tx, end, step, by, s.Clock.Now(), anyones)
	if errors.Is(err, pgx.ErrNoRows) {
		return ErrUnknown
	}
	if err != nil {
		return fmt.Errorf("take a step back: %w", err)
	}
	if err := errors.Join(s.Rules.Ungive(ctx, tx, step, by), s.News.Unplan(ctx, tx, step)); err != nil {
		return err
	}
	if lit == nil {
		return nil
	}
	const parts = `select l.id, l.recording_id, l.course_id, l.darkened_at is null as open, p.entry_id
		from light_change_part p join lighting l on l.id = p.lighting_id
		join recording r on r.id = l.recording_id and r.deleted_at is null
		where p.change_id = $1 order by l.recording_id, l.course_id`
	list, err := postgres.All[changed](ctx, tx, parts, step)
	if err != nil {
		return fmt.Errorf("read a step: %w", err)
	}
	for _, x := range list {
		if err := s.back(ctx, tx, x, by, *lit); err != nil {
			return err
		}
	}
	return nil
}

// changed is a lighting that a step began or ended.
type changed struct {
	ID, RecordingID, CourseID uuid.UUID
	Open                      bool
	EntryID                   *uuid.UUID
}

func (s *Service) back(ctx context.Context, tx pgx.Tx, x changed, by uuid.UUID, lit bool) error {
	if err := hold(ctx, tx, x.CourseID, x.RecordingID); err != nil {
		return err
	}
	if !lit {
		_, err := s.begin(ctx, tx, x.CourseID, x.RecordingID, by)
		return err
	}
	if !x.Open { // darkened meanwhile, and perhaps lit again
		return nil
	}
	if _, err := s.darken(ctx, tx, x.CourseID, x.RecordingID, by); err != nil {
		return err
	}
	if x.EntryID == nil {
		return nil
	}
	return s.Playlists.TakeOut(ctx, tx, x.CourseID, *x.EntryID)
}
