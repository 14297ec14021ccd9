package recall_test

import (
	"context"
	"errors"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5/pgxpool"

	"latelantern/internal/platform/postgres"
	"latelantern/internal/platform/recall"
	"latelantern/internal/testdb"
)

func TestMain(m *testing.M) { testdb.Main(m) }

func open(t *testing.T) *pgxpool.Pool {
	t.Helper()
	db, err := postgres.Open(t.Context(), testdb.DSN(t))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(db.Close)
	return db
}

func say(t *testing.T, db *pgxpool.Pool, word string) {
	t.Helper()
	if _, err := db.Exec(t.Context(), `select pg_notify('latelantern_rights', $1)`, word); err != nil {
		t.Fatal(err)
	}
}

// asked counts how often it was asked, and answers with that.
type asked struct {
	n     int
	about []recall.Subject
	until time.Time
	err   error
	then  func()
}

func (a *asked) ask(context.Context) (recall.Answer[int], error) {
	a.n++
	if a.then != nil {
		a.then()
	}
	return recall.Answer[int]{Value: a.n, Subjects: a.about, Until: a.until}, a.err
}

// TestAnAnswerHoldsUntilItsSubjectsChange in any process, or its end by the clock; and what was heard while it was
// asked for is not missed.
func TestAnAnswerHoldsUntilItsSubjectsChange(t *testing.T) {
	db := open(t)
	line := recall.Listen(t.Context(), db)
	defer line.Close()
	now := time.Date(2026, 10, 14, 12, 0, 0, 0, time.UTC)
	m := recall.NewMemory[string, int](line, 10, func() time.Time { return now })
	anna, tid, other := recall.Person(uuid.New()), recall.Course(uuid.New()), recall.Recording(uuid.New())
	a := &asked{about: []recall.Subject{anna, tid}, until: now.Add(time.Hour)}
	get := func(what string, want int) {
		t.Helper()
		if got, err := m.Get(t.Context(), "a", a.ask); got != want || err != nil {
			t.Errorf("%s it is answer %d (%v), want %d", what, got, err, want)
		}
	}
	changes := func(what, word string, want int) {
		t.Helper()
		say(t, db, word)
		for until := time.Now().Add(30 * time.Second); ; time.Sleep(5 * time.Millisecond) {
			got, err := m.Get(t.Context(), "a", a.ask)
			if got == want && err == nil {
				return
			}
			if time.Now().After(until) || got > want {
				t.Fatalf("%s it is answer %d (%v), want %d", what, got, err, want)
			}
		}
	}
	get("first", 1)
	get("again", 1)
	say(t, db, string(other))
	changes("after one of its subjects changed", string(tid), 2)
	get("and again", 2)
	changes("after another of them changed", string(anna), 3)
	changes("after everything changed", "*", 4)
	now = now.Add(time.Hour)
	get("at its end", 5)
	get("after its end", 6)
	a.until = time.Time{}
	get("without an end", 7)
	get("without an end, again", 7)
	a.err = errors.New("no")
	b := func() (int, error) { return m.Get(t.Context(), "b", a.ask) }
	for range 2 { // what went wrong is not remembered
		if n, err := b(); n != a.n || !errors.Is(err, a.err) {
			t.Errorf("it is answer %d of %d: %v", n, a.n, err)
		}
	}
	if a.n != 9 {
		t.Errorf("it was asked %d times", a.n)
	}
}

// TestWhatIsHeardMeanwhileIsNotMissed: an answer that was read before a change is not kept when the change is heard
// before it is there.
func TestWhatIsHeardMeanwhileIsNotMissed(t *testing.T) {
	db := open(t)
	line := recall.Listen(t.Context(), db)
	defer line.Close()
	m := recall.NewMemory[string, int](line, 10, time.Now)
	probe := recall.NewMemory[string, int](line, 10, time.Now)
	subject := recall.Person(uuid.New())
	p := &asked{about: []recall.Subject{subject}}
	if _, err := probe.Get(t.Context(), "p", p.ask); err != nil {
		t.Fatal(err)
	}
	a := &asked{about: []recall.Subject{subject}}
	a.then = func() {
		a.then = nil
		say(t, db, string(subject))
		for p.n == 1 { // until it is heard
			if _, err := probe.Get(t.Context(), "p", p.ask); err != nil {
				t.Fatal(err)
			}
		}
	}
	for i, want := range []int{1, 2, 2} {
		if got, err := m.Get(t.Context(), "a", a.ask); got != want || err != nil {
			t.Errorf("call %d is answered with %d (%v), want %d", i+1, got, err, want)
		}
	}
}

// TestALostLineIsSureOfNothing: then it is asked for again, and what was answered before is gone by only while the
// database is away.
func TestALostLineIsSureOfNothing(t *testing.T) {
	db := open(t)
	line := recall.Listen(t.Context(), db)
	m := recall.NewMemory[string, int](line, 10, time.Now)
	a := &asked{about: []recall.Subject{recall.Person(uuid.New())}}
	get := func(want int, fails bool) {
		t.Helper()
		if got, err := m.Get(t.Context(), "a", a.ask); got != want || (err != nil) != fails {
			t.Errorf("it is answer %d (%v), want %d", got, err, want)
		}
	}
	get(1, false)
	line.Close()
	for until := time.Now().Add(30 * time.Second); line.Sure(); time.Sleep(20 * time.Millisecond) {
		if time.Now().After(until) {
			t.Fatal("a line that is closed stays sure")
		}
	}
	get(2, false)
	get(3, false)
	a.err = errors.New("something else")
	get(4, true)
	a.err = context.DeadlineExceeded
	get(1, false)
	a.n = 10
	get(1, false) // it is not asked again at once
	if a.n != 10 {
		t.Error("it was asked at once again")
	}
	if _, err := m.Get(t.Context(), "b", a.ask); err == nil {
		t.Error("what was never answered is answered")
	}
}

// TestTheLineComesBack over a connection that was cut, and then everything is asked for anew.
func TestTheLineComesBack(t *testing.T) {
	db := open(t)
	line := recall.Listen(t.Context(), db)
	defer line.Close()
	m := recall.NewMemory[string, int](line, 10, time.Now)
	a := &asked{about: []recall.Subject{recall.Person(uuid.New())}}
	get := func() int {
		n, err := m.Get(t.Context(), "a", a.ask)
		if err != nil {
			t.Fatal(err)
		}
		return n
	}
	if first, second := get(), get(); first != 1 || second != 1 {
		t.Fatal("it is not remembered")
	}
	const cut = `select pg_terminate_backend(pid) from pg_stat_activity where pid <> pg_backend_pid()
		and datname = current_database() and query like any (array['listen%', '%ping%'])`
	if _, err := db.Exec(t.Context(), cut); err != nil {
		t.Fatal(err)
	}
	for until := time.Now().Add(30 * time.Second); get() == 1; time.Sleep(10 * time.Millisecond) {
		if time.Now().After(until) {
			t.Fatal("what was answered before the line was cut holds on")
		}
	}
	for until := time.Now().Add(30 * time.Second); ; time.Sleep(10 * time.Millisecond) {
		if first, second := get(), get(); line.Sure() && first == second {
			break
		}
		if time.Now().After(until) {
			t.Fatal("the line does not come back")
		}
	}
}
