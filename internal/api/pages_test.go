package api_test

import (
	"context"
	"encoding/base64"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/live"
	"latelantern/internal/api/page"
	"latelantern/internal/api/planning"
	"latelantern/internal/api/sharing"
	"latelantern/internal/api/trimming"
	"latelantern/internal/api/watching"
	"latelantern/internal/capture"
	"latelantern/internal/playlists"
)

// TestTheBoardShowsEachPersonTheirCourses, with states and needs that follow from the facts.
func TestTheBoardShowsEachPersonTheirCourses(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	b := get[planning.Board](e.as("lecturer"), "/api/board")
	if len(b.Courses) != 1 || b.Courses[0].Code != "COU 1" || !b.Courses[0].Mine || b.Courses[0].Students != 3 ||
		b.Monday != "2026-10-12" || len(b.Weeks) != 13 {
		t.Fatalf("%+v", b)
	}
	today := b.Courses[0].Lectures[0]
	if today.State != "dark" || today.Next != "trim" || today.ID != e.Lecture {
		t.Errorf("today: %+v", today)
	}
	if next := b.Courses[0].Lectures[1]; next.State != "planned" || next.Next != "wait" {
		t.Errorf("next week: %+v", next)
	}
	if c := get[live.LectureSheet](e.as("lecturer"),
		"/api/lectures/"+e.Lecture.String()).Cell; !c.Today || c.Of != 3 || c.RecordingID == nil ||
		*c.RecordingID != id {
		t.Errorf("by itself: %+v", c)
	}
	if len(b.Needs) != 1 || b.Needs[0].Kind != "trim" || b.Needs[0].Week != 4 || b.Needs[0].Count != 1 {
		t.Errorf("needs: %+v", b.Needs)
	}
	all := get[planning.Board](e.as("coordinator"), "/api/board")
	if len(all.Courses) != 2 || all.Courses[0].Mine || all.Courses[1].Lectures[0].State != "missed" {
		t.Errorf("the coordinator sees %+v", all.Courses)
	}
	if none := get[planning.Board](e.as("student"), "/api/board"); len(none.Courses) != 0 || len(none.Needs) != 0 {
		t.Errorf("a student sees %+v", none.Courses)
	}
	// A second thing of a kind makes a count; what presses most comes first.
	e.Do(`update lecture set starts_at = $2, ends_at = $3 where id = $1`, e.Later, e.Clock.Now().Add(-time.Minute),
		e.Clock.Now().Add(time.Hour))
	b = get[planning.Board](e.as("lecturer"), "/api/board")
	if len(b.Needs) != 2 || b.Needs[0].Kind != "capture" || b.Needs[1].Kind != "trim" {
		t.Errorf("needs: %+v", b.Needs)
	}
}

