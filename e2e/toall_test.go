package e2e

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/e2e/hand"
	"latelantern/internal/platform/postgres"
)

// secondRight marks the second choice of a question that is written as right.
const secondRight = `document.querySelectorAll('.question li')[1].querySelector('input[type=checkbox]').click() || true`

// TestAQuestionToAll: who teaches and two students, on pages of their own, and the wall of the hall; a server that is
// killed while one answers; results that are shown, and a question that is taken back.
func TestAQuestionToAll(t *testing.T) {
	ctx := context.Background()
	s := newStage(t, "none")
	b := chromium(t)
	lecture, _ := s.underWay()
	at := "/lectures/" + lecture.String()
	teacher, tavi := s.person(b, lecturer), s.person(b, student)
	other, name := s.another(b, lecture, 0)
	s.must(teacher.Go(at+"/class"), tavi.Go(at), other.Go(at))

	// Written on the spot: what is missing is said where it is missing.
	s.must(teacher.Click("Ask everyone something"), teacher.Write("The question", "When is ebb today?"),
		teacher.Write("Choice 1", "at six"), teacher.Write("Choice 2", "at six"), teacher.Click("2 min"),
		teacher.Click("Put it to all"), teacher.See("This choice is there already."))
	s.clean(teacher, "a question that cannot be put")
	s.must(teacher.Write("Choice 2", "at noon"), teacher.Wait(secondRight),
		teacher.Click("Keep it with the course"), teacher.Click("Put it to all"), teacher.See("0 answers"),
		teacher.Wait(`/^[12]:\d\d left$/.test(document.querySelector('[role=timer]')?.innerText ?? '')`))
	for _, p := range []*hand.Page{tavi, other} {
		told(s, p, "When is ebb today?")
	}
	s.must(tavi.Click("Answer"), tavi.See("Choose or write what you answer."))
	s.clean(tavi, "a question to all")
	s.must(tavi.Click("at noon"), tavi.Click("Answer"), tavi.See("Your answer is kept"))
	told(s, teacher, "1 answer")
	read, err := hand.Ask[bool](tavi, `/right|%/.test(document.querySelector('.asked').innerText)`)
	if err != nil || read {
		t.Errorf("who answered reads what is right, or the results (%v)", err)
	}

	// The server is killed: the answer waits, and goes out by itself, once.
	s.kill()
	s.must(other.Click("at six"), other.Click("Answer"), other.See("Your answer waits here"))
	s.start()
	told(s, teacher, "2 answers")
	s.must(other.WaitFor(`document.body.innerText.includes('Your answer is kept')`, 40*time.Second))
	s.must(teacher.Click("Who answered what"), teacher.See(name), teacher.See("Tavi Brandal"))
	s.clean(teacher, "what was answered")

	// The wall has no names, and the results once they are shown.
	wall, err := teacher.Beside()
	s.must(err, wall.Go(at+"/wall"), wall.See("When is ebb today?"), wall.See("2 answers"), wall.See("at noon"))
	s.clean(wall, "the wall of a hall")
	s.must(teacher.Click("Results shown to all"))
	for _, p := range []*hand.Page{tavi, other, wall} {
		told(s, p, "50 %")
	}
	if read, err := hand.Ask[bool](wall, `/Tavi|right/.test(document.body.innerText)`); err != nil || read {
		t.Errorf("the wall has names, or what is right while it is open (%v)", err)
	}
	s.must(teacher.Click("Close it now"))
	told(s, tavi, "That is right.")
	told(s, other, "That is not all right.")
	s.clean(tavi, "the results of a question")
	s.must(teacher.Click("Take it back"), tavi.WaitFor(`!document.querySelector('.asked')`, soon))
	s.must(teacher.Click("Undo"))
	told(s, tavi, "That is right.")

	// What was kept is put with one press; the one before is closed by the next.
	s.must(teacher.Click("Ask everyone something"), teacher.See("Prepared (1)"),
		teacher.Click("Put it to all: When is ebb today?"), teacher.See("1 question before"))
	s.must(teacher.Click("Ask the next"), teacher.Click("Make one"), teacher.Click("Number"),
		teacher.Write("The question", "How high, in metres?"), teacher.Click("until I close it"),
		teacher.Click("Put it to all"), teacher.See("2 questions before"))
	told(s, tavi, "How high, in metres?")
	s.must(tavi.Write("Your answer", "many"), tavi.Click("Answer"), tavi.See("Write a number."),
		tavi.Write("Your answer", "2,5"), tavi.Click("Answer"), tavi.See("Your answer is kept"))
	s.must(teacher.Wait(`[...document.querySelectorAll('.under')].some(x => x.innerText === '2.5')`))
	numbers, err := postgres.Values[float64](ctx, s.house.DB, `select number from given_answer where number is not null`)
	if s.must(err); len(numbers) != 1 || numbers[0] != 2.5 {
		t.Errorf("%v were answered", numbers)
	}
	// The end of the class closes it.
	s.must(teacher.Click("End the class for everyone"), teacher.See("ended it for everyone at"))
	s.must(tavi.WaitFor(`!document.querySelector('.asked form')`, 40*time.Second))
}

