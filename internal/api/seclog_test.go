package api_test

import (
	"bytes"
	"context"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"sync"
	"testing"
)

// logged is what is written to the log until the test ends.
type logged struct {
	mu sync.Mutex
	b  bytes.Buffer
}

func (l *logged) Write(b []byte) (int, error) {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.b.Write(b)
}

// TestTheSecurityLogHoldsNoWords: it says who did what, by ids, and nothing that anyone typed, no name and no address.
func TestTheSecurityLogHoldsNoWords(t *testing.T) {
	l := &logged{}
	was := slog.Default()
	slog.SetDefault(slog.New(slog.NewJSONHandler(l, nil)))
	t.Cleanup(func() { slog.SetDefault(was) })
	e := newEdge(t)
	sign := func(email, password string) {
		e.as("").status(http.MethodPost, "/api/sign-in", map[string]string{"email": email, "password": password})
	}
	sign("student@college.example", "my secret word")
	sign("tidal.wave@elsewhere.example", "my secret word")
	lecturer := e.as("lecturer")
	course := "/api/courses/" + e.Course.String()
	lecturer.status(http.MethodPut, course+"/rule", aRule)
	lecturer.status(http.MethodPost, course+"/people",
		map[string]string{"email": "tidal.wave@college.example", "name": "Tidal Wave", "role": "student", "group": ""})
	e.as("student").status(http.MethodGet, course+"/people", nil)
	lecturer.status(http.MethodGet, "/api/welcome/a-secret-key", nil)
	recording := "/api/recordings/" + e.recording().String()
	lecturer.status(http.MethodGet, recording, nil)
	lecturer.status(http.MethodPost, recording+"/light", nil)
	lecturer.status(http.MethodPost, "/api/account/sign-out-everywhere", nil)
	l.mu.Lock()
	defer l.mu.Unlock()
	text := l.b.String()
	for _, event := range []string{
		`"event":"sign_in_refused","from":"127.0.0.1","person":"` + e.Student.String(), `"event":"signed_in"`,
		`"event":"rights_changed","from":"127.0.0.1","by":"` + e.Lecturer.String() + `","what":"rule"`, `"what":"role"`,
		`"what":"light","operation":"light"`, `"what":"sessions"`,
		`"event":"refused","from":"127.0.0.1","by":"` + e.Student.String() +
			`","route":"/api/courses/:course/people","status":403`,
	} {
		if !strings.Contains(text, event) {
			t.Errorf("it does not hold %s", event)
		}
	}
	// To look at something changes nobody's rights.
	for _, word := range []string{`"operation":"recording"`, "secret", "college.example", "elsewhere", "tidal", "Tidal"} {
		if strings.Contains(text, word) {
			t.Errorf("it holds %q", word)
		}
	}
	if t.Failed() {
		t.Log(text)
	}
}

// TestWhatIsGivenUpIsNoFault: a page that is left ends what it asked for, and nobody has to look into that.
func TestWhatIsGivenUpIsNoFault(t *testing.T) {
	l := &logged{}
	was := slog.Default()
	slog.SetDefault(slog.New(slog.NewJSONHandler(l, nil)))
	t.Cleanup(func() { slog.SetDefault(was) })
	e := newEdge(t, true)
	student := e.as("student")
	at, err := url.Parse(e.server.URL)
	e.Must(err)
	// What it asks for waits for somebody who holds a table, until they have gone.
	tx, err := e.DB.Begin(t.Context())
	e.Must(err)
	_, err = tx.Exec(t.Context(), `lock table playlist in access exclusive mode`)
	e.Must(err)
	ctx, leave := context.WithCancel(t.Context())
	defer leave()
	go func() {
		e.Until(func() bool { return e.Count(`select count(*) from pg_locks where not granted`) > 0 })
		leave()
	}()
	r := httptest.NewRequestWithContext(ctx, http.MethodGet, "/api/catch-up", nil)
	for _, c := range student.client.Jar.Cookies(at) {
		r.AddCookie(c)
	}
	e.server.Config.Handler.ServeHTTP(httptest.NewRecorder(), r)
	e.Must(tx.Rollback(t.Context()))
	l.mu.Lock()
	defer l.mu.Unlock()
	if text := l.b.String(); strings.Contains(text, `"level":"ERROR"`) || !strings.Contains(text, "was given up") {
		t.Errorf("the log holds %s", text)
	}
}
