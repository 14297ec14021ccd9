package signin_test

import (
	"context"
	"errors"
	"fmt"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/roster"
	"latelantern/internal/signin"
	"latelantern/internal/testdb"
	"latelantern/internal/testhouse"
)

// slow is how long an error says to wait; 0 for any other.
func slow(err error) time.Duration {
	var s signin.Slow
	errors.As(err, &s)
	return s.Wait
}

// TestGuessesSlowDown in the network they come from, many at once too, and nobody else is kept out by them.
func TestGuessesSlowDown(t *testing.T) {
	s := testhouse.New(t, true)
	in := func(word, from string, known uuid.UUID) error {
		_, err := s.SignIn.SignIn(context.Background(), "student@college.example", word, from, known)
		return err
	}
	var wait sync.WaitGroup
	results := make([]error, 30)
	for i := range results {
		wait.Go(func() { results[i] = in("a guess", "10.0.0.1", uuid.Nil) })
	}
	wait.Wait()
	tried := 0
	for _, err := range results {
		switch {
		case errors.Is(err, signin.ErrSignIn):
			tried++
		case slow(err) == 0:
			t.Error(err)
		}
	}
	if tried < 5 || tried > 9 {
		t.Errorf("%d of 30 guesses at once were looked at", tried)
	}
	// However long the guesses took on this machine, it is now the moment of the last one that was looked at.
	justNow := func() {
		s.Do(`update sign_in_slot s set next_at = now() + (next_at - (select max(at) from sign_in_failure f
			where f.key = s.key))`)
	}
	justNow()
	if w := slow(in(testhouse.Password, "10.0.0.1", uuid.Nil)); w == 0 || w > 31*time.Second {
		t.Errorf("from the same network one waits for %v", w)
	}
	justNow()
	if err := in(testhouse.Password, "10.0.0.1", s.Second); slow(err) == 0 {
		t.Errorf("a browser that another person used: %v", err)
	}
	for name, err := range map[string]error{
		"a browser that was signed in before": in(testhouse.Password, "10.0.0.1", s.Student),
		"another network":                     in(testhouse.Password, "10.9.9.9", uuid.Nil),
	} {
		if err != nil {
			t.Errorf("%s: %v", name, err)
		}
	}
	if _, err := s.SignIn.SignIn(t.Context(), "second@college.example", testhouse.Password, "10.0.0.1",
		uuid.Nil); err != nil {
		t.Errorf("another account in the same network: %v", err)
	}
	s.Do(`update sign_in_failure set at = at - interval '16 minutes'`)
	if err := in(testhouse.Password, "10.0.0.1", uuid.Nil); err != nil {
		t.Errorf("a quarter of an hour later: %v", err)
	}
}

// TestAKnownBrowserGuessesSlowlyToo: a cookie that was stolen does not let its holder guess without end.
func TestAKnownBrowserGuessesSlowlyToo(t *testing.T) {
	s := testhouse.New(t, true)
	var err error
	for i := 0; i < 20 && slow(err) == 0; i++ {
		_, err = s.SignIn.SignIn(t.Context(), "student@college.example", "a guess", fmt.Sprintf("10.0.0.%d", i),
			s.Student)
	}
	if slow(err) == 0 {
		t.Errorf("20 guesses were looked at: %v", err)
	}
}

// TestInventedNamesCloseNoNetwork, in which a whole hall may sit.
func TestInventedNamesCloseNoNetwork(t *testing.T) {
	s := testhouse.New(t, true)
	key := signin.Network("2001:db8:1:2::1")
	if key != signin.Network("2001:db8:1:2:ffff::9") || key == signin.Network("2001:db8:1:3::1") {
		t.Errorf("the network of an address of IPv6 is %s", key)
	}
	for i := range 120 {
		_, err := s.SignIn.SignIn(t.Context(), fmt.Sprintf("nobody%d@college.example", i), "",
			fmt.Sprintf("2001:db8:1:2::%x", i+1), uuid.Nil)
		if !errors.Is(err, signin.ErrSignIn) {
			t.Fatalf("%d: %v", i, err)
		}
	}
	began := time.Now()
	var wait sync.WaitGroup
	for i, name := range []string{"student", "second", "third", "outsider", "lecturer"} {
		wait.Go(func() {
			from := fmt.Sprintf("2001:db8:1:2:ffff::%d", i)
			if _, err := s.SignIn.SignIn(t.Context(), name+"@college.example", testhouse.Password, from,
				uuid.Nil); err != nil {
				t.Errorf("%s: %v", name, err)
			}
		})
	}
	wait.Wait()
	if took := time.Since(began); took > 20*time.Second {
		t.Errorf("five people of that network were in after %v", took)
	}
}

