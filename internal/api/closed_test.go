package api_test

import (
	"bufio"
	"bytes"
	"fmt"
	"io"
	"net"
	"net/http"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"latelantern/internal/assemble"
	"latelantern/internal/testhouse"
)

// knock sends the head of a request with a body that never comes, and gives the status of the answer; 0 for none
// within a while.
func (c *caller) knock(method, path string, length int, some string, headers ...string) (int, net.Conn) {
	c.e.T.Helper()
	host := strings.TrimPrefix(c.e.server.URL, "http://")
	conn, err := net.Dial("tcp", host)
	c.e.Must(err)
	var head strings.Builder
	fmt.Fprintf(&head, "%s %s HTTP/1.1\r\nHost: %s\r\nContent-Type: application/json\r\nContent-Length: %d\r\n", method,
		path, host, length)
	r, err := http.NewRequest(method, c.e.server.URL+path, nil)
	c.e.Must(err)
	for _, cookie := range c.client.Jar.Cookies(r.URL) {
		fmt.Fprintf(&head, "Cookie: %s=%s\r\n", cookie.Name, cookie.Value)
	}
	for i := 0; i+1 < len(headers); i += 2 {
		fmt.Fprintf(&head, "%s: %s\r\n", headers[i], headers[i+1])
	}
	_, err = io.WriteString(conn, head.String()+"\r\n"+some)
	c.e.Must(err)
	c.e.Must(conn.SetReadDeadline(time.Now().Add(3 * time.Second)))
	answer, err := http.ReadResponse(bufio.NewReader(conn), nil)
	if err != nil {
		return 0, conn
	}
	answer.Body.Close()
	return answer.StatusCode, conn
}

// TestNobodyIsReadBeforeTheyAreKnown: at every route, whoever may not come there is told so before a byte of what they
// bring is read.
func TestNobodyIsReadBeforeTheyAreKnown(t *testing.T) {
	e := newEdge(t, true)
	a := e.Edge(nil)
	gates := a.Gates()
	fill := strings.NewReplacer(":course", e.Course.String(), ":lecture", e.Lecture.String())
	stranger, student := e.as(""), e.as("student")
	refused := 0
	for _, route := range a.Routes() {
		who, ok := gates[route]
		if !ok {
			t.Errorf("%s has no gate", route)
			continue
		}
		method, path, _ := strings.Cut(route, " ")
		path = fill.Replace(path)
		look := func(c *caller, name string, want ...int) {
			t.Helper()
			refused++
			length := []int{10_000, 50_000_000}[refused%2]
			got, conn := c.knock(method, path, length, "", "Tus-Resumable", "1.0.0")
			conn.Close()
			if !slices.Contains(want, got) {
				t.Errorf("%s, for %s, as %s: %d, want one of %v", route, who, name, got, want)
			}
		}
		if who != "anyone" && who != "holders" {
			look(stranger, "a stranger", http.StatusUnauthorized)
		}
		switch who {
		case "staff", "teachers", "coordinators":
			look(student, "a student", http.StatusForbidden, http.StatusNotFound)
		case "recorders":
			look(student, "a student", http.StatusUnauthorized)
		}
	}
	if refused < 150 {
		t.Errorf("only %d refusals were tried", refused)
	}
}

