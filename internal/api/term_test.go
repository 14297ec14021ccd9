package api_test

import (
	"encoding/base64"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"slices"
	"strings"
	"testing"

	"github.com/google/uuid"

	"latelantern/internal/api/accounts"
	"latelantern/internal/api/live"
	"latelantern/internal/api/page"
	"latelantern/internal/api/planning"
	"latelantern/internal/capture"
	"latelantern/internal/testhouse"
)

// post sends JSON and reads the answer into a T; it fails unless that is a success.
func post[T any](c *caller, path string, body any) T {
	c.e.T.Helper()
	var out T
	status, text := c.send(http.MethodPost, path, body)
	if status >= 300 {
		c.e.T.Fatalf("%s: %d %s", path, status, text)
	}
	c.e.Must(json.Unmarshal([]byte(text), &out))
	return out
}

// text reads a plain answer.
func (c *caller) text(path string) (status int, kind, body string) {
	c.e.T.Helper()
	answer := c.request(http.MethodGet, path, nil)
	defer answer.Body.Close()
	b, err := io.ReadAll(answer.Body)
	c.e.Must(err)
	return answer.StatusCode, answer.Header.Get("Content-Type"), string(b)
}

func plan(more map[string]any) map[string]any {
	out := map[string]any{"weekdays": []int{4}, "every": 1, "starts": "10:15", "ends": "11:45", "from": "2026-10-15",
		"times": 5, "until": "", "over_breaks": false,
		"doorway": "walk_in", "opens_min": 10, "capture_auto": false, "lead_min": 5, "tail_min": 10}
	for k, v := range more {
		out[k] = v
	}
	return out
}

// TestPlanningOverHTTP: look, plan, move one and all later ones, undo; students see it.
func TestPlanningOverHTTP(t *testing.T) {
	e := newEdge(t, true)
	lecturer := e.as("lecturer")
	course := "/api/courses/" + e.Course.String()
	look := post[planning.PlanDates](lecturer, course+"/plans/preview", plan(nil))
	if len(look.Lectures) != 5 || look.Clashing != 0 || look.Zone != "Atlantic/Faroe" {
		t.Errorf("%+v", look)
	}
	post[planning.Changed](lecturer, course+"/plans", plan(nil))
	if again := post[planning.PlanDates](lecturer, course+"/plans/preview", plan(nil)); again.Clashing != 5 ||
		!again.Lectures[0].Clashes[0].OfCourse {
		t.Errorf("a second time: %+v", again)
	}
	seen := get[planning.CoursePage](lecturer, course)
	if len(seen.Dates) != 7 || len(seen.Plans) != 1 || *seen.Next != e.Lecture || !seen.Staff {
		t.Fatalf("%+v", seen)
	}
	line := seen.Plans[0]
	if !slices.Equal(line.Plan.Weekdays, []int{4}) || line.Plan.Starts != "10:15" || line.Plan.Ends != "11:45" ||
		line.Plan.From != "2026-10-15" || line.Last != "2026-11-12" || line.Lectures != 5 {
		t.Errorf("the sentence is %+v", line)
	}
	second := seen.Dates[slices.IndexFunc(seen.Dates,
		func(d page.LectureDate) bool { return d.StartsAt.After(testhouse.Now.AddDate(0, 0, 7)) })]
	at := "/api/lectures/" + second.ID.String()
	change := post[planning.Changed](lecturer, at+"/edit",
		map[string]any{"later": true, "day": "2026-10-20", "starts": "08:00", "ends": "09:30"})
	student := get[planning.CoursePage](e.as("student"), course)
	if student.Staff || len(student.Plans) != 0 || student.Role != "student" || len(student.Dates) != 7 {
		t.Errorf("a student sees %+v", student)
	}
	i := slices.IndexFunc(student.Dates, func(d page.LectureDate) bool { return d.ID == second.ID })
	if got := student.Dates[i]; got.StartsAt.UTC().Format("2006-01-02T15:04") != "2026-10-20T07:00" || got.Was != nil {
		t.Errorf("moved with its plan: %+v", got)
	}
	if s := lecturer.status(http.MethodPost, course+"/changes/"+change.Change.String()+"/undo", nil); s >= 300 {
		t.Errorf("undo: %d", s)
	}
	if d := get[live.LecturePage](e.as("student"),
		at+"/page"); !d.Lecture.StartsAt.Equal(second.StartsAt) || d.Settings != nil || d.Standing.Reason != "not_yet" {
		t.Errorf("undone: %+v", d)
	}
	if d := get[live.LecturePage](lecturer, at+"/page"); d.Settings == nil || d.Settings.Later != 3 || d.Today == nil ||
		d.Today.ID != e.Lecture {
		t.Errorf("the lecturer sees %+v", d)
	}
}

