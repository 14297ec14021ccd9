package api_test

import (
	"net/http"
	"strings"
	"testing"

	"latelantern/internal/api/sharing"
	"latelantern/internal/testhouse"
)

// TestWhatAPlaylistLacks: of the lectures that took place those without a recording in it, each with its reason, and
// never one that could be put there as it is.
func TestWhatAPlaylistLacks(t *testing.T) {
	e := newEdge(t)
	c := e.as("lecturer")
	list := "/api/courses/" + e.Course.String() + "/playlist"
	weeks := func(n int) int { return -7 * n }
	nobody := e.AddLecture(e.Course, testhouse.Now.AddDate(0, 0, weeks(3)), "Nobody came")
	off := e.AddLecture(e.Course, testhouse.Now.AddDate(0, 0, weeks(2)), "Called off")
	e.Do(`update lecture set called_off_at = $2 where id = $1`, off, testhouse.Now)
	film := e.shortFilm()
	gone, _ := e.File(e.AddLecture(e.Course, testhouse.Now.AddDate(0, 0, weeks(1)), "In the bin"), film)
	waits := e.recording() // of a lecture that is under way
	said := func(p sharing.PlaylistPage) string {
		var out []string
		for _, g := range p.Gaps {
			out = append(out, g.Topic+" "+g.Why+" "+g.Next)
		}
		return strings.Join(out, ", ")
	}
	want := func(when, gaps string, here, took, waiting int) sharing.PlaylistPage {
		t.Helper()
		p := get[sharing.PlaylistPage](c, list)
		if said(p) != gaps || p.Here != here || p.Took != took || len(p.Waiting) != waiting {
			t.Errorf("%s it lacks %s, %d of %d are here, %d wait", when, said(p), p.Here, p.Took, len(p.Waiting))
		}
		return p
	}
	e.Settled(gone)
	e.Must(e.Library.SetDeleted(t.Context(), gone, e.Lecturer, true))
	p := want("at first", "Nobody came not_captured , In the bin bin , Today waits trim", 0, 3, 0)
	if p.Gaps[0].Lecture != nobody || p.Gaps[0].Recording != nil || p.Gaps[1].Recording == nil ||
		*p.Gaps[1].Recording != gone || *p.Gaps[2].Recording != waits || p.Gaps[2].Week != 4 {
		t.Errorf("they are %+v", p.Gaps)
	}
	if s := c.status(http.MethodPost, "/api/recordings/"+gone.String()+"/bring-back", nil); s >= 300 {
		t.Fatalf("bring back: %d", s)
	}
	want("brought back", "Nobody came not_captured , In the bin waits trim, Today waits trim", 0, 3, 0)
	e.everyone(false)
	at := "/api/recordings/" + waits.String()
	strike := map[string]any{"cut": "strike", "start": 1000, "end": 2000}
	if s := c.status(http.MethodPost, at+"/cuts", strike); s >= 300 {
		t.Fatalf("strike: %d", s)
	}
	if s := c.status(http.MethodPut, at+"/title", map[string]string{"title": "Springs"}); s >= 300 {
		t.Fatalf("title: %d", s)
	}
	want("ready", "Nobody came not_captured , In the bin waits trim", 0, 3, 1)
	add := map[string][]string{"recordings": {waits.String()}}
	if s := c.status(http.MethodPost, list+"/recordings", add); s >= 300 {
		t.Fatalf("list: %d", s)
	}
	want("there", "Nobody came not_captured , In the bin waits trim", 1, 3, 0)
}