// TestBodiesAreLimited in size, in number and in how slowly they may come.
func TestBodiesAreLimited(t *testing.T) {
	e := newEdge(t, true)
	lecturer := e.as("lecturer")
	term, err := e.Schedule.CurrentTerm(t.Context())
	e.Must(err)
	roster := "/api/terms/" + term.ID.String() + "/roster/preview"
	if got, conn := e.as("").knock(http.MethodPost, "/api/sign-in", 100_000,
		""); got != http.StatusRequestEntityTooLarge {
		t.Errorf("much from a stranger: %d", got)
	} else {
		conn.Close()
	}
	if got, conn := lecturer.knock(http.MethodPost, roster, 90_000_000, ""); got != http.StatusRequestEntityTooLarge {
		t.Errorf("a roster of 90 MB: %d", got)
	} else {
		conn.Close()
	}
	// Bodies that come slowly hold a place of their sender, and all there are; those that come no more are let go.
	var held sync.WaitGroup
	hold := func(c *caller) (stops func()) {
		got, conn := c.knock(http.MethodPost, roster, 30_000_000, "{")
		t.Cleanup(func() { conn.Close() }) // it is the server that lets go
		if got != 0 {
			t.Fatalf("a large body: %d", got)
		}
		stopped := make(chan struct{})
		go func() {
			for some := bytes.Repeat([]byte(" "), 4<<10); ; {
				select {
				case <-stopped:
					return
				case <-time.After(100 * time.Millisecond):
					_, _ = conn.Write(some) // what became of it is in the answer
				}
			}
		}()
		return func() {
			close(stopped)
			held.Go(func() { letGo(t, conn) })
		}
	}
	others := []*caller{e.as("coordinator"), e.as("colleague")}
	e.Person("fourth", e.Course, "lecturer", "")
	fourth := e.as("fourth")
	full := func(c *caller, when string) {
		t.Helper()
		got, conn := c.knock(http.MethodPost, roster, 2_000_000, "{")
		conn.Close()
		if got != http.StatusTooManyRequests {
			t.Errorf("%s: %d", when, got)
		}
	}
	stops := []func(){hold(lecturer)}
	full(lecturer, "a second large body of one person")
	stops = append(stops, hold(others[0]), hold(others[1]))
	full(fourth, "a fourth large body")
	for _, stop := range stops {
		stop()
	}
	held.Wait()
	e.Until(func() bool {
		status, _ := lecturer.send(http.MethodPost, roster,
			map[string]any{"digest": "", "files": []any{map[string]string{"name": "a.csv", "data": "ZW1haWw="}}})
		return status == http.StatusOK
	})
}

// letGo wants of a connection whose body comes no more that it is told so and let go.
func letGo(t *testing.T, conn net.Conn) {
	err := conn.SetReadDeadline(time.Now().Add(time.Minute))
	var answer *http.Response
	if err == nil {
		answer, err = http.ReadResponse(bufio.NewReader(conn), nil)
	}
	if err != nil || answer.StatusCode != http.StatusRequestTimeout {
		t.Errorf("a body that does not come: %+v %v", answer, err)
		return
	}
	defer answer.Body.Close()
	if b, _ := io.ReadAll(answer.Body); problemOf(t, string(b)).Type != "urn:late-lantern:slow" {
		t.Errorf("a body that does not come is told %s", b)
	}
}

