package api_test

import (
	"encoding/json"
	"io"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/sharing"
	"latelantern/internal/api/watching"
	"latelantern/internal/audience"
	"latelantern/internal/playlists"
)

const aPDF = "%PDF-1.7\ntrailer << >>\n%%EOF\n"

// gives sends a file to a playlist of a course, the main one where list is "".
func (c *caller) gives(course uuid.UUID, list, name string, body io.Reader) (int, sharing.PlaylistPage, string) {
	c.e.T.Helper()
	answer := c.request(http.MethodPost, "/api/courses/"+course.String()+"/playlist/files?"+
		url.Values{"name": {name}, "list": {list}}.Encode(), body)
	defer answer.Body.Close()
	b, err := io.ReadAll(answer.Body)
	if err != nil {
		c.e.T.Fatal(err)
	}
	var out sharing.PlaylistPage
	if answer.StatusCode == http.StatusOK {
		if err := json.Unmarshal(b, &out); err != nil {
			c.e.T.Fatal(err)
		}
	}
	return answer.StatusCode, out, string(b)
}

// TestSlidesInAPlaylist: those of the course find and fetch them, as they came and never as a page, also in parts;
// strangers, who is shut out, and everyone once they are taken out do not.
func TestSlidesInAPlaylist(t *testing.T) {
	e := newEdge(t, true)
	c := e.as("lecturer")
	status, shown, text := c.gives(e.Course, "", "Week 1 – ebb.pdf", strings.NewReader(aPDF))
	if status != http.StatusOK || len(shown.Entries) != 1 || shown.Entries[0].File == nil ||
		shown.Entries[0].Title != "Week 1 – ebb" || shown.Entries[0].File.Bytes != int64(len(aPDF)) {
		t.Fatalf("sent: %d %s", status, text)
	}
	file := *shown.Entries[0].File
	at := "/api/courses/" + e.Course.String() + "/playlist/files/" + file.ID.String()
	sees := func() bool {
		for _, k := range get[watching.CatchUp](e.as("student"), "/api/catch-up").Courses {
			for _, l := range k.Lists {
				if slices.ContainsFunc(l.Entries, func(x watching.CatchUpLine) bool {
					return x.File != nil && *x.File == file
				}) {
					return true
				}
			}
		}
		return false
	}
	seenAs := func() bool { // as who teaches the course sees what the student does
		sight := get[watching.Sight](c, "/api/courses/"+e.Course.String()+"/sight?person="+e.Student.String())
		return len(sight.Lists) == 1 && len(sight.Lists[0].Entries) == 1 && sight.Lists[0].Entries[0].File != nil
	}
	if !sees() || !seenAs() {
		t.Errorf("a student finds it: %v, in the sight check: %v", sees(), seenAs())
	}

	answer := e.as("student").request(http.MethodGet, at, nil)
	b, err := io.ReadAll(answer.Body)
	h := answer.Header
	if err != nil || answer.StatusCode != http.StatusOK || string(b) != aPDF ||
		h.Get("Content-Type") != "application/octet-stream" || h.Get("X-Content-Type-Options") != "nosniff" ||
		!strings.HasPrefix(h.Get("Content-Disposition"), "attachment") || h.Get("Content-Encoding") != "" {
		t.Errorf("a student fetches %d %q with %v (%v)", answer.StatusCode, b, h, err)
	}
	answer = e.as("student").request(http.MethodGet, at, nil, "Range", "bytes=1-3")
	if b, _ := io.ReadAll(answer.Body); answer.StatusCode != http.StatusPartialContent || string(b) != "PDF" {
		t.Errorf("a part of it: %d %q", answer.StatusCode, b)
	}
	if got := e.as("student").request(http.MethodGet, at, nil, "If-None-Match", h.Get("ETag")); got.StatusCode != 304 {
		t.Errorf("fetched again: %d", got.StatusCode)
	}
	for who, want := range map[string]int{"": 401, "outsider": 403, "colleague": 403, "coordinator": 200,
		"lecturer": 200} {
		if got := e.as(who).request(http.MethodGet, at, nil).StatusCode; got != want {
			t.Errorf("%q gets %d, want %d", who, got, want)
		}
	}
	other := "/api/courses/" + e.Other.String() + "/playlist/files/" + file.ID.String()
	if got := e.as("coordinator").request(http.MethodGet, other, nil).StatusCode; got != http.StatusNotFound {
		t.Errorf("by a course that does not show it: %d", got)
	}

	// Who is shut out of the course does not get them, and does again when let in.
	ctx := t.Context()
	student := e.Student
	shut, err := e.Audience.ShutOut(ctx, e.Lecturer, audience.ShutForm{Scope: audience.Scope{Course: e.Course},
		Person: student})
	e.Must(err)
	if got := e.as("student").request(http.MethodGet, at, nil).StatusCode; got != http.StatusNotFound {
		t.Errorf("shut out: %d", got)
	}
	if sees() || seenAs() {
		t.Errorf("shut out a student finds it: %v, in the sight check: %v", sees(), seenAs())
	}
	e.Must(e.Audience.LetIn(ctx, e.Course, shut, e.Lecturer, false))
	if got := e.as("student").request(http.MethodGet, at, nil).StatusCode; got != http.StatusOK {
		t.Errorf("let in: %d", got)
	}

	// As a sheet the playlist says where it is.
	list := "/api/courses/" + e.Course.String() + "/playlist"
	if _, _, sheet := c.text(list + "/file?kind=csv"); !strings.Contains(sheet, at) {
		t.Errorf("as a sheet:\n%s", sheet)
	}
	out := map[string]any{"entries": []uuid.UUID{shown.Entries[0].ID}}
	if s := c.status(http.MethodPost, list+"/removals", out); s != 200 {
		t.Fatalf("taken out: %d", s)
	}
	if got := e.as("student").request(http.MethodGet, at, nil).StatusCode; got != http.StatusNotFound {
		t.Errorf("taken out it is there: %d", got)
	}
	back := map[string]any{"title": "Ebb"}
	if s := c.status(http.MethodPost, list+"/files/"+file.ID.String()+"/back", back); s != 200 {
		t.Errorf("put back: %d", s)
	}
	if got := e.as("student").request(http.MethodGet, at, nil).StatusCode; got != http.StatusOK {
		t.Errorf("put back it is not there: %d", got)
	}
}

