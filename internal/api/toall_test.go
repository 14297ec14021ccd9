package api_test

import (
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
	"latelantern/internal/api/watching"
	"latelantern/internal/core/doorway"
	"latelantern/internal/format/questionfile"
	"latelantern/internal/testhouse"
)

// ebbText is a question with one right choice of two.
var ebbText = page.QuestionText{Kind: "one", Text: "When is ebb?", Choices: []string{"at six", "at noon"},
	Right: []int{1}}

func (e *house) toAllAt() string { return "/api/lectures/" + e.Lecture.String() + "/to-all" }

// asksAll has a caller put a question to all for a minute, and gives its address.
func (c *caller) asksAll(q page.QuestionText) string {
	c.e.T.Helper()
	at := c.e.toAllAt() + "/" + uuid.NewString()
	if s, answer := c.send(http.MethodPut, at, map[string]any{"question": q, "seconds": 60}); s >= 300 {
		c.e.T.Fatalf("ask: %d %s", s, answer)
	}
	return at
}

func (c *caller) toAll() []page.AskedQuestion {
	c.e.T.Helper()
	return get[live.ToAll](c, c.e.toAllAt()).Questions
}

func choose(i int) map[string]any { return map[string]any{"choices": []int{i}} }

// TestWhoLearnsWhatOfAQuestionToAll: what is right, and what others answered, students learn with the results; who
// answered what, and who did not, only those who teach.
func TestWhoLearnsWhatOfAQuestionToAll(t *testing.T) {
	e := newEdge(t, true)
	student, second, lecturer := e.as("student"), e.as("second"), e.as("lecturer")
	e.Do(`insert into presence (lecture_id, person_id, from_at, until_at) values ($1, $2, $3, $3)`, e.Lecture, e.Second,
		testhouse.Now)
	at := lecturer.asksAll(ebbText)
	guest, _ := e.guest(doorway.Speaker)
	for who, c := range map[string]*caller{"student": student, "guest": guest} {
		if s, answer := c.send(http.MethodPut, at+"/answer", choose(1)); s >= 300 {
			t.Fatalf("%s: %d %s", who, s, answer)
		}
	}
	q := student.toAll()[0]
	if !q.Open || q.Mine == nil || !slices.Equal(q.Mine.Choices, []int{1}) || len(q.Question.Right) > 0 || q.Right ||
		q.Results != nil || len(q.Given) > 0 || len(q.Missing) > 0 {
		t.Errorf("who answered learns %+v", q)
	}
	if q := second.toAll()[0]; q.Mine != nil || len(q.Question.Right) > 0 {
		t.Errorf("who has not answered learns %+v", q)
	}
	q = lecturer.toAll()[0]
	if q.Results == nil || q.Results.Answers != 2 || q.Results.Bars[1].N != 2 || len(q.Given) != 2 ||
		!q.Given[0].Right ||
		!slices.Equal(q.Missing, []string{"second"}) {
		t.Errorf("who teaches learns %+v", q)
	}
	change := func(body map[string]any) {
		t.Helper()
		if s, answer := lecturer.send(http.MethodPost, at+"/change", body); s >= 300 {
			t.Fatalf("%v: %d %s", body, s, answer)
		}
	}
	change(map[string]any{"shown": true})
	if q := student.toAll()[0]; q.Results == nil || len(q.Question.Right) > 0 {
		t.Errorf("while it is open, with the results shown: %+v", q)
	}
	change(map[string]any{"close": true})
	if q := student.toAll()[0]; q.Open || !q.Right || !slices.Equal(q.Question.Right, []int{1}) || len(q.Given) > 0 {
		t.Errorf("closed, with the results shown: %+v", q)
	}
	change(map[string]any{"withdrawn": true})
	if len(student.toAll()) != 0 || len(lecturer.toAll()) != 1 {
		t.Error("withdrawn it is there for students, or not for those who teach")
	}
	sheet := student.status(http.MethodGet, e.toAllAt()+"-file", nil)
	if _, body := lecturer.send(http.MethodGet, e.toAllAt()+"-file", nil); sheet != 403 || strings.Contains(body, "ebb") {
		t.Errorf("a student: %d; withdrawn it is in the sheet: %s", sheet, body)
	}
	change(map[string]any{"withdrawn": false})
	if _, body := lecturer.send(http.MethodGet, e.toAllAt()+"-file", nil); !strings.Contains(body,
		",student,") || !strings.Contains(body, ",false,at noon,true") {
		t.Errorf("%s", body)
	}
}