// TestEveryFaultStandsAtItsField.
func TestEveryFaultStandsAtItsField(t *testing.T) {
	e := newEdge(t, true)
	lecturer := e.as("lecturer")
	course := "/api/courses/" + e.Course.String()
	for _, c := range []struct {
		field string
		more  map[string]any
	}{
		{"weekdays", map[string]any{"weekdays": []int{}}}, {"starts", map[string]any{"starts": "quarter past"}},
		{"ends", map[string]any{"ends": "10:15"}}, {"ends", map[string]any{"ends": "25:00"}},
		{"from", map[string]any{"from": "soon"}}, {"times", map[string]any{"times": 10_000}},
		{"until", map[string]any{"until": "never"}}, {"hall", map[string]any{"hall": uuid.NewString()}},
		{"opens_min", map[string]any{"opens_min": 999}},
	} {
		status, body := lecturer.send(http.MethodPost, course+"/plans", plan(c.more))
		var p struct {
			Type   string
			Errors []struct{ Location, Message string }
		}
		e.Must(json.Unmarshal([]byte(body), &p))
		if status != http.StatusUnprocessableEntity || p.Type != "urn:late-lantern:fields" || len(p.Errors) != 1 ||
			p.Errors[0].Location != c.field || !strings.HasSuffix(p.Errors[0].Message, ".") {
			t.Errorf("%v: %d %s", c.more, status, body)
		}
	}
	if n := len(get[planning.CoursePage](lecturer, course).Dates); n != 2 {
		t.Errorf("there are %d dates", n)
	}
	// What the form cannot express is refused as well.
	if s := lecturer.status(http.MethodPost, course+"/plans",
		plan(map[string]any{"doorway": "walk_in,ask"})); s != http.StatusUnprocessableEntity {
		t.Errorf("two doorways at once: %d", s)
	}
}

