package api_test

import (
	"encoding/base64"
	"io"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/audience"
	"latelantern/internal/core/viewing"
)

func meta(pairs ...string) string {
	var out []string
	for i := 0; i+1 < len(pairs); i += 2 {
		out = append(out, pairs[i]+" "+base64.StdEncoding.EncodeToString([]byte(pairs[i+1])))
	}
	return strings.Join(out, ",")
}

// TestAppendIsTus follows the words of the protocol: tus 1.0.0 with creation, deferred length and termination.
func TestAppendIsTus(t *testing.T) {
	e := newEdge(t, true)
	c := e.as("lecturer")
	do := func(method, path, body string, headers ...string) *http.Response {
		t.Helper()
		answer := c.request(method, path, strings.NewReader(body),
			append([]string{"Tus-Resumable", "1.0.0"}, headers...)...)
		answer.Body.Close()
		return answer
	}
	if a := do(http.MethodOptions, "/api/append", ""); a.StatusCode != 204 || a.Header.Get("Tus-Version") != "1.0.0" ||
		!strings.Contains(a.Header.Get("Tus-Extension"), "creation-defer-length") {
		t.Errorf("options: %d %v", a.StatusCode, a.Header)
	}
	old := c.request(http.MethodPost, "/api/append", nil, "Tus-Resumable", "0.2.2", "Upload-Length", "10")
	old.Body.Close()
	if old.StatusCode != http.StatusPreconditionFailed || old.Header.Get("Tus-Version") != "1.0.0" {
		t.Errorf("another version: %d", old.StatusCode)
	}
	about := meta("lecture", e.Lecture.String(), "source", "desk", "filetype", "video/webm")
	for _, x := range []struct {
		name    string
		headers []string
		want    int
	}{
		{"a capture without a lecture", []string{"Upload-Metadata", meta("source", "desk"), "Upload-Length", "10"},
			404},
		{"a lecture that is no name", []string{"Upload-Metadata", meta("lecture", "today"), "Upload-Length", "10"},
			400},
		{"a print that is none", []string{"Upload-Metadata", meta("print", "0f0f"), "Upload-Length", "10"}, 400},
		{"a time far away", []string{"Upload-Metadata", meta("modified_ms", "999999999999999"), "Upload-Length", "10"},
			400},
		{"a file for another course",
			[]string{"Upload-Metadata", meta("course", e.Other.String()), "Upload-Length", "10"}, 403},
		{"metadata that cannot be read", []string{"Upload-Length", "10", "Upload-Metadata", "lecture !!"}, 400},
		{"no length", []string{"Upload-Metadata", about}, 400},
		{"a length below zero", []string{"Upload-Metadata", about, "Upload-Length", "-1"}, 400},
		{"larger than can be taken", []string{"Upload-Metadata", about, "Upload-Length", "99999999999999"}, 413},
		{"a lecture that is not there",
			[]string{"Upload-Metadata", meta("lecture", "0192f5e0-0000-7000-8000-000000000000"), "Upload-Length", "1"},
			404},
		{"a lecture of another course",
			[]string{"Upload-Metadata", meta("lecture", e.Elsewhere.String()), "Upload-Length", "1"}, 403},
	} {
		if a := do(http.MethodPost, "/api/append", "", x.headers...); a.StatusCode != x.want {
			t.Errorf("%s: %d, want %d", x.name, a.StatusCode, x.want)
		}
	}
	created := do(http.MethodPost, "/api/append", "", "Upload-Metadata", about, "Upload-Defer-Length", "1")
	at := created.Header.Get("Location")
	if created.StatusCode != 201 || !strings.HasPrefix(at, "/api/append/") ||
		created.Header.Get("Late-Lantern-Recording") == "" {
		t.Fatalf("creation: %d %v", created.StatusCode, created.Header)
	}
	const octets = "application/offset+octet-stream"
	for _, x := range []struct {
		name, body string
		headers    []string
		want       int
		offset     string
	}{
		{"another type", "abc", []string{"Content-Type", "video/webm", "Upload-Offset", "0"}, 415, ""},
		{"no offset", "abc", []string{"Content-Type", octets}, 400, ""},
		{"a wrong offset", "abc", []string{"Content-Type", octets, "Upload-Offset", "3"}, 409, ""},
		{"the first", "abc", []string{"Content-Type", octets, "Upload-Offset", "0"}, 204, "3"},
		{"the first again", "abc", []string{"Content-Type", octets, "Upload-Offset", "0"}, 409, ""},
		{"the second", "defg", []string{"Content-Type", octets, "Upload-Offset", "3"}, 204, "7"},
		{"the end", "", []string{"Content-Type", octets, "Upload-Offset", "7", "Upload-Length", "7"}, 204, "7"},
		{"after the end", "x", []string{"Content-Type", octets, "Upload-Offset", "7"}, 409, ""},
	} {
		a := do(http.MethodPatch, at, x.body, x.headers...)
		if a.StatusCode != x.want || a.Header.Get("Upload-Offset") != x.offset {
			t.Errorf("%s: %d at %q", x.name, a.StatusCode, a.Header.Get("Upload-Offset"))
		}
	}
	if a := do(http.MethodHead, at,
		""); a.StatusCode != 200 || a.Header.Get("Upload-Offset") != "7" || a.Header.Get("Upload-Length") != "7" ||
		a.Header.Get("Cache-Control") != "no-store" {
		t.Errorf("head: %d %v", a.StatusCode, a.Header)
	}
	second := do(http.MethodPost, "/api/append", "", "Upload-Metadata", about, "Upload-Length",
		"100").Header.Get("Location")
	if a := do(http.MethodDelete, second, ""); a.StatusCode != 204 {
		t.Errorf("termination: %d", a.StatusCode)
	}
	if n := e.Count(`select count(*) from recording where deleted_at is null`); n != 1 {
		t.Errorf("%d recordings are left", n)
	}
}

