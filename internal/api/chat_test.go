package api_test

import (
	"fmt"
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/live"
	"latelantern/internal/api/watching"
	"latelantern/internal/audience"
	"latelantern/internal/core/doorway"
	"latelantern/internal/core/viewing"
	"latelantern/internal/release"
	"latelantern/internal/testhouse"
)

func (e *house) chatAt() string { return "/api/lectures/" + e.Lecture.String() + "/chat" }

// says has a caller say something in the lecture, and gives its address.
func (c *caller) says(text string, more ...any) string {
	c.e.T.Helper()
	id := uuid.NewString()
	body := map[string]any{"id": id, "text": text}
	for i := 0; i+1 < len(more); i += 2 {
		body[more[i].(string)] = more[i+1]
	}
	if s, answer := c.send(http.MethodPost, c.e.chatAt(), body); s >= 300 {
		c.e.T.Fatalf("%q cannot be said: %d %s", text, s, answer)
	}
	return c.e.chatAt() + "/" + id
}

// TestTheChatIsForWhoIsIn: who may not come into the lecture neither reads nor says anything, nor does who was sent
// out.
func TestTheChatIsForWhoIsIn(t *testing.T) {
	e := newEdge(t, true)
	student, second, lecturer := e.as("student"), e.as("second"), e.as("lecturer")
	student.says("good morning")
	for name, c := range map[string]*caller{"outsider": e.as("outsider"), "colleague": e.as("colleague")} {
		if s := c.status(http.MethodGet, e.chatAt(), nil); s != http.StatusForbidden {
			t.Errorf("%s reads it: %d", name, s)
		}
	}
	guest, _ := e.guest(doorway.Speaker)
	guest.says("hello from the harbour")
	got := get[live.Chat](second, e.chatAt())
	if len(got.Lines) != 2 || got.Lines[0].Person != nil || got.Lines[0].Mine || !got.Goes || got.Teaches ||
		!got.Lines[1].Guest {
		t.Errorf("%+v", got)
	}
	if got := get[live.Chat](lecturer, e.chatAt()); got.Lines[0].Person == nil || *got.Lines[0].Person != e.Student {
		t.Errorf("who teaches does not learn who said it: %+v", got)
	}
	e.Must(e.Presence.Played(t.Context(), e.Student, e.Lecture), e.Door.Answer(t.Context(), e.Lecture, e.Student,
		e.Lecturer, false, ""))
	if e.Count(`select count(*) from doorway_ask where sent_out_at is not null`) != 1 {
		t.Fatal("nobody was sent out")
	}
	for _, method := range []string{http.MethodGet, http.MethodPost} {
		if s := student.status(method, e.chatAt(),
			map[string]string{"id": uuid.NewString(), "text": "still"}); s != http.StatusForbidden {
			t.Errorf("%s by who was sent out: %d", method, s)
		}
	}
}

// TestWhatCannotBeSaid is answered with why, at its field where it is one.
func TestWhatCannotBeSaid(t *testing.T) {
	e := newEdge(t, true)
	student, lecturer := e.as("student"), e.as("lecturer")
	say := func(c *caller, text string) (int, string) {
		return c.send(http.MethodPost, e.chatAt(), map[string]string{"id": uuid.NewString(), "text": text})
	}
	if s, body := say(student, strings.Repeat("ä", 10_000)); s != 422 || !strings.Contains(body, `"n":10000`) {
		t.Errorf("10,000 letters: %d %s", s, body)
	}
	if s, body := say(student, "\u202e "); s != 422 || !strings.Contains(body, "chat.empty") {
		t.Errorf("nothing: %d %s", s, body)
	}
	for i := range 5 {
		student.says(fmt.Sprint(i))
	}
	answer := student.request(http.MethodPost, e.chatAt(),
		strings.NewReader(`{"id":"`+uuid.NewString()+`","text":"more"}`), "Content-Type", "application/json")
	answer.Body.Close()
	if after := answer.Header.Get("Retry-After"); answer.StatusCode != 429 || after == "" || after == "0" {
		t.Errorf("fifty a second: %d %q", answer.StatusCode, after)
	}
	if s := lecturer.status(http.MethodPut, e.chatAt()+"-way", map[string]string{"way": "off"}); s >= 300 {
		t.Fatalf("turn it off: %d", s)
	}
	if s, body := say(e.as("second"), "hello"); s != http.StatusConflict || !strings.Contains(body, "chat.off") {
		t.Errorf("said where it is off: %d %s", s, body)
	}
	lecturer.status(http.MethodPut, e.chatAt()+"-way", map[string]string{"way": "all"})
	e.Do(`update lecture set starts_at = starts_at - interval '5 hours', ends_at = ends_at - interval '5 hours'
		where id = $1`, e.Lecture)
	second := e.as("second")
	if s, body := say(second, "hello"); s != http.StatusConflict || !strings.Contains(body, "chat.closed") {
		t.Errorf("said when it is over: %d %s", s, body)
	}
	if get[live.Chat](second, e.chatAt()).Goes || !get[live.Chat](lecturer, e.chatAt()).Goes {
		t.Error("it goes on for students, or not for those who teach")
	}
	lecturer.says("the hand-out comes tonight")
}

