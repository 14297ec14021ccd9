package api_test

import (
	"fmt"
	"net/http"
	"strings"
	"testing"

	"github.com/google/uuid"

	"latelantern/internal/api/telling"
	"latelantern/internal/platform/postgres"
)

// isNew is what is new to a caller: what waits for them in each kind of place, then answers and recordings.
func (c *caller) isNew() string {
	c.e.T.Helper()
	n := get[telling.Notices](c, "/api/news")
	out := []string{}
	kinds := []string{"asked", "proposed", "objected"}
	for i, list := range [][]telling.Waits{n.Asked, n.Proposed, n.Objected} {
		for _, x := range list {
			out = append(out, fmt.Sprintf("%s %s%s %d", kinds[i], x.Course, x.Title, x.N))
		}
	}
	for _, x := range n.Replies {
		where := "nowhere"
		if x.Recording != nil {
			where = "there"
		}
		out = append(out, fmt.Sprintf("reply to %s, %s", x.Text, where))
	}
	return strings.Join(append(out, fmt.Sprint(len(n.Notices))), "; ")
}

// TestWhatIsNewToOne: what waits stands with those who teach the course, until somebody has seen to it; an answer with
// who asked, until they have seen it.
func TestWhatIsNewToOne(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	lecturer, student := e.as("lecturer"), e.as("student")
	if status, _, text := lecturer.captionFile(id, "WEBVTT\n\n00:00:00.200 --> 00:00:03.000\nGood morning\n",
		nil); status != http.StatusOK {
		t.Fatalf("%d %s", status, text)
	}
	e.everyone(true)
	edition := e.Lit(id).EditionID
	others := []string{"second", "outsider", "colleague", "coordinator"}
	is := func(when, staff, asker string) {
		t.Helper()
		if got := lecturer.isNew(); got != staff+"0" {
			t.Errorf("%s: to who teaches %q, want %q", when, got, staff)
		}
		if got := student.isNew(); got != asker+"0" {
			t.Errorf("%s: to the student %q, want %q", when, got, asker)
		}
		for _, who := range others {
			if got := e.as(who).isNew(); got != "0" {
				t.Errorf("%s: to %s %q", when, who, got)
			}
		}
	}
	do := func(c *caller, method, path string, body any) {
		t.Helper()
		if s, answer := c.send(method, path, body); s >= 300 {
			t.Fatalf("%s %s: %d %s", method, path, s, answer)
		}
	}
	is("at first", "", "")
	watch, question := "/api/watch/"+id.String(), uuid.NewString()
	do(student, http.MethodPost, watch+"/questions", map[string]any{"id": question, "text": "Which height?", "at": 500,
		"edition": edition})
	do(student, http.MethodPost, watch+"/proposed",
		map[string]any{"at": 200, "seen": "Good morning", "text": "Good evening"})
	do(student, http.MethodPut, "/api/lectures/"+e.Lecture.String()+"/own-register",
		map[string]string{"text": "I was there"})
	text := func(sql string, of uuid.UUID) string {
		x, err := postgres.Value[string](t.Context(), e.DB, sql, of)
		e.Must(err)
		return x
	}
	title := text(`select coalesce(nullif(r.title, ''), l.topic) from recording r join lecture l on l.id = r.lecture_id
		where r.id = $1`, id)
	topic := text(`select topic from lecture where id = $1`, e.Lecture)
	said := "proposed COU 1" + title + " 1; objected COU 1" + topic + " 1; "
	is("asked, proposed and said", "asked COU 1 1; "+said, "")

	state := e.chatAt() + "/" + question + "/state"
	do(lecturer, http.MethodPut, state, map[string]any{"state": "answered"})
	is("answered aloud", said, "")
	answer := map[string]any{"state": "answered", "answer": "Above the datum."}
	do(lecturer, http.MethodPut, state, answer)
	is("answered in writing", said, "reply to Which height?, there; ")
	seen := func(c *caller, seen bool) {
		t.Helper()
		do(c, http.MethodPut, "/api/news/seen",
			map[string]any{"recordings": []string{}, "questions": []string{question}, "seen": seen})
	}
	seen(e.as("second"), true)
	is("seen by another", said, "reply to Which height?, there; ")
	seen(student, true)
	is("seen", said, "")
	seen(student, false)
	is("seen taken back", said, "reply to Which height?, there; ")
	seen(student, true)
	do(lecturer, http.MethodPut, state, map[string]any{"state": "answered", "answer": "Above the harbour datum."})
	is("answered anew", said, "reply to Which height?, there; ")
	e.Must(e.Releases.Darken(t.Context(), e.Course, id, e.Lecturer))
	is("dark", said, "reply to Which height?, nowhere; ")
	e.Do(`update chat_line set answered_at = answered_at - interval '61 days'`)
	is("long ago", said, "")

	page := "/api/lectures/" + e.Lecture.String() + "/register/" + e.Student.String()
	do(lecturer, http.MethodPut, page, map[string]any{"state": "present"})
	is("the register mended", "proposed COU 1"+title+" 1; ", "")
	e.Do(`update cue set text = 'Good evening'`)
	is("the line mended", "", "")
	do(lecturer, http.MethodPut, state, map[string]any{"state": "put_off"})
	is("put off", "asked COU 1 1; ", "")
	e.Do(`update chat_line set withdrawn_at = said_at`)
	is("withdrawn", "", "")
}