// TestAGuestSeesOneLectureAndNothingElse, and is out as soon as the link is taken back.
func TestAGuestSeesOneLectureAndNothingElse(t *testing.T) {
	e := newEdge(t, true)
	lecturer := e.as("lecturer")
	at := "/api/lectures/" + e.Lecture.String()
	door := post[live.AtDoor](lecturer, at+"/guests",
		map[string]string{"name": "Ebba", "ends_at": "2026-10-14T18:00:00Z"})
	_, key, _ := strings.Cut(door.Guests[0].Link, "/guest/")
	guest := e.as("")
	if pass := post[page.GuestPass](guest, "/api/guest/"+key, nil); pass.Lecture != e.Lecture {
		t.Errorf("%+v", pass)
	}
	if me := get[accounts.Me](guest,
		"/api/me"); me.Guest == nil || *me.Guest != e.Lecture || me.Staff || len(me.Courses) != 0 || me.Email != "" {
		t.Errorf("%+v", me)
	}
	if page := get[live.LecturePage](guest, at+"/page"); !page.Standing.Enter || page.Live != nil || page.Staff {
		t.Errorf("%+v", page)
	}
	b, err := e.Capture.Begin(t.Context(), capture.Start{Lecture: e.Lecture, By: e.Lecturer, Source: capture.Desk})
	e.Must(err)
	if page := get[live.LecturePage](guest, at+"/page"); page.Live == nil || *page.Live != b.Recording {
		t.Errorf("while it is captured: %+v", page)
	}
	if s := guest.status(http.MethodPost, at+"/seen-notice", nil); s >= 300 {
		t.Errorf("seeing the sign: %d", s)
	}
	// Nothing of it has arrived yet, but the door is open.
	if s := guest.status(http.MethodGet, "/api/watch/"+b.Recording.String(), nil); s != http.StatusConflict {
		t.Errorf("following: %d", s)
	}
	for _, path := range []string{"/api/board", "/api/catch-up", "/api/dates", "/api/courses",
		"/api/courses/" + e.Course.String(), "/api/term", "/api/feed", at, at + "/doorway"} {
		if s := guest.status(http.MethodGet, path, nil); s != http.StatusUnauthorized {
			t.Errorf("%s: %d", path, s)
		}
	}
	if s := guest.status(http.MethodGet, "/api/lectures/"+e.Later.String()+"/page", nil); s != http.StatusForbidden {
		t.Errorf("another lecture of the course: %d", s)
	}
	if s := lecturer.status(http.MethodDelete, at+"/guests/"+door.Guests[0].ID.String(), nil); s >= 300 {
		t.Fatalf("take back: %d", s)
	}
	for _, path := range []string{"/api/me", at + "/page", "/api/watch/" + b.Recording.String()} {
		if s := guest.status(http.MethodGet, path, nil); s != http.StatusUnauthorized {
			t.Errorf("taken back, %s: %d", path, s)
		}
	}
	// Someone of the course who opens a link stays who they are.
	if s := lecturer.status(http.MethodPost, at+"/guests/"+door.Guests[0].ID.String()+"/bring-back", nil); s >= 300 {
		t.Fatalf("bring back: %d", s)
	}
	student := e.as("student")
	post[page.GuestPass](student, "/api/guest/"+key, nil)
	if me := get[accounts.Me](student, "/api/me"); me.Name != "student" {
		t.Errorf("they became %+v", me)
	}
}

// TestAskingOverHTTP.
func TestAskingOverHTTP(t *testing.T) {
	e := newEdge(t, true)
	lecturer, student := e.as("lecturer"), e.as("student")
	at := "/api/lectures/" + e.Lecture.String()
	post[planning.Changed](lecturer, at+"/edit", map[string]string{"doorway": "ask"})
	b, err := e.Capture.Begin(t.Context(), capture.Start{Lecture: e.Lecture, By: e.Lecturer, Source: capture.Desk})
	e.Must(err)
	status, body := student.send(http.MethodGet, "/api/watch/"+b.Recording.String(), nil)
	if status != http.StatusForbidden || problemOf(t, body).Type != "urn:late-lantern:doorway.ask" {
		t.Errorf("before asking: %d %s", status, body)
	}
	if page := post[live.LecturePage](student, at+"/ask", nil); page.Standing.Reason != "asked" || page.Live != nil {
		t.Errorf("%+v", page)
	}
	who := get[live.AtDoor](lecturer, at+"/doorway").Asking
	if len(who) != 1 || who[0].Name != "student" {
		t.Fatalf("%+v", who)
	}
	if s := lecturer.status(http.MethodPut, at+"/asking/"+who[0].Person.String(),
		map[string]bool{"let_in": true}); s != http.StatusOK {
		t.Errorf("let in: %d", s)
	}
	if s := student.status(http.MethodPost, at+"/seen-notice", nil); s >= 300 {
		t.Errorf("seeing the sign: %d", s)
	}
	if s := student.status(http.MethodGet, "/api/watch/"+b.Recording.String(), nil); s != http.StatusConflict {
		t.Errorf("let in, though nothing has arrived yet: %d", s)
	}
}

