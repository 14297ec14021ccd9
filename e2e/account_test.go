package e2e

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
	"testing"

	"latelantern/demo"
	"latelantern/e2e/hand"
	"latelantern/internal/standin/posttray"
)

// letter waits for the newest letter to an address that has words in it, and gives the path it leads to.
func (s *stage) letter(to, words string) (path string) {
	s.t.Helper()
	s.until(fmt.Sprintf("a letter with %q to %s", words, to), func() bool {
		list, err := s.post.Letters()
		s.must(err)
		i := slices.IndexFunc(list,
			func(l posttray.Letter) bool { return l.To == to && strings.Contains(l.Text, words) })
		if i >= 0 {
			path = regexp.MustCompile(`/welcome/\S+`).FindString(list[i].Text)
		}
		return i >= 0
	})
	return path
}

// TestAnAccount: a password that was forgotten is chosen anew by a letter, which ends what is
// open elsewhere; and one can sign out everywhere.
func TestAnAccount(t *testing.T) {
	s := newStage(t, "none")
	b := chromium(t)
	email := demo.Accounts[student].Email
	open := s.person(b, student)
	p, err := b.Page(s.base())
	s.must(err)
	t.Cleanup(p.Close)
	s.must(p.Go("/sign-in"), p.Click("Choose a new password"), p.See("If there is an account"),
		p.Write("Mail address", email), p.Click("Send the letter"), p.See("the letter is on its way"))
	path := s.letter(email, "asked for a new password")
	const word = "a rope's end whipped"
	s.must(p.Go(path), p.See("Tavi Brandal"), p.Write("New password", word), p.Click("Begin"), p.See("Catch-up"))
	s.must(open.Go("/dates"), open.See("Sign in"))
	used, err := b.Page(s.base())
	s.must(err)
	t.Cleanup(used.Close)
	s.must(used.Go(path), used.See("This address was used already"))

	s.must(p.Go("/account"), p.Write("Password as it is now", "not this one"), p.Write("New password", word+" twice"),
		p.Click("Change the password"), p.See("This is not your password as it is now."))
	s.must(p.Write("Password as it is now", word), p.Write("New password", email), p.Click("Change the password"),
		p.See("must not be your address"))
	s.must(p.Write("New password", word+" twice"), p.Click("Change the password"), p.See("The password is changed."))
	s.must(used.SignIn(email, word+" twice"), used.See("Catch-up"), p.Click("Sign out everywhere"),
		p.See("With the address and password of your college."))
	s.must(used.Go("/dates"), used.See("With the address and password of your college."))
	if there, err := hand.Ask[string](used, `location.pathname`); err != nil || there != "/sign-in" {
		t.Errorf("the other page is at %s (%v)", there, err)
	}
}
