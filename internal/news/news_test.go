package news_test

import (
	"errors"
	"fmt"
	"net"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/audience"
	"latelantern/internal/core/fault"
	corenews "latelantern/internal/core/news"
	"latelantern/internal/core/viewing"
	"latelantern/internal/news"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/mail"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/standin/posttray"
	"latelantern/internal/testdb"
	"latelantern/internal/testhouse"
)

func TestMain(m *testing.M) { testdb.Main(m) }

// office is a college whose mail goes into a tray.
type office struct {
	*testhouse.Stage
	tray *posttray.Tray
	post mail.Post
}

func open(t *testing.T) office {
	t.Helper()
	s := testhouse.New(t, true)
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	s.Must(err)
	tray, err := posttray.Open(listener, filepath.Join(t.TempDir(), "post"))
	s.Must(err)
	t.Cleanup(func() { tray.Close() })
	s.Must(s.Audience.SetRule(t.Context(), audience.Scope{Course: s.Course}, s.Lecturer,
		&viewing.Rule{Audience: viewing.Everyone, Uses: viewing.WatchRead,
			Window: viewing.Window{From: viewing.FromDate, FromAt: testhouse.Now.AddDate(-1, 0, 0),
				Until: viewing.UntilEver}}))
	return office{s, tray, mail.Post{Server: listener.Addr().String(), From: "lantern@college.example", Plain: true}}
}

// at is the use-case at a time after the stage's own.
func (o office) at(after time.Duration) *news.Service {
	s := *o.At(clock.Standing(testhouse.Now.Add(after))).News
	s.Post = o.post
	return &s
}

// lit is a recording of a lecture of a course that is lit for it.
func (o office) lit(course uuid.UUID, topic string) news.Named {
	id := o.Bare(o.AddLecture(course, testhouse.Now.Add(-24*time.Hour), topic), true, nil)
	o.LightRow(id, course, nil)
	return news.Named{ID: id, Title: topic}
}

func (o office) tell(after time.Duration, course uuid.UUID, list ...news.Named) uuid.UUID {
	o.T.Helper()
	id, err := o.at(after).Tell(o.T.Context(), o.Lecturer, news.Message{Course: course, Recordings: list})
	o.Must(err)
	return id
}

// send sends what is due, and gives what came into the tray by it: to whom, and about what.
func (o office) send(after time.Duration) []string {
	o.T.Helper()
	before, err := o.tray.Letters()
	o.Must(err)
	_, err = o.at(after).Send(o.T.Context())
	o.Must(err)
	list, err := o.tray.Letters()
	o.Must(err)
	var out []string
	for _, l := range list[:len(list)-len(before)] {
		out = append(out, strings.TrimSuffix(l.To, "@college.example")+": "+l.Subject)
	}
	slices.Sort(out)
	return out
}

func (o office) unseen(person uuid.UUID) []string {
	o.T.Helper()
	list, err := o.at(0).Unseen(o.T.Context(), person)
	o.Must(err)
	var out []string
	for _, x := range list {
		out = append(out, x.Title)
	}
	return out
}

func same(t *testing.T, what string, got, want []string) {
	t.Helper()
	if !slices.Equal(got, want) {
		t.Errorf("%s: %q, not %q", what, got, want)
	}
}

// who sums up what readers would be told, by name.
func who(list []news.Reader) map[string]string {
	out := map[string]string{}
	for _, r := range list {
		out[r.Name] = fmt.Sprint(len(r.Recordings), " ", r.Why, "/", r.NoMail)
	}
	return out
}