// TestQuestionsThatAreKept: written, changed, brought in from a file, and removed, each with its undo; and one that was
// put in a lecture is answered in its recording.
func TestQuestionsThatAreKept(t *testing.T) {
	ctx := context.Background()
	s := newStage(t, "tid-1")
	id := s.theOne()
	r, err := s.house.Recordings.Recording(ctx, id)
	s.must(err)
	b := chromium(t)
	p, tavi := s.person(b, lecturer), s.person(b, student)
	s.must(p.Go("/courses/"+r.CourseID.String()+"/questions-to-all"), p.See("No question is prepared."),
		p.Click("Write a question"), p.Click("Several"), p.Click("Keep"), p.See("Nothing is written yet."),
		p.Write("The question", "Which lights turn?"), p.Write("Choice 1", "Ness"), p.Write("Choice 2", "Skerry"),
		p.Click("One choice more"), p.Wait(secondRight), p.Click("Keep"), p.See("Kept: Which lights turn?"))
	s.clean(p, "the questions that a course keeps")
	s.must(p.Click("Change: Which lights turn?"), p.Write("The question", "Which of them turn?"), p.Click("Keep"),
		p.See("Kept: Which of them turn?"), p.Click("Undo"), p.Wait(`document.querySelector('.one').innerText.includes('lights')`),
		p.Click("Remove: Which lights turn?"), p.See("No question is prepared."), p.Click("Undo"),
		p.See("Which lights turn?"))
	file := filepath.Join(t.TempDir(), "questions.csv")
	s.must(os.WriteFile(file, []byte("text,right,choice1,choice2\nWhen is ebb?,2,at six,at noon\nWhich?,7,a,b\n"),
		0o600), p.Give("Choose a file", file), p.See("1 question is here now."), p.See("What is right is one of the choices"),
		p.See("When is ebb?"))
	bad := filepath.Join(t.TempDir(), "item.xml")
	s.must(os.WriteFile(bad, []byte(`<!DOCTYPE x [<!ENTITY a "b">]><x/>`), 0o600), p.Give("Choose a file", bad),
		p.See("This file refers to pictures or other files"))
	s.clean(p, "a file that is refused")

	const put = `insert into asked_question (id, lecture_id, kind, text, choices, right_choices, opened_at, closes_at,
			timed, capture_id, at_ms) select $1, $2, 'one', 'When is ebb?', '{at six,at noon}', '{1}', $3, $3, true,
			capture_id, $4 from recording_capture where recording_id = $5`
	begins := r.Kept().Spans()[0].Start
	_, err = s.house.DB.Exec(ctx, put, uuid.New(), r.LectureID, s.house.Clock.Now(), begins.Milliseconds()+20_000, id)
	s.must(err, tavi.Go("/watch/"+id.String()), tavi.See("Questions to all (1)"), tavi.Click("When is ebb?"),
		tavi.Wait(`Math.abs(document.querySelector('video').currentTime - 20) < 1.5`))
	s.clean(tavi, "a question in a recording")
	s.must(tavi.Click("at six"), tavi.Click("Answer"), tavi.See("That is not all right."), tavi.See("Right is: at noon"),
		tavi.See("marked as given later"))
	s.must(p.Go("/watch/"+id.String()), p.Click("When is ebb?"), p.See("1 later"), p.Click("Who answered what"),
		p.See("Tavi Brandal"))
	s.clean(p, "what was answered, in a recording")
	if err := errors.Join(tavi.Go("/courses/"+r.CourseID.String()+"/questions-to-all"),
		tavi.See("teach")); err != nil {
		t.Errorf("a student at the questions of a course: %v", err)
	}
}
