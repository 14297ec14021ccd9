package api_test

import (
	"net/http"
	"slices"
	"testing"

	"github.com/google/uuid"

	"latelantern/internal/api/live"
	"latelantern/internal/core/doorway"
)

// TestWhoElseFollows: nobody's name is seen until the course lets names be seen, and then by those of it who can come
// in, of those who are there.
func TestWhoElseFollows(t *testing.T) {
	e := newEdge(t, true)
	ctx := t.Context()
	address := "/api/lectures/" + e.Lecture.String() + "/who-else"
	e.Must(e.Presence.Played(ctx, e.Student, e.Lecture), e.Presence.Played(ctx, e.Second, e.Lecture),
		e.Presence.Played(ctx, e.Lecturer, e.Lecture))
	student, guest := e.as("student"), func() *caller { c, _ := e.guest(doorway.Listener); return c }()
	sees := func(who string, c *caller, seen bool, names ...string) {
		t.Helper()
		if got := get[live.WhoElse](c, address); got.Seen != seen || !slices.Equal(got.Names, names) {
			t.Errorf("%s sees %+v, want %v %q", who, got, seen, names)
		}
	}
	sees("a student, with nothing said", student, false)
	if status := student.status(http.MethodPut, "/api/courses/"+e.Course.String()+"/names-seen",
		map[string]bool{"seen": true}); status != http.StatusForbidden {
		t.Errorf("a student lets names be seen: %d", status)
	}
	e.as("lecturer").status(http.MethodPut, "/api/courses/"+e.Course.String()+"/names-seen", map[string]bool{"seen": true})
	of := func(id uuid.UUID) string {
		p, err := e.Roster.Person(ctx, id)
		e.Must(err)
		return p.Name
	}
	both := []string{of(e.Student), of(e.Second)}
	slices.Sort(both)
	sees("a student", student, true, both...)
	sees("who teaches", e.as("lecturer"), true, both...)
	sees("a guest", guest, false)
	if status := e.as("outsider").status(http.MethodGet, address, nil); status != http.StatusNotFound &&
		status != http.StatusForbidden {
		t.Errorf("an outsider is answered %d", status)
	}
	e.Must(e.Door.Answer(ctx, e.Lecture, e.Second, e.Lecturer, false, ""))
	sees("a student, once another was sent out", student, true, of(e.Student))
	if status := e.as("second").status(http.MethodGet, address, nil); status != http.StatusForbidden {
		t.Errorf("who was sent out is answered %d", status)
	}
}