// TestSlidesThatDoNotCome: what is no file, too large or into somebody else's playlist is said; of what breaks off
// nothing is kept, and a file is not read at all of those who may not send one.
func TestSlidesThatDoNotCome(t *testing.T) {
	e := newEdge(t, true)
	c := e.as("lecturer")
	theirs, err := e.Playlists.AddList(t.Context(), e.Other, e.Lecturer,
		playlists.Kept{Title: "Theirs", Arranged: "hand"})
	e.Must(err)
	e.Must(e.Playlists.Show(t.Context(), playlists.Of{Course: e.Course, List: theirs}, true))
	for name, x := range map[string]struct {
		list, body string
		want       int
		says       string
	}{
		"a page":                    {"", "<!doctype html><p>", 422, "playlist.file_kind"},
		"nothing":                   {"", "", 422, "playlist.file_empty"},
		"a playlist that it shows":  {theirs.String(), aPDF, 404, "playlist.unknown"},
		"a playlist that is none":   {"none", aPDF, 404, "playlist.unknown"},
		"one that is nowhere":       {uuid.NewString(), aPDF, 404, "playlist.unknown"},
		"its own, after all of it.": {"", aPDF, 200, ""},
	} {
		if status, _, text := c.gives(e.Course, x.list, "a.pdf", strings.NewReader(x.body)); status != x.want ||
			!strings.Contains(text, x.says) {
			t.Errorf("%s: %d %s", name, status, text)
		}
	}
	path := "/api/courses/" + e.Course.String() + "/playlist/files?name=a.pdf"
	for who, want := range map[string]int{"": 401, "student": 403, "colleague": 403} {
		status, conn := e.as(who).knock(http.MethodPost, path, 1<<20, aPDF)
		if status != want {
			t.Errorf("%q sends: %d, want %d", who, status, want)
		}
		e.Must(conn.Close())
	}
	if status, conn := c.knock(http.MethodPost, path, 1<<30, aPDF); status != http.StatusUnprocessableEntity {
		t.Errorf("a file of a gigabyte: %d", status)
	} else {
		e.Must(conn.Close())
	}
	_, conn := c.knock(http.MethodPost, path, 1<<20, aPDF) // and goes away
	e.Must(conn.Close())
	time.Sleep(200 * time.Millisecond)
	if n := e.Count(`select count(*) from playlist_file`); n != 1 {
		t.Errorf("%d files are kept, want 1", n)
	}
}
