package api_test

import (
	"context"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/page"
	"latelantern/internal/api/watching"
	"latelantern/internal/core/span"
	"latelantern/internal/cuts"
	"latelantern/internal/testhouse"
)

// litTalk is a talk of 40 s, lit for the course and in its playlist; its first seven, the still hall, are struck.
func (e *house) litTalk() uuid.UUID {
	e.T.Helper()
	ctx := context.Background()
	id := e.Talk()
	e.Measured(id)
	e.Must(e.Cuts.Change(ctx, id, e.Lecturer, cuts.Strike, span.Span{End: 7 * time.Second}))
	e.everyone(false)
	e.Lit(id)
	return id
}

// lineOf is a recording on somebody's catch-up page.
func (c *caller) lineOf(recording uuid.UUID) (watching.CatchUp, watching.CatchUpLine) {
	c.e.T.Helper()
	all := get[watching.CatchUp](c, "/api/catch-up")
	for _, k := range all.Courses {
		for _, l := range k.Lists {
			for _, x := range l.Entries {
				if x.RecordingID != nil && *x.RecordingID == recording {
					return all, x
				}
			}
		}
	}
	c.e.T.Fatalf("the recording is not on their page: %+v", all)
	return all, watching.CatchUpLine{}
}

func spansText(s []page.Span) string {
	out := []string{}
	for _, x := range s {
		out = append(out, fmt.Sprintf("%d-%d", x.Start/1000, (x.End+500)/1000))
	}
	return strings.Join(out, " ")
}

// TestCatchingUp follows one student: what they miss is all of it at first, then less as they watch, and nothing once
// they watched it or say that they know it. Nobody else's is touched, and a new cut names nothing anew.
func TestCatchingUp(t *testing.T) {
	e := newEdge(t)
	id := e.litTalk()
	student := e.as("student")
	watch := "/api/watch/" + id.String()
	edition := get[watching.Watch](student, watch).Edition
	wants := func(what, missed string, left int) {
		t.Helper()
		all, line := student.lineOf(id)
		if got := spansText(line.Account.Missed); got != missed || (all.Left.First != nil) != (left > 0) ||
			all.Left.Lectures != min(1, left) || (all.Left.MissedMs+500)/1000 != int64(left) {
			t.Errorf("%s: missed %q, in all %+v, want %q", what, got, all.Left, missed)
		}
		if left > 0 && (all.Left.First.RecordingID != id || all.Left.First.Course != "COU 1") {
			t.Errorf("%s: they go on with %+v", what, all.Left.First)
		}
	}
	tell := func(of uuid.UUID, at int, played ...page.Span) {
		t.Helper()
		if s := student.status(http.MethodPut, watch+"/place", map[string]any{"edition": of, "at": at,
			"played": played, "took_ms": 1000}); s >= 300 {
			t.Fatalf("tell what played: %d", s)
		}
	}
	wants("at first", "0-33", 33)
	tell(edition, 12_000, page.Span{End: 12_000})
	wants("after twelve seconds", "12-33", 21)
	if x := get[watching.Watch](student, watch); x.ResumeMs != 12_000 || spansText(x.Account.Watched) != "0-12" {
		t.Errorf("the watch page: %d, %+v", x.ResumeMs, x.Account)
	}
	plan := get[watching.LeftPlan](student, "/api/catch-up/plan?minutes=1")
	if len(plan.Steps) != 1 || plan.Steps[0].StartMs != 12_000 || !plan.Steps[0].Whole || plan.AfterMs != 0 {
		t.Errorf("what fits into a minute: %+v", plan)
	}
	if s := student.status(http.MethodGet, "/api/catch-up/plan?minutes=0", nil); s != http.StatusUnprocessableEntity {
		t.Errorf("a plan for no time: %d", s)
	}
	if s := student.status(http.MethodGet, "/api/catch-up?order=size", nil); s != http.StatusUnprocessableEntity {
		t.Errorf("an order that there is not: %d", s)
	}
	// Another edition has less; a page that still plays the one before tells its own times.
	e.Must(e.Cuts.Change(context.Background(), id, e.Lecturer, cuts.Strike,
		span.Span{Start: 17 * time.Second, End: 29 * time.Second}))
	e.Lit(id)
	wants("without the break", "10-21", 11)
	tell(edition, 30_000, page.Span{Start: 25_000, End: 33_000})
	wants("what another edition played", "", 0)
	if second := e.second(id); spansText(second.Account.Missed) != "0-21" || len(second.Account.Watched) != 0 {
		t.Errorf("another student: %+v", second.Account)
	}
}