// TestARosterOverHTTP: who is taken off is out at the next request.
func TestARosterOverHTTP(t *testing.T) {
	e := newEdge(t, true)
	term, err := e.Schedule.CurrentTerm(t.Context())
	e.Must(err)
	coordinator, student := e.as("coordinator"), e.as("student")
	at := fmt.Sprintf("/api/terms/%s/roster", term.ID)
	files := func(text, digest string) map[string]any {
		return map[string]any{"files": []any{map[string]string{"name": "roster.csv",
			"data": base64.StdEncoding.EncodeToString([]byte(text))}}, "digest": digest}
	}
	const without = "email,name,course,part,group\nsecond@college.example,second,COU 1,student,A\nthird@college.example,third,COU 1,student,B\n"
	look := post[accounts.RosterImport](coordinator, at+"/preview", files(without, ""))
	if look.TakenOff != 1 || look.Unchanged != 2 || len(look.Changes) != 1 || look.Changes[0].Kind != "take_off" ||
		look.Changes[0].Before != "student, A" {
		t.Errorf("%+v", look)
	}
	if bad := post[accounts.RosterImport](coordinator, at+"/preview", files(without+"x,y\n", "")); bad.FaultsAll != 1 ||
		bad.Faults[0].Line != 4 {
		t.Errorf("%+v", bad.Faults)
	}
	if s := student.status(http.MethodGet, "/api/courses/"+e.Course.String(), nil); s != http.StatusOK {
		t.Errorf("before: %d", s)
	}
	if status, body := coordinator.send(http.MethodPost, at, files(without, "old")); status != http.StatusConflict ||
		problemOf(t, body).Type != "urn:late-lantern:stale" {
		t.Errorf("stale: %d %s", status, body)
	}
	post[accounts.RosterImport](coordinator, at, files(without, look.Digest))
	if s := student.status(http.MethodGet, "/api/courses/"+e.Course.String(), nil); s != http.StatusForbidden {
		t.Errorf("after: %d", s)
	}
	status, kind, text := coordinator.text(at + "?form=sheet")
	if status != http.StatusOK || !strings.HasPrefix(kind, "text/csv") || strings.Contains(text, "student@") ||
		!strings.Contains(text, "second@college.example,second,COU 1,student,A") {
		t.Errorf("%d %s\n%s", status, kind, text)
	}
	if status, kind, text := e.as("lecturer").text("/api/courses/" + e.Course.String() +
		"/roster?form=oneroster"); status != http.StatusOK || kind != "application/zip" ||
		!strings.HasPrefix(text, "PK") {
		t.Errorf("%d %s", status, kind)
	}
}

// TestFeedsNeedNoSignIn, and end when they are renewed.
func TestFeedsNeedNoSignIn(t *testing.T) {
	e := newEdge(t, true)
	student := e.as("student")
	feed := func(address string) (int, string) {
		t.Helper()
		status, kind, text := e.as("").text(strings.TrimPrefix(address, "https://lectures.college.example"))
		if status == http.StatusOK && !strings.HasPrefix(kind, "text/calendar") {
			t.Errorf("it is %s", kind)
		}
		return status, text
	}
	own := get[accounts.FeedAddress](student, "/api/feed").Address
	status, text := feed(own)
	if status != http.StatusOK || strings.Count(text, "BEGIN:VEVENT") != 2 ||
		!strings.Contains(strings.ReplaceAll(text, "\r\n ", ""),
			"https://lectures.college.example/lectures/"+e.Lecture.String()) {
		t.Errorf("%d %s", status, text)
	}
	next := post[accounts.FeedAddress](student, "/api/feed", nil).Address
	if status, _ := feed(own); next == own || status != http.StatusNotFound {
		t.Errorf("the old address: %d", status)
	}
	if status, _ := feed(next); status != http.StatusOK {
		t.Errorf("the new address: %d", status)
	}
}

func TestSigningOutEverywhere(t *testing.T) {
	e := newEdge(t, true)
	here, there := e.as("student"), e.as("student")
	if s := here.status(http.MethodPost, "/api/account/sign-out-everywhere", nil); s >= 300 {
		t.Fatal(s)
	}
	for _, c := range []*caller{here, there} {
		if s := c.status(http.MethodGet, "/api/me", nil); s != http.StatusUnauthorized {
			t.Errorf("still in: %d", s)
		}
	}
	// A new password ends all sessions but the one it was set in.
	here, there = e.as("student"), e.as("student")
	if s := here.status(http.MethodPut, "/api/account/password",
		map[string]string{"old": testhouse.Password, "password": "kelp and bladder wrack"}); s >= 300 {
		t.Fatal(s)
	}
	if s := here.status(http.MethodGet, "/api/me", nil); s != http.StatusOK {
		t.Errorf("where it was set: %d", s)
	}
	if s := there.status(http.MethodGet, "/api/me", nil); s != http.StatusUnauthorized {
		t.Errorf("elsewhere: %d", s)
	}
}

