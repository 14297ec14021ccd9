package api_test

import (
	"fmt"
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/watching"
	"latelantern/internal/core/span"
	"latelantern/internal/cuts"
)

func (c *caller) notesIn(recording uuid.UUID) (out []string) {
	c.e.T.Helper()
	for _, n := range get[watching.Notes](c, "/api/watch/"+recording.String()+"/notes").Notes {
		out = append(out, fmt.Sprint(n.Text, " ", n.At, " ", n.Struck))
	}
	return out
}

// TestNotesLieAtTheirMoment in what plays, through cuts; nobody else reads them, and they are taken along as files.
func TestNotesLieAtTheirMoment(t *testing.T) {
	e := newEdge(t)
	id := e.litTalk() // its first seven seconds are struck
	student := e.as("student")
	edition := get[watching.Watch](student, "/api/watch/"+id.String()).Edition
	at := "/api/watch/" + id.String() + "/notes"
	note := func(n uuid.UUID, ms int, text string) (int, string) {
		return student.send(http.MethodPut, at+"/"+n.String(), map[string]any{"edition": edition, "at": ms, "text": text})
	}
	one := uuid.New()
	for n, x := range map[uuid.UUID]int{one: 2000, uuid.New(): 500, uuid.New(): 0} {
		if s, body := note(n, x, fmt.Sprint("at ", x)); s >= 300 {
			t.Fatalf("note: %d %s", s, body)
		}
	}
	want := []string{"at 0 0 false", "at 500 500 false", "at 2000 2000 false"}
	if got := student.notesIn(id); !slices.Equal(got, want) {
		t.Errorf("%q, want %q", got, want)
	}
	for _, who := range []string{"second", "lecturer"} {
		if got := e.as(who).notesIn(id); len(got) != 0 {
			t.Errorf("%s reads %q", who, got)
		}
		if s := e.as(who).status(http.MethodDelete, at+"/"+one.String(), nil); s >= 300 {
			t.Errorf("%s removes what is not theirs: %d", who, s)
		}
	}
	if s := e.as("outsider").status(http.MethodGet, at, nil); s < 400 {
		t.Errorf("who cannot watch it is answered %d", s)
	}
	if s, body := note(uuid.New(), 0, strings.Repeat("x", 4001)); s != http.StatusUnprocessableEntity ||
		!strings.Contains(body, "text") {
		t.Errorf("too long: %d %s", s, body)
	}
	// What is published changes under them: of one the moment is struck now.
	e.Must(e.Cuts.Change(t.Context(), id, e.Lecturer, cuts.Strike, span.Span{End: 8 * time.Second}))
	e.Lit(id)
	if got := student.notesIn(id); !slices.Equal(got, []string{"at 0 0 true", "at 500 0 true", "at 2000 1000 false"}) {
		t.Errorf("cut: %q", got)
	}
	for form, has := range map[string]string{"txt": "0:00:01  at 2000", "md": "/watch/" + id.String() + "?at=1000) at 2000"} {
		s, body := student.send(http.MethodGet, at+"/file?form="+form, nil)
		if s != http.StatusOK || !strings.Contains(body, has) || !strings.Contains(body, "COU 1, 2026-10-14") {
			t.Errorf("%s: %d %s", form, s, body)
		}
	}
	if s := student.status(http.MethodGet, at+"/file?form=html", nil); s != http.StatusNotFound {
		t.Errorf("another form: %d", s)
	}
	if s := student.status(http.MethodDelete, at+"/"+one.String(), nil); s >= 300 || len(student.notesIn(id)) != 2 {
		t.Errorf("removed (%d): %q", s, student.notesIn(id))
	}
}
