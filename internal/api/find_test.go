package api_test

import (
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"testing"

	"latelantern/internal/api/planning"
	"latelantern/internal/testhouse"
)

// finds is what someone finds by words: of each line its kind and name, the best first.
func (c *caller) finds(words string) []string {
	out := []string{}
	for _, x := range get[planning.FoundList](c, "/api/find?words="+url.QueryEscape(words)).Found {
		out = append(out, x.Kind+" "+x.Name)
	}
	return out
}

// TestWhatIsFoundIsOnesOwn: everyone finds what they may know of, by parts of its names, whatever the case and the
// accents, and of nothing else a line.
func TestWhatIsFoundIsOnesOwn(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	e.Do(`update recording set title = 'Løvely Tïdes' where id = $1`, id)
	e.Do(`update lecture set topic = 'Moons' where id = $1`, e.Lecture)
	e.Do(`update course set title = 'Tides and moons' where id = $1`, e.Course)
	e.Do(`insert into hall (id, name) values (gen_random_uuid(), 'Moon Hall')`)
	asks := func(name, words string, want ...string) {
		t.Helper()
		if got := e.as(name).finds(words); !slices.Equal(got, want) {
			t.Errorf("%s finds by %q %q, want %q", name, words, got, want)
		}
	}
	for _, name := range []string{"lecturer", "coordinator"} {
		asks(name, "TIDES", "course Tides and moons", "recording Løvely Tïdes")
		asks(name, "tide lovely", "recording Løvely Tïdes")
		asks(name, "cou 1 ove", "recording Løvely Tïdes")
		asks(name, "moon", "hall Moon Hall", "course Tides and moons", "recording Løvely Tïdes")
	}
	asks("coordinator", "OUTSIDER", "person outsider")
	asks("lecturer", "outsider") // of another course
	asks("lecturer", "second@coll", "person second")
	asks("student", "second@coll")
	asks("student", "hall")
	// Nothing is lit: of the lecture it is known that it takes place, and by no word of the recording.
	asks("student", "moons", "course Tides and moons", "lecture Moons")
	asks("student", "lovely")
	e.everyone(true)
	e.Lit(id)
	asks("student", "lovely", "recording Løvely Tïdes")
	asks("student", "moons", "course Tides and moons", "recording Løvely Tïdes")
	for _, name := range []string{"outsider", "colleague"} {
		for _, words := range []string{"tides", "moons", "lovely"} {
			asks(name, words)
		}
		asks(name, "cou", "course A course")
	}
	asks("colleague", "moon", "hall Moon Hall")
	for _, words := range []string{"", "  ", "%", "_", `\`, "' or 1=1", "lovely nothing"} {
		asks("coordinator", words)
	}
	if s := e.as("student").status(http.MethodGet, "/api/find?words="+strings.Repeat("x", 201), nil); s !=
		http.StatusUnprocessableEntity {
		t.Errorf("more than a name: %d", s)
	}
}

// TestWhatOneMayNotKnowHidesNothing: a lecture is found behind any number of better ones of which one may not know, and
// those nearest in time come first.
func TestWhatOneMayNotKnowHidesNothing(t *testing.T) {
	e := newEdge(t, true)
	for i := range 100 {
		l := e.AddLecture(e.Course, testhouse.Now, fmt.Sprintf("Knots %d", i))
		e.Do(`update lecture set unplanned = true, ahead = true where id = $1`, l)
		e.Do(`insert into recording (id, lecture_id, title, created_at, origin_at)
			values (gen_random_uuid(), $1, 'Knots', now(), now())`, l)
	}
	e.AddLecture(e.Course, testhouse.Now.AddDate(0, 0, 30), "The last knots")
	e.AddLecture(e.Course, testhouse.Now.AddDate(0, 0, 10), "Other knots")
	if got := e.as("student").finds("knot"); !slices.Equal(got, []string{"lecture Other knots", "lecture The last knots"}) {
		t.Errorf("%q", got)
	}
	if got := e.as("lecturer").finds("knots"); len(got) != 6 || got[0] != "lecture Knots 0" {
		t.Errorf("who teaches finds %q", got)
	}
}
