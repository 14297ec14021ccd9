package api_test

import (
	"encoding/json"
	"io"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"testing"

	"github.com/google/uuid"

	"latelantern/internal/api/accounts"
	"latelantern/internal/api/sharing"
	"latelantern/internal/api/watching"
	"latelantern/internal/playlists"
	"latelantern/internal/testhouse"
)

// TestWhichSitesMayShowIt: none until a coordinator says so, and then the pages that are made for it alone.
func TestWhichSitesMayShowIt(t *testing.T) {
	e := newEdge(t, true)
	frame := func(path string) string {
		h := e.as("").request(http.MethodGet, path, nil).Header
		policy := h.Get("Content-Security-Policy")
		return policy[strings.Index(policy, "frame-ancestors"):] + " " + h.Get("Cross-Origin-Opener-Policy")
	}
	id := uuid.NewString()
	if got := frame("/embed/recordings/" + id); got != "frame-ancestors 'self' unsafe-none" {
		t.Errorf("before any site may, a page says %q", got)
	}
	c := e.as("coordinator")
	if s, text := c.send(http.MethodPut, "/api/embed-sites",
		map[string]any{"sites": []string{"https://courses.example/page", "nonsense;"}}); s != 422 || !strings.Contains(text, "embedding.site") || !strings.Contains(text, "nonsense;") {
		t.Errorf("what is no site: %d %s", s, text)
	}
	if s := c.status(http.MethodPut, "/api/embed-sites",
		map[string]any{"sites": []string{"https://Courses.example/page", "*.college.example"}}); s >= 300 {
		t.Fatalf("sites: %d", s)
	}
	want := []string{"https://*.college.example", "https://courses.example"}
	if got := get[sharing.EmbedSites](e.as("lecturer"), "/api/embed-sites").Sites; !slices.Equal(got, want) {
		t.Errorf("the sites are %q", got)
	}
	for path, may := range map[string]bool{"/embed/recordings/" + id: true, "/": false,
		"/watch/" + id: false, "/embedded": false, "/api/me": false, "/embed/../board": false} {
		got := frame(path)
		if may && got != "frame-ancestors 'self' "+strings.Join(want, " ")+" unsafe-none" ||
			!may && got != "frame-ancestors 'none' same-origin" {
			t.Errorf("%s says %q", path, got)
		}
	}
	if got := frame("/embed/enter"); got != "frame-ancestors 'none' unsafe-none" {
		t.Errorf("the page beside a frame says %q", got)
	}
	c.status(http.MethodPut, "/api/embed-sites", map[string]any{"sites": []string{"https://courses.example"}})
	if got := frame("/embed/recordings/" + id); strings.Contains(got, "college.example") {
		t.Errorf("taken off it still may: %s", got)
	}
}

// TestOEmbed: every address that has the form of one of ours is answered alike, whatever is there, and no other.
func TestOEmbed(t *testing.T) {
	e := newEdge(t, true)
	stopped := testhouse.Now
	id := e.Bare(e.Lecture, true, &stopped)
	e.titled(map[uuid.UUID]string{id: "Not for strangers"})
	share := get[sharing.Share](e.as("lecturer"), "/api/courses/"+e.Course.String()+"/share?recording="+id.String())
	ask := func(of string, more ...string) (int, string) {
		q := url.Values{"url": {of}}
		for i := 0; i+1 < len(more); i += 2 {
			q.Set(more[i], more[i+1])
		}
		answer := e.as("").request(http.MethodGet, "/api/oembed?"+q.Encode(), nil)
		defer answer.Body.Close()
		b, err := io.ReadAll(answer.Body)
		e.Must(err)
		return answer.StatusCode, string(b)
	}
	status, text := ask(share.Link, "maxwidth", "500")
	var out sharing.OEmbed
	if err := json.Unmarshal([]byte(text), &out); err != nil || status != http.StatusOK || out.Version != "1.0" ||
		out.Type != "video" || out.Width != 500 || out.Height != 359 || !strings.Contains(out.HTML, "/embed/recordings/"+id.String()) ||
		strings.Contains(text, "strangers") {
		t.Errorf("%d %s (%v)", status, text, err)
	}
	other := uuid.NewString()
	if s, same := ask(strings.Replace(share.Link, id.String(), other, 1), "maxwidth", "500"); s != status ||
		strings.ReplaceAll(same, other, id.String()) != text {
		t.Errorf("of what is not there: %d %s", s, same)
	}
	if s, text := ask(share.Link, "format", "xml"); s != http.StatusOK ||
		!strings.Contains(text, "<oembed><version>1.0</version>") {
		t.Errorf("as XML: %d %s", s, text)
	}
	if s, _ := ask(share.Link, "format", "yaml"); s != http.StatusNotImplemented {
		t.Errorf("as something else: %d", s)
	}
	list := get[sharing.Share](e.as("lecturer"), "/api/courses/"+e.Course.String()+"/share")
	if s, text := ask(list.Link); s != http.StatusOK || !strings.Contains(text, `"type":"rich"`) ||
		!strings.Contains(text, "/embed/courses/"+e.Course.String()+"/lists/main") {
		t.Errorf("a playlist: %d %s", s, text)
	}
	base := strings.TrimSuffix(share.Link, "/watch/"+id.String())
	for _, of := range []string{"", "https://other.example/watch/" + id.String(), base, base + "/watch/" + id.String() + "/x",
		base + "/watch/", base + ".evil.example/watch/" + id.String(), base + "/catch-up?course=x&list=main",
		base + "/catch-up?course=" + other + "&list=x", base + "/board"} {
		if s, text := ask(of); s != http.StatusNotFound {
			t.Errorf("of %q: %d %s", of, s, text)
		}
	}
}