// TestEventsReachOnlyTheirCourse and name what changed, never what it is.
func TestEventsReachOnlyTheirCourse(t *testing.T) {
	e := newEdge(t, true)
	anonymous := e.as("").request(http.MethodGet, "/api/events", nil)
	anonymous.Body.Close()
	if anonymous.StatusCode != http.StatusUnauthorized {
		t.Errorf("without having signed in: %d", anonymous.StatusCode)
	}
	inside, outside := e.as("student").hears(), e.as("outsider").hears()
	rule := &viewing.Rule{Audience: viewing.Everyone, Uses: viewing.WatchRead,
		Window: viewing.Window{From: viewing.FromLecture, Until: viewing.UntilEver}}
	e.Must(e.Audience.SetRule(t.Context(), audience.Scope{Course: e.Course}, e.Lecturer, rule))
	select {
	case got := <-inside:
		if !strings.Contains(got, `"about":"rule"`) || !strings.Contains(got, e.Course.String()) ||
			strings.Contains(got, "everyone") {
			t.Errorf("heard %s", got)
		}
	case <-time.After(10 * time.Second):
		t.Fatal("the student of the course hears nothing")
	}
	// What comes after it on the other line shows that the first never did.
	e.Must(e.Audience.SetRule(t.Context(), audience.Scope{Course: e.Other}, e.Colleague, rule))
	select {
	case got := <-outside:
		if !strings.Contains(got, e.Other.String()) {
			t.Errorf("a student of another course hears %s", got)
		}
	case <-time.After(10 * time.Second):
		t.Fatal("the student of the other course hears nothing")
	}
	// When the database could not be heard for a while, the stream ends, so that the page asks for all anew.
	if n := e.Count(`select count(pg_terminate_backend(pid)) from pg_stat_activity
		where datname = current_database() and query = 'listen latelantern'`); n != 1 {
		t.Fatalf("%d listening connections were cut", n)
	}
	select {
	case got, more := <-outside:
		if more {
			t.Errorf("after the line was cut %s is heard", got)
		}
	case <-time.After(10 * time.Second):
		t.Fatal("the stream does not end")
	}
}

func TestHealthAndUnknownAddresses(t *testing.T) {
	e := newEdge(t, true)
	c := e.as("")
	answer := c.request(http.MethodGet, "/healthz", nil)
	b, _ := io.ReadAll(answer.Body)
	answer.Body.Close()
	if answer.StatusCode != 200 || !strings.Contains(string(b), "reachable") {
		t.Errorf("healthz: %d %s", answer.StatusCode, b)
	}
	for path, want := range map[string]int{"/api/nothing": 404, "/media/nothing": 404, "/x/../../etc/passwd": 404} {
		if s := c.status(http.MethodGet, path, nil); s != want {
			t.Errorf("%s: %d", path, s)
		}
	}
	// So does the address of a recording with a name that can be nobody's, whatever is sent there.
	staff := e.as("lecturer")
	for path, want := range map[string]int{"/api/recordings/nonsense": 404, "/api/recordings/" + uuid.NewString(): 404,
		"/api/recordings/" + uuid.NewString() + "/captions/" + strings.Repeat("x", 40):  404,
		"/api/recordings/" + uuid.NewString() + "/search?q=" + strings.Repeat("x", 101): 404} {
		if s := staff.status(http.MethodGet, path, nil); s != want {
			t.Errorf("%s: %d, want %d", path, s, want)
		}
	}
	e.DB.Close()
	if s := c.status(http.MethodGet, "/healthz", nil); s != http.StatusServiceUnavailable {
		t.Errorf("healthz without a database: %d", s)
	}
}
