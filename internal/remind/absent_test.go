package remind_test

import (
	"errors"
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

// TestWhoIsNotThereIsToldOnce by a letter with the address of the lecture, while it is on; who has no account, by none.
func TestWhoIsNotThereIsToldOnce(t *testing.T) {
	ctx := t.Context()
	s, tray := posted(t)
	people := []uuid.UUID{s.Student, s.Second, uuid.New()}
	for _, want := range []int{1, 0} {
		if n, err := s.Remind.Absent(ctx, s.Lecture, people[:1]); err != nil || n != want {
			t.Errorf("%d were told, want %d: %v", n, want, err)
		}
	}
	if n, err := s.Remind.Absent(ctx, s.Lecture, people); err != nil || n != 1 {
		t.Errorf("of whom one was not told yet %d were told: %v", n, err)
	}
	// Who teaches is written to as well, that nobody has pressed start.
	toStudents := func() []posttray.Letter {
		all, err := tray.Letters()
		s.Must(err)
		return slices.DeleteFunc(all, func(l posttray.Letter) bool {
			return l.To != "student@college.example" && l.To != "second@college.example"
		})
	}
	s.Until(func() bool { return len(toStudents()) >= 2 })
	letters := toStudents()
	if len(letters) != 2 {
		t.Fatalf("%d letters", len(letters))
	}
	for _, l := range letters {
		if !strings.Contains(l.Subject, "COU 1") || !strings.Contains(l.Text, "/lectures/"+s.Lecture.String()) {
			t.Errorf("%s: %s", l.Subject, l.Text)
		}
	}
	for what, do := range map[string]func() (int, error){
		"a lecture to come": func() (int, error) { return s.Remind.Absent(ctx, s.Later, people) },
		"when it is over": func() (int, error) {
			return s.At(clock.Standing(testhouse.Now.Add(3*time.Hour))).Remind.Absent(ctx, s.Lecture, people)
		},
		"when it was ended for everyone": func() (int, error) {
			s.Do(`insert into class_end (lecture_id, made_at, due_at) values ($1, $2, $2)`, s.Lecture,
				s.House.Clock.Now().Add(-time.Second))
			defer s.Do(`delete from class_end`)
			return s.Remind.Absent(ctx, s.Lecture, people)
		},
		"where no mail is sent": func() (int, error) {
			return testhouse.New(t, true).Remind.Absent(ctx, s.Lecture, people)
		},
	} {
		if n, err := do(); n != 0 || !errors.Is(err, remind.ErrNotOn) {
			t.Errorf("%s: %d told, %v", what, n, err)
		}
	}
}
