package e2e

import (
	"context"
	"errors"
	"testing"
	"time"

	"github.com/chromedp/chromedp/kb"
	"github.com/google/uuid"

	"latelantern/demo"
	"latelantern/e2e/hand"
	"latelantern/internal/chat"
	"latelantern/internal/platform/postgres"
)

// says has somebody say something on a page.
func says(p *hand.Page, text string) error {
	return errors.Join(p.Write("What you say", text), p.Click("Say it"))
}

// TestTheChatOfAClass: who teaches and two students, on pages of their own; a question that is taken up and answered,
// a line that is taken down, and a server that is killed meanwhile.
func TestTheChatOfAClass(t *testing.T) {
	ctx := context.Background()
	s := newStage(t, "none")
	b := chromium(t)
	lecture, _ := s.underWay()
	at := "/lectures/" + lecture.String()
	second, err := postgres.Value[string](ctx, s.house.DB, `select p.email from membership m
		join person p on p.id = m.person_id join lecture l on l.course_id = m.course_id
		where l.id = $1 and m.role = 'student' and p.email <> $2 order by p.email limit 1`, lecture,
		demo.Accounts[student].Email)
	s.must(err)
	teacher, tavi := s.person(b, lecturer), s.person(b, student)
	other, err := b.Page(s.base())
	s.must(err)
	t.Cleanup(other.Close)
	s.must(other.SignIn(second, demo.Password), teacher.Go(at+"/class"), tavi.Go(at), other.Go(at),
		teacher.See("Nothing has been said yet"))

	s.must(tavi.Write("What you say", "When is ebb today?"), tavi.Click("It is a question"), tavi.Click("Say it"))
	told(s, teacher, "When is ebb today?")
	told(s, other, "When is ebb today?")
	s.must(says(other, "<img src=x onerror=document.title='run'> \u202e&amp;"))
	told(s, teacher, "<img src=x onerror=document.title='run'> &amp;")
	s.must(teacher.Click("Take it up, the question of Tavi Brandal"))
	told(s, tavi, "Taken up")
	s.must(teacher.Click("More of the line of Tavi Brandal"), teacher.Click("Answer in writing"))
	s.clean(teacher, "the class page")
	s.must(teacher.Write("Answer", "At six."), teacher.Click("Answer"))
	told(s, other, "At six.")
	told(s, other, "Answered")
	s.clean(tavi, "the page of a lecture with its chat")

	// A line is taken down with a reason, and stands again.
	name, err := postgres.Value[string](ctx, s.house.DB, `select name from person where email = $1`, second)
	s.must(err, teacher.Click("More of the line of "+name), teacher.Click("Take it down"))
	told(s, tavi, "Taken down.")
	s.must(tavi.Wait(`!document.body.innerText.includes('onerror')`),
		teacher.Write("Why, for the record", "a try"), teacher.Click("Keep the reason"), teacher.See("a try"),
		teacher.Click("Undo"))
	told(s, tavi, "onerror")
	if title, err := hand.Ask[string](tavi, "document.title"); err != nil || title == "run" {
		t.Errorf("what a student wrote was run (%v)", err)
	}

	// The server is killed: what is said meanwhile waits, and goes out by itself, once.
	s.kill()
	s.must(says(tavi, "Is anyone there?"), tavi.See("not sent yet"), tavi.See("goes out by itself"))
	s.start()
	told(s, tavi, "Is anyone there?")
	s.must(tavi.Wait(`!document.body.innerText.includes('not sent yet')`), teacher.See("Is anyone there?"),
		other.See("Is anyone there?"))
	n, err := postgres.Value[int](ctx, s.house.DB, `select count(*) from chat_line where text = 'Is anyone there?'`)
	if s.must(err); n != 1 {
		t.Errorf("it was said %d times", n)
	}

	// One withdraws one's own line; and to those who teach alone, another does not read it.
	s.must(tavi.Click("More of the line of Tavi Brandal"), tavi.See("Withdraw it"))
	s.must(teacher.Click("to those who teach"),
		tavi.WaitFor(`document.querySelector('textarea').placeholder.includes('those who teach')`, soon),
		says(tavi, "only to you"))
	told(s, teacher, "only to you")
	if read, err := hand.Ask[bool](other, `document.body.innerText.includes('only to you')`); err != nil || read {
		t.Errorf("another student reads what was not for them (%v)", err)
	}
	s.must(tavi.Click("I am lost here"), tavi.See("Counted, without your name"))
	told(s, teacher, "In the last five minutes 1 person")
	s.must(teacher.Click("turned off"))
	told(s, other, "The chat is turned off")
}

