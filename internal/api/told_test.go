package api_test

import (
	"net/http"
	"testing"

	"github.com/google/uuid"

	"latelantern/internal/api/planning"
	"latelantern/internal/api/telling"
	"latelantern/internal/testhouse"
)

// TestTheLastStepIsToTell: what students can watch waits until they are told of it, or somebody says that they need not
// be; what nobody can watch does not, nor what is told once they can.
func TestTheLastStepIsToTell(t *testing.T) {
	e := newEdge(t, true)
	stopped := testhouse.Now
	id := e.Bare(e.Lecture, true, &stopped)
	e.titled(map[uuid.UUID]string{id: "Ropes"})
	e.Do(`update track set state = 'ready', packed_ms = 60000`)
	e.Do(`insert into cut_list (id, recording_id, struck, made_at) values ($1, $2, '{}', $3)`, uuid.New(), id,
		testhouse.Now)
	e.Do(`insert into recording_cuts (recording_id, cut_list_id) select recording_id, id from cut_list`)
	e.Do(`update edition set cut_list_id = (select id from cut_list)`)
	c := e.as("lecturer")
	course := "/api/courses/" + e.Course.String()
	c.status(http.MethodPost, course+"/playlist/recordings", map[string]any{"recordings": []uuid.UUID{id}})
	e.LightRow(id, e.Course, nil)
	next := func() string {
		for _, row := range get[planning.Board](c, "/api/board").Courses {
			for _, l := range row.Lectures {
				if l.ID == e.Lecture {
					return l.Next
				}
			}
		}
		return "no such lecture"
	}
	want := func(when, step string) {
		t.Helper()
		if got := next(); got != step {
			t.Errorf("%s it waits for %q, want %q", when, got, step)
		}
	}
	want("without a rule", "rule")
	silent := func(yes bool) {
		if s := c.status(http.MethodPut, course+"/news/silent",
			map[string]any{"recordings": []uuid.UUID{id}, "silent": yes}); s >= 300 {
			t.Fatalf("silent %v: %d", yes, s)
		}
	}
	e.everyone(false)
	want("open, and nobody was told,", "tell")
	needs := get[planning.Board](c, "/api/board").Needs
	if len(needs) == 0 || needs[len(needs)-1].Kind != "tell" {
		t.Errorf("the board says %+v", needs)
	}
	silent(true)
	want("when nobody needs to be told", "")
	list := get[telling.NewsPage](c, course+"/news").Recordings
	if len(list) != 1 || !list[0].Silent || list[0].New == 0 {
		t.Errorf("the course could tell of %+v", list)
	}
	silent(false)
	want("when they are to be told after all", "tell")
	e.Do(`update lighting set darkened_at = $1`, testhouse.Now)
	want("darkened", "light")
	e.Do(`update lighting set darkened_at = null`)
	if s := c.status(http.MethodPost, course+"/news", map[string]any{"recordings": []uuid.UUID{id}}); s >= 300 {
		t.Fatalf("told: %d", s)
	}
	want("told", "")
	// A colleague cannot say so for a course of others; of what the course does not have nothing is kept.
	if s := e.as("colleague").status(http.MethodPut, course+"/news/silent",
		map[string]any{"recordings": []uuid.UUID{id}, "silent": true}); s != http.StatusForbidden {
		t.Errorf("a colleague: %d", s)
	}
	other := e.Bare(e.Elsewhere, true, &stopped)
	c.status(http.MethodPut, course+"/news/silent", map[string]any{"recordings": []uuid.UUID{other}, "silent": true})
	if n := e.Count(`select count(*) from news_silent`); n != 0 {
		t.Errorf("%d are silent", n)
	}
}
