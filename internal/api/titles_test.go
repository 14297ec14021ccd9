package api_test

import (
	"encoding/json"
	"net/http"
	"strings"
	"testing"

	"latelantern/internal/api/trimming"
)

// TestTitlesByAPattern: what is proposed is read first, given to many at once, and taken back; what
// someone else changed meanwhile, or a pattern that names what it does not know, changes nothing.
func TestTitlesByAPattern(t *testing.T) {
	e := newEdge(t)
	first := e.recording()
	second, _ := e.File(e.Later, e.shortFilm())
	e.Settled(second)
	c := e.as("lecturer")
	course := "course=" + e.Course.String()
	list := func(query string) trimming.Titles { return get[trimming.Titles](c, "/api/titles?"+query) }
	of := func(x trimming.Titles, id string) trimming.TitleLine {
		for _, l := range x.Lines {
			if l.Recording.String() == id {
				return l
			}
		}
		t.Fatalf("%s is not among %+v", id, x.Lines)
		return trimming.TitleLine{}
	}
	asked := list(course + "&pattern=" + "%7Bcourse%7D+week+%7Bweek%7D%3A+%7Bsubject%7D+%28%7Bdate%7D%29")
	if l := of(asked, second.String()); l.Proposed != "COU 1 week 5: Next week (Wed 21 Oct)" || l.Title != "" ||
		l.Shown != "COU 1, week 5 · Wed 21 Oct · Next week" {
		t.Errorf("tried: %+v", l)
	}
	if l := of(list(""), second.String()); l.Proposed != l.Shown {
		t.Errorf("only tried, and kept all the same: %+v", l)
	}
	refused := func(status int, says string, method, path string, body any) {
		t.Helper()
		if got, text := c.send(method, path, body); got != status || !strings.Contains(text, says) {
			t.Errorf("%s %s: %d %s", method, path, got, text)
		}
	}
	refused(http.StatusUnprocessableEntity, "knows no {weak}", http.MethodGet,
		"/api/titles?"+course+"&pattern=%7Bweak%7D", nil)
	pattern := "/api/courses/" + e.Course.String() + "/title-pattern"
	refused(http.StatusUnprocessableEntity, "without a }", http.MethodPut, pattern,
		map[string]string{"pattern": "{course"})
	if got, text := c.send(http.MethodPut, pattern,
		map[string]string{"pattern": "{course}: {subject}"}); got != http.StatusOK {
		t.Fatalf("%d %s", got, text)
	}
	if l := of(list(""), second.String()); l.Shown != "COU 1: Next week" || l.Proposed != l.Shown {
		t.Errorf("kept: %+v", l)
	}
	give := func(titles ...trimming.Retitle) map[string]any { return map[string]any{"titles": titles} }
	was := of(list(""), first.String()).Title
	changes := []trimming.Retitle{{Recording: first, Seen: was, Title: "  The first "},
		{Recording: second, Title: "The second"}}
	// One that was seen otherwise keeps all of them back.
	refused(http.StatusUnprocessableEntity, "Nothing was changed", http.MethodPost, "/api/titles",
		give(changes[0], trimming.Retitle{Recording: second, Seen: "Something else", Title: "x"}))
	refused(http.StatusUnprocessableEntity, "200 characters", http.MethodPost, "/api/titles",
		give(changes[0], trimming.Retitle{Recording: second, Title: strings.Repeat("x", 201)}))
	if l := of(list(""), first.String()); l.Title != was {
		t.Errorf("refused, and changed: %+v", l)
	}
	status, text := c.send(http.MethodPost, "/api/titles", give(changes...))
	var after trimming.Titles
	if status != http.StatusOK || json.Unmarshal([]byte(text), &after) != nil ||
		of(after, first.String()).Title != "The first" || of(after, second.String()).Title != "The second" {
		t.Fatalf("%d %s", status, text)
	}
	if b := get[trimming.Bench](c, "/api/recordings/"+second.String()); !b.Titled || b.Title != "The second" {
		t.Errorf("on the bench: %q %v", b.Title, b.Titled)
	}
	if status, text := c.send(http.MethodPost, "/api/titles",
		give(trimming.Retitle{Recording: second, Seen: "The second"})); status != http.StatusOK {
		t.Fatalf("taken back: %d %s", status, text)
	}
	if b := get[trimming.Bench](c, "/api/recordings/"+second.String()); b.Titled || b.Title != "COU 1: Next week" {
		t.Errorf("taken back: %q %v", b.Title, b.Titled)
	}
	// Who teaches another course changes nothing here.
	if status, _ := e.as("colleague").send(http.MethodPost, "/api/titles",
		give(trimming.Retitle{Recording: second, Title: "Theirs"})); status != http.StatusForbidden {
		t.Errorf("a colleague: %d", status)
	}
	about := "/api/recordings/" + first.String() + "/about"
	if status, text := c.send(http.MethodPut, about,
		map[string]any{"language": "de", "keywords": []string{" Ebbe ", "Flut", "ebbe", ""}}); status != http.StatusOK {
		t.Fatalf("%d %s", status, text)
	}
	if b := get[trimming.Bench](c, "/api/recordings/"+first.String()); b.Language != "de" ||
		strings.Join(b.Keywords, "|") != "Ebbe|Flut" {
		t.Errorf("about: %q %v", b.Language, b.Keywords)
	}
	refused(http.StatusUnprocessableEntity, "is no language", http.MethodPut, about,
		map[string]any{"language": "?", "keywords": []string{}})
}
