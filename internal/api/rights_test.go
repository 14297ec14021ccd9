package api_test

import (
	"bytes"
	"context"
	"encoding/json"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/accounts"
	"latelantern/internal/api/page"
	"latelantern/internal/api/watching"
	"latelantern/internal/audience"
	"latelantern/internal/capture"
	"latelantern/internal/core/span"
	"latelantern/internal/core/viewing"
	"latelantern/internal/cuts"
	"latelantern/internal/recordings"
	"latelantern/internal/testfilm"
	"latelantern/internal/testhouse"
)

// TestWhatWasStruckIsGone: once another edition is published the address of the one before leads nowhere, also its
// copy, its bytes are removed, and whoever watched it goes on at the same moment of the lecture.
func TestWhatWasStruckIsGone(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	e.everyone(true)
	first := e.Lit(id)
	student := e.as("student")
	watch := "/api/watch/" + id.String()
	before := get[watching.Watch](student, watch)
	addresses := append(below(student, before.Media), e.copied("student", id))
	key := "edition/" + first.EditionID.String()
	if e.Blobs.Size(key+"/plan.json") == 0 {
		t.Fatal("the edition lies elsewhere")
	}
	e.Must(e.Cuts.Change(t.Context(), id, e.Lecturer, cuts.Strike, span.Span{Start: time.Second, End: 2 * time.Second}))
	second := e.Lit(id)
	for _, address := range addresses {
		if s := student.status(http.MethodGet, address, nil); s != http.StatusNotFound {
			t.Errorf("%s: %d after another edition was published", address, s)
		}
	}
	e.Until(func() bool {
		for range e.Blobs.List(key) {
			return false
		}
		return true
	})
	after := get[watching.Watch](student, watch+"?edition="+before.Edition.String()+"&at=3000")
	if after.Edition != *second.EditionID || after.ResumeMs != 2000 {
		t.Errorf("it goes on at %d of %s", after.ResumeMs, after.Edition)
	}
	// A page that has not heard of it yet keeps its place all the same.
	if s := student.status(http.MethodPut, watch+"/place",
		map[string]any{"at": 2500, "edition": before.Edition}); s >= 300 {
		t.Errorf("keeping a place in the edition before: %d", s)
	}
	if now := get[watching.Watch](student, watch); now.ResumeMs != 1500 {
		t.Errorf("the place is at %d", now.ResumeMs)
	}
	if s := student.status(http.MethodPut, watch+"/place",
		map[string]any{"at": 2500, "edition": uuid.New()}); s != http.StatusNotFound {
		t.Errorf("a place in no edition: %d", s)
	}
	// As it was before it was struck it is made anew, and not found in what was removed.
	e.Must(e.Cuts.Change(t.Context(), id, e.Lecturer, cuts.Undo, span.Span{}))
	third := e.Lit(id)
	if *third.EditionID == *first.EditionID || len(below(student, get[watching.Watch](student, watch).Media)) < 5 {
		t.Error("an edition that was removed is published again")
	}
}

// live begins to capture the lecture and sends some seconds of it.
func (e *house) live(in capture.Start) capture.Started {
	e.T.Helper()
	path := filepath.Join(e.T.TempDir(), "live.mkv")
	e.Must(testfilm.Film{Length: 12 * time.Second, Width: 320, Height: 180,
		Encoding: []string{"-c:v", "libx264", "-preset", "ultrafast", "-bf", "0", "-g", "50", "-c:a", "libopus",
			"-cluster_time_limit", "1000"}}.Make(context.Background(), path))
	film, err := os.ReadFile(path)
	e.Must(err)
	in.By, in.Source = e.Lecturer, capture.Desk
	if in.Lecture == uuid.Nil {
		in.Lecture = e.Lecture
	}
	b, err := e.Capture.Begin(context.Background(), in)
	e.Must(err)
	_, err = e.Capture.Append(context.Background(), b.Track, 0, nil, bytes.NewReader(film))
	e.Must(err)
	e.Until(func() bool {
		r, err := e.Recordings.Captured(context.Background(), b.Recording)
		return err == nil && r.Length > 7*time.Second
	})
	return b
}

