package api_test

import (
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/planning"
	"latelantern/internal/core/timetable"
	"latelantern/internal/schedule"
	"latelantern/internal/testhouse"
)

// TestWhoCarriesACourse: who teaches a course carries it to another that they teach, with recordings of their own; who
// coordinates has one made, and alone takes that back; each learns only of courses that they teach.
func TestWhoCarriesACourse(t *testing.T) {
	e, ctx := newEdge(t, true), t.Context()
	first := time.Date(2027, 2, 1, 0, 0, 0, 0, time.UTC)
	next, err := e.Schedule.KeepTerm(ctx, uuid.Nil, schedule.TermForm{Name: "Lent", Zone: "UTC",
		Term: timetable.Term{First: first, Last: first.AddDate(0, 0, 60)}})
	e.Must(err)
	course := func(code string, teacher uuid.UUID) uuid.UUID {
		id, err := e.Schedule.KeepCourse(ctx, uuid.Nil, schedule.CourseForm{Term: next, Code: code, Title: code})
		e.Must(err)
		e.Do(`insert into membership (course_id, person_id, role) values ($1, $2, 'lecturer')`, id, teacher)
		return id
	}
	mine, theirs := course("COU 1", e.Lecturer), course("OTH 2", e.Colleague)
	stopped := testhouse.Now
	own, others := e.Bare(e.Lecture, true, &stopped), e.Bare(e.Elsewhere, true, &stopped)
	e.Do(`update track set state = 'ready', packed_ms = 60000`)
	for _, id := range []uuid.UUID{own, others} {
		e.LightRow(id, e.Course, nil)
	}
	c, colleague, coordinator := e.as("lecturer"), e.as("colleague"), e.as("coordinator")
	c.status(http.MethodPost, "/api/courses/"+e.Course.String()+"/playlist/recordings",
		map[string]any{"recordings": []uuid.UUID{own, others}})
	path := "/api/courses/" + e.Course.String() + "/carry"
	body := planning.CarryText{To: &mine, Plan: true, Lists: true, Again: true, Rule: true, Staff: true, Settings: true}

	choice := get[planning.CarryChoice](c, path)
	if choice.Makes || len(choice.Terms) != 1 || len(choice.Courses) != 1 || choice.Courses[0].ID != mine {
		t.Errorf("a lecturer chooses from %+v", choice)
	}
	refused := func(c *caller, body planning.CarryText, want int, says string) {
		t.Helper()
		for _, p := range []string{path + "/preview", path} {
			if status, text := c.send(http.MethodPost, p, body); status != want || !strings.Contains(text, says) {
				t.Errorf("%s: %d %s", p, status, text)
			}
		}
	}
	to := func(id uuid.UUID) planning.CarryText {
		b := body
		b.To = &id
		return b
	}
	made := body
	made.To, made.Term, made.Code, made.Title = nil, &next, "COU 9", "A course"
	refused(c, to(theirs), http.StatusForbidden, "not_staff")
	refused(c, to(uuid.New()), http.StatusForbidden, "not_staff")
	refused(c, made, http.StatusForbidden, "not_staff")
	refused(c, to(e.Course), http.StatusConflict, "carry.not_bare")
	refused(colleague, to(theirs), http.StatusForbidden, "not_staff")
	taken := made
	taken.Code = "cou 1"
	refused(coordinator, taken, http.StatusUnprocessableEntity, `"location":"code"`)
	again := taken
	again.Term = nil
	refused(coordinator, again, http.StatusNotFound, "")

	said := post[planning.CarrySaid](c, path+"/preview", body)
	if said.Recordings != 1 || said.Lit != 1 || said.Course != mine {
		t.Errorf("a lecturer is told %+v", said)
	}
	post[planning.CarrySaid](c, path, body)
	const lit = `select count(*) from released where course_id = $1 and lit and recording_id = $2`
	if n := e.Count(lit, mine, own); n != 1 {
		t.Error("their recording is not lit there")
	}
	if got := get[planning.CarryChoice](c, path).Carried; len(got) != 1 || got[0].ID != mine {
		t.Errorf("carried to %+v", got)
	}
	done := post[planning.CarrySaid](coordinator, path, made)
	if done.Recordings != 2 || done.Lit != 2 {
		t.Errorf("who coordinates carries %+v", done)
	}
	for _, who := range []*caller{c, coordinator} { // who teaches it teaches the one that was made
		if got := get[planning.CarryChoice](who, path); len(got.Carried) != 2 || got.Carried[0].Code != "COU 9" {
			t.Errorf("carried to %+v", got.Carried)
		}
	}
	undo := func(id uuid.UUID) string { return "/api/courses/" + id.String() + "/carry/undo" }
	if s := c.status(http.MethodPost, undo(done.Course), nil); s != http.StatusNotFound {
		t.Errorf("who does not coordinate takes back a course that was made: %d", s)
	}
	if s := colleague.status(http.MethodPost, undo(mine), nil); s != http.StatusForbidden {
		t.Errorf("a colleague takes it back: %d", s)
	}
	for id, c := range map[uuid.UUID]*caller{mine: c, done.Course: coordinator} {
		if s := c.status(http.MethodPost, undo(id), nil); s >= 300 {
			t.Errorf("taken back: %d", s)
		}
	}
	if n := e.Count(`select count(*) from released where lit`); n != 2 {
		t.Errorf("taken back, %d are lit", n)
	}
}