// TestTooManyGuesses: the address that a proxy claims is not believed unless the proxy is known.
func TestTooManyGuesses(t *testing.T) {
	e := newEdge(t, true)
	guess := func(n int) int {
		t.Helper()
		body := fmt.Sprintf(`{"email":"student@college.example","password":"guess %d"}`, n)
		answer := e.as("").request(http.MethodPost, "/api/sign-in", strings.NewReader(body), "Content-Type",
			"application/json", "X-Forwarded-For", fmt.Sprintf("10.0.0.%d", n))
		answer.Body.Close()
		return answer.StatusCode
	}
	n, s := 0, 0
	for ; n < 30 && s != http.StatusTooManyRequests; n++ {
		if s = guess(n); s != http.StatusTooManyRequests && s != http.StatusUnauthorized {
			t.Fatalf("guess %d: %d", n, s)
		}
	}
	if n < 6 || n > 10 {
		t.Errorf("%d guesses were looked at", n)
	}
	var from int
	e.Must(e.DB.QueryRow(t.Context(), `select count(distinct key) from sign_in_failure`).Scan(&from))
	if from != 3 { // the account, the network, and both together
		t.Errorf("guesses came from %d places and accounts", from)
	}
}

// TestTheRunSheet has the day by hall, and for a lecturer their own.
func TestTheRunSheet(t *testing.T) {
	e := newEdge(t, true)
	all := get[planning.RunSheet](e.as("coordinator"), "/api/run-sheet")
	if len(all.Entries) != 2 || !all.Today || all.Week != 4 || !slices.Equal(all.Halls, []string{"Hall"}) ||
		all.Entries[1].Cell.Next != "capture" || all.Entries[1].Lecturers[0] != "lecturer" {
		t.Errorf("%+v", all)
	}
	_, err := e.Capture.Begin(t.Context(), capture.Start{Lecture: e.Lecture, By: e.Lecturer, Source: capture.Desk})
	e.Must(err)
	mine := get[planning.RunSheet](e.as("lecturer"), "/api/run-sheet")
	if len(mine.Entries) != 1 || mine.Entries[0].Lecture.ID != e.Lecture || mine.Entries[0].By != "lecturer" ||
		mine.Entries[0].Cell.State != "capturing" {
		t.Errorf("%+v", mine)
	}
	other := get[planning.RunSheet](e.as("coordinator"), "/api/run-sheet?day=2026-10-17")
	if len(other.Entries) != 0 || other.Today || other.Day != "2026-10-17" {
		t.Errorf("%+v", other)
	}
}

// TestAStudentsDates has today's first, and nothing of other courses.
func TestAStudentsDates(t *testing.T) {
	e := newEdge(t, true)
	d := get[planning.Dates](e.as("student"), "/api/dates")
	if len(d.Today) != 1 || d.Today[0].ID != e.Lecture || d.Today[0].State != "on" || len(d.Dates) != 2 {
		t.Errorf("%+v", d)
	}
	list := get[planning.CourseList](e.as("student"), "/api/courses")
	if len(list.Courses) != 1 || list.Courses[0].Code != "COU 1" || list.Courses[0].Next.ID != e.Lecture ||
		list.Courses[0].Lectures != 2 {
		t.Errorf("%+v", list)
	}
	room := get[planning.Room](e.as("student"), "/api/courses/"+e.Course.String()+"/standing-room")
	if len(room.Today) != 1 || room.Running != nil || room.Staff {
		t.Errorf("%+v", room)
	}
}