// TestOneRecordingThroughTheBench takes every step by its operation.
func TestOneRecordingThroughTheBench(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	c := e.as("lecturer")
	at := "/api/recordings/" + id.String()
	do := func(method, path string, body any, want string) trimming.Bench {
		t.Helper()
		if status, text := c.send(method, at+path, body); status != http.StatusOK {
			t.Fatalf("%s %s: %d %s", method, path, status, text)
		}
		b := get[trimming.Bench](c, at)
		if b.Lecture.Next != want {
			t.Errorf("after %s %v the next step is %q, want %q", path, body, b.Lecture.Next, want)
		}
		return b
	}
	b := do(http.MethodPost, "/cuts", map[string]any{"cut": "strike", "start": 1000, "end": 2000}, "title")
	if len(b.Struck) != 1 || b.Struck[0] != (page.Span{Start: 1000, End: 2000}) || b.PublishedMs != 3000 ||
		len(b.Kept) != 2 || !b.CanUndo || b.CanRedo || b.Current || b.Titled {
		t.Errorf("struck: %+v", b)
	}
	for body, says := range map[string]string{
		`{"cut":"strike","start":3000,"end":1000}`: "The end of the stretch lies before its start",
		`{"cut":"strike","start":0,"end":9000}`:    "leave nothing to watch, or less than a second",
		`{"cut":"redo"}`:                           "no further change",
		`{"cut":"strike","start":9000,"end":9900}`: "outside the recording",
	} {
		answer := c.request(http.MethodPost, at+"/cuts", strings.NewReader(body), "Content-Type", "application/json")
		text := make([]byte, 600)
		n, _ := answer.Body.Read(text)
		answer.Body.Close()
		if p := problemOf(t, string(text[:n])); answer.StatusCode != http.StatusConflict ||
			!strings.Contains(p.Detail, says) {
			t.Errorf("%s: %d %s", body, answer.StatusCode, p.Detail)
		}
	}
	b = do(http.MethodPut, "/title", map[string]string{"title": "Springs"}, "rule")
	if b.Title != "Springs" || !b.Titled {
		t.Errorf("titled: %+v", b)
	}
	if status, text := c.send(http.MethodPut, at+"/title",
		map[string]string{"title": "   "}); status != http.StatusUnprocessableEntity ||
		!strings.Contains(problemOf(t, text).Detail, "at least one character") {
		t.Errorf("an empty title: %d %s", status, text)
	}
	e.everyone(false)
	if b := get[trimming.Bench](c, at); b.Lecture.Next != "playlist" {
		t.Errorf("ruled, the next step is %q", b.Lecture.Next)
	}
	list := "/api/courses/" + e.Course.String() + "/playlist"
	page := get[sharing.PlaylistPage](c, list)
	if len(page.Entries) != 0 || len(page.Waiting) != 1 || page.Waiting[0].RecordingID != id ||
		page.Waiting[0].Next != "playlist" {
		t.Errorf("the playlist: %+v", page)
	}
	if s := c.status(http.MethodPost, list+"/recordings",
		map[string][]string{"recordings": {id.String()}}); s != http.StatusOK {
		t.Fatalf("list: %d", s)
	}
	// On a fast machine it is there before the answer is.
	if status, text := c.send(http.MethodPost, at+"/light",
		nil); status != http.StatusOK || !strings.Contains(text, `"lit":true`) ||
		!strings.Contains(text, `"making":true`) && !strings.Contains(text, `"current":true`) {
		t.Errorf("lit, its edition is on its way: %d %s", status, text)
	}
	e.Lit(id)
	b = get[trimming.Bench](c, at)
	if b.Lecture.Next != "tell" || b.Lecture.State != "lit" || b.Lecture.Can != 3 || !b.Current || b.Making {
		t.Errorf("lit: %+v", b)
	}
	seats := get[trimming.Audience](c, "/api/courses/"+e.Course.String()+"/recordings/"+id.String()+"/audience")
	if seats.Can != 3 || seats.Of != 3 || seats.Light != "lit" || seats.Seats[0].Name != "second" ||
		!seats.Seats[0].Can {
		t.Errorf("the audience: %+v", seats)
	}
	strip := get[trimming.StripPage](c, at+"/strip")
	peaks, err := base64.StdEncoding.DecodeString(strip.Peaks)
	if err != nil || len(peaks) < 39 || len(peaks) > 42 || strip.WindowMs != 100 || len(strip.Slides) == 0 {
		t.Errorf("the strip page: %d peaks, %+v", len(peaks), strip.Slides)
	}
	if s := c.status(http.MethodGet, strip.Slides[0].Picture, nil); s != http.StatusOK {
		t.Errorf("the picture of a slide: %d", s)
	}
	page = get[sharing.PlaylistPage](c, list)
	if len(page.Entries) != 1 || page.Entries[0].Title != "Springs" || page.Entries[0].LengthMs != 3000 ||
		page.Entries[0].Light != "lit" || page.Entries[0].Week != 4 || len(page.Waiting) != 0 {
		t.Errorf("the playlist: %+v", page.Entries)
	}
	do(http.MethodPost, "/darken", nil, "light")
	if s := c.status(http.MethodDelete, at, nil); s >= 300 {
		t.Errorf("take away: %d", s)
	}
	if b := get[planning.Board](c, "/api/board"); b.Courses[0].Lectures[0].State == "dark" ||
		b.Courses[0].Lectures[0].Next == "title" {
		t.Error("a recording that was taken away stands on the board")
	}
}

