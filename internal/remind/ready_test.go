package remind_test

import (
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/platform/clock"
	"latelantern/internal/remind"
	"latelantern/internal/standin/posttray"
	"latelantern/internal/testhouse"
)

// end is when captures end here: before that no job of the house tells of them, however long a test takes.
var end = testhouse.Now.Add(time.Hour)

// ended is a recording of a capture at the desk that someone began and that can be watched.
func ended(s *testhouse.Stage, by uuid.UUID) uuid.UUID {
	id := s.Bare(s.Lecture, false, &end)
	s.Do(`update capture set source = 'desk', started_by = $2 where id in (select capture_id from recording_capture
		where recording_id = $1)`, id, by)
	s.Do(`update track set state = 'ready', packed_ms = 60000, video = true where capture_id in (select capture_id
		from recording_capture where recording_id = $1)`, id)
	return id
}

// later is the use-case so long after the end.
func later(s *testhouse.Stage, after time.Duration) *remind.Service {
	return s.At(clock.Standing(end.Add(after))).Remind
}

// TestACaptureCanBeWatched: who lectures has a letter once, with what it waits for, and only while it waits for that.
func TestACaptureCanBeWatched(t *testing.T) {
	s, tray := posted(t)
	s.Do(`insert into reminder (lecture_id, kind, made_at) values ($1, 'not_started', now())`, s.Lecture)
	s.Person("helper", s.Course, "lecturer", "")
	look := func(after time.Duration) int {
		t.Helper()
		n, err := later(s, after).LookReady(t.Context())
		s.Must(err)
		return n
	}
	letters := func(n int) []posttray.Letter {
		t.Helper()
		var list []posttray.Letter
		s.Until(func() bool {
			var err error
			list, err = tray.Letters()
			s.Must(err)
			return len(list) >= n
		})
		return list
	}
	id := ended(s, s.Lecturer)
	if n := look(time.Minute); n != 0 {
		t.Errorf("a minute after the stop it is told %d times", n)
	}
	if n := look(13 * time.Hour); n != 0 {
		t.Errorf("a day later it is told %d times", n)
	}
	s.Do(`update track set state = 'running'`)
	if n := look(3 * time.Minute); n != 0 {
		t.Errorf("before it can be watched it is told %d times", n)
	}
	s.Do(`update track set state = 'ready'`)
	once(t, later(s, 3*time.Minute).LookReady)
	got := letters(1)
	if len(got) != 1 || got[0].To != "lecturer@college.example" || !strings.Contains(got[0].Subject, "COU 1") ||
		!strings.Contains(got[0].Text, "Next: look at its two ends") || !strings.Contains(got[0].Text,
		"https://lectures.college.example/recordings/"+id.String()) {
		t.Errorf("written is %+v", got)
	}

	// What began by itself is told to all who lecture, but for those who do not want it.
	s.Must(s.Remind.SetWantsReady(t.Context(), s.Lecturer, false))
	if on, err := s.Remind.WantsReady(t.Context(), s.Lecturer); on || err != nil {
		t.Errorf("it is wanted: %v %v", on, err)
	}
	failed := ended(s, s.Coordinator)
	s.Do(`update track set state = 'failed', packed_ms = 0, video = false where capture_id in (select capture_id
		from recording_capture where recording_id = $1)`, failed)
	if n := look(3 * time.Minute); n != 1 {
		t.Errorf("what cannot be watched is told %d times", n)
	}
	got = letters(2)
	at := slices.IndexFunc(got, func(l posttray.Letter) bool { return strings.Contains(l.Subject, "nothing of") })
	if len(got) != 2 || at < 0 || !strings.HasPrefix(got[at].To, "helper@") ||
		!strings.Contains(got[at].Text, failed.String()) {
		t.Errorf("written is %+v", got)
	}
	// What was taken away is told of to nobody.
	s.Must(s.Remind.SetWantsReady(t.Context(), s.Lecturer, true))
	s.Do(`update recording set deleted_at = now() where id = $1`, ended(s, s.Lecturer))
	if n := look(3 * time.Minute); n != 0 {
		t.Errorf("what is in the bin is told %d times", n)
	}
}