// TestOnlyWhoTeachesMarks, takes down, and reads what was taken down.
func TestOnlyWhoTeachesMarks(t *testing.T) {
	e := newEdge(t, true)
	student, second, lecturer := e.as("student"), e.as("second"), e.as("lecturer")
	line := student.says("When is ebb?", "question", true)
	for what, body := range map[string]any{"/state": map[string]string{"state": "answered"},
		"/down": map[string]bool{"down": true}} {
		if s := second.status(http.MethodPut, line+what, body); s != http.StatusForbidden {
			t.Errorf("a student, %s: %d", what, s)
		}
	}
	if s := second.status(http.MethodDelete, line, nil); s != http.StatusNotFound {
		t.Errorf("another withdraws it: %d", s)
	}
	if s := lecturer.status(http.MethodPut, line+"/state", map[string]any{"state": "taken",
		"answer": "At six."}); s >= 300 {
		t.Fatalf("answer: %d", s)
	}
	if l := get[live.Chat](second, e.chatAt()).Lines[0]; l.State != "answered" || l.Answer != "At six." ||
		l.AnsweredBy != "lecturer" {
		t.Errorf("%+v", l)
	}
	if s := lecturer.status(http.MethodPut, line+"/down",
		map[string]any{"down": true, "why": "off the matter"}); s >= 300 {
		t.Fatalf("take down: %d", s)
	}
	if l := get[live.Chat](student, e.chatAt()).Lines[0]; l.Gone != "taken_down" || l.Text != "" || l.Answer != "" ||
		l.Down != nil {
		t.Errorf("a student reads %+v", l)
	}
	if l := get[live.Chat](lecturer, e.chatAt()).Lines[0]; l.Text == "" || l.Down == nil ||
		l.Down.Why != "off the matter" {
		t.Errorf("who teaches reads %+v", l)
	}
}

// TestWhoHearsOfTheChat: those in the lecture hear that something was said, with what is new; of what is for those who
// teach alone another student hears nothing, nor who is not in the lecture of anything that is said.
func TestWhoHearsOfTheChat(t *testing.T) {
	e := newEdge(t, true)
	student, teacher := e.as("student"), e.as("lecturer")
	own, second, lecturer, outsider := student.hears(), e.as("second").hears(), teacher.hears(),
		e.as("outsider").hears()
	next := func(from <-chan string) string {
		select {
		case x := <-from:
			return x
		case <-time.After(10 * time.Second):
			return "nothing"
		}
	}
	// each wants of who listens what they hear next, with a text, or with none that is new
	each := func(about, text string, who ...<-chan string) {
		t.Helper()
		for n, from := range who {
			got := next(from)
			if !strings.Contains(got, `"about":"`+about+`"`) || text != "" && !strings.Contains(got, text) ||
				strings.Contains(got, "only to you") {
				t.Errorf("%d hears %s, want %s %q", n, got, about, text)
			}
		}
	}
	teacher.status(http.MethodPut, e.chatAt()+"-way", map[string]string{"way": "teachers"})
	each("chat", "", own, second, lecturer)
	student.says("only to you")
	each("asked", "", own, lecturer)
	teacher.says("to all")
	each("chat", `"text":"to all"`, second)
	// Whose line is among what is new asks for it: what is theirs is marked.
	if got := next(own); !strings.Contains(got, `"about":"chat"`) || strings.Contains(got, `"lines"`) {
		t.Errorf("the writer hears %s", got)
	}
	next(lecturer)
	e.Must(e.Presence.Played(t.Context(), e.Second, e.Lecture),
		e.Door.Answer(t.Context(), e.Lecture, e.Second, e.Lecturer, false, ""))
	each("doorway", "", second)
	teacher.says("without them")
	if got := next(second); strings.Contains(got, "without them") {
		t.Errorf("who was sent out hears %s", got)
	}
	select {
	case got := <-outsider:
		t.Errorf("an outsider hears %s", got)
	case <-time.After(time.Second):
	}
}

// saidIn is the chat of a recording as a caller reads it, a text and a moment each.
func (c *caller) saidIn(recording uuid.UUID) []string {
	c.e.T.Helper()
	out := []string{}
	for _, l := range get[watching.SaidIn](c, "/api/watch/"+recording.String()+"/chat").Lines {
		out = append(out, fmt.Sprint(l.Text, " ", *l.At))
	}
	return out
}

