package api_test

import (
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/planning"
	"latelantern/internal/api/sharing"
	"latelantern/internal/testhouse"
)

// TestWhoGivesLightToWhichCourse: a recording is given by who teaches its course, to courses that they teach; it is
// taken back by them, and from their own course by those to whom it was given, who learn of no other.
func TestWhoGivesLightToWhichCourse(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	e.everyone(true)
	third := uuid.Must(uuid.NewV7())
	e.Do(`insert into course (id, term_id, code, title) select $1, id, 'THI 3', 'A course' from term`, third)
	e.Do(`insert into membership (course_id, person_id, role) values ($1, $2, 'lecturer')`, third, e.Lecturer)
	body := func(lit bool, courses ...uuid.UUID) sharing.LightingText {
		return sharing.LightingText{Recordings: []uuid.UUID{id}, Courses: courses, Lit: &lit}
	}
	lecturer, colleague, coordinator := e.as("lecturer"), e.as("colleague"), e.as("coordinator")
	for _, path := range []string{"/api/lighting/preview", "/api/lighting"} {
		if s := lecturer.status(http.MethodPost, path, body(true, e.Course, e.Other)); s != http.StatusForbidden {
			t.Errorf("%s: given to a course of others: %d", path, s)
		}
		if s := lecturer.status(http.MethodPost, path, body(true, e.Course, uuid.New())); s != http.StatusForbidden {
			t.Errorf("%s: given to a course that is not there: %d", path, s)
		}
		for _, lit := range []bool{true, false} {
			if s := colleague.status(http.MethodPost, path, body(lit, e.Other)); s != http.StatusNotFound {
				t.Errorf("%s: a recording of others is there: %d", path, s)
			}
		}
	}
	said := post[sharing.LightingPreview](lecturer, "/api/lighting/preview", body(true, e.Course, third))
	if !slices.Equal(said.Gain, []string{"second", "student", "third"}) || len(said.Cells) != 2 ||
		said.Cells[0].Then != 3 || said.Cells[1].Of != 0 {
		t.Errorf("said is %+v", said)
	}
	step := post[sharing.LightingStep](lecturer, "/api/lighting", body(true, e.Course, third))
	post[sharing.LightingStep](coordinator, "/api/lighting", body(true, e.Other))
	undo := "/api/lighting/" + step.Step.String() + "/undo"
	if s := colleague.status(http.MethodPost, undo, nil); s != http.StatusNotFound {
		t.Errorf("someone else's step: %d", s)
	}
	// Now the colleague has it, and knows of their own course alone.
	said = post[sharing.LightingPreview](colleague, "/api/lighting/preview", body(false, e.Other))
	if len(said.Cells) != 1 || said.Cells[0].Course != e.Other || !said.Cells[0].Lit {
		t.Errorf("a colleague is told %+v", said)
	}
	if s := colleague.status(http.MethodPost, "/api/lighting",
		body(false, e.Other, e.Course)); s != http.StatusForbidden {
		t.Errorf("taken from a course of others: %d", s)
	}
	post[sharing.LightingStep](colleague, "/api/lighting", body(false, e.Other))
	if s := lecturer.status(http.MethodPost, "/api/lighting", body(false, e.Other)); s != http.StatusConflict {
		t.Errorf("dark already: %d", s)
	}
	if s := lecturer.status(http.MethodPost, undo, nil); s != http.StatusNoContent {
		t.Errorf("undone: %d", s)
	}
	if n := e.Count(`select count(*) from released where recording_id = $1 and lit`, id); n != 0 {
		t.Errorf("it gives light to %d courses", n)
	}
}

