package api_test

import (
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api"
	"latelantern/internal/api/page"
	"latelantern/internal/api/planning"
	"latelantern/internal/api/watching"
	"latelantern/internal/audience"
	"latelantern/internal/capture"
	"latelantern/internal/core/doorway"
	"latelantern/internal/core/viewing"
	"latelantern/internal/door"
	"latelantern/internal/testhouse"
)

// guest is a caller who came by a link, and how to take that back.
func (e *house) guest(part doorway.Role) (*caller, func(back bool)) {
	e.T.Helper()
	g, err := e.Door.Invite(e.T.Context(), e.Lecture, e.Lecturer,
		door.GuestForm{Name: "Ebba", Role: part, EndsAt: testhouse.Now.Add(time.Hour)})
	e.Must(err)
	_, key, _ := strings.Cut(g.Link, "/guest/")
	c := e.as("")
	post[page.GuestPass](c, "/api/guest/"+key, nil)
	return c, func(back bool) { e.Must(e.Door.TakeBack(e.T.Context(), e.Lecture, g.ID, back)) }
}

// TestAGuestFollowsLive, and each address of the media is worth nothing once the link is.
func TestAGuestFollowsLive(t *testing.T) {
	e := newEdge(t)
	b := e.live(capture.Start{})
	guest, takeBack := e.guest(doorway.Listener)
	if s := guest.status(http.MethodPost, "/api/lectures/"+e.Lecture.String()+"/seen-notice", nil); s >= 300 {
		t.Errorf("seeing the sign: %d", s)
	}
	watch := get[watching.Watch](guest, "/api/watch/"+b.Recording.String())
	if !watch.Live || watch.AsStaff || len(watch.Takes) > 0 {
		t.Errorf("%+v", watch)
	}
	addresses := below(guest, watch.Media)
	if len(addresses) < 5 {
		t.Fatalf("only %v", addresses)
	}
	all := func(want int, when string) {
		t.Helper()
		for _, a := range addresses {
			if s := guest.status(http.MethodGet, a, nil); s != want {
				t.Errorf("%s, %s: %d", when, a, s)
			}
		}
	}
	all(http.StatusOK, "while the link holds")
	takeBack(false)
	all(http.StatusNotFound, "taken back")
	takeBack(true)
	all(http.StatusOK, "given again")
	closed := string(doorway.Closed)
	post[planning.Changed](e.as("lecturer"), "/api/lectures/"+e.Lecture.String()+"/edit",
		planning.EditText{Doorway: &closed})
	all(http.StatusNotFound, "the doorway closed")
}

// TestAGuestHearsOfTheirLectureAlone, and only what a visitor needs to know of it.
func TestAGuestHearsOfTheirLectureAlone(t *testing.T) {
	e := newEdge(t, true)
	guest, _ := e.guest(doorway.Speaker)
	heard := guest.hears()
	rule := &viewing.Rule{Audience: viewing.Everyone, Uses: viewing.WatchRead,
		Window: viewing.Window{From: viewing.FromLecture, Until: viewing.UntilEver}}
	e.Must(e.Audience.SetRule(t.Context(), audience.Scope{Course: e.Course}, e.Lecturer, rule))
	for _, lecture := range []uuid.UUID{e.Later, e.Lecture} {
		_, err := e.Capture.Begin(t.Context(), capture.Start{Lecture: lecture, By: e.Lecturer, Source: capture.Desk})
		e.Must(err)
	}
	select {
	case got := <-heard:
		if !strings.Contains(got, `"about":"capture"`) || !strings.Contains(got, e.Lecture.String()) {
			t.Errorf("the first that a guest hears is %s", got)
		}
	case <-time.After(10 * time.Second):
		t.Fatal("a guest hears nothing of their lecture")
	}
}

// TestOnlyKnownProxiesAreBelieved about who calls.
func TestOnlyKnownProxiesAreBelieved(t *testing.T) {
	s := testhouse.New(t, true)
	parts := api.Services{DB: s.DB, Clock: s.Clock, Events: s.Events, Roster: s.Roster, SignIn: s.SignIn,
		Schedule: s.Schedule,
		Capture:  s.Capture, Library: s.Library,
		Audience: s.Audience, Releases: s.Releases, Playlists: s.Playlists, CatchUp: s.CatchUp, Door: s.Door,
		Presence: s.Presence, Secret: make([]byte, 32)}
	places := func(proxies []string) (n int) {
		t.Helper()
		s.Do(`truncate sign_in_failure`)
		parts.Proxies = proxies
		server := httptest.NewServer(api.New(parts))
		defer server.Close()
		for _, from := range []string{"10.0.0.1", "10.0.0.2", "10.0.0.3"} {
			r, err := http.NewRequest(http.MethodPost, server.URL+"/api/sign-in",
				strings.NewReader(`{"email":"nobody@college.example","password":"x"}`))
			s.Must(err)
			r.Header.Set("Content-Type", "application/json")
			r.Header.Set("X-Forwarded-For", from)
			answer, err := server.Client().Do(r)
			s.Must(err)
			answer.Body.Close()
		}
		s.Must(s.DB.QueryRow(t.Context(), `select (count(distinct key) - 1) / 2 from sign_in_failure`).Scan(&n))
		return n
	}
	if n := places(nil); n != 1 {
		t.Errorf("without proxies it counts %d places", n)
	}
	if n := places([]string{"192.0.2.7"}); n != 1 {
		t.Errorf("behind another proxy it counts %d places", n)
	}
	if n := places([]string{"127.0.0.0/8"}); n != 3 {
		t.Errorf("behind a proxy that is known it counts %d places", n)
	}
}