func TestRulesBySentence(t *testing.T) {
	e := newEdge(t, true)
	c := e.as("lecturer")
	at := "/api/courses/" + e.Course.String() + "/rule"
	page := get[sharing.RulePage](c, at)
	if page.Set || page.Rule.Audience != "everyone" || page.Rule.Until != "term" || page.Rule.DaysAfterTerm != 30 ||
		len(page.Groups) != 2 || page.Students != 3 {
		t.Errorf("without a rule: %+v", page)
	}
	rule := func(change map[string]any) map[string]any {
		out := map[string]any{"audience": "groups", "groups": []string{"A"}, "uses": []string{"watch", "take_video"}, "from": "lecture",
			"until": "term", "days_after_term": 7}
		for k, v := range change {
			out[k] = v
		}
		return out
	}
	if s := c.status(http.MethodPut, at, rule(nil)); s != http.StatusOK {
		t.Fatalf("set: %d", s)
	}
	page = get[sharing.RulePage](c, at)
	if !page.Set || page.Rule.Groups[0] != "A" || !slices.Contains(page.Rule.Uses, "take_video") ||
		page.Rule.DaysAfterTerm != 7 {
		t.Errorf("set: %+v", page.Rule)
	}
	for says, change := range map[string]map[string]any{
		"Choose at least one group":  {"groups": []string{}},
		"Choose the date from which": {"from": "date"},
		"The end of the rule lies before": {"from": "date", "from_at": "2026-11-02T00:00:00Z", "until": "date",
			"until_at": "2026-11-01T00:00:00Z"},
		"Choose the date until which":        {"until": "date"},
		"expected value to be one of":        {"audience": "the moon"},
		"expected number <= 3650":            {"days_after_term": 4000},
		"expected string to be RFC 3339 dat": {"from_at": "yesterday"},
	} {
		status, text := c.send(http.MethodPut, at, rule(change))
		if status != http.StatusUnprocessableEntity || !strings.Contains(text, says) {
			t.Errorf("%v: %d %s", change, status, text)
		}
	}
	if now := get[sharing.RulePage](c, at); now.Rule.DaysAfterTerm != 7 || now.Rule.Groups[0] != "A" {
		t.Errorf("a refused rule changed it to %+v", now.Rule)
	}
	if s := c.status(http.MethodDelete, at, nil); s != http.StatusConflict {
		t.Errorf("taken away by someone who saw none: %d", s)
	}
	seen := "?seen=" + get[sharing.RulePage](c, at).Version
	if s := c.status(http.MethodDelete, at+seen, nil); s != http.StatusOK || get[sharing.RulePage](c, at).Set {
		t.Errorf("taken away: %d", s)
	}
}