// TestWhoGivesARuleToMany: who teaches a course makes rules there, of what it has, and nobody else.
func TestWhoGivesARuleToMany(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	e.everyone(true)
	lecturer, colleague, coordinator := e.as("lecturer"), e.as("colleague"), e.as("coordinator")
	watch := &sharing.RuleText{Audience: "everyone", Groups: []string{}, Uses: []string{"watch"},
		WindowText: sharing.WindowText{From: "once", Until: "ever"}}
	body := func(rule *sharing.RuleText, own bool, courses ...uuid.UUID) sharing.LightingText {
		return sharing.LightingText{Recordings: []uuid.UUID{id}, Courses: append([]uuid.UUID{}, courses...), Own: own,
			Rule: rule, AsCourse: rule == nil}
	}
	rules := func(want int) {
		t.Helper()
		const own = `select count(*) from viewing_rule where recording_id = $1 and ended_at is null and uses = '{watch}'`
		if n := e.Count(own, id); n != want {
			t.Errorf("%d rules, want %d", n, want)
		}
	}
	for what, x := range map[string]struct {
		who  *caller
		body sharing.LightingText
		want int
	}{
		"in a course of others":             {lecturer, body(watch, true, e.Other), http.StatusForbidden},
		"of a recording of others":          {colleague, body(watch, false, e.Other), http.StatusNotFound},
		"of a recording of others, its own": {colleague, body(watch, true), http.StatusNotFound},
		"where the course does not have it": {coordinator, body(watch, false, e.Other), http.StatusConflict},
		"as it is already":                  {lecturer, body(nil, true), http.StatusConflict},
		"of a group that is nobody": {lecturer, body(&sharing.RuleText{Audience: "groups", Groups: []string{"Nobody"},
			Uses: []string{"watch"}, WindowText: watch.WindowText}, true), http.StatusUnprocessableEntity},
		"of nothing": {lecturer, sharing.LightingText{Recordings: []uuid.UUID{id}, Courses: []uuid.UUID{}, Own: true},
			http.StatusConflict},
	} {
		if s := x.who.status(http.MethodPost, "/api/lighting", x.body); s != x.want {
			t.Errorf("%s: %d, want %d", what, s, x.want)
		}
	}
	rules(0)
	given := body(watch, true)
	given.Lit = new(true)
	said := post[sharing.LightingPreview](lecturer, "/api/lighting/preview", given)
	if len(said.Cells) != 1 || !said.Cells[0].Asked || !said.Cells[0].Changes || said.Cells[0].Then != 3 {
		t.Errorf("said is %+v", said)
	}
	step := post[sharing.LightingStep](lecturer, "/api/lighting", given)
	rules(1)
	post[sharing.LightingStep](coordinator, "/api/lighting", sharing.LightingText{Recordings: []uuid.UUID{id},
		Courses: []uuid.UUID{e.Other}, Lit: new(true)})
	post[sharing.LightingStep](colleague, "/api/lighting", body(watch, false, e.Other))
	rules(2)
	undo := "/api/lighting/" + step.Step.String() + "/undo"
	if s := lecturer.status(http.MethodPost, undo, nil); s != http.StatusNoContent {
		t.Errorf("undone: %d", s)
	}
	rules(1) // that of the colleague stays
	if n := e.Count(`select count(*) from released where recording_id = $1 and lit`, id); n != 1 {
		t.Errorf("it gives light to %d courses", n)
	}
}

// TestLightAtAnHour: it is kept with its hour, seen by those who teach the course and by nobody else, and taken back by
// whoever asked for it; an hour that has passed is said at its field.
func TestLightAtAnHour(t *testing.T) {
	e := newEdge(t, true)
	e.everyone(true)
	stopped := testhouse.Now
	id := e.Bare(e.Lecture, true, &stopped)
	lecturer, colleague, coordinator := e.as("lecturer"), e.as("colleague"), e.as("coordinator")
	e.Do(`insert into membership (course_id, person_id, role) values ($1, $2, 'assistant')`, e.Other, e.Lecturer)
	body := func(after time.Duration) sharing.LightingText {
		return sharing.LightingText{Recordings: []uuid.UUID{id}, Courses: []uuid.UUID{e.Course, e.Other},
			Lit: new(true), Tell: true, At: new(testhouse.Now.Add(after))}
	}
	status, text := lecturer.send(http.MethodPost, "/api/lighting", body(-time.Hour))
	if status != http.StatusUnprocessableEntity || !strings.Contains(text, `"location":"at"`) {
		t.Errorf("an hour that has passed: %d %s", status, text)
	}
	step := post[sharing.LightingStep](lecturer, "/api/lighting", body(time.Hour))
	planned := func(c *caller) []sharing.PlannedStep {
		return get[sharing.PlannedSteps](c, "/api/lighting/planned").Steps
	}
	for who, c := range map[string]*caller{"lecturer": lecturer, "coordinator": coordinator} {
		list := planned(c)
		if len(list) != 1 || list[0].Step != step.Step || !list[0].Mine || list[0].First == "" || !list[0].Tell ||
			!slices.Equal(list[0].Courses, []string{"COU 1", "OTH 2"}) ||
			!slices.Equal(list[0].Recordings, []uuid.UUID{id}) {
			t.Errorf("%s sees %+v", who, list)
		}
	}
	if list := planned(colleague); len(list) != 0 {
		t.Errorf("who teaches the other course alone sees %+v", list)
	}
	if n := e.Count(`select count(*) from released where lit`); n != 0 {
		t.Errorf("%d are lit before the hour", n)
	}
	undo := "/api/lighting/" + step.Step.String() + "/undo"
	if s := colleague.status(http.MethodPost, undo, nil); s != http.StatusNotFound {
		t.Errorf("a colleague takes it back: %d", s)
	}
	if s := lecturer.status(http.MethodPost, undo, nil); s >= 300 || len(planned(lecturer)) != 0 {
		t.Errorf("taken back: %d", s)
	}
}

// TestTheRecordingsOfChosenLectures are those of lectures of one's courses; of others nothing is said.
func TestTheRecordingsOfChosenLectures(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	ask := map[string]any{"lectures": []uuid.UUID{e.Lecture, e.Later, uuid.New()}}
	for name, want := range map[string]int{"lecturer": 1, "coordinator": 1, "colleague": 0} {
		got := post[[]planning.Chosen](e.as(name), "/api/board/recordings", ask)
		if len(got) != want || want == 1 && (got[0].Recording != id || got[0].Title == "") {
			t.Errorf("to the %s it says %+v", name, got)
		}
	}
	many := slices.Repeat([]uuid.UUID{e.Lecture}, 201)
	if s := e.as("lecturer").status(http.MethodPost, "/api/board/recordings",
		map[string]any{"lectures": many}); s != http.StatusUnprocessableEntity {
		t.Errorf("more than go in one step: %d", s)
	}
}
