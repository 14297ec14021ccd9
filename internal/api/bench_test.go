package api_test

import (
	"encoding/json"
	"net/http"
	"strings"
	"testing"

	"latelantern/internal/api/page"
	"latelantern/internal/api/trimming"

	"github.com/google/uuid"
)

// cuts sends a change of the cut list and gives the bench.
func (c *caller) cuts(id uuid.UUID, change map[string]any) (int, trimming.Bench, string) {
	c.e.T.Helper()
	status, body := c.send(http.MethodPost, "/api/recordings/"+id.String()+"/cuts", change)
	var b trimming.Bench
	if status == http.StatusOK {
		c.e.Must(json.Unmarshal([]byte(body), &b))
	}
	return status, b, body
}

// TestTwoWhoTrimAtOnce: the last change does not silently win.
func TestTwoWhoTrimAtOnce(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	lecturer, coordinator := e.as("lecturer"), e.as("coordinator")
	seen := get[trimming.Bench](lecturer, "/api/recordings/"+id.String())
	if seen.Version != uuid.Nil {
		t.Fatalf("before the first change: %v", seen.Version)
	}
	strike := func(start, end int, from uuid.UUID) map[string]any {
		return map[string]any{"cut": "strike", "start": start, "end": end, "from": from}
	}
	_, first, _ := coordinator.cuts(id, strike(0, 500, uuid.Nil))
	status, _, body := lecturer.cuts(id, strike(3000, 3500, seen.Version))
	if p := problemOf(t, body); status != http.StatusConflict || p.Type != "urn:late-lantern:other_cut" ||
		!strings.Contains(body, "coordinator") {
		t.Fatalf("over another's change: %d %s", status, body)
	}
	if b := get[trimming.Bench](lecturer, "/api/recordings/"+id.String()); b.Version != first.Version ||
		len(b.Struck) != 1 {
		t.Errorf("something was changed all the same: %+v", b.Struck)
	}
	// Made knowingly it stands beside the other's.
	status, both, _ := lecturer.cuts(id, map[string]any{"cut": "strike", "start": 3000, "end": 3500})
	if status != http.StatusOK || len(both.Struck) != 2 {
		t.Errorf("made as well: %d %+v", status, both.Struck)
	}
	// Of one's own changes that follow each other quickly the second is no conflict.
	if status, _, body := lecturer.cuts(id, strike(2000, 2300, seen.Version)); status != http.StatusOK {
		t.Errorf("over one's own: %d %s", status, body)
	}
}

// TestEdgesMove by a picture, and to where nothing is heard.
func TestEdgesMove(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	c := e.as("lecturer")
	c.cuts(id, map[string]any{"cut": "strike", "start": 1000, "end": 2000})
	status, b, body := c.cuts(id, map[string]any{"cut": "move", "start": 2000, "end": 2040})
	if status != http.StatusOK || b.Struck[0] != (page.Span{Start: 1000, End: 2040}) {
		t.Errorf("by a picture: %d %s", status, body)
	}
	if status, _, body := c.cuts(id,
		map[string]any{"cut": "move", "start": 1500, "end": 1600}); status != http.StatusConflict ||
		!strings.Contains(body, "urn:late-lantern:cut.no_edge") {
		t.Errorf("where no edge is: %d %s", status, body)
	}
	// The film clicks twice a second, and is silent between.
	if status, b, body := c.cuts(id,
		map[string]any{"cut": "silence", "start": 1000}); status != http.StatusOK || b.Struck[0].Start == 1000 ||
		b.Struck[0].Start < 700 || b.Struck[0].Start > 1300 {
		t.Errorf("to silence: %d %s", status, body)
	}
	if _, b, _ := c.cuts(id, map[string]any{"cut": "undo"}); b.Struck[0].Start != 1000 {
		t.Errorf("undone: %+v", b.Struck)
	}
}

// TestACutListGoesOutAndComesIn as a timeline; what is of another recording, or broken, is refused
// and changes nothing.
func TestACutListGoesOutAndComesIn(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	other, _ := e.File(e.Lecture, e.shortFilm())
	e.Settled(other)
	c := e.as("lecturer")
	c.cuts(id, map[string]any{"cut": "strike", "start": 1000, "end": 2000})
	out := func(of uuid.UUID) string {
		answer := c.request(http.MethodGet, "/api/recordings/"+of.String()+"/timeline.otio", nil)
		defer answer.Body.Close()
		var x map[string]any
		e.Must(json.NewDecoder(answer.Body).Decode(&x))
		if answer.StatusCode != http.StatusOK ||
			!strings.HasSuffix(answer.Header.Get("Content-Disposition"), `.otio"`) &&
				!strings.Contains(answer.Header.Get("Content-Disposition"), ".otio") {
			t.Fatalf("out: %d %v", answer.StatusCode, answer.Header)
		}
		b, err := json.Marshal(x)
		e.Must(err)
		return string(b)
	}
	text := out(id)
	take := func(timeline string) (int, string) {
		return c.send(http.MethodPost, "/api/recordings/"+id.String()+"/timeline",
			map[string]string{"timeline": timeline})
	}
	c.cuts(id, map[string]any{"cut": "restore", "start": 0, "end": 4000})
	status, body := take(text)
	var b trimming.Bench
	if e.Must(json.Unmarshal([]byte(body), &b)); status != http.StatusOK || len(b.Struck) != 1 ||
		b.Struck[0] != (page.Span{Start: 1000, End: 2000}) || !b.CanUndo {
		t.Errorf("there and back: %d %s", status, body)
	}
	for name, x := range map[string]struct{ timeline, says string }{
		"of another recording": {out(other), "of another recording"},
		"broken":               {text[:len(text)/2], "cannot be read"},
		"no timeline":          {`{}`, "cannot be read"},
		"too long":             {strings.ReplaceAll(text, `"value":2000`, `"value":9000`), "beyond the end"},
	} {
		status, body := take(x.timeline)
		if p := problemOf(t, body); status != http.StatusUnprocessableEntity || !strings.Contains(p.Detail, x.says) {
			t.Errorf("%s: %d %s", name, status, body)
		}
	}
	if now := get[trimming.Bench](c, "/api/recordings/"+id.String()); now.Version != b.Version {
		t.Error("what was refused changed something")
	}
}