// TestTheChatIsReplayedAtItsMoment: with the recording, carried through its cuts, for those of the course; what is
// struck is not there.
func TestTheChatIsReplayedAtItsMoment(t *testing.T) {
	e := newEdge(t)
	id := e.litTalk() // its first seven seconds are struck
	e.Do(`insert into chat (lecture_id, changes) values ($1, 9)`, e.Lecture)
	for n, s := range []int{3, 9, 20} {
		e.Do(`insert into chat_line (id, lecture_id, person_id, said_at, kept_at, text, to_teachers, later, capture_id,
			at_ms, state, change)
			select gen_random_uuid(), $1, $2, $3, $3, $4, false, false, c.id, $5, '', $6 from capture c`,
			e.Lecture, e.Student, testhouse.Now, fmt.Sprint("at ", s), s*1000, n)
	}
	want := []string{"at 9 2000", "at 20 13000"}
	for _, name := range []string{"student", "second", "lecturer"} {
		if got := e.as(name).saidIn(id); !slices.Equal(got, want) {
			t.Errorf("%s reads %q", name, got)
		}
	}
	rule := viewing.Rule{Audience: viewing.Everyone, Uses: viewing.AllUses,
		Window: viewing.Window{From: viewing.FromOnce, Until: viewing.UntilEver}}
	e.Must(e.Audience.SetRule(t.Context(), audience.Scope{Course: e.Other}, e.Colleague, &rule))
	_, err := e.Releases.Change(t.Context(), e.Lecturer, release.Many{
		Pairs: []release.Pair{{Recording: id, Course: e.Other}}, Giving: viewing.Giving{Lit: new(true)}})
	e.Must(err)
	outsider := e.as("outsider")
	if got := outsider.saidIn(id); len(got) != 0 {
		t.Errorf("a student of another course, for which it is lit, reads %q", got)
	}
	// They can ask about a moment all the same, and read what they asked, and what is shown to all.
	edition := get[watching.Watch](outsider, "/api/watch/"+id.String()).Edition
	ask := "/api/watch/" + id.String() + "/questions"
	question := uuid.NewString()
	if s, body := outsider.send(http.MethodPost, ask, map[string]any{"id": question, "text": "Why?", "at": 1500,
		"edition": edition}); s >= 300 {
		t.Fatalf("ask: %d %s", s, body)
	}
	if got := outsider.saidIn(id); !slices.Equal(got, []string{"Why? 1500"}) {
		t.Errorf("who asked reads %q", got)
	}
	if got := e.as("student").saidIn(id); !slices.Equal(got, want) {
		t.Errorf("another reads the question: %q", got)
	}
	lecturer := e.as("lecturer")
	waits := get[watching.Questions](lecturer, "/api/courses/"+e.Course.String()+"/questions").Questions
	if len(waits) != 1 || waits[0].Recording == nil || *waits[0].Recording != id || *waits[0].At != 1500 {
		t.Errorf("what waits: %+v", waits)
	}
	if s := lecturer.status(http.MethodPut, e.chatAt()+"/"+question+"/state", map[string]any{"state": "answered",
		"answer": "The tide.", "shown": true}); s >= 300 {
		t.Fatalf("answer: %d", s)
	}
	if got := e.as("student").saidIn(id); !slices.Equal(got, []string{"Why? 1500", "at 9 2000", "at 20 13000"}) {
		t.Errorf("shown to all, another reads %q", got)
	}
	if l := get[watching.SaidIn](e.as("student"), "/api/watch/"+id.String()+"/chat").Lines[0]; l.Name != "outsider" {
		t.Errorf("those of the course read it of %q", l.Name)
	}
	third := e.Person("visitor", e.Other, "student", "")
	if l := get[watching.SaidIn](e.as("visitor"), "/api/watch/"+id.String()+"/chat").Lines[0]; l.Name != "" || l.Mine {
		t.Errorf("%v, who is of another course, reads it of %q", third, l.Name)
	}
	for form, has := range map[string]string{"vtt": "00:00:02.000 --> ", "txt": "0:00:13 student: at 20",
		"csv": "0:00:01,"} {
		s, body := lecturer.send(http.MethodGet, "/api/recordings/"+id.String()+"/chat/file?form="+form, nil)
		if s != http.StatusOK || !strings.Contains(body, has) || strings.Contains(body, "at 3") {
			t.Errorf("%s: %d %s", form, s, body)
		}
	}
	if s := lecturer.status(http.MethodGet, "/api/recordings/"+id.String()+"/chat/file?form=html", nil); s != 404 {
		t.Errorf("another form: %d", s)
	}
}

// TestLostIsCountedWithoutAName for those who teach alone.
func TestLostIsCountedWithoutAName(t *testing.T) {
	e := newEdge(t, true)
	at := "/api/lectures/" + e.Lecture.String() + "/lost"
	for _, name := range []string{"student", "second"} {
		if s := e.as(name).status(http.MethodPost, at, nil); s >= 300 {
			t.Fatalf("%s: %d", name, s)
		}
	}
	s, body := e.as("lecturer").send(http.MethodGet, at, nil)
	if s != http.StatusOK || !strings.Contains(body, `"people":2`) || strings.Contains(body, e.Student.String()) {
		t.Errorf("%d %s", s, body)
	}
}
