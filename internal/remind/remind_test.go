package remind_test

import (
	"context"
	"net"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/assemble"
	"latelantern/internal/capture"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/mail"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/remind"
	"latelantern/internal/standin/posttray"
	"latelantern/internal/testdb"
	"latelantern/internal/testhouse"
)

func TestMain(m *testing.M) { testdb.Main(m) }

// at is the use-case at a time after the planned start of the lecture that is on.
func at(s *testhouse.Stage, after time.Duration) *remind.Service {
	return s.At(clock.Standing(testhouse.Now.Add(-5*time.Minute + after))).Remind
}

func of(s *testhouse.Stage, person uuid.UUID, after time.Duration) []uuid.UUID {
	s.T.Helper()
	list, err := at(s, after).Of(s.T.Context(), person)
	s.Must(err)
	var out []uuid.UUID
	for _, f := range list {
		out = append(out, f.LectureID)
	}
	return out
}

// TestWhatIsForgotten, by the clock, and for whom.
func TestWhatIsForgotten(t *testing.T) {
	s := testhouse.New(t, true)
	for after, want := range map[time.Duration]bool{0: false, 3*time.Minute - time.Second: false, 3 * time.Minute: true,
		89 * time.Minute: true, 90 * time.Minute: false} {
		if got := of(s, s.Lecturer, after); slices.Contains(got, s.Lecture) != want || len(got) > 1 {
			t.Errorf("%v after the start: %v", after, got)
		}
	}
	for name, who := range map[string]uuid.UUID{"a student": s.Student, "a colleague": s.Colleague,
		"a coordinator who does not teach": s.Coordinator} {
		if got := of(s, who, 5*time.Minute); len(got) != 0 {
			t.Errorf("%s is told of %v", name, got)
		}
	}
	s.Do(`update lecture set called_off_at = now() where id = $1`, s.Lecture)
	if got := of(s, s.Lecturer, 5*time.Minute); len(got) != 0 {
		t.Errorf("called off: %v", got)
	}
	s.Do(`update lecture set called_off_at = null, unplanned = true where id = $1`, s.Lecture)
	if got := of(s, s.Lecturer, 5*time.Minute); len(got) != 0 {
		t.Errorf("in the standing room: %v", got)
	}
	s.Do(`update lecture set unplanned = false where id = $1`, s.Lecture)
	s.Do(`insert into class_end (lecture_id, made_at, due_at) values ($1, $2, $2)`, s.Lecture,
		testhouse.Now.Add(5*time.Minute))
	if got := of(s, s.Lecturer, 9*time.Minute); len(got) != 1 {
		t.Errorf("before its end is due: %v", got)
	}
	if got := of(s, s.Lecturer, 11*time.Minute); len(got) != 0 {
		t.Errorf("ended for everyone: %v", got)
	}
	s.Do(`delete from class_end`)
	_, err := s.Capture.Begin(t.Context(), capture.Start{Lecture: s.Lecture, By: s.Lecturer, Source: capture.Desk})
	s.Must(err)
	if got := of(s, s.Lecturer, 5*time.Minute); len(got) != 0 {
		t.Errorf("captured: %v", got)
	}
}

// once wants that of eight who look at the same time one tells.
func once(t *testing.T, look func(context.Context) (int, error)) {
	t.Helper()
	told := make(chan int, 8)
	for range cap(told) {
		go func() {
			n, err := look(t.Context())
			if err != nil {
				t.Error(err)
			}
			told <- n
		}()
	}
	sum := 0
	for range cap(told) {
		sum += <-told
	}
	if sum != 1 {
		t.Errorf("told %d times", sum)
	}
}

// TestPeopleAreToldOnce, by many who look at the same time.
func TestPeopleAreToldOnce(t *testing.T) {
	s := testhouse.New(t, true)
	if n, err := at(s, 2*time.Minute).Look(t.Context()); n != 0 || err != nil {
		t.Errorf("too early: %d %v", n, err)
	}
	once(t, at(s, 4*time.Minute).Look)
	kept, err := postgres.Value[int](t.Context(), s.DB, `select count(*) from reminder`)
	if err != nil || kept != 1 {
		t.Errorf("%d are kept (%v)", kept, err)
	}
}

// posted is a house that sends mail, and where it comes to lie.
func posted(t *testing.T) (*testhouse.Stage, *posttray.Tray) {
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	tray, err := posttray.Open(listener, filepath.Join(t.TempDir(), "post"))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { tray.Close() })
	s := testhouse.NewWith(t,
		assemble.Settings{Mail: mail.Post{Server: listener.Addr().String(), From: "lantern@college.example",
			Plain: true}})
	return s, tray
}

// TestTheLetter goes to who teaches and who coordinates, found by the job that looks by itself.
func TestTheLetter(t *testing.T) {
	s, tray := posted(t)
	var list []posttray.Letter
	s.Until(func() bool {
		var err error
		list, err = tray.Letters()
		s.Must(err)
		return len(list) == 2
	})
	var to []string
	for _, l := range list {
		to = append(to, l.To)
		if l.Subject != "COU 1 is not being captured" || !strings.Contains(l.Text, "began at 11:15 in Hall") ||
			!strings.Contains(l.Text, "https://lectures.college.example/lectures/"+s.Lecture.String()+"/capture") {
			t.Errorf("%+v", l)
		}
	}
	slices.Sort(to)
	if !slices.Equal(to, []string{"coordinator@college.example", "lecturer@college.example"}) {
		t.Errorf("written to %v", to)
	}
	s.Must(s.SignIn.Speak(t.Context(), s.Coordinator, "de"))
	s.Do(`delete from reminder`)
	read := map[string]int{}
	s.Until(func() bool {
		var err error
		list, err = tray.Letters()
		s.Must(err)
		return len(list) == 4
	})
	for _, l := range list {
		read[l.Subject]++
	}
	if read["COU 1 is not being captured"] != 3 || read["COU 1 wird nicht aufgenommen"] != 1 {
		t.Errorf("they read %v", read)
	}
}
