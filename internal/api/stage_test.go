package api_test

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/watching"
	"latelantern/internal/assemble"
	"latelantern/internal/audience"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/recall"
	"latelantern/internal/testdb"
	"latelantern/internal/testfilm"
	"latelantern/internal/testhouse"
)

func TestMain(m *testing.M) { testdb.Main(m) }

// edge is a house behind HTTP.
type house struct {
	*testhouse.Stage
	server *httptest.Server
}

func newEdge(t *testing.T, idle ...bool) *house {
	t.Helper()
	return newEdgeOn(testhouse.New(t, idle...))
}

// newEdgeOn serves a house with the limits of a real server.
func newEdgeOn(s *testhouse.Stage) *house {
	server := httptest.NewUnstartedServer(s.Edge(nil))
	server.Config = assemble.NewServer(server.Config.Handler)
	server.Start()
	// Events last until the connection closes, which must be before the house does.
	s.T.Cleanup(func() {
		server.CloseClientConnections()
		server.Close()
	})
	return &house{s, server}
}

// caller is a browser without a page. Its zero name has not signed in.
type caller struct {
	e      *house
	client *http.Client
}

func (e *house) as(name string) *caller {
	e.T.Helper()
	jar, err := cookiejar.New(nil)
	e.Must(err)
	c := &caller{e, &http.Client{Jar: jar}}
	if name != "" {
		if status, body := c.send(http.MethodPost, "/api/sign-in",
			map[string]string{"email": name + "@college.example",
				"password": testhouse.Password}); status != http.StatusOK {
			e.T.Fatalf("%s cannot sign in: %d %s", name, status, body)
		}
	}
	return c
}

// heard waits until the house has heard what was committed before: media are sent by what it remembers.
func (e *house) heard() {
	e.T.Helper()
	subject, asked := recall.Session(uuid.NewString()), 0
	m := recall.NewMemory[int, int](e.Line, 1, time.Now)
	ask := func(context.Context) (recall.Answer[int], error) {
		asked++
		return recall.Answer[int]{Subjects: []recall.Subject{subject}}, nil
	}
	look := func() {
		_, err := m.Get(context.Background(), 0, ask)
		e.Must(err)
	}
	look()
	e.Do(`select pg_notify('latelantern_rights', $1)`, string(subject))
	for until := time.Now().Add(10 * time.Second); asked == 1; look() {
		if time.Now().After(until) {
			e.T.Fatal("nothing is heard")
		}
	}
}

func (c *caller) request(method, path string, body io.Reader, headers ...string) *http.Response {
	c.e.T.Helper()
	if strings.HasPrefix(path, "/media/") {
		c.e.heard()
	}
	r, err := http.NewRequest(method, c.e.server.URL+path, body)
	c.e.Must(err)
	for i := 0; i+1 < len(headers); i += 2 {
		r.Header.Set(headers[i], headers[i+1])
	}
	answer, err := c.client.Do(r)
	c.e.Must(err)
	return answer
}

// send sends JSON and gives status and body.
func (c *caller) send(method, path string, body any) (int, string) {
	c.e.T.Helper()
	var in io.Reader
	if body != nil {
		b, err := json.Marshal(body)
		c.e.Must(err)
		in = bytes.NewReader(b)
	}
	answer := c.request(method, path, in, "Content-Type", "application/json")
	defer answer.Body.Close()
	b, err := io.ReadAll(answer.Body)
	c.e.Must(err)
	return answer.StatusCode, string(b)
}

// get reads JSON into a T and fails unless the answer is 200.
func get[T any](c *caller, path string) T {
	c.e.T.Helper()
	var out T
	status, body := c.send(http.MethodGet, path, nil)
	if status != http.StatusOK {
		c.e.T.Fatalf("%s: %d %s", path, status, body)
	}
	c.e.Must(json.Unmarshal([]byte(body), &out))
	return out
}

// hears gives the events that reach a caller, until their stream ends.
func (c *caller) hears() <-chan string {
	c.e.T.Helper()
	answer := c.request(http.MethodGet, "/api/events", nil)
	c.e.T.Cleanup(func() { answer.Body.Close() })
	out := make(chan string, 16)
	in := bufio.NewScanner(answer.Body)
	if !in.Scan() || in.Text() != "retry: 1000" {
		c.e.T.Fatalf("the first line is %q", in.Text())
	}
	go func() {
		defer close(out)
		for in.Scan() {
			if rest, ok := strings.CutPrefix(in.Text(), "data: "); ok {
				out <- rest
			}
		}
	}()
	return out
}

func (c *caller) status(method, path string, body any) int {
	c.e.T.Helper()
	status, _ := c.send(method, path, body)
	return status
}

// everyone lets all students of the course watch, from an hour ago.
func (e *house) everyone(download bool) {
	e.T.Helper()
	rule := &viewing.Rule{Audience: viewing.Everyone, Uses: usesOf(download),
		Window: viewing.Window{From: viewing.FromDate, FromAt: testhouse.Now.Add(-time.Hour), Until: viewing.UntilEver}}
	e.Must(e.Audience.SetRule(context.Background(), audience.Scope{Course: e.Course}, e.Lecturer, rule))
}

// shortFilm is the path of a film of four seconds.
func (e *house) shortFilm() string {
	e.T.Helper()
	path := filepath.Join(e.T.TempDir(), "a.mp4")
	e.Must(testfilm.Film{Length: 4 * time.Second, Width: 320, Height: 180}.Make(context.Background(), path))
	return path
}

// recording is a film of four seconds that is measured.
func (e *house) recording() uuid.UUID {
	e.T.Helper()
	id, _ := e.File(e.Lecture, e.shortFilm())
	e.Measured(id)
	return id
}

// copied has the copy of a recording made for someone, and gives its address once it is there.
func (e *house) copied(name string, recording uuid.UUID) string {
	e.T.Helper()
	c, path := e.as(name), "/api/watch/"+recording.String()+"/copies/video"
	if status, body := c.send(http.MethodPost, path, nil); status != http.StatusOK {
		e.T.Fatalf("%s: %d %s", path, status, body)
	}
	var x watching.Copy
	e.Until(func() bool {
		if x = get[watching.Copy](c, path); x.State == "failed" {
			e.T.Fatal("the copy cannot be made")
		}
		return x.State == "ready"
	})
	return x.Address
}

// problem is what a refusal says.
type problem struct {
	Type   string
	Detail string
}

func problemOf(t *testing.T, body string) problem {
	t.Helper()
	var p problem
	if err := json.Unmarshal([]byte(body), &p); err != nil || !strings.HasPrefix(p.Type, "urn:late-lantern:") {
		t.Errorf("not a problem of ours: %s", body)
	}
	return p
}

// usesOf is what a rule lets people do who may take a recording away, or only watch it.
func usesOf(download bool) viewing.Uses {
	if download {
		return viewing.AllUses
	}
	return viewing.WatchRead
}