// TestU0000IsRefused wherever a text can come in, with a sentence.
func TestU0000IsRefused(t *testing.T) {
	e := newEdge(t, true)
	lecturer := e.as("lecturer")
	begun(e)
	var id string
	e.Must(e.DB.QueryRow(t.Context(), `select id::text from recording`).Scan(&id))
	term, err := e.Schedule.CurrentTerm(t.Context())
	e.Must(err)
	send := func(method, path, body string, headers ...string) int {
		t.Helper()
		answer := lecturer.request(method, path, strings.NewReader(body),
			append([]string{"Content-Type", "application/json", "Tus-Resumable", "1.0.0"}, headers...)...)
		defer answer.Body.Close()
		return answer.StatusCode
	}
	nul := `\u0000`
	course := "/api/courses/" + e.Course.String()
	for name, got := range map[string]int{
		"signing in":            send(http.MethodPost, "/api/sign-in", `{"email":"a`+nul+`","password":"x"}`),
		"a password":            send(http.MethodPost, "/api/sign-in", `{"email":"a","password":"x`+nul+`"}`),
		"a title":               send(http.MethodPut, "/api/recordings/"+id+"/title", `{"title":"A `+nul+`"}`),
		"after two backslashes": send(http.MethodPut, "/api/recordings/"+id+"/title", `{"title":"A \\\\`+nul+`"}`),
		"a key":                 send(http.MethodPut, "/api/recordings/"+id+"/title", `{"title`+nul+`":"A"}`),
		"a calendar": send(http.MethodPost, course+"/timetable/preview",
			`{"calendar":"BEGIN:VCALENDAR`+nul+`"}`),
		"a heading":  send(http.MethodPost, course+"/playlist/headings", `{"title":"`+nul+`"}`),
		"a search":   send(http.MethodGet, "/api/recordings/"+id+"/search?q=%00", ""),
		"an address": send(http.MethodGet, "/api/courses/%00", ""),
		"the name of a file": send(http.MethodPost, "/api/append", "", "Upload-Defer-Length", "1", "Upload-Metadata",
			meta("lecture", e.Lecture.String(), "filename", "a\x00b")),
	} {
		if got < 400 || got >= 500 {
			t.Errorf("in %s: %d", name, got)
		}
	}
	if got := send(http.MethodPut, "/api/recordings/"+id+"/title",
		`{"title":"The text \\u0000"}`); got != http.StatusOK {
		t.Errorf("the six characters that only look like it: %d", got)
	}
	status, body := e.as("coordinator").send(http.MethodPost, "/api/terms/"+term.ID.String()+"/roster/preview",
		map[string]any{"digest": "",
			"files": []any{map[string]any{"name": "a.csv",
				"data": []byte("email,name,course,part\na@b.example,A\x00,COU 1,student\n")}}})
	if status != http.StatusOK || !strings.Contains(body, "not text in UTF-8") {
		t.Errorf("in a roster: %d %s", status, body)
	}
}

// TestHeadersSayWhatBrowsersMayDo, with cookies that no other host can set.
func TestHeadersSayWhatBrowsersMayDo(t *testing.T) {
	for _, secure := range []bool{false, true} {
		e := newEdgeOn(testhouse.NewWith(t, assemble.Settings{Secure: secure}))
		answer := e.as("").request(http.MethodPost, "/api/sign-in",
			strings.NewReader(`{"email":"lecturer@college.example","password":"a long password"}`), "Content-Type",
			"application/json")
		answer.Body.Close()
		cookies := answer.Header.Values("Set-Cookie")
		if len(cookies) != 2 {
			t.Fatalf("cookies: %v", cookies)
		}
		for _, c := range cookies {
			if strings.HasPrefix(c, "__Host-") != secure || strings.Contains(c, "; Secure") != secure ||
				!strings.Contains(c, "Path=/;") || strings.Contains(c, "Domain") || !strings.Contains(c, "HttpOnly") {
				t.Errorf("secure %v: %s", secure, c)
			}
		}
		if hsts := answer.Header.Get("Strict-Transport-Security"); (hsts != "") != secure {
			t.Errorf("secure %v: %q", secure, hsts)
		}
		token, _, _ := strings.Cut(strings.SplitN(cookies[0], "=", 2)[1], ";")
		if n := e.Count(`select count(*)::int from sessions where position($1 in token) > 0`, token); n != 0 {
			t.Error("the token itself is kept")
		}
		for _, path := range []string{"/api/me", "/media/AAAA/index.m3u8", "/feeds/AAAA", "/nothing.js"} {
			refused := e.as("").request(http.MethodGet, path, nil)
			refused.Body.Close()
			if got := refused.Header.Get("Cache-Control"); got != "no-store" || refused.StatusCode < 400 {
				t.Errorf("%s is %d, and kept: %q", path, refused.StatusCode, got)
			}
		}
	}
	answer := newEdge(t, true).as("lecturer").request(http.MethodPost, "/api/sign-out", nil)
	answer.Body.Close()
	if got := answer.Header.Get("Clear-Site-Data"); got != `"cache"` {
		t.Errorf("signing out clears %s", got)
	}
}