// TestWhatCannotBeAnswered says why, and keeps nothing.
func TestWhatCannotBeAnswered(t *testing.T) {
	e := newEdge(t, true)
	student, lecturer := e.as("student"), e.as("lecturer")
	at := lecturer.asksAll(ebbText)
	for name, c := range map[string]struct {
		by     *caller
		body   any
		status int
		says   string
	}{
		"a choice that is not there":  {student, choose(2), 422, "toall.choose"},
		"nothing":                     {student, map[string]any{}, 422, "toall.choose"},
		"words for a choice":          {student, map[string]any{"words": "at noon"}, 422, "toall.choose"},
		"a number without an end":     {student, `{"number":1e999}`, 422, ""},
		"who teaches":                 {lecturer, choose(1), 409, "toall.teaches"},
		"somebody of another course":  {e.as("outsider"), choose(1), 403, ""},
		"a question that is not here": {student, nil, 404, "toall.unknown"},
	} {
		to := at
		if c.body == nil {
			to, c.body = e.toAllAt()+"/"+uuid.NewString(), choose(1)
		}
		if s, body := c.by.send(http.MethodPut, to+"/answer", c.body); s != c.status ||
			!strings.Contains(body, c.says) {
			t.Errorf("%s: %d %s", name, s, body)
		}
	}
	e.Must(e.Presence.Played(t.Context(), e.Student, e.Lecture), e.Door.Answer(t.Context(), e.Lecture, e.Student,
		e.Lecturer, false, ""))
	if s := student.status(http.MethodPut, at+"/answer", choose(1)); s != http.StatusForbidden {
		t.Errorf("who was sent out answers: %d", s)
	}
	lecturer.status(http.MethodPost, at+"/change", map[string]any{"close": true})
	if s, body := e.as("second").send(http.MethodPut, at+"/answer", choose(1)); s != 409 ||
		!strings.Contains(body, "toall.closed") {
		t.Errorf("after the end: %d %s", s, body)
	}
	if n := e.Count(`select count(*) from given_answer`); n != 0 {
		t.Errorf("%d answers are kept", n)
	}
	for field, q := range map[string]page.QuestionText{
		"body.question.text":      {Kind: "one", Text: " ", Choices: []string{"a", "b"}, Right: []int{}},
		"body.question.choices.1": {Kind: "one", Text: "?", Choices: []string{"a", "a", "b"}, Right: []int{}},
		"body.question.choices":   {Kind: "one", Text: "?", Choices: []string{"a"}, Right: []int{}},
	} {
		s, body := lecturer.send(http.MethodPut, e.toAllAt()+"/"+uuid.NewString(), map[string]any{"question": q,
			"seconds": 60})
		field = strings.TrimPrefix(field, "body.question.")
		if s != 422 || !strings.Contains(body, `"location":"`+field+`"`) {
			t.Errorf("%s: %d %s", field, s, body)
		}
	}
}

// TestWhoHearsOfAQuestionToAll: everyone in the lecture that one was put; of answers only those who teach.
func TestWhoHearsOfAQuestionToAll(t *testing.T) {
	e := newEdge(t, true)
	student, teacher := e.as("student"), e.as("lecturer")
	guest, _ := e.guest(doorway.Speaker)
	own, lecturer, visitor, outsider := student.hears(), teacher.hears(), guest.hears(), e.as("outsider").hears()
	next := func(who string, from <-chan string, about string) {
		t.Helper()
		select {
		case got := <-from:
			if !strings.Contains(got, `"about":"`+about+`"`) {
				t.Errorf("%s hears %s, want %s", who, got, about)
			}
		case <-time.After(10 * time.Second):
			t.Errorf("%s hears nothing of %s", who, about)
		}
	}
	at := teacher.asksAll(ebbText)
	next("a student", own, "to_all")
	next("a guest", visitor, "to_all")
	next("who teaches", lecturer, "to_all")
	student.send(http.MethodPut, at+"/answer", choose(0))
	next("who teaches", lecturer, "answers")
	teacher.send(http.MethodPut, "/api/courses/"+e.Course.String()+"/prepared-questions/"+uuid.NewString(), ebbText)
	next("who teaches", lecturer, "prepared")
	teacher.send(http.MethodPost, at+"/change", map[string]any{"close": true})
	next("a student, of nothing between", own, "to_all")
	next("a guest, of nothing between", visitor, "to_all")
	select {
	case got := <-outsider:
		t.Errorf("an outsider hears %s", got)
	case <-time.After(500 * time.Millisecond):
	}
}