// TestTell tells each student once of what they can watch, however many tell them at the same time, and says who is
// not told and why.
func TestTell(t *testing.T) {
	o := open(t)
	tides, neap := o.lit(o.Course, "Tides"), o.lit(o.Course, "Neap")
	dark := o.Bare(o.Lecture, true, nil)
	o.Do(`insert into shut_out (id, course_id, recording_id, person_id, made_by, made_at) values
		(gen_random_uuid(), $1, $2, $3, $4, $5)`, o.Course, neap.ID, o.Third, o.Lecturer, testhouse.Now)
	o.Do(`update person set email = null, guest = true where id = $1`, o.Second)
	o.Must(o.at(0).SetWish(t.Context(), o.Student, corenews.Never))
	all := []uuid.UUID{tides.ID, neap.ID, dark}
	before, err := o.at(0).Readers(t.Context(), o.Course, all)
	o.Must(err)
	names := func(of uuid.UUID) string {
		i := slices.IndexFunc(before, func(r news.Reader) bool { return r.PersonID == of })
		return before[i].Name
	}
	got := who(before)
	for person, want := range map[uuid.UUID]string{o.Student: "2 /not_wanted", o.Second: "2 /no_address", o.Third: "1 /"} {
		if got[names(person)] != want {
			t.Errorf("%s: %q, not %q", names(person), got[names(person)], want)
		}
	}
	list, err := o.at(0).Candidates(t.Context(), o.Course)
	o.Must(err)
	if len(list) != 2 || list[0].New+list[1].New != 5 || list[0].Told != 0 {
		t.Errorf("to be told of: %+v", list)
	}

	var all8 sync.WaitGroup
	failed := make(chan error, 8)
	teller, begin := o.at(0), make(chan struct{})
	for range cap(failed) {
		all8.Go(func() {
			o.Do(`select pg_sleep(0.1)`) // each has a connection by then
			<-begin
			_, err := teller.Tell(t.Context(), o.Lecturer,
				news.Message{Course: o.Course, Recordings: []news.Named{tides, neap, {ID: dark, Title: "Dark"}}})
			failed <- err
		})
	}
	time.AfterFunc(500*time.Millisecond, func() { close(begin) })
	all8.Wait()
	nobody := 0
	for range cap(failed) {
		if err := <-failed; errors.Is(err, news.ErrNobody) {
			nobody++
		} else {
			o.Must(err)
		}
	}
	if nobody != 7 || o.Count(`select count(*) from news`) != 1 || o.Count(`select coalesce(sum(cardinality(recordings)), 0) from news_reader`) != 5 ||
		o.Count(`select count(*) from news_reader where mail <> 'none'`) != 1 || o.Count(`select count(*) from news_recording`) != 2 {
		t.Errorf("%d of 8 told nobody", nobody)
	}
	same(t, "what one student was told", o.unseen(o.Student), []string{"Tides", "Neap"})
	same(t, "what one who is shut out was told", o.unseen(o.Third), []string{"Tides"})
	after, err := o.at(0).Readers(t.Context(), o.Course, all)
	o.Must(err)
	if got := who(after); got[names(o.Student)] != "0 not_lit/" && got[names(o.Student)] != "0 told/" {
		t.Errorf("afterwards: %v", got)
	}
	// What is watched, or looked at, is no news any more.
	o.Must(o.at(0).Seen(t.Context(), o.Student, []uuid.UUID{tides.ID}))
	same(t, "what is left to see", o.unseen(o.Student), []string{"Neap"})
	o.Must(o.at(0).Unsee(t.Context(), o.Student, []uuid.UUID{tides.ID}))
	same(t, "what is left again", o.unseen(o.Student), []string{"Tides", "Neap"})
}