// TestLiveShowsWhatIsCapturedNow: what was struck meanwhile is black, what was lit or darkened before is not followed
// live, nor what began long ago.
func TestLiveShowsWhatIsCapturedNow(t *testing.T) {
	e := newEdge(t)
	b := e.live(capture.Start{})
	whole, err := e.Recordings.Live(t.Context(), b.Recording)
	e.Must(err)
	// As when one that was trimmed is joined to it by hand.
	cuts := uuid.New()
	e.Do(`insert into cut_list (id, recording_id, struck, made_by, made_at) values ($1, $2, '{[0,3000)}', $3, now())`,
		cuts, b.Recording, e.Lecturer)
	e.Do(`insert into recording_cuts (cut_list_id, recording_id) values ($1, $2)`, cuts, b.Recording)
	part, err := e.Recordings.Live(t.Context(), b.Recording)
	e.Must(err)
	black := func(r *recordings.Presentation) (n int) {
		for _, rendition := range r.Renditions() {
			for _, it := range rendition.Segments {
				if it.Frames == 0 {
					n++
				}
			}
		}
		return n
	}
	if black(whole) != 0 || black(part) == 0 || part.Stretches[0].Source.Start != 3*time.Second {
		t.Errorf("%d and %d black pieces; it is shown from %v", black(whole), black(part),
			part.Stretches[0].Source.Start)
	}
	student := e.as("student")
	if s := student.status(http.MethodPost, "/api/lectures/"+e.Lecture.String()+"/seen-notice", nil); s >= 300 {
		t.Fatalf("seeing the sign: %d", s)
	}
	watch := "/api/watch/" + b.Recording.String()
	page := get[watching.Watch](student, watch)
	addresses := below(student, page.Media)
	closed := func(when string) {
		t.Helper()
		if s := student.status(http.MethodGet, watch, nil); s != http.StatusForbidden {
			t.Errorf("%s it opens: %d", when, s)
		}
		for _, a := range addresses {
			if s := student.status(http.MethodGet, a, nil); s != http.StatusNotFound {
				t.Errorf("%s %s: %d", when, a, s)
			}
		}
	}
	e.Do(`update capture set started_at = started_at - interval '13 hours'`)
	closed("when it began long ago")
	e.Do(`update capture set started_at = started_at + interval '13 hours'`)
	e.Do(`insert into lighting (id, recording_id, course_id, lit_at, darkened_at) values ($1, $2, $3, now(), now())`,
		uuid.New(), b.Recording, e.Course)
	closed("when it was darkened")
}

// TestPresenceNeedsAPlayer: a page that only says so is not there.
func TestPresenceNeedsAPlayer(t *testing.T) {
	e := newEdge(t)
	b := e.live(capture.Start{})
	student := e.as("student")
	here := "/api/lectures/" + e.Lecture.String()
	present := func(in map[string]bool) int { return student.status(http.MethodPut, here+"/present", in) }
	if s := present(map[string]bool{"in_hall": true}); s != http.StatusConflict {
		t.Errorf("without having seen the sign: %d", s)
	}
	if s := student.status(http.MethodPost, here+"/seen-notice", nil); s >= 300 {
		t.Fatalf("seeing the sign: %d", s)
	}
	page := get[watching.Watch](student, "/api/watch/"+b.Recording.String())
	if s := present(map[string]bool{"in_hall": false}); s != http.StatusConflict {
		t.Errorf("before anything was played: %d", s)
	}
	for _, a := range below(student, page.Media) {
		if strings.HasSuffix(a, ".m4s") {
			student.status(http.MethodGet, a, nil)
			break
		}
	}
	if s := present(map[string]bool{"in_hall": false}); s >= 300 {
		t.Errorf("while it plays: %d", s)
	}
	e.Must(e.Capture.End(t.Context(), b.Recording))
	if s := present(map[string]bool{"in_hall": true}); s != http.StatusConflict {
		t.Errorf("after the end: %d", s)
	}
}

// TestARemovedAssistantTakesNothingAlong: a file that they sent is at the course it went to.
func TestARemovedAssistantTakesNothingAlong(t *testing.T) {
	e := newEdge(t)
	helper := e.Person("helper", e.Course, "assistant", "")
	e.Do(`insert into membership (course_id, person_id, role) values ($1, $2, 'lecturer')`, e.Other, helper)
	_, track := e.File(e.Lecture, e.shortFilm())
	e.Do(`update capture set started_by = $1`, helper)
	c := e.as("helper")
	e.Do(`delete from membership where person_id = $1 and course_id = $2`, helper, e.Course)
	for method, path := range map[string]string{http.MethodPut: "/lecture", http.MethodDelete: "",
		http.MethodPost: "/bring-back"} {
		if s := c.status(method, "/api/arrivals/"+track.String()+path,
			map[string]any{"lecture": e.Elsewhere}); s != http.StatusForbidden {
			t.Errorf("%s %s: %d", method, path, s)
		}
	}
	if n := e.Count(`select count(*)::int from capture where lecture_id = $1`, e.Lecture); n != 1 {
		t.Error("it was taken along")
	}
}