// second is how the second student finds a recording.
func (e *house) second(id uuid.UUID) watching.CatchUpLine {
	_, line := e.as("second").lineOf(id)
	return line
}

// TestWhatOneSaysToKnow is not missed by who says it, until they take it back.
func TestWhatOneSaysToKnow(t *testing.T) {
	e := newEdge(t)
	id := e.litTalk()
	student, known := e.as("student"), "/api/watch/"+id.String()+"/known"
	for _, says := range []bool{true, false} {
		if s := student.status(http.MethodPut, known, map[string]bool{"known": says}); s >= 300 {
			t.Fatalf("say that one knows it, %v: %d", says, s)
		}
		all, line := student.lineOf(id)
		if line.Account.Known != says || (line.Account.MissedMs == 0) != says || (all.Left.Lectures == 0) != says {
			t.Errorf("who says %v: %+v, %+v", says, line.Account, all.Left)
		}
		if x := e.second(id); x.Account.Known || x.Account.MissedMs == 0 {
			t.Errorf("another student: %+v", x.Account)
		}
	}
}

// TestWhatStandsOnItsPictures is shown to who may watch, as far as it was not struck, and where nobody speaks is told.
func TestWhatStandsOnItsPictures(t *testing.T) {
	e := newEdge(t)
	id := e.litTalk()
	student := e.as("student")
	x := get[watching.Watch](student, "/api/watch/"+id.String())
	var at []int64
	for _, s := range x.Slides {
		at = append(at, (s.At+500)/1000)
		if status := student.status(http.MethodGet, s.Picture, nil); status != http.StatusOK {
			t.Errorf("the picture at %d: %d", s.At, status)
		}
		if status := e.as("second").status(http.MethodGet, s.Picture, nil); status != http.StatusNotFound {
			t.Errorf("with the address of another: %d", status)
		}
	}
	if !slices.Equal(at, []int64{0, 10, 22}) {
		t.Errorf("slides at %v", at)
	}
	struck := e.Measured(id).Slides[0]
	if struck.AtMs != 0 {
		t.Fatalf("what is struck shows %+v", struck)
	}
	address := x.Slides[0].Picture[:strings.Index(x.Slides[0].Picture, "slides/")] +
		fmt.Sprintf("slides/%s-%d.jpg", struck.Track, struck.Picture)
	if status := student.status(http.MethodGet, address, nil); status != http.StatusNotFound {
		t.Errorf("a slide that was struck: %d", status)
	}
	if len(x.Silences) == 0 || x.Silences[0].Start < 9_000 || x.Silences[0].End > 23_000 {
		t.Errorf("silences: %+v", x.Silences)
	}
	if _, line := student.lineOf(id); line.Picture != x.Slides[0].Picture {
		t.Errorf("its small picture is %q", line.Picture)
	}
}

