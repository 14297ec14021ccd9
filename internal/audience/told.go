package audience

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/event"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/postgres"
)

// ErrOpen says that there is nothing to tell anyone: the door is open.
var ErrOpen = fault.Code("tell.open")

// ErrMeant says that whoever teaches meant the door to be closed now, and it says itself when it opens.
var ErrMeant = fault.Code("tell.meant")

// toldFor is for how long it counts that somebody could not come in.
const toldFor = 30 * 24 * time.Hour

// Tell keeps that a student stands before the closed door of a recording and wants those to be told who teach. To say
// so again changes nothing but when. It gives the course by whose door they stand. Its errors are ErrUnknown, also for
// nobody of a course that has it, ErrOpen and ErrMeant.
func (s *Service) Tell(ctx context.Context, person, recording uuid.UUID) (course uuid.UUID, err error) {
	access, err := s.Decide(ctx, person, recording)
	switch {
	case err != nil:
		return uuid.Nil, err
	case access.Watch():
		return uuid.Nil, ErrOpen
	case access.Reason == viewing.NotEnrolled:
		return uuid.Nil, ErrUnknown
	case !access.Reason.Overlooked():
		return uuid.Nil, ErrMeant
	}
	return access.Course, postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const keep = `insert into door_told (recording_id, person_id, course_id, told_at) values ($1, $2, $3, $4)
			on conflict (recording_id, person_id) do update set course_id = $3, told_at = $4`
		if _, err := tx.Exec(ctx, keep, recording, person, access.Course, s.Clock.Now()); err != nil {
			return fmt.Errorf("keep that someone could not come in: %w", err)
		}
		return postgres.Notify(ctx, tx, postgres.Event{About: event.Rule, Course: access.Course, Recording: recording})
	})
}

// Closed is a door before which students of a course said that they could not come in, and cannot still.
type Closed struct {
	Course, Recording uuid.UUID
	Students          int
	Reason            viewing.Reason // of most of them
	StartsAt          time.Time      // of the lecture
}

// Doors are the closed doors of courses of which somebody said so, the one told of last first.
func (s *Service) Doors(ctx context.Context, courses []uuid.UUID) ([]Closed, error) {
	const query = `select d.course_id, d.recording_id, d.person_id, l.starts_at from door_told d
		join recording r on r.id = d.recording_id join lecture l on l.id = r.lecture_id
		where d.course_id = any($1) and d.told_at > $2 order by d.told_at desc`
	type told struct {
		CourseID, RecordingID, PersonID uuid.UUID
		StartsAt                        time.Time
	}
	rows, err := postgres.All[told](ctx, s.DB, query, courses, s.Clock.Now().Add(-toldFor))
	if err != nil {
		return nil, fmt.Errorf("list who could not come in: %w", err)
	}
	by := map[uuid.UUID][]told{} // by person
	for _, x := range rows {
		by[x.PersonID] = append(by[x.PersonID], x)
	}
	type door struct{ course, recording uuid.UUID }
	reasons := map[door]map[viewing.Reason]int{}
	for person, list := range by {
		ids := make([]uuid.UUID, len(list))
		for i, x := range list {
			ids[i] = x.RecordingID
		}
		accesses, err := s.DecideAll(ctx, person, ids)
		if err != nil {
			return nil, err
		}
		for _, x := range list {
			access, there := accesses[x.RecordingID]
			if !there || access.Watch() || !access.Reason.Overlooked() {
				continue
			}
			at := door{x.CourseID, x.RecordingID}
			if reasons[at] == nil {
				reasons[at] = map[viewing.Reason]int{}
			}
			reasons[at][access.Reason]++
		}
	}
	var out []Closed
	for _, x := range rows { // the one told of last first
		at := door{x.CourseID, x.RecordingID}
		of := reasons[at]
		if of == nil {
			continue
		}
		delete(reasons, at)
		c := Closed{Course: x.CourseID, Recording: x.RecordingID, StartsAt: x.StartsAt}
		most := 0
		for _, why := range viewing.Reasons {
			n := of[why]
			if c.Students += n; n > most {
				c.Reason, most = why, n
			}
		}
		out = append(out, c)
	}
	return out, nil
}
