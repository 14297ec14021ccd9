package api_test

import (
	"io"
	"net/http"
	"net/http/httptest"
	"testing"
	"testing/fstest"

	"latelantern/internal/testhouse"
)

// TestTheFrontEnd: files as they are, places of the application as its page, nothing else.
func TestTheFrontEnd(t *testing.T) {
	s := testhouse.New(t, true)
	file := func(text string) *fstest.MapFile { return &fstest.MapFile{Data: []byte(text)} }
	a := s.Edge(fstest.MapFS{
		"index.html": file("<page>"), "lantern.svg": file("<svg>"), "assets/a.js": file("plain"),
		"assets/a.js.gz": file("packed"), "assets/b.css": file("style"),
		"app.webmanifest": file("{}"), "app.webmanifest.gz": file("zipped"),
	})
	server := httptest.NewServer(a)
	t.Cleanup(server.Close)
	for _, c := range []struct {
		method, path, accept string
		status               int
		body, encoding       string
	}{
		{"GET", "/", "", 200, "<page>", ""},
		{"GET", "/board", "", 200, "<page>", ""},
		{"GET", "/watch/0192f5e0-0000-7000-8000-000000000000", "", 200, "<page>", ""},
		{"GET", "/lantern.svg", "", 200, "<svg>", ""},
		{"GET", "/assets/a.js", "gzip, br", 200, "packed", "gzip"},
		{"GET", "/assets/a.js", "br, gzip;q=0", 200, "plain", ""},
		{"GET", "/assets/b.css", "gzip", 200, "style", ""},
		{"GET", "/app.webmanifest", "", 200, "{}", ""},
		{"GET", "/app.webmanifest", "gzip", 200, "zipped", "gzip"},
		{"GET", "/assets/missing.js", "", 404, "", ""},
		{"GET", "/assets", "", 200, "<page>", ""},
		{"GET", "/api/missing", "", 404, "", ""},
		{"GET", "/../../etc/passwd.txt", "", 404, "", ""},
		{"POST", "/board", "", 405, "", ""},
	} {
		r, err := http.NewRequest(c.method, server.URL+c.path, nil)
		s.Must(err)
		r.Header.Set("Accept-Encoding", c.accept)
		answer, err := http.DefaultTransport.RoundTrip(r)
		s.Must(err)
		b, _ := io.ReadAll(answer.Body)
		answer.Body.Close()
		if answer.StatusCode != c.status || c.body != "" && string(b) != c.body ||
			answer.Header.Get("Content-Encoding") != c.encoding {
			t.Errorf("%s %s (%s): %d %q %q", c.method, c.path, c.accept, answer.StatusCode, b,
				answer.Header.Get("Content-Encoding"))
		}
		if kind := answer.Header.Get("Content-Type"); c.path == "/app.webmanifest" && kind != "application/manifest+json" {
			t.Errorf("its manifest is %q", kind)
		}
	}
}