// TestAClosedAccount says so to nobody but its owner, and opens again as it was.
func TestAClosedAccount(t *testing.T) {
	s, letters := tray(t)
	s.Must(s.SignIn.SetClosed(t.Context(), s.Student, true))
	in := func(word string) error {
		_, err := s.SignIn.SignIn(t.Context(), "student@college.example", word, "10.0.0.1", uuid.Nil)
		return err
	}
	if err := in("a guess"); !errors.Is(err, signin.ErrSignIn) {
		t.Errorf("a guess: %v", err)
	}
	if err := in(testhouse.Password); !errors.Is(err, signin.ErrClosed) {
		t.Errorf("its owner: %v", err)
	}
	address, err := s.SignIn.Key(t.Context(), s.Student, signin.NewWord)
	s.Must(err)
	key := address[len(address)-32:]
	if _, err := s.SignIn.Opens(t.Context(), key); !errors.Is(err, signin.ErrKey) {
		t.Errorf("by a letter: %v", err)
	}
	s.Must(s.SignIn.Forgotten(t.Context(), "student@college.example", "10.0.0.1"))
	s.Must(s.SignIn.SetClosed(t.Context(), s.Student, false), in(testhouse.Password))
	if _, err := s.SignIn.Opens(t.Context(), key); err != nil {
		t.Errorf("by a letter after it was opened: %v", err)
	}
	if n := len(letters()); n > 0 {
		t.Errorf("%d letters went to a closed account", n)
	}
	if err := s.SignIn.SetClosed(t.Context(), s.Coordinator, true); !errors.Is(err, roster.ErrLast) {
		t.Errorf("the account of the last coordinator: %v", err)
	}
	if err := s.SignIn.SetClosed(t.Context(), uuid.New(), true); !errors.Is(err, signin.ErrUnknown) {
		t.Errorf("the account of nobody: %v", err)
	}
}

// TestCommonPasswords are refused, whatever signs are about them; a few words of one's own are not.
func TestCommonPasswords(t *testing.T) {
	s := testhouse.New(t, true)
	p := person(s, s.Student)
	for _, word := range []string{"1234567890", "Qwertyuiop", "password123", "manchester", "PASSWORD!2026",
		"dragondragon", "2026monkey2026", "abcabcabcabc", "98765432109876"} {
		if err := s.SignIn.ChangePassword(t.Context(), p.ID, testhouse.Password, word); field(err) != "password" {
			t.Errorf("%s: %v", word, err)
		}
	}
	word := testhouse.Password
	for _, next := range []string{"kelp and bladder wrack", "tin lanterns hum", "7 gulls on a wall"} {
		s.Do(`delete from sign_in_failure`)
		if err := s.SignIn.ChangePassword(t.Context(), p.ID, word, next); err != nil {
			t.Fatalf("%s: %v", next, err)
		}
		word = next
	}
}

// TestInvitationsComeOnceAnHour at most, however often they are asked for.
func TestInvitationsComeOnceAnHour(t *testing.T) {
	s, _ := tray(t)
	s.Do(`update account set password_hash = '' where person_id = $1`, s.Student)
	invite := func(want int) {
		t.Helper()
		if n, err := s.SignIn.Invite(t.Context(), &s.Course, nil, true); err != nil || n != want {
			t.Errorf("%d letters (%v), want %d", n, err, want)
		}
	}
	invite(1)
	invite(0)
	s.Do(`update account set invited_at = invited_at - interval '61 minutes' where person_id = $1`, s.Student)
	invite(1)
}

// TestManySignInsAtOnce, with much to forget from before, do not stand in each other's way.
func TestManySignInsAtOnce(t *testing.T) {
	s := testhouse.New(t, true)
	s.Do(`insert into sign_in_failure (key, at) select decode(md5(n::text), 'hex'), now() - interval '20 minutes'
		from generate_series(1, 20000) n`)
	s.Do(`insert into sign_in_slot (key, next_at) select decode(md5(n::text), 'hex'), now() - interval '20 minutes'
		from generate_series(1, 20000) n`)
	var wait sync.WaitGroup
	for i := range 60 {
		wait.Go(func() {
			name := []string{"student", "second", "third", "outsider", "lecturer"}[i%5]
			word := testhouse.Password
			if i%4 == 0 {
				word = "a guess"
			}
			_, err := s.SignIn.SignIn(context.Background(), name+"@college.example", word,
				fmt.Sprintf("10.0.%d.1", i%7), uuid.Nil)
			if err != nil && (i%4 != 0 || !errors.Is(err, signin.ErrSignIn) && slow(err) == 0) {
				t.Errorf("%d: %v", i, err)
			}
		})
	}
	wait.Wait()
	for range 20 {
		_, err := s.SignIn.SignIn(t.Context(), "student@college.example", testhouse.Password, "10.1.0.1", uuid.Nil)
		s.Must(err)
	}
	if n := s.Count(`select ((select count(*) from sign_in_failure
		where at < now() - interval '15 minutes') + (select count(*) from sign_in_slot))::int`); n > 10 {
		t.Errorf("%d old attempts are still kept", n)
	}
}

func TestSignIn(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t, true)
	p, err := s.SignIn.SignIn(ctx, "  Student@College.Example ", testhouse.Password, "10.0.0.1", uuid.Nil)
	if err != nil || p.ID != s.Student || p.Name != "student" {
		t.Errorf("%+v %v", p, err)
	}
	s.Do(`update account set password_hash = '' where person_id = $1`, s.Second)
	for _, c := range [][2]string{{"student@college.example", "wrong"}, {"student@college.example", ""},
		{"nobody@college.example", testhouse.Password}, {"second@college.example", ""},
		{"second@college.example", testhouse.Password}, {"", ""}} {
		if p, err := s.SignIn.SignIn(ctx, c[0], c[1], "10.0.0.1", uuid.Nil); !errors.Is(err, signin.ErrSignIn) ||
			p.ID != uuid.Nil {
			t.Errorf("%q with %q: %+v %v", c[0], c[1], p, err)
		}
	}
}

func TestMain(m *testing.M) { testdb.Main(m) }
