package signin_test

import (
	"errors"
	"net"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/google/uuid"

	"latelantern/internal/assemble"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/mail"
	"latelantern/internal/roster"
	"latelantern/internal/signin"
	"latelantern/internal/standin/posttray"
	"latelantern/internal/testhouse"
)

// tray is a stage whose letters land in a post tray.
func tray(t *testing.T) (*testhouse.Stage, func() []posttray.Letter) {
	t.Helper()
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	post, err := posttray.Open(listener, filepath.Join(t.TempDir(), "post"))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { post.Close() })
	s := testhouse.NewWith(t,
		assemble.Settings{Mail: mail.Post{Server: listener.Addr().String(), From: "lantern@college.example",
			Plain: true}})
	return s, func() (out []posttray.Letter) {
		t.Helper()
		list, err := post.Letters()
		s.Must(err)
		for _, l := range list {
			if strings.Contains(l.Text, "/welcome/") {
				out = append(out, l)
			}
		}
		return out
	}
}

var keyIn = regexp.MustCompile(`/welcome/(\S+)`)

func keyOf(t *testing.T, l posttray.Letter) string {
	t.Helper()
	m := keyIn.FindStringSubmatch(l.Text)
	if m == nil {
		t.Fatalf("no address in %q", l.Text)
	}
	return m[1]
}

// field is where an error says that something is wrong.
func field(err error) string {
	var f fault.Faults
	if errors.As(err, &f) {
		return f[0].Field
	}
	return ""
}

// TestAnInvitationActivatesAnAccount once; a new letter makes the old one worthless when it is used.
func TestAnInvitationActivatesAnAccount(t *testing.T) {
	s, letters := tray(t)
	id, err := s.Roster.Enrol(t.Context(), roster.Person{Coordinator: true}, s.Course,
		roster.PersonForm{Email: "new@college.example", Name: "New One"}, viewing.Student, "")
	s.Must(err)
	if _, err := s.SignIn.SignIn(t.Context(), "new@college.example", "", "10.0.0.1", uuid.Nil); !errors.Is(err,
		signin.ErrSignIn) {
		t.Errorf("signed in to an account that is not active: %v", err)
	}
	invite := func(again bool, want int) {
		t.Helper()
		n, err := s.SignIn.Invite(t.Context(), &s.Course, nil, again)
		s.Must(err)
		if n != want {
			t.Errorf("%d letters, want %d", n, want)
		}
	}
	invite(false, 1)
	s.Until(func() bool { return len(letters()) == 1 })
	invite(false, 0)
	s.Do(`update account set invited_at = invited_at - interval '2 hours' where person_id = $1`, id)
	invite(true, 1)
	s.Until(func() bool { return len(letters()) == 2 })
	newest, first := letters()[0], letters()[1]
	if newest.To != "new@college.example" || !strings.Contains(newest.Text, "New One") {
		t.Errorf("the letter is %+v", newest)
	}
	if p, err := s.SignIn.Opens(t.Context(), keyOf(t, newest)); err != nil || p.ID != id {
		t.Errorf("it opens the account of %+v (%v)", p, err)
	}
	for _, weak := range []string{"", "short", "aaaaaaaaaaaaaaa", "new@college.example", strings.Repeat("long ", 50)} {
		if _, err := s.SignIn.Activate(t.Context(), keyOf(t, newest), weak); field(err) != "password" {
			t.Errorf("%q is taken: %v", weak, err)
		}
	}
	p, err := s.SignIn.Activate(t.Context(), keyOf(t, newest), "kelp and bladder wrack")
	if err != nil || p != id {
		t.Fatalf("%+v %v", p, err)
	}
	for _, used := range []string{keyOf(t, newest), keyOf(t, first), "AAAA", ""} {
		if _, err := s.SignIn.Activate(t.Context(), used, "another long password"); !errors.Is(err, signin.ErrKey) {
			t.Errorf("an address that was used opens: %v", err)
		}
	}
	if again, err := s.SignIn.SignIn(t.Context(), "New@college.example", "kelp and bladder wrack", "10.0.0.1",
		uuid.Nil); err != nil || again.ID != id {
		t.Errorf("%+v %v", again, err)
	}
	invite(true, 0) // they are active
	members, err := s.Roster.Members(t.Context(), s.Course)
	s.Must(err)
	for _, m := range members {
		if !m.Active {
			t.Errorf("%s is not active", m.Email)
		}
	}
}