// TestTakenBack takes it back, but for those who have their mail.
func TestTakenBack(t *testing.T) {
	o := open(t)
	tides, neap := o.lit(o.Course, "Tides"), o.lit(o.Course, "Neap")
	id := o.tell(0, o.Course, tides)
	same(t, "sent at once", o.send(news.Grace-time.Second), nil)
	if kept, err := o.at(0).TakeBack(t.Context(), o.Course, id); kept != 0 || err != nil {
		t.Errorf("%d keep it: %v", kept, err)
	}
	if n := o.Count(`select count(*) from news`) + o.Count(`select coalesce(sum(cardinality(recordings)), 0) from news_reader`); n != 0 {
		t.Errorf("%d are left", n)
	}
	same(t, "sent of what was taken back", o.send(time.Hour), nil)
	if _, err := o.at(0).TakeBack(t.Context(), o.Course, id); !errors.Is(err, news.ErrUnknown) {
		t.Errorf("once more: %v", err)
	}
	o.Must(o.at(0).SetWish(t.Context(), o.Third, corenews.Weekly))
	o.Do(`update news_wish set last_at = $1`, testhouse.Now.Add(-time.Hour))
	id = o.tell(0, o.Course, tides, neap)
	if _, err := o.at(0).TakeBack(t.Context(), o.Other, id); !errors.Is(err, news.ErrUnknown) {
		t.Errorf("by another course: %v", err)
	}
	if got := o.send(time.Minute); len(got) != 2 {
		t.Fatalf("sent: %q", got)
	}
	if kept, err := o.at(time.Minute).TakeBack(t.Context(), o.Course, id); kept != 2 || err != nil {
		t.Errorf("%d keep it: %v", kept, err)
	}
	same(t, "of one with a mail", o.unseen(o.Student), []string{"Tides", "Neap"})
	same(t, "of one without", o.unseen(o.Third), nil)
	past, err := o.at(0).Past(t.Context(), o.Course)
	o.Must(err)
	if len(past) != 1 || past[0].People != 2 || past[0].Sent != 2 || past[0].Waits != 0 || len(past[0].Titles) != 2 {
		t.Errorf("what is told of it: %+v", past)
	}
}

// TestTemplates: what cannot be used is said, and nothing is told.
func TestTemplates(t *testing.T) {
	o := open(t)
	tides := o.lit(o.Course, "Tides")
	_, err := o.at(0).Tell(t.Context(), o.Lecturer,
		news.Message{Course: o.Course, Recordings: []news.Named{tides}, Template: "{recordings} {teacher}"})
	var faults fault.Faults
	if !errors.As(err, &faults) || faults[0].Field != "template" || faults[0].Text.Code != "news.unknown_word" {
		t.Errorf("an unknown word: %v", err)
	}
	if err := o.at(0).SetTemplate(t.Context(), o.Course, "nothing"); !errors.As(err, &faults) {
		t.Errorf("kept: %v", err)
	}
	o.Must(o.at(0).SetTemplate(t.Context(), o.Course, " For {name}: {recordings} "))
	if got, err := o.at(0).Template(t.Context(), o.Course); err != nil || got != "For {name}: {recordings}" {
		t.Errorf("%q %v", got, err)
	}
	o.tell(0, o.Course, tides)
	o.send(time.Minute)
	list, err := o.tray.Letters()
	o.Must(err)
	if len(list) != 3 || !strings.HasPrefix(list[0].Text, "For ") ||
		!strings.Contains(list[0].Text, "Tides (0:00)\nhttps://lectures.college.example/watch/"+tides.ID.String()) {
		t.Errorf("%+v", list)
	}
}

// TestTwoWhoTellAtOnce: the second waits until the first is done, and finds nobody left.
func TestTwoWhoTellAtOnce(t *testing.T) {
	o := open(t)
	m := news.Message{Course: o.Course, Recordings: []news.Named{o.lit(o.Course, "Tides")}}
	second := make(chan error, 1)
	o.Must(postgres.InTx(t.Context(), o.DB, func(tx pgx.Tx) error {
		if err := o.at(0).TellIn(t.Context(), tx, uuid.New(), o.Lecturer, m); err != nil {
			return err
		}
		go func() {
			_, err := o.at(0).Tell(t.Context(), o.Lecturer, m)
			second <- err
		}()
		select {
		case err := <-second:
			t.Errorf("it did not wait: %v", err)
			second <- err
		case <-time.After(500 * time.Millisecond):
		}
		return nil
	}))
	if err := <-second; !errors.Is(err, news.ErrNobody) {
		t.Errorf("the second: %v", err)
	}
}
