package api_test

import (
	"net/http"
	"strings"
	"testing"

	"github.com/google/uuid"

	"latelantern/internal/api/captioning"
	"latelantern/internal/api/watching"
	"latelantern/internal/audience"
	"latelantern/internal/core/viewing"
)

// TestWhoProposesALine: whoever reads along and has an account, for what they read; only who teaches takes it, and
// nobody finds what another proposed.
func TestWhoProposesALine(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	lecturer, student := e.as("lecturer"), e.as("student")
	if status, _, text := lecturer.captionFile(id,
		"WEBVTT\n\n00:00:00.200 --> 00:00:03.000\nGood morning to all\n", nil); status != http.StatusOK {
		t.Fatalf("%d %s", status, text)
	}
	e.everyone(true)
	e.Lit(id)
	path, captions := "/api/watch/"+id.String()+"/proposed", "/api/recordings/"+id.String()+"/captions/en"
	body := func(seen, text string) map[string]any { return map[string]any{"at": 200, "seen": seen, "text": text} }
	for _, c := range []struct {
		seen, text string
		want       int
	}{{"Good morning to all", "Good evening to all", 200}, {"Good night", "Good evening", 409},
		{"Good morning to all", "  ", 422}, {"Good morning to all", "Good morning to all", 422},
		{"Good morning to all", strings.Repeat("x", 10_000), 422}, {"Good morning to all", "<b>x</b>\u0007", 200}} {
		if s := student.status(http.MethodPost, path, body(c.seen, c.text)); s != c.want {
			t.Errorf("that %q should be %.20q: %d, want %d", c.seen, c.text, s, c.want)
		}
	}
	own := get[watching.ProposedLines](student, path)
	if len(own.Lines) != 1 || own.Lines[0].Text != "<b>x</b>" || own.Lines[0].At != 200 {
		t.Fatalf("they proposed %+v", own)
	}
	if others := get[watching.ProposedLines](lecturer, path); len(others.Lines) != 0 {
		t.Errorf("another finds %+v among theirs", others)
	}
	page := get[captioning.CaptionPage](lecturer, captions)
	if len(page.Proposed) != 1 || page.Proposals != 1 || page.Proposed[0].Name != "student" {
		t.Fatalf("who teaches finds %+v", page.Proposed)
	}
	proposal := "/" + page.Proposed[0].ID.String()
	for _, x := range []struct {
		who, method, path string
		want              int
	}{
		{"student", "POST", captions + "/proposed" + proposal + "/take", 403},
		{"lecturer", "DELETE", path + proposal, 404},
		{"student", "DELETE", path + "/" + uuid.NewString(), 404},
		{"outsider", "GET", path, 403},
		{"lecturer", "POST", captions + "/proposed" + proposal + "/take", 200},
		{"lecturer", "POST", captions + "/proposed" + proposal + "/take", 404},
	} {
		if s := e.as(x.who).status(x.method, x.path, nil); s != x.want {
			t.Errorf("%s: %s %s: %d, want %d", x.who, x.method, x.path, s, x.want)
		}
	}
	if cues := get[watching.Watch](student, "/api/watch/"+id.String()).Cues; len(cues) != 1 || cues[0].Text != "<b>x</b>" {
		t.Errorf("they read %+v", cues)
	}
	// Who may watch it and not read it proposes nothing.
	e.Must(e.Audience.SetRule(t.Context(), audience.Scope{Course: e.Course}, e.Lecturer, &viewing.Rule{
		Audience: viewing.Everyone, Uses: viewing.Uses(viewing.ToWatch),
		Window: viewing.Window{From: viewing.FromOnce, Until: viewing.UntilEver}}))
	if s := student.status(http.MethodPost, path, body("<b>x</b>", "y")); s != http.StatusForbidden {
		t.Errorf("without the right to read: %d", s)
	}
}