// TestHowAClassCaughtUp is told those who teach it, by nobody's name, and nothing of a few.
func TestHowAClassCaughtUp(t *testing.T) {
	e := newEdge(t)
	id := e.litTalk()
	lecturer := e.as("lecturer")
	at := "/api/courses/" + e.Course.String()
	list := func() watching.CaughtUp {
		t.Helper()
		all := get[watching.CaughtUpList](lecturer, at+"/caught-up").Recordings
		if len(all) != 1 || all[0].Recording != id {
			t.Fatalf("%+v", all)
		}
		return all[0]
	}
	one := func() watching.WatchedCurve {
		t.Helper()
		return get[watching.WatchedCurve](lecturer, at+"/recordings/"+id.String()+"/caught-up")
	}
	students := list().Students
	if x := list(); students < 3 || x.There != 0 || !x.Told || x.Done != 0 || x.Begun != 0 {
		t.Errorf("at first: %+v", x)
	}
	play := func(name string, until int, times int) {
		t.Helper()
		student := e.as(name)
		watch := "/api/watch/" + id.String()
		for range times {
			if s := student.status(http.MethodPut, watch+"/place", map[string]any{
				"edition": get[watching.Watch](student, watch).Edition, "at": until, "took_ms": until,
				"played": []page.Span{{End: int64(until)}}}); s >= 300 {
				t.Fatalf("tell what played: %d", s)
			}
		}
	}
	play("student", 33_000, 1)
	play("second", 12_000, 1)
	if x := list(); x.Done != 1 || x.Begun != 1 || x.Students != students {
		t.Errorf("one saw all, and one has begun: %+v", x)
	}
	if x := one(); x.CaughtUp != list() || slices.Max(x.People) > 0 || slices.Max(x.Again) > 0 || x.LengthMs < 39_000 ||
		x.BinMs != 10_000 || len(x.People) != 4 && len(x.People) != 5 || len(x.Again) != len(x.People) {
		t.Errorf("what two watched is told: %+v", x)
	}
	play("third", 33_000, 3)
	play("student", 33_000, 2)
	if x := one(); x.Done != 2 || x.People[1] != 3 || slices.Max(x.People[2:]) != 0 || x.Again[1] < 3 ||
		slices.Max(x.Again[2:]) != 0 {
		t.Errorf("what three began to watch, and two watched again: %+v", x)
	}
	play("second", 33_000, 1)
	if x := one(); x.Done != 3 || x.People[2] != 3 || x.Again[2] < 3 {
		t.Errorf("what three watched, two of them again: %+v", x)
	}
	// Where hardly anyone was away, nothing is told of those who were.
	e.Do(`delete from membership where course_id = $1 and role = 'student' and person_id not in ($2, $3)`, e.Course,
		e.Student, e.Second)
	if x := list(); x.Told || x.Done != 0 || x.Students != 2 {
		t.Errorf("of two: %+v", x)
	}
	e.Do(`update lighting set darkened_at = now()`)
	if all := get[watching.CaughtUpList](lecturer, at+"/caught-up").Recordings; len(all) != 0 {
		t.Errorf("of what nobody can watch: %+v", all)
	}
	if s := lecturer.status(http.MethodGet, at+"/recordings/"+id.String()+"/caught-up", nil); s != http.StatusNotFound {
		t.Errorf("of what nobody can watch: %d", s)
	}
}

// TestWhoFollowsBehind: who came late and follows a lecture from its start has what played for them, also when it is
// told after the lecture was lit.
func TestWhoFollowsBehind(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	e.everyone(false)
	e.Do(`update capture set source = 'desk', stopped_at = null, started_at = $1`, testhouse.Now.Add(-time.Minute))
	student := e.as("student")
	place := "/api/watch/" + id.String() + "/place"
	tell := func(c *caller, start, end int) int {
		return c.status(http.MethodPut, place, map[string]any{"edition": uuid.Nil, "at": end, "took_ms": end - start,
			"played": []map[string]int{{"start": start, "end": end}}})
	}
	watched := func() int {
		return e.Count(`select coalesce(sum(upper(r) - lower(r)), 0) from watched w cross join unnest(w.ranges) r
			where person_id = $1`, e.Student)
	}
	if s := student.status(http.MethodPost, "/api/lectures/"+e.Lecture.String()+"/seen-notice", nil); s >= 300 {
		t.Fatalf("they see that it is captured: %d", s)
	}
	if s := tell(student, 0, 1500); s >= 300 || watched() != 1500 {
		t.Errorf("while it goes on: %d, %d ms", s, watched())
	}
	if s := tell(e.as("outsider"), 0, 1500); s != http.StatusForbidden {
		t.Errorf("an outsider tells of it: %d", s)
	}
	e.Do(`update capture set stopped_at = $1`, testhouse.Now)
	if s := tell(student, 1500, 2500); s >= 300 || watched() != 2500 {
		t.Errorf("once it is over, as long as it plays for them: %d, %d ms", s, watched())
	}
	// Who teaches looks at what was captured: that is no lecture that one catches up.
	if s := tell(e.as("lecturer"), 0, 1500); s >= 300 || e.Count(`select count(*) from watched`) != 1 {
		t.Errorf("who teaches: %d, %d have watched", s, e.Count(`select count(*) from watched`))
	}
	e.Lit(id)
	if s := tell(student, 2500, 3500); s >= 300 || watched() != 3500 {
		t.Errorf("once it is lit: %d, %d ms", s, watched())
	}
}