// TestShare says who can watch something where it is to be shown, before that is copied.
func TestShare(t *testing.T) {
	e := newEdge(t, true)
	stopped := testhouse.Now
	id := e.Bare(e.Lecture, true, &stopped)
	c := e.as("lecturer")
	share := func(query string) sharing.Share {
		return get[sharing.Share](c, "/api/courses/"+e.Course.String()+"/share?"+query)
	}
	counts := func(s sharing.Share) string {
		b, err := json.Marshal(s.Courses)
		e.Must(err)
		return string(b)
	}
	if got := counts(share("recording=" + id.String())); got != `[{"code":"COU 1","can":0,"of":3}]` {
		t.Errorf("dark it is for %s", got)
	}
	e.everyone(false)
	e.LightRow(id, e.Course, nil)
	e.Must(e.Playlists.Add(t.Context(), playlists.Of{Course: e.Course}, nil, id))
	for _, query := range []string{"recording=" + id.String(), ""} {
		s := share(query)
		if got := counts(s); got != `[{"code":"COU 1","can":3,"of":3}]` || len(s.Codes) < 3 || s.Codes[0].Width != 0 ||
			!strings.Contains(s.Codes[1].Code, "<iframe ") ||
			!strings.HasSuffix(s.OEmbed, "/api/oembed?"+url.Values{"url": {s.Link}}.Encode()) {
			t.Errorf("%q: lit it is for %s: %+v", query, got, s)
		}
	}
	// Lit for another course too, each learns of its own; coordinators of both.
	e.LightRow(id, e.Other, nil)
	for who, want := range map[string][]string{"lecturer": {"COU 1"}, "coordinator": {"COU 1", "OTH 2"}} {
		var got []string
		for _, x := range get[sharing.Share](e.as(who),
			"/api/courses/"+e.Course.String()+"/share?recording="+id.String()).Courses {
			got = append(got, x.Code)
		}
		if !slices.Equal(got, want) {
			t.Errorf("%s learns of %q, want %q", who, got, want)
		}
	}
	theirs := e.Bare(e.Elsewhere, true, &stopped)
	their := "/api/courses/" + e.Course.String() + "/share?recording=" + theirs.String()
	if s := c.status(http.MethodGet, their, nil); s != http.StatusNotFound {
		t.Errorf("what the course does not have: %d", s)
	}
	one := get[watching.OneList](e.as("student"), "/api/courses/"+e.Course.String()+"/shown")
	if len(one.List.Entries) != 1 || !one.List.Entries[0].Open {
		t.Errorf("a student finds %+v", one.List)
	}
	path := "/api/courses/" + e.Course.String() + "/shown"
	for who, want := range map[string]int{"": 401, "outsider": 403, "student": 200, "coordinator": 200} {
		if s := e.as(who).status(http.MethodGet, path, nil); s != want {
			t.Errorf("%q has %d of a playlist by itself, want %d", who, s, want)
		}
	}
	unknown := path + "?list=" + uuid.NewString()
	if s := e.as("student").status(http.MethodGet, unknown, nil); s != http.StatusNotFound {
		t.Errorf("of a playlist that is not there: %d", s)
	}
}

