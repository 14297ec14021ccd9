package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"latelantern/e2e/hand"
	"latelantern/internal/platform/postgres"
)

// TestTheRegisterOfALecture: a student in the hall types the code that is shown, says that their line is not right, and
// who teaches corrects it, with undo; who is not there is written to once.
func TestTheRegisterOfALecture(t *testing.T) {
	s := newStage(t, "none")
	b := chromium(t)
	lecture, _ := s.underWay()
	at := "/lectures/" + lecture.String()
	course, err := s.house.Schedule.Lecture(t.Context(), lecture)
	s.must(err)
	own := "/courses/" + course[0].CourseID.String() + "/register"
	teacher, tavi := s.person(b, lecturer), s.person(b, student)
	s.must(teacher.Go(at+"/class"), teacher.See("Nothing is known of who was there"), teacher.Click("Show the code"),
		tavi.Go(at), tavi.Write("Code that is shown", "0000"), tavi.Click("I am here"),
		tavi.See("This is not the code that is shown now"))
	code, err := hand.Ask[string](teacher, `document.querySelector('.hall-code .code').textContent.trim()`)
	s.must(err, tavi.Write("Code that is shown", code), tavi.Click("I am here"), tavi.See("You are in the register"))
	told(s, teacher, "1 of 24 are there.")

	s.must(tavi.Go(own), tavi.See("You were there in 1 of 1"),
		tavi.Wait(`[...document.querySelectorAll('.own li')].at(-1).querySelector('.el-button').click() || true`),
		tavi.Write("What is not right", "I was here before it began."), tavi.Click("Tell them"), tavi.See("You said:"))
	told(s, teacher, "I was here before it began.")
	s.must(teacher.Click("Say something (1)"), teacher.Click("Change the line of Tavi Brandal"), teacher.Click("Excused"),
		teacher.Write("Reason", "by telephone"), teacher.Click("Keep it"), teacher.See("Tavi Brandal: Excused."),
		teacher.Wait(`document.querySelector('.register .el-radio-button').click() || true`), teacher.See("by telephone"))
	told(s, tavi, "Excused")
	told(s, tavi, "They have looked at it.")
	s.must(teacher.Click("Undo"), teacher.See("1 of 24 are there."))

	broughtByFile(s, teacher)

	s.must(teacher.Click("who are not there"), teacher.See("Written to"))
	letters := func() (n int) {
		list, err := s.post.Letters()
		s.must(err)
		for _, l := range list {
			if strings.HasSuffix(l.Subject, " is on") {
				n++
			}
		}
		return n
	}
	s.until("letters are sent", func() bool { return letters() > 0 })
	s.must(teacher.Click("who are not there"), teacher.See("Nobody was written to"))
	n, err := postgres.Value[int](t.Context(), s.house.DB, `select count(*) from absent_told`)
	s.must(err)
	s.until("all letters are sent", func() bool { return letters() >= n })
	if got := letters(); got != n {
		t.Errorf("%d letters for %d people", got, n)
	}

	// The rules of a course change what is reckoned, and can be taken back.
	s.must(teacher.Go(own), teacher.See("Currents in the narrows"), teacher.Write("Late is who comes", "0"),
		teacher.Click("Keep"), teacher.See("All registers of this course are reckoned anew"), teacher.Click("Undo"),
		teacher.Wait(`document.querySelector('aside input').value === '5'`),
		teacher.Write("Late is who comes", "500"), teacher.Click("Keep"), teacher.See("From 0 to 120 minutes."))
}

// broughtByFile brings a list of who was at the door, in which two are of the course, and takes it back.
func broughtByFile(s *stage, teacher *hand.Page) {
	s.t.Helper()
	names, err := hand.Ask[[]string](teacher, `[...document.querySelectorAll('.register .row b')]
		.map(b => b.innerText).filter(n => n !== 'Tavi Brandal')`)
	s.must(err)
	list := filepath.Join(s.t.TempDir(), "door.csv")
	s.must(os.WriteFile(list, []byte("name\n"+names[0]+"\nNobody Known\n"+strings.ToUpper(names[1])+"\n"), 0o600))
	s.must(teacher.Give("Bring a file", list), teacher.See("2 stand as the file says."), teacher.See("3 of 24 are there."),
		teacher.See("Line 3, Nobody Known:"), teacher.See("No student of this course is called so."),
		teacher.See("From a file that"))
	s.clean(teacher, "a register from a file")
	s.must(teacher.Click("Undo"), teacher.See("1 of 24 are there."),
		teacher.Wait(`!document.body.innerText.includes('Nobody Known')`))
}
