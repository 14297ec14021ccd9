package e2e

import (
	"net/http"
	"strings"
	"testing"

	"latelantern/demo"
	"latelantern/internal/core/news"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/standin/posttray"
)

// TestStudentsAreTold: who is told is seen before, in words of the course; each has one mail and a line on the catch-up
// page, and stops such mail from a mail without signing in. Coordinators see where none arrives.
func TestStudentsAreTold(t *testing.T) {
	t.Parallel()
	s := newStage(t, "tid-1")
	b := chromium(t)
	_, err := s.house.DB.Exec(t.Context(), `update person set email = 'nobody@skerry.example' where id = (select p.id
		from person p join membership m on m.person_id = p.id join course k on k.id = m.course_id
		where k.code = 'TID 210' and m.role = 'student' and p.email <> $1 order by p.name limit 1)`,
		demo.Accounts[student].Email)
	s.must(err)
	_, err = s.house.DB.Exec(t.Context(), `delete from news_silent`) // nobody said that they need not be told
	p := s.person(b, lecturer)
	s.must(err, p.Go("/courses/"+s.course("TID 210").String()+"/playlist"),
		p.See("One lit recording is new to students."), p.Click("Tell the students"),
		p.See("24 students are told, on their catch-up pages."), p.See("24 get a mail, at once."),
		p.Click("Change its text"), p.Write("What the mail says", "For {teacher}: {recordings}"),
		p.Click("Keep the text"), p.See("There is no word “teacher” to put into this text."))
	s.clean(p, "telling students, with a text that cannot be")
	s.must(p.Write("What the mail says", "For {name}, {recordings}"), p.Click("Keep the text"),
		p.See("The mail says what this course writes."), p.Click("Tell 24 students"),
		p.See("24 students are told. Their mails go in some seconds."), p.Click("Undo"),
		p.See("24 students are told, on their catch-up pages."))
	s.must(p.Click("Tell 24 students"), p.See("24 mails still to go"))

	reader := s.person(b, student)
	s.must(reader.Go("/catch-up"), reader.See("One recording is new to you"))
	s.clean(reader, "catch-up with news")
	s.must(reader.Click("Take these lines away"), reader.Wait(`!document.body.innerText.includes('is new to you')`),
		reader.Click("Undo"), reader.See("One recording is new to you"))

	var mine posttray.Letter
	s.until("each has a mail", func() bool {
		list, err := s.post.Letters()
		s.must(err)
		n, to := 0, map[string]bool{}
		for _, l := range list {
			if l.Stop == "" { // something else
				continue
			}
			n++
			to[l.To] = true
			if l.To == demo.Accounts[student].Email {
				mine = l
			}
		}
		return n == 23 && len(to) == 23
	})
	s.must(p.See("23 mails sent"), p.See("one mail refused"))
	if !strings.HasPrefix(mine.Text, "For ") || !strings.Contains(mine.Text, "/watch/"+s.theOne().String()) {
		t.Errorf("it reads %q", mine.Text)
	}
	often := func() news.Often {
		x, err := postgres.Value[news.Often](t.Context(), s.house.DB, `select often from news_wish w
			join person p on p.id = w.person_id where p.email = $1`, demo.Accounts[student].Email)
		s.must(err)
		return x
	}
	path := mine.Stop[strings.Index(mine.Stop, "/stop/"):]
	stranger, err := chromium(t).Page(s.base())
	s.must(err)
	t.Cleanup(stranger.Close)
	s.must(stranger.Go(path), stranger.See("you get a mail of it"), stranger.Click("No more mails"),
		stranger.See("You get no more such mail."))
	s.clean(stranger, "stopping mails")
	if got := often(); got != news.Never {
		t.Errorf("it is wanted %s", got)
	}
	s.must(stranger.Click("Undo"), stranger.See("you get a mail of it"))
	answer, err := http.Post(s.base()+path, "application/x-www-form-urlencoded",
		strings.NewReader("List-Unsubscribe=One-Click"))
	s.must(err)
	if answer.Body.Close(); answer.StatusCode != http.StatusNoContent || often() != news.Never {
		t.Errorf("with one press: %d, it is wanted %s", answer.StatusCode, often())
	}
	s.must(stranger.Go("/stop/abc"), stranger.See("This is not the whole address"),
		reader.Go("/account"), reader.See("Mail of new recordings"), reader.Click("At most weekly"),
		reader.See("You get such mail once a week at most."))

	s.must(p.Go("/account"), p.See("Mail of your captures"), p.Click("Write to me when a capture of mine"),
		p.See("You get no such mail."), p.Go("/account"), p.Click("Write to me when a capture of mine"),
		p.See("You get such mail, two minutes after a capture has ended."))
	s.clean(p, "the account of who lectures")

	office := s.person(b, coordinator)
	s.must(office.Go("/people"), office.See("No mail arrives at one address"), office.See("nobody@skerry.example"),
		office.See("there is no such mailbox"))
	s.clean(office, "where no mail arrives")
	s.must(office.Click("Try it again"), office.Wait(`!document.body.innerText.includes('No mail arrives')`))
}