// TestTheChatStaysWithTheRecording: it is replayed at its moment; a student asks about another one, also while the
// server is away; what waits stands among the questions of the course, and the answer where it was asked.
func TestTheChatStaysWithTheRecording(t *testing.T) {
	ctx := context.Background()
	s := newStage(t, "tid-1")
	id := s.theOne()
	r, err := s.house.Recordings.Recording(ctx, id)
	s.must(err)
	begins := r.Kept().Spans()[0].Start
	who, err := postgres.Value[uuid.UUID](ctx, s.house.DB, `select id from person_account where email = $1`,
		demo.Accounts[student].Email)
	s.must(err, s.house.Chat.Say(ctx, chat.Saying{ID: uuid.New(), Lecture: r.LectureID, Person: who, Text: "Over here",
		Question: true, Later: true, Heard: &chat.Heard{Recording: id, At: begins + 20500*time.Millisecond}}))
	b := chromium(t)
	p, teacher := s.person(b, student), s.person(b, lecturer)
	s.must(p.Go("/watch/"+id.String()), p.Click("Chat (1)"), p.See("Over here"), p.Click("Go to 0:20"),
		p.Wait(`Math.abs(document.querySelector('video').currentTime - 20) < 1.5`))
	s.clean(p, "the watch page with what was said")
	s.kill()
	s.must(p.Click("Ask about this moment"), p.Write("Your question", "Which height is that?"), p.Press(kb.Tab),
		p.Click("Ask"), p.See("It waits here until the server can be reached"))
	s.start()
	s.must(p.WaitFor(`document.body.innerText.includes('The answer will stand here')`, 40*time.Second),
		p.See("Chat (2)"))

	s.must(teacher.Go("/board"), teacher.Click("What is new: 1"), teacher.See("Waits for you"))
	s.clean(teacher, "what is new")
	s.must(teacher.Click("2 questions wait for an answer"), teacher.See("Which height is that?"))
	s.clean(teacher, "the questions of a course")
	answers := `[...document.querySelectorAll('.waiting li')].find(l => l.innerText.includes('Which height'))`
	s.must(teacher.Wait(answers+`.querySelector('.who .el-button').click() || true`), teacher.Click("Answer in writing"),
		teacher.Write("Answer", "Above the harbour datum."), teacher.Click("Show it to all who watch"),
		teacher.Click("Answer"), teacher.See("1 question waits for an answer"))
	s.must(p.WaitFor(`document.body.innerText.includes('Above the harbour datum.')`, soon))
	s.must(p.Click("What is new: 1"), p.See("Answered: Which height is that?"), p.Click("Take these lines away"),
		p.See("These lines are gone."), p.Click("Undo"), p.See("Answered: Which height is that?"), p.Click("Close"))
	// Taken back, it waits again.
	s.must(teacher.Click("Undo"), teacher.See("2 questions wait for an answer"))
	// Where people were lost stands along it on the bench, and leads there.
	for _, do := range []string{
		`update capture set source = 'desk', stopped_at = started_at + interval '3 minutes'`,
		`insert into lost_sign (lecture_id, minute, mark)
			select lecture_id, date_trunc('minute', started_at), m::text::bytea from capture, generate_series(1, 3) m`,
	} {
		_, err := s.house.DB.Exec(ctx, do)
		s.must(err)
	}
	s.must(teacher.Go("/recordings/"+id.String()), teacher.See("Most at"), teacher.Click(": 3 people"),
		teacher.Wait(`document.querySelector('video').currentTime > 0.5`))
	s.clean(teacher, "the bench with where people were lost")
	n, err := postgres.Value[int](ctx, s.house.DB, `select count(*) from chat_line where text = 'Which height is that?'`)
	if s.must(err); n != 1 {
		t.Errorf("it was asked %d times", n)
	}
}
