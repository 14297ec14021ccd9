package schedule_test

import (
	"bytes"
	"context"
	"errors"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/capture"
	"latelantern/internal/core/workflow"
	"latelantern/internal/platform/clock"
	"latelantern/internal/playlists"
	"latelantern/internal/schedule"
	"latelantern/internal/testdb"
	"latelantern/internal/testhouse"
)

func TestMain(m *testing.M) { testdb.Main(m) }

func TestTheCurrentTerm(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t, true)
	s.Do(`insert into term (id, name, first_day, last_day, zone)
		values ($1, 'Last', '2026-01-05', '2026-05-29', 'Atlantic/Faroe'),
		($2, 'Next', '2027-01-04', '2027-05-28', 'Atlantic/Faroe')`, uuid.New(), uuid.New())
	for at, want := range map[string]string{
		"2025-11-01T12:00:00Z": "Last", "2026-03-01T12:00:00Z": "Last", "2026-05-29T23:00:00Z": "Last",
		"2026-07-01T12:00:00Z": "Term",
		"2026-10-14T10:00:00Z": "Term", "2026-12-25T10:00:00Z": "Next", "2027-02-01T12:00:00Z": "Next",
		"2028-01-01T12:00:00Z": "Next",
	} {
		now, err := time.Parse(time.RFC3339, at)
		s.Must(err)
		term, err := (&schedule.Service{DB: s.DB, Clock: clock.Standing(now)}).CurrentTerm(ctx)
		if err != nil || term.Name != want {
			t.Errorf("at %s it is %s, want %s (%v)", at, term.Name, want, err)
		}
	}
	s.Do(`delete from term where name <> 'Term'`)
	term, err := s.Schedule.CurrentTerm(ctx)
	s.Must(err)
	if w := term.Week(testhouse.Now); w.Number != 4 {
		t.Errorf("the day of the test is in week %d", w.Number)
	}
	// Sunday late in UTC is Monday already further east, and the zone of the college decides.
	if w := term.Week(time.Date(2026, 10, 18, 23, 30, 0, 0, time.UTC)); w.Number != 5 {
		t.Errorf("after midnight in the college it is week %d", w.Number)
	}
	s.Do(`truncate term cascade`)
	if _, err := s.Schedule.CurrentTerm(ctx); !errors.Is(err, schedule.ErrUnknown) {
		t.Errorf("without a term: %v", err)
	}
}

// TestTheNextStepFollowsTheFacts takes one lecture through its life.
func TestTheNextStepFollowsTheFacts(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t, true)
	next := func() workflow.Step {
		t.Helper()
		rows, err := s.Schedule.Lecture(ctx, s.Lecture)
		s.Must(err)
		return rows[0].Workflow().Next(testhouse.Now)
	}
	want := func(step workflow.Step, when string) {
		t.Helper()
		if got := next(); got != step {
			t.Errorf("%s the next step is %q, want %q", when, got, step)
		}
	}
	want(workflow.Capture, "when it has begun")
	b, err := s.Capture.Begin(ctx, capture.Start{Lecture: s.Lecture, By: s.Lecturer, Source: capture.Desk})
	s.Must(err)
	want(workflow.Wait, "while it is captured")
	n := int64(1)
	_, err = s.Capture.Append(ctx, b.Track, 0, &n, bytes.NewReader([]byte{1}))
	s.Must(err)
	want(workflow.Wait, "while it is made watchable")
	s.Do(`update track set state = 'ready'`)
	want(workflow.Trim, "when it can be watched")
	s.Do(`insert into cut_list (id, recording_id, struck, made_at) select $1, id, '{}', now() from recording`, b.Track)
	s.Do(`insert into recording_cuts (recording_id, cut_list_id) values ($1, $2)`, b.Recording, b.Track)
	want(workflow.Title, "when it is trimmed")
	s.Must(s.Library.SetTitle(ctx, b.Recording, s.Lecturer, "A title"))
	want(workflow.Rule, "when it has its title")
	s.Do(`insert into viewing_rule (id, course_id, audience, uses, from_kind, until_kind, made_at)
		values ($1, $2, 'everyone', '{watch}', 'lecture', 'ever', now())`, uuid.New(), s.Course)
	want(workflow.List, "when there is a rule")
	s.Do(`update viewing_rule set course_id = null`)
	want(workflow.List, "when the college has one")
	s.Do(`update viewing_rule set ended_at = now()`)
	want(workflow.Rule, "when it ended")
	s.Do(`update viewing_rule set ended_at = null, course_id = $1`, s.Course)
	s.Must(s.Playlists.Add(ctx, playlists.Of{Course: s.Course}, nil, b.Recording))
	want(workflow.LightUp, "when it is listed")
	s.Do(`insert into lighting (id, recording_id, course_id, lit_at) values ($1, $2, $3, now())`, uuid.New(),
		b.Recording, s.Course)
	want(workflow.Publish, "when it is lit and its edition is not there")
	s.Do(`insert into edition (id, recording_id, cut_list_id, state, asked_at) values ($1, $2, $3, 'ready', now())`,
		b.Capture, b.Recording, b.Track)
	s.Do(`insert into recording_edition (recording_id, edition_id) values ($1, $2)`, b.Recording, b.Capture)
	want(workflow.Done, "when all is done")
	s.Do(`update track set state = 'failed', fault = 'no_media'`)
	want(workflow.TryAgain, "when it holds nothing")
	s.Must(s.Library.SetDeleted(ctx, b.Recording, s.Lecturer, true))
	want(workflow.Capture, "when it was taken away")
}