// TestAQuestionIsAnsweredLater: in the recording at its moment, carried through its cuts, by those of the course; what
// is right one learns once one has answered.
func TestAQuestionIsAnsweredLater(t *testing.T) {
	e := newEdge(t)
	id := e.litTalk() // its first seven seconds are struck
	for _, s := range []int{3, 9} {
		e.Do(`insert into asked_question (id, lecture_id, asked_by, kind, text, choices, right_choices, opened_at,
			closes_at, timed, capture_id, at_ms) select gen_random_uuid(), $1, $2, 'one', $3, '{a,b}', '{1}', $4, $4,
			true, c.id, $5 from capture c`, e.Lecture, e.Lecturer, fmt.Sprint("at ", s), testhouse.Now, s*1000)
	}
	student, lecturer := e.as("student"), e.as("lecturer")
	path := "/api/watch/" + id.String() + "/to-all"
	of := func(c *caller) []page.AskedQuestion { return get[watching.AskedIn](c, path).Questions }
	q := of(student)
	if len(q) != 1 || q[0].Question.Text != "at 9" || *q[0].At != 2000 || len(q[0].Question.Right) > 0 ||
		q[0].Results != nil {
		t.Fatalf("%+v", q)
	}
	answer := path + "/" + q[0].ID.String() + "/answer"
	if s, body := student.send(http.MethodPut, answer, choose(0)); s >= 300 {
		t.Fatalf("%d %s", s, body)
	}
	if q := of(student)[0]; q.Mine == nil || !q.Later || q.Right || !slices.Equal(q.Question.Right, []int{1}) {
		t.Errorf("who answered learns %+v", q)
	}
	if q := of(e.as("second"))[0]; q.Mine != nil || len(q.Question.Right) > 0 {
		t.Errorf("another learns %+v", q)
	}
	if q := of(lecturer)[0]; q.Lately != 1 || q.Results.Answers != 0 || !q.Given[0].Later || q.Given[0].Right {
		t.Errorf("who teaches learns %+v", q)
	}
	struck := path + "/" + uuid.NewString() + "/answer"
	if s := student.status(http.MethodPut, struck, choose(0)); s != http.StatusNotFound {
		t.Errorf("what is not there: %d", s)
	}
	if s := e.as("outsider").status(http.MethodGet, path, nil); s != http.StatusForbidden {
		t.Errorf("who may not watch it: %d", s)
	}
}

// TestQuestionsComeFromFiles, and go out as such; what is left out is told, and what is refused takes nothing.
func TestQuestionsComeFromFiles(t *testing.T) {
	e := newEdge(t, true)
	lecturer := e.as("lecturer")
	path := "/api/courses/" + e.Course.String() + "/prepared-questions"
	bring := func(file []byte) (int, string) {
		return lecturer.send(http.MethodPost, path+"-file",
			map[string]string{"data": base64.StdEncoding.EncodeToString(file)})
	}
	s, body := bring([]byte("text,right,choice1,choice2\nWhen is ebb?,2,at six,at noon\nWhich?,5,a,b\n"))
	if s != 200 || !strings.Contains(body, `"brought":1`) || !strings.Contains(body, `"name":"3"`) ||
		!strings.Contains(body, "toall.right") {
		t.Errorf("%d %s", s, body)
	}
	for _, form := range []string{"qti2", "qti3", "csv"} {
		s, file := lecturer.send(http.MethodGet, path+"-file?form="+form, nil)
		if s != 200 {
			t.Fatalf("%s: %d", form, s)
		}
		if all, _, err := questionfile.Read([]byte(file)); err != nil || len(all) != 1 || all[0].Right[0] != 1 {
			t.Errorf("%s: %+v %v", form, all, err)
		}
	}
	if s, body := bring([]byte(`<!DOCTYPE x SYSTEM "x"><x/>`)); s != 422 || !strings.Contains(body, "questionfile.outside") {
		t.Errorf("%d %s", s, body)
	}
	list := get[live.PreparedQuestions](lecturer, path).Questions
	if len(list) != 1 || list[0].Question.Text != "When is ebb?" {
		t.Errorf("%+v", list)
	}
	of := path + "/" + list[0].ID.String()
	if s := lecturer.status(http.MethodDelete, of, nil); s >= 300 ||
		len(get[live.PreparedQuestions](lecturer, path).Questions) > 0 {
		t.Errorf("dropped: %d", s)
	}
	if s := lecturer.status(http.MethodPost, of+"/bring-back", nil); s >= 300 ||
		len(get[live.PreparedQuestions](lecturer, path).Questions) != 1 {
		t.Errorf("brought back: %d", s)
	}
}