// TestLettersSpeakTheReadersLanguage, and that of the college for whoever has chosen none.
func TestLettersSpeakTheReadersLanguage(t *testing.T) {
	s, letters := tray(t)
	for _, wrong := range []string{"", "la", "DE"} {
		if err := s.SignIn.Speak(t.Context(), s.Student, wrong); !errors.Is(err, signin.ErrLanguage) {
			t.Errorf("%q is spoken: %v", wrong, err)
		}
	}
	if err := s.SignIn.Speak(t.Context(), uuid.New(), "de"); !errors.Is(err, signin.ErrUnknown) {
		t.Errorf("nobody speaks: %v", err)
	}
	want := map[string]string{"student@college.example": "Ein neues Passwort für Late Lantern",
		"lecturer@college.example": "A new password for Late Lantern"}
	s.Must(s.SignIn.Speak(t.Context(), s.Lecturer, "de"), s.SignIn.Speak(t.Context(), s.Lecturer, "en"),
		s.SignIn.Speak(t.Context(), s.Student, "de"))
	for to := range want {
		s.Must(s.SignIn.Forgotten(t.Context(), to, "10.0.0.1"))
	}
	s.Until(func() bool { return len(letters()) == 2 })
	for _, l := range letters() {
		if l.Subject != want[l.To] {
			t.Errorf("%s reads %q", l.To, l.Subject)
		}
	}
	if p, err := s.Roster.Person(t.Context(), s.Student); err != nil || p.Language != "de" {
		t.Errorf("the student reads %q (%v)", p.Language, err)
	}
}

// TestAnOldAddressIsWorthNothing.
func TestAnOldAddressIsWorthNothing(t *testing.T) {
	s := testhouse.New(t, true)
	address, err := s.SignIn.Key(t.Context(), s.Student, signin.NewWord)
	s.Must(err)
	key := keyIn.FindStringSubmatch(address)[1]
	s.Do(`update account_key set ends_at = now() - interval '1 second'`)
	if _, err := s.SignIn.Activate(t.Context(), key, "another long password"); !errors.Is(err, signin.ErrKey) {
		t.Errorf("it opens: %v", err)
	}
}

// TestAForgottenPassword: the answer says nothing about whether there is such an account, and
// no one is flooded with letters.
func TestAForgottenPassword(t *testing.T) {
	s, letters := tray(t)
	s.Must(s.SignIn.Forgotten(t.Context(), "nobody@college.example", "10.0.0.1"))
	for range 3 {
		s.Must(s.SignIn.Forgotten(t.Context(), "Student@college.example", "10.0.0.1"))
	}
	if err := s.SignIn.Forgotten(t.Context(), "student@college.example", "10.0.0.2"); !errors.Is(err,
		signin.ErrTooMany) {
		t.Errorf("a fourth letter: %v", err)
	}
	s.Until(func() bool { return len(letters()) == 3 })
	before := person(s, s.Student)
	_, err := s.SignIn.Activate(t.Context(), keyOf(t, letters()[0]), "quite another password")
	s.Must(err)
	if after := person(s, s.Student); after.SessionEra == before.SessionEra {
		t.Error("sessions from before go on")
	}
}

func TestChangingAPassword(t *testing.T) {
	s := testhouse.New(t, true)
	p := person(s, s.Student)
	if err := s.SignIn.ChangePassword(t.Context(), p.ID, "wrong", "another long password"); field(err) != "old" {
		t.Errorf("without the old one: %v", err)
	}
	s.Must(s.SignIn.ChangePassword(t.Context(), p.ID, testhouse.Password, "another long password"))
	if after := person(s, s.Student); after.SessionEra != p.SessionEra+1 {
		t.Errorf("the era is %d, and was %d", after.SessionEra, p.SessionEra)
	}
	if _, err := s.SignIn.SignIn(t.Context(), "student@college.example", testhouse.Password, "10.0.0.1",
		uuid.Nil); !errors.Is(err, signin.ErrSignIn) {
		t.Errorf("the old one still opens: %v", err)
	}
}

// TestTheFirstAccountOfACollege comes by the command line.
func TestTheFirstAccountOfACollege(t *testing.T) {
	s := testhouse.New(t, true)
	s.Do(`truncate person cascade`)
	id, err := s.Roster.AddPerson(t.Context(), roster.PersonForm{Email: "first@college.example", Name: "First"})
	s.Must(err)
	s.Must(s.Roster.Found(t.Context(), id))
	address, err := s.SignIn.Key(t.Context(), id, signin.Invitation)
	s.Must(err)
	who, err := s.SignIn.Activate(t.Context(), keyIn.FindStringSubmatch(address)[1], "kelp and bladder wrack")
	if err != nil || who != id || !person(s, id).Coordinator {
		t.Errorf("%v %v", who, err)
	}
}

// person is someone as the roster has them now.
func person(s *testhouse.Stage, id uuid.UUID) roster.Person {
	s.T.Helper()
	p, err := s.Roster.Person(s.T.Context(), id)
	s.Must(err)
	return p
}