// TestARosterOfAnotherCourse is refused with that alone: nothing of who is in it, not even whether it is there.
func TestARosterOfAnotherCourse(t *testing.T) {
	e := newEdge(t, true)
	term, err := e.Schedule.CurrentTerm(t.Context())
	e.Must(err)
	path := "/api/terms/" + term.ID.String() + "/roster"
	lecturer := e.as("lecturer")
	look := func(files map[string]string) (accounts.RosterImport, string) {
		t.Helper()
		in := map[string]any{"digest": ""}
		var list []any
		for name, text := range files {
			list = append(list, map[string]any{"name": name, "data": []byte(text)})
		}
		in["files"] = list
		status, body := lecturer.send(http.MethodPost, path+"/preview", in)
		var out accounts.RosterImport
		if status != http.StatusOK || json.Unmarshal([]byte(body), &out) != nil {
			t.Fatalf("%d %s", status, body)
		}
		in["digest"] = out.Digest
		if status, body := lecturer.send(http.MethodPost, path, in); out.FaultsAll > 0 &&
			status != http.StatusUnprocessableEntity {
			t.Errorf("applied all the same: %d %s", status, body)
		}
		return out, body
	}
	for _, code := range []string{"OTH 2", "oth 2", "NEW 9"} {
		x, body := look(map[string]string{"a.csv": "email,name,course,part\nx@college.example,X," + code +
			",student\nstudent@college.example,S,COU 1,student\n"})
		if len(x.Faults) != 1 || x.FaultsAll != 1 || len(x.Changes)+x.Enrolled+x.TakenOff+x.Unchanged+x.People > 0 ||
			len(x.Speaks) > 0 || strings.Contains(body, "outsider") {
			t.Errorf("%s: %s", code, body)
		}
		if !strings.Contains(x.Faults[0].Text, "You do not teach") {
			t.Errorf("%s: %s", code, x.Faults[0].Text)
		}
	}
	one := map[string]string{
		"users.csv":       "sourcedId,givenName,familyName,email\nu1,New,Comer,newcomer@college.example\n",
		"courses.csv":     "sourcedId,title,courseCode\nc1,A made up course,MADE 1\n",
		"classes.csv":     "sourcedId,title,courseSourcedId\nk1,A class,c1\n",
		"enrollments.csv": "sourcedId,classSourcedId,userSourcedId,role\n",
	}
	if x, body := look(one); x.FaultsAll != 1 || x.Courses > 0 || x.People > 0 {
		t.Errorf("a course with a class and nobody in it: %s", body)
	}
	if n := e.Count(`select count(*)::int from course where code in ('MADE 1', 'NEW 9')`); n > 0 {
		t.Errorf("%d courses were made", n)
	}
	// Someone who assists brings in students, and no one else.
	helper := e.Person("helper", e.Course, "assistant", "")
	lecturer = e.as("helper")
	if x, body := look(map[string]string{
		"a.csv": "email,name,course,part\nx@college.example,X,COU 1,lecturer\n"}); x.FaultsAll != 1 ||
		len(x.Changes) > 0 {
		t.Errorf("a lecturer by an assistant: %s", body)
	}
	if x, body := look(map[string]string{
		"a.csv": "email,name,course,part\nx@college.example,X,COU 1,student\n"}); x.FaultsAll != 0 || x.Enrolled != 1 {
		t.Errorf("a student by an assistant: %s", body)
	}
	_ = helper
}

// TestSessionsEnd everywhere within 15 seconds: events, pages and media, by a coordinator's word or a closed account.
func TestSessionsEnd(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	e.everyone(true)
	e.Lit(id)
	boss := e.as("coordinator")
	for what, do := range map[string]func() int{
		"ended": func() int {
			return boss.status(http.MethodPost, "/api/people/"+e.Student.String()+"/end-sessions", nil)
		},
		"closed": func() int {
			return boss.status(http.MethodPut, "/api/people/"+e.Student.String()+"/closed",
				map[string]bool{"closed": true})
		},
	} {
		student := e.as("student")
		heard := student.hears()
		feed := strings.TrimPrefix(get[accounts.FeedAddress](student, "/api/feed").Address,
			"https://lectures.college.example")
		if s := e.as("").status(http.MethodGet, feed, nil); s != http.StatusOK {
			t.Errorf("%s: the calendar is %d before", what, s)
		}
		media := get[watching.Watch](student, "/api/watch/"+id.String()).Media
		if s := do(); s >= 300 {
			t.Fatalf("%s: %d", what, s)
		}
		if s := student.status(http.MethodGet, media, nil); s != http.StatusNotFound {
			t.Errorf("%s: media are %d", what, s)
		}
		if s := student.status(http.MethodGet, "/api/me", nil); s != http.StatusUnauthorized {
			t.Errorf("%s: they are %d", what, s)
		}
		if s := e.as("").status(http.MethodGet, feed, nil); (s == http.StatusNotFound) != (what == "closed") {
			t.Errorf("%s: the calendar is %d", what, s)
		}
		limit := time.After(15 * time.Second)
		for open := true; open; {
			select {
			case _, open = <-heard:
			case <-limit:
				t.Errorf("%s: events go on after 15 s", what)
				open = false
			}
		}
		status, body := e.as("").send(http.MethodPost, "/api/sign-in",
			map[string]string{"email": "student@college.example", "password": testhouse.Password})
		if want := map[string]int{"ended": http.StatusOK, "closed": http.StatusForbidden}[what]; status != want {
			t.Errorf("%s: signing in again is %d %s", what, status, body)
		}
		e.Must(e.SignIn.SetClosed(t.Context(), e.Student, false))
	}
}