// TestASessionInAFrame is begun with a key from beside it, watches and nothing else, leaves the session of its browser
// alone, and ends with the others of its person.
func TestASessionInAFrame(t *testing.T) {
	e := newEdge(t, true)
	stopped := testhouse.Now
	id := e.Bare(e.Lecture, true, &stopped)
	e.everyone(false)
	e.LightRow(id, e.Course, nil)
	beside := e.as("student")
	key := post[accounts.FrameKey](beside, "/api/frame/key", nil).Key
	enter := func(c *caller, key string) (int, *http.Cookie) {
		b, err := json.Marshal(map[string]string{"key": key})
		e.Must(err)
		answer := c.request(http.MethodPost, "/api/frame/enter", strings.NewReader(string(b)), "Content-Type",
			"application/json")
		for _, cookie := range answer.Cookies() {
			if strings.HasSuffix(cookie.Name, "late_lantern_frame") {
				return answer.StatusCode, cookie
			}
		}
		return answer.StatusCode, nil
	}
	status, cookie := enter(e.as(""), key)
	if cookie == nil || status >= 300 || !cookie.Partitioned || !cookie.Secure || !cookie.HttpOnly ||
		cookie.SameSite != http.SameSiteNoneMode {
		t.Fatalf("%d %+v", status, cookie)
	}
	framed := func(method, path string) int {
		answer := e.as("").request(method, path, nil, "Cookie", cookie.Name+"="+cookie.Value)
		return answer.StatusCode
	}
	for path, want := range map[string]int{"GET /api/watch/" + id.String(): 409, // open, and without media here
		"GET /api/me": 200,
		"GET /api/courses/" + e.Course.String() + "/shown": 200, "GET /api/catch-up": 401, "GET /api/board": 401,
		"POST /api/frame/key": 401, "POST /api/append": 401, "GET /api/account/ready": 401} {
		method, path, _ := strings.Cut(path, " ")
		if got := framed(method, path); got != want {
			t.Errorf("%s %s: %d, want %d", method, path, got, want)
		}
	}
	// As the cookie of a browser it opens no more.
	answer := e.as("").request(http.MethodGet, "/api/board", nil, "Cookie", "late_lantern="+cookie.Value)
	if answer.StatusCode != http.StatusUnauthorized {
		t.Errorf("as another cookie: %d", answer.StatusCode)
	}
	lecturer := e.as("lecturer")
	if s, _ := enter(lecturer, key); s >= 300 {
		t.Errorf("beside another session: %d", s)
	}
	if s := lecturer.status(http.MethodGet, "/api/board", nil); s != http.StatusOK {
		t.Errorf("the session of the browser: %d", s)
	}
	for name, k := range map[string]string{"none": "", "nonsense": "AAAA", "another": key[:10] + "AAAA" + key[14:]} {
		if s, c := enter(e.as(""), k); s != http.StatusForbidden || c != nil {
			t.Errorf("with %s key: %d", name, s)
		}
	}
	// Another sign-in of theirs ends nothing; signing out of that beside it does.
	if s := e.as("student").status(http.MethodPost, "/api/sign-out", nil); s >= 300 {
		t.Fatalf("signed out elsewhere: %d", s)
	}
	if got := framed(http.MethodGet, "/api/me"); got != http.StatusOK {
		t.Errorf("signed out elsewhere: %d", got)
	}
	if s := beside.status(http.MethodPost, "/api/sign-out", nil); s >= 300 {
		t.Fatalf("signed out beside it: %d", s)
	}
	if got := framed(http.MethodGet, "/api/me"); got != http.StatusUnauthorized {
		t.Errorf("signed out beside it: %d", got)
	}
	if s, _ := enter(e.as(""), key); s != http.StatusForbidden {
		t.Errorf("with a key of what was signed out of: %d", s)
	}
	key = post[accounts.FrameKey](e.as("student"), "/api/frame/key", nil).Key
	if _, cookie = enter(e.as(""), key); framed(http.MethodGet, "/api/me") != http.StatusOK {
		t.Error("signed in again it does not begin")
	}
	e.Do(`update account set session_era = session_era + 1 where person_id = $1`, e.Student)
	if got := framed(http.MethodGet, "/api/me"); got != http.StatusUnauthorized {
		t.Errorf("once all sessions are ended: %d", got)
	}
	if s, _ := enter(e.as(""), key); s != http.StatusForbidden {
		t.Errorf("with a key from before: %d", s)
	}
}