// TestFollowingLive: students of the course see a lecture under way among what they can watch; others do not.
func TestFollowingLive(t *testing.T) {
	e := newEdge(t, true)
	b, err := e.Capture.Begin(context.Background(),
		capture.Start{Lecture: e.Lecture, By: e.Lecturer, Source: capture.Desk})
	e.Must(err)
	list := get[watching.CatchUp](e.as("student"), "/api/catch-up")
	if len(list.Live) != 1 || list.Live[0].RecordingID != b.Recording || list.Live[0].Course != "COU 1" {
		t.Errorf("a student sees %+v", list.Live)
	}
	if other := get[watching.CatchUp](e.as("outsider"), "/api/catch-up"); len(other.Live) != 0 {
		t.Errorf("a student of another course sees %+v", other.Live)
	}
	status, text := e.as("outsider").send(http.MethodGet, "/api/watch/"+b.Recording.String(), nil)
	if status != http.StatusForbidden || problemOf(t, text).Type != "urn:late-lantern:doorway.not_enrolled" {
		t.Errorf("a student of another course: %d %s", status, text)
	}
	// A student must have seen that it is captured; then only bytes are wanting.
	watch, seen := "/api/watch/"+b.Recording.String(), "/api/lectures/"+e.Lecture.String()+"/seen-notice"
	if s := e.as("coordinator").status(http.MethodPut, "/api/college",
		map[string]string{"capture_notice": "Here you may be seen."}); s >= 300 {
		t.Errorf("the sentence of the college: %d", s)
	}
	status, text = e.as("student").send(http.MethodGet, watch, nil)
	if p := problemOf(t,
		text); status != http.StatusForbidden || p.Type != "urn:late-lantern:notice" ||
		!strings.Contains(text, e.Lecture.String()) ||
		p.Detail != "Here you may be seen." {
		t.Errorf("before the sign was seen: %d %s", status, text)
	}
	if s := e.as("outsider").status(http.MethodPost, seen, nil); s != http.StatusForbidden {
		t.Errorf("a stranger sees the sign: %d", s)
	}
	if s := e.as("student").status(http.MethodPost, seen, nil); s >= 300 {
		t.Errorf("seeing the sign: %d", s)
	}
	if status, text = e.as("student").send(http.MethodGet, watch, nil); status != http.StatusConflict {
		t.Errorf("after the sign was seen: %d %s", status, text)
	}
	cell := get[planning.Board](e.as("lecturer"), "/api/board").Courses[0].Lectures[0]
	if cell.State != "capturing" || cell.Phase != "begins" || cell.Next != "" {
		t.Errorf("on the board: %+v", cell)
	}
	e.Do(`update lecture set ends_at = $2, starts_at = $3 where id = $1`, e.Lecture, e.Clock.Now().Add(-time.Minute),
		e.Clock.Now().Add(-2*time.Hour))
	if cell := get[planning.Board](e.as("lecturer"), "/api/board").Courses[0].Lectures[0]; cell.Next != "stop" {
		t.Errorf("after its end: %+v", cell)
	}
	ended := get[live.LectureSheet](e.as("lecturer"), "/api/lectures/"+e.Lecture.String())
	if len(ended.Recordings) != 1 || ended.Recordings[0].Stopped || ended.Recordings[0].Source != "desk" {
		t.Errorf("its sheet: %+v", ended.Recordings)
	}
	if s := e.as("lecturer").status(http.MethodPost, fmt.Sprintf("/api/recordings/%s/end", b.Recording),
		nil); s != http.StatusOK {
		t.Errorf("end it: %d", s)
	}
	if list := get[watching.CatchUp](e.as("student"), "/api/catch-up"); len(list.Live) != 0 {
		t.Errorf("ended, a student sees %+v", list.Live)
	}
}

// TestHeadingsWithoutRecordings are not shown to students, and what is dark is not either.
func TestHeadingsWithoutRecordings(t *testing.T) {
	ctx := context.Background()
	e := newEdge(t)
	id := e.recording()
	e.everyone(false)
	heading := func(text string) uuid.UUID {
		h, err := e.Playlists.AddHeading(ctx, playlists.Of{Course: e.Course}, playlists.Text{Title: text})
		e.Must(err)
		return h
	}
	heading("first")
	heading("second")
	e.Must(e.Playlists.Add(ctx, playlists.Of{Course: e.Course}, nil, id))
	heading("third")
	words := func() string {
		var out []string
		lists := get[watching.CatchUp](e.as("student"), "/api/catch-up").Courses[0].Lists
		if len(lists) == 0 {
			return ""
		}
		for _, x := range lists[0].Entries {
			if x.Heading != nil {
				out = append(out, *x.Heading)
			} else {
				out = append(out, "recording")
			}
		}
		return strings.Join(out, " ")
	}
	if got := words(); got != "" {
		t.Errorf("dark, a student sees %q", got)
	}
	e.Lit(id)
	if got := words(); got != "second recording" {
		t.Errorf("lit, a student sees %q", got)
	}
}