// TestStreamsAreCounted: one person does not hold all the lines there are, and nobody else is kept from theirs.
func TestStreamsAreCounted(t *testing.T) {
	e := newEdge(t, true)
	student := e.as("student")
	for range 20 {
		student.hears()
	}
	answer := student.request(http.MethodGet, "/api/events", nil)
	answer.Body.Close()
	if answer.StatusCode != http.StatusTooManyRequests {
		t.Errorf("the twenty-first: %d", answer.StatusCode)
	}
	e.as("second").hears()
}

// TestStudentsLearnNothingOfWhatIsPrivate: of a lesson recorded ahead and of a standing room that is closed no answer
// and no event says anything, until the recording is open to them.
func TestStudentsLearnNothingOfWhatIsPrivate(t *testing.T) {
	e := newEdge(t)
	ahead := post[page.GuestPass](e.as("lecturer"), "/api/courses/"+e.Course.String()+"/lessons",
		map[string]string{"week": "2026-10-19", "topic": "A secret lesson"}).Lecture
	room := post[page.GuestPass](e.as("lecturer"), "/api/courses/"+e.Course.String()+"/standing-room",
		map[string]string{"topic": "A secret room"}).Lecture
	e.Do(`update lecture set doorway = 'closed' where id = $1`, room)
	student := e.as("student")
	heard := student.hears()
	e.live(capture.Start{Lecture: room})
	b := e.live(capture.Start{Lecture: ahead, Alone: true})
	course := "/api/courses/" + e.Course.String()
	for _, path := range []string{"/api/dates", course, course + "/standing-room", "/api/courses", "/api/catch-up",
		"/api/lectures/" + e.Lecture.String() + "/page"} {
		status, body := student.send(http.MethodGet, path, nil)
		for _, x := range []string{"secret", ahead.String(), room.String()} {
			if status != http.StatusOK || strings.Contains(body, x) {
				t.Errorf("%s is %d and says %q", path, status, x)
			}
		}
	}
	for _, lecture := range []uuid.UUID{ahead, room} {
		at := "/api/lectures/" + lecture.String()
		for path, method := range map[string]string{at + "/page": http.MethodGet, at + "/ask": http.MethodPost,
			at + "/seen-notice": http.MethodPost} {
			if s := student.status(method, path, nil); s != http.StatusNotFound {
				t.Errorf("%s: %d", path, s)
			}
		}
	}
	if s := student.status(http.MethodGet, "/api/watch/"+b.Recording.String(), nil); s != http.StatusNotFound {
		t.Errorf("watching it: %d", s)
	}
	e.Must(e.Capture.End(t.Context(), b.Recording))
	e.Settled(b.Recording)
	// What comes last is heard, so that all before it was heard or never will be.
	e.everyone(true)
	for n := range heard {
		if strings.Contains(n, ahead.String()) || strings.Contains(n, room.String()) ||
			strings.Contains(n, b.Recording.String()) {
			t.Errorf("heard of it: %s", n)
		}
		if strings.Contains(n, `"about":"rule"`) {
			break
		}
	}
	// Lit, but not open yet: it is in no list either.
	e.Must(e.Audience.SetRule(t.Context(), audience.Scope{Course: e.Course}, e.Lecturer,
		&viewing.Rule{Audience: viewing.Everyone, Uses: viewing.WatchRead,
			Window: viewing.Window{From: viewing.FromDate, FromAt: testhouse.Now.Add(time.Hour),
				Until: viewing.UntilEver}}))
	e.Lit(b.Recording)
	if _, body := student.send(http.MethodGet, "/api/catch-up", nil); strings.Contains(body, "secret") ||
		strings.Contains(body, b.Recording.String()) {
		t.Errorf("what can be caught up on says it: %s", body)
	}
	e.everyone(true)
	if s := student.status(http.MethodGet, "/api/lectures/"+ahead.String()+"/page", nil); s != http.StatusOK {
		t.Errorf("once it can be watched its page is %d", s)
	}
}