// TestTheFurthestRecordingStandsForItsLecture, and what failed does not count as a part.
func TestTheFurthestRecordingStandsForItsLecture(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t, true)
	begin := func() capture.Started {
		b, err := s.Capture.Begin(ctx, capture.Start{Lecture: s.Lecture, By: s.Lecturer, Source: capture.File})
		s.Must(err)
		return b
	}
	bad, first, second := begin(), begin(), begin()
	s.Do(`update track set state = case when id = $1 then 'failed' else 'ready' end`, bad.Track)
	rows, err := s.Schedule.Lecture(ctx, s.Lecture)
	s.Must(err)
	if len(rows) != 3 || *rows[0].RecordingID != second.Recording || rows[0].Part != 2 ||
		*rows[1].RecordingID != first.Recording || rows[1].Part != 1 || *rows[2].RecordingID != bad.Recording {
		t.Errorf("%+v", rows)
	}
	s.Do(`insert into lighting (id, recording_id, course_id, lit_at) values ($1, $2, $3, now())`, uuid.New(),
		first.Recording, s.Course)
	all, err := s.Schedule.Lectures(ctx, []uuid.UUID{s.Course})
	s.Must(err)
	if len(all) != 2 || *all[0].RecordingID != first.Recording || all[1].RecordingID != nil {
		t.Errorf("%+v", all)
	}
	one, err := s.Schedule.OfRecording(ctx, s.Lecture, second.Recording)
	term, err2 := s.Schedule.CurrentTerm(ctx)
	s.Must(err, err2)
	if got := one.SuggestedTitle(term); got != "COU 1, week 4 · Wed 14 Oct · Today · part 2" {
		t.Errorf("the title is %q", got)
	}
	if _, err := s.Schedule.OfRecording(ctx, s.Later, second.Recording); !errors.Is(err, schedule.ErrUnknown) {
		t.Errorf("of another lecture: %v", err)
	}
	if _, err := s.Schedule.Lecture(ctx, uuid.New()); !errors.Is(err, schedule.ErrUnknown) {
		t.Errorf("no such lecture: %v", err)
	}
}

func TestCourses(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t, true)
	term, err := s.Schedule.CurrentTerm(ctx)
	s.Must(err)
	all, err := s.Schedule.Courses(ctx, term.ID, nil)
	s.Must(err)
	if len(all) != 2 || all[0].Code != "COU 1" || all[0].Students != 3 || all[0].Lecturers[0] != "lecturer" ||
		all[0].Halls[0] != "Hall" || all[0].Ruled {
		t.Errorf("%+v", all)
	}
	mine, err := s.Schedule.Courses(ctx, term.ID, &s.Colleague)
	s.Must(err)
	if len(mine) != 1 || mine[0].Code != "OTH 2" {
		t.Errorf("%+v", mine)
	}
	if none, err := s.Schedule.Courses(ctx, term.ID, &s.Student); err != nil || len(none) != 0 {
		t.Errorf("a student teaches %+v (%v)", none, err)
	}
}
