package api_test

import (
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/live"
)

func (e *house) registerAt() string { return "/api/lectures/" + e.Lecture.String() + "/register" }

// lineIn is somebody's line in the register of the lecture, as who teaches reads it.
func (c *caller) lineIn(person uuid.UUID) live.RegisterLine {
	c.e.T.Helper()
	for _, l := range get[live.Register](c, c.e.registerAt()).Lines {
		if l.Person == person {
			return l
		}
	}
	c.e.T.Fatalf("%v is not in the register", person)
	return live.RegisterLine{}
}

// TestTheRegisterFromTheHall: by the code that is shown there; a student sees their own line alone, says that it is not
// right, and reads what who teaches made of it.
func TestTheRegisterFromTheHall(t *testing.T) {
	e := newEdge(t, true)
	student, lecturer := e.as("student"), e.as("lecturer")
	lecture := "/api/lectures/" + e.Lecture.String()
	code := get[live.HallCode](lecturer, lecture+"/code")
	if code.LeftMs <= 0 || code.LeftMs > 20_000 {
		t.Errorf("%+v", code)
	}
	if s, body := student.send(http.MethodPost, lecture+"/here", map[string]string{"code": "0000"}); s != 422 ||
		!strings.Contains(body, "register.code") {
		t.Errorf("a code that is none: %d %s", s, body)
	}
	if s, body := student.send(http.MethodPost, lecture+"/here", map[string]string{"code": code.Code}); s >= 300 {
		t.Fatalf("the code: %d %s", s, body)
	}
	// The lecture began five minutes ago, so they are late as the course has it.
	if l := lecturer.lineIn(e.Student); l.State != "late" || l.LateMin != 5 || len(l.Stays) != 1 || l.Stays[0].By != "hall" {
		t.Errorf("%+v", l)
	}
	own := "/api/courses/" + e.Course.String() + "/own-register"
	if got := get[live.OwnRegister](e.as("second"), own).Lines; len(got) != 1 || got[0].State != "absent" {
		t.Errorf("another reads %+v", got)
	}
	if s := student.status(http.MethodPut, lecture+"/own-register",
		map[string]string{"text": "The door was stuck."}); s >= 300 {
		t.Fatalf("say something of it: %d", s)
	}
	if l := lecturer.lineIn(e.Student); l.Word == nil || l.Word.Text != "The door was stuck." || l.Word.Settled {
		t.Errorf("%+v", l.Word)
	}
	at := e.registerAt() + "/" + e.Student.String()
	if s := lecturer.status(http.MethodPut, at, map[string]any{"state": "present", "reason": "I saw it"}); s >= 300 {
		t.Fatalf("correct it: %d", s)
	}
	if got := get[live.OwnRegister](student, own).Lines[0]; got.State != "present" || !got.ByHand ||
		got.Reason != "I saw it" || !got.Word.Settled {
		t.Errorf("the student reads %+v", got)
	}
	if s := lecturer.status(http.MethodDelete, at, nil); s >= 300 {
		t.Fatalf("take it back: %d", s)
	}
	if l := lecturer.lineIn(e.Student); l.State != "late" || l.Mark != nil {
		t.Errorf("%+v", l)
	}
	_, sheet := lecturer.send(http.MethodGet, "/api/courses/"+e.Course.String()+"/register/file", nil)
	if !strings.Contains(sheet, ",student,student@college.example,A,late,5,0,") || !strings.Contains(sheet, ",second,second@college.example,A,absent,0,0,0,") {
		t.Errorf("%s", sheet)
	}
	sums := get[live.Registers](lecturer, "/api/courses/"+e.Course.String()+"/registers").Sums
	if len(sums) != 1 || sums[0].There != 1 || sums[0].Late != 1 || sums[0].Absent != 2 {
		t.Errorf("%+v", sums)
	}
}

// TestWhoHearsOfARegister: those who teach, and whose line it is.
func TestWhoHearsOfARegister(t *testing.T) {
	e := newEdge(t, true)
	student := e.as("student")
	lecturer, own, second := e.as("lecturer").hears(), student.hears(), e.as("second").hears()
	if s := student.status(http.MethodPut, "/api/lectures/"+e.Lecture.String()+"/own-register",
		map[string]string{"text": "I was there."}); s >= 300 {
		t.Fatalf("say something of it: %d", s)
	}
	for name, from := range map[string]<-chan string{"who teaches": lecturer, "the student": own} {
		select {
		case got := <-from:
			if !strings.Contains(got, `"about":"register"`) || strings.Contains(got, e.Student.String()) {
				t.Errorf("%s hears %s", name, got)
			}
		case <-time.After(5 * time.Second):
			t.Errorf("%s hears nothing", name)
		}
	}
	select {
	case got := <-second:
		t.Errorf("another student hears %s", got)
	case <-time.After(500 * time.Millisecond):
	}
}

// TestARegisterFromAFile: who teaches brings a list, is told what of it is not taken, and takes it back; what a student
// reads follows.
func TestARegisterFromAFile(t *testing.T) {
	e := newEdge(t, true)
	lecturer := e.as("lecturer")
	at := e.registerAt() + "-file"
	own := "/api/courses/" + e.Course.String() + "/own-register"
	stands := func() string {
		t.Helper()
		lines := get[live.OwnRegister](e.as("student"), own).Lines
		if len(lines) != 1 {
			t.Fatalf("%+v", lines)
		}
		return string(lines[0].State)
	}
	file := func(text string) map[string][]byte { return map[string][]byte{"data": []byte(text)} }
	got := post[live.BroughtRegister](lecturer, at, file("Student@college.example\r\nnobody of here\r\noutsider\r\n"))
	if got.Kept != 1 || got.Leaves != 2 || len(got.Left) != 2 || got.Left[0].Line != 2 ||
		got.Left[0].Why.Code != "register.nobody" || got.Left[1].Who != "outsider" {
		t.Errorf("%+v", got)
	}
	if s := stands(); s != "present" {
		t.Errorf("the student is %s", s)
	}
	if l := lecturer.lineIn(e.Student); l.Mark == nil || !l.Mark.ByFile {
		t.Errorf("%+v", l.Mark)
	}
	_, sheet := lecturer.send(http.MethodGet, e.registerAt()+"/file", nil)
	if s := lecturer.status(http.MethodDelete, at+"/"+got.File.String(), nil); s >= 300 {
		t.Fatalf("take it back: %d", s)
	}
	if s := stands(); s == "present" {
		t.Errorf("taken back, the student is %s", s)
	}
	if got = post[live.BroughtRegister](lecturer, at, file(sheet)); got.Kept == 0 || got.Leaves != 0 {
		t.Errorf("what went out comes in as %+v", got)
	}
	if s := stands(); s != "present" {
		t.Errorf("brought again, the student is %s", s)
	}
	for text, want := range map[string]int{
		"": 422, "state,reason\nlate,bus\n": 422, "\x00\xff": 422, strings.Repeat("x", 2<<20): 413,
	} {
		if s, body := lecturer.send(http.MethodPost, at, file(text)); s != want {
			t.Errorf("%.20q: %d %.200s", text, s, body)
		}
	}
	if s := e.as("colleague").status(http.MethodDelete, at+"/"+got.File.String(), nil); s != 403 && s != 404 {
		t.Errorf("who does not teach it takes it back: %d", s)
	}
}
