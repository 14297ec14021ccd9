package news_test

import (
	"bufio"
	"context"
	"encoding/base64"
	"errors"
	"fmt"
	"net"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/google/uuid"

	corenews "latelantern/internal/core/news"
	"latelantern/internal/news"
	"latelantern/internal/testhouse"
)

const day = 24 * time.Hour

// TestMailsGoAsOftenAsWanted: one a day, unless its reader wants another, with all that came meanwhile.
func TestMailsGoAsOftenAsWanted(t *testing.T) {
	o := open(t)
	wish := func(person uuid.UUID, often corenews.Often) { o.Must(o.at(0).SetWish(t.Context(), person, often)) }
	wish(o.Second, corenews.AtOnce)
	wish(o.Third, corenews.Weekly)
	name := map[uuid.UUID]string{o.Student: "student", o.Second: "second", o.Third: "third"}
	for person := range name {
		o.Do(`update person set email = $2 || '@college.example' where id = $1`, person, name[person])
	}
	o.tell(0, o.Course, o.lit(o.Course, "One"))
	same(t, "the first", o.send(time.Minute), []string{"second: COU 1: One", "student: COU 1: One", "third: COU 1: One"})
	same(t, "once more", o.send(2*time.Minute), nil)
	o.tell(time.Hour, o.Course, o.lit(o.Course, "Two"))
	o.tell(2*time.Hour, o.Course, o.lit(o.Course, "Three"))
	same(t, "the same day", o.send(3*time.Hour), []string{"second: 2 recordings to catch up on: COU 1"})
	same(t, "the next day", o.send(day+time.Hour), []string{"student: 2 recordings to catch up on: COU 1"})
	same(t, "in the week", o.send(7*day), nil)
	same(t, "the next week", o.send(7*day+time.Hour), []string{"third: 2 recordings to catch up on: COU 1"})
	list, err := o.tray.Letters()
	o.Must(err)
	if text := list[0].Text; !strings.Contains(text, "Two (0:00)") || !strings.Contains(text, "Three (0:00)") ||
		strings.Count(text, "Hello ") != 1 || !strings.Contains(text, "3 not yet seen") {
		t.Errorf("it reads %q", text)
	}
	// Who wants none any more gets none of what waits.
	o.tell(8*day, o.Course, o.lit(o.Course, "Four"))
	wish(o.Student, corenews.Never)
	same(t, "stopped meanwhile", o.send(9*day), []string{"second: COU 1: Four"})
	if n := o.Count(`select count(*) from news_reader where mail = 'left_out'`); n != 1 {
		t.Errorf("%d are left out", n)
	}
}

// TestMailsSayWhatIsTrueThen: nothing of what was darkened, seen or taken away since, and all courses in one.
func TestMailsSayWhatIsTrueThen(t *testing.T) {
	o := open(t)
	o.Do(`insert into membership (course_id, person_id, role) values ($1, $2, 'student')`, o.Other, o.Student)
	o.Do(`insert into viewing_rule (id, course_id, audience, uses, from_kind, from_at, until_kind, made_by, made_at)
		select gen_random_uuid(), $1, audience, uses, from_kind, from_at, until_kind, made_by, made_at
		from viewing_rule where course_id = $2 and ended_at is null`, o.Other, o.Course)
	dark, gone, seen, stays := o.lit(o.Course, "Dark"), o.lit(o.Course, "Gone"), o.lit(o.Course, "Seen"),
		o.lit(o.Course, "Stays")
	o.tell(0, o.Course, dark, gone, seen, stays)
	o.tell(0, o.Other, o.lit(o.Other, "Elsewhere"))
	o.Do(`update lighting set darkened_at = $2 where recording_id = $1`, dark.ID, testhouse.Now)
	o.Do(`update recording set deleted_at = $2 where id = $1`, gone.ID, testhouse.Now)
	o.Must(o.at(0).Seen(t.Context(), o.Student, []uuid.UUID{seen.ID}))
	o.Do(`delete from membership where person_id = $1`, o.Third)
	o.send(time.Minute)
	list, err := o.tray.Letters()
	o.Must(err)
	for _, l := range list {
		if strings.Contains(l.Text, "Dark") || strings.Contains(l.Text, "Gone") {
			t.Errorf("%s reads %q", l.To, l.Text)
		}
		if l.To == "student@college.example" && (l.Subject != "2 recordings to catch up on: COU 1, OTH 2" ||
			!strings.Contains(l.Text, "Stays") || !strings.Contains(l.Text, "Elsewhere") ||
			strings.Contains(l.Text, "Seen (")) {
			t.Errorf("the student reads %q %q", l.Subject, l.Text)
		}
	}
	if n := o.Count(`select count(*) from news_reader where mail = 'left_out' and person_id = $1`, o.Third); n != 1 ||
		len(list) != 3 {
		t.Errorf("%d mails; of one who left %d were left out", len(list), n)
	}
}

// TestOnePressStopsMails, without signing in, and only with the address of one's own.
func TestOnePressStopsMails(t *testing.T) {
	o := open(t)
	o.tell(0, o.Course, o.lit(o.Course, "Tides"))
	o.send(time.Minute)
	list, err := o.tray.Letters()
	o.Must(err)
	key, ok := strings.CutPrefix(list[0].Stop, "https://lectures.college.example/stop/")
	if !ok || !strings.Contains(list[0].Text, list[0].Stop) {
		t.Fatalf("stopped at %q", list[0].Stop)
	}
	person, err := o.at(0).Behind(t.Context(), key)
	o.Must(err)
	if o.Count(`select count(*) from person where id = $1 and email = $2`, person, list[0].To) != 1 {
		t.Error("the key is that of another")
	}
	wrong := []byte(key)
	wrong[3] ^= 1
	// What stands for another person with the signature of one's own.
	forged, err := base64.RawURLEncoding.DecodeString(key)
	o.Must(err)
	copy(forged, o.Lecturer[:])
	for _, k := range []string{"", "x", string(wrong), key + "A", key[:len(key)-2],
		base64.RawURLEncoding.EncodeToString(forged), o.at(0).StopKey(uuid.New())} {
		if _, err := o.at(0).Behind(t.Context(), k); !errors.Is(err, news.ErrKey) {
			t.Errorf("%q: %v", k, err)
		}
	}
}

// TestAddressesThatTakeNoMail are told to coordinators: when the server refuses them, and when a mail comes back.
func TestAddressesThatTakeNoMail(t *testing.T) {
	o := open(t)
	o.Do(`update person set email = 'nobody@college.example' where id = $1`, o.Second)
	o.tell(0, o.Course, o.lit(o.Course, "Tides"))
	if got := o.send(time.Minute); len(got) != 2 {
		t.Errorf("sent: %q", got)
	}
	list, err := o.tray.Letters()
	o.Must(err)
	report := func(id, action, status string) string {
		return strings.ReplaceAll(fmt.Sprintf(`From: mailer@post.example
To: lantern@college.example
Subject: Undelivered
MIME-Version: 1.0
Content-Type: multipart/report; report-type=delivery-status; boundary="b"

--b
Content-Type: text/plain

It did not arrive.
--b
Content-Type: message/delivery-status

Reporting-MTA: dns; post.example

Final-Recipient: rfc822; x@college.example
Action: %s
Status: %s

--b
Content-Type: text/rfc822-headers

Subject: COU 1
Message-ID: %s

--b--
`, action, status, id), "\n", "\r\n")
	}
	returned := func(text string) error {
		_, err := o.at(time.Hour).Returned(t.Context(), strings.NewReader(text))
		return err
	}
	o.Must(returned(report(list[0].ID, "delayed", "4.4.1")), returned(report(list[0].ID, "delivered", "2.0.0")))
	if n := o.Count(`select count(*) from address_fault`); n != 1 {
		t.Errorf("%d after a delay", n)
	}
	for what, text := range map[string]string{"a letter": "Subject: Hello\r\n\r\nHello", "nothing": "",
		"another's": report("<abc@else.example>", "failed", "5.1.1"), "no mail": report("", "failed", "5.1.1"),
		"a forged one": report("<"+strings.Repeat("A", 64)+"@lectures.college.example>", "failed", "5.1.1")} {
		if err := returned(text); !errors.Is(err, news.ErrNotOurs) {
			t.Errorf("%s: %v", what, err)
		}
	}
	// It holds for the address that the mail went to, not for another that they have since.
	o.Do(`update person set email = 'later@college.example' where email = $1`, list[0].To)
	o.Must(returned(report(list[0].ID, "failed", "5.2.1")))
	if now, err := o.at(0).Astray(t.Context()); err != nil || len(now) != 1 {
		t.Errorf("of an address that is theirs no more: %+v %v", now, err)
	}
	o.Do(`update person set email = $1 where email = 'later@college.example'`, list[0].To)
	astray, err := o.at(0).Astray(t.Context())
	o.Must(err)
	if len(astray) != 2 || astray[0].Address != list[0].To || astray[0].Status != "5.2.1" ||
		astray[1].Address != "nobody@college.example" || astray[1].Status != "5.1.1" {
		t.Errorf("%+v", astray)
	}
	// They are written to again once their address is another, or it is tried again.
	next := o.lit(o.Course, "Neap")
	readers, err := o.at(0).Readers(t.Context(), o.Course, []uuid.UUID{next.ID})
	o.Must(err)
	none := 0
	for _, r := range readers {
		if r.NoMail == news.CameBack {
			none++
		}
	}
	o.Must(o.at(0).TryAgain(t.Context(), astray[0].PersonID))
	o.Do(`update person set email = 'second@college.example' where id = $1`, o.Second)
	if err := o.at(0).TryAgain(t.Context(), astray[0].PersonID); none != 2 || !errors.Is(err, news.ErrUnknown) {
		t.Errorf("%d get none; forgotten twice: %v", none, err)
	}
	o.tell(2*day, o.Course, next)
	if got := o.send(3 * day); len(got) != 3 {
		t.Errorf("sent then: %q", got)
	}
}

// broken is a mail server that takes some letters and hangs up in the middle of the next.
func broken(t *testing.T, takes int32) (address string, took *atomic.Int32) {
	t.Helper()
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { listener.Close() })
	took = &atomic.Int32{}
	go func() {
		for {
			c, err := listener.Accept()
			if err != nil {
				return
			}
			go talk(c, takes, took)
		}
	}()
	return listener.Addr().String(), took
}

func talk(c net.Conn, takes int32, took *atomic.Int32) {
	defer c.Close()
	in := bufio.NewScanner(c)
	fmt.Fprint(c, "220 post.example\r\n")
	for data := false; in.Scan(); {
		line := in.Text()
		switch {
		case data && line == ".":
			data = false
			took.Add(1)
			fmt.Fprint(c, "250 ok\r\n")
		case data:
		case strings.HasPrefix(line, "DATA"):
			if took.Load() >= takes {
				return
			}
			data = true
			fmt.Fprint(c, "354 go on\r\n")
		default:
			fmt.Fprint(c, "250 ok\r\n")
		}
	}
}

// TestNothingGoesTwice: not when the mail server goes away in the middle, nor when several processes send.
func TestNothingGoesTwice(t *testing.T) {
	o := open(t)
	for n := range 37 {
		o.Person(fmt.Sprintf("more-%02d", n), o.Course, "student", "A")
	}
	o.tell(0, o.Course, o.lit(o.Course, "Tides"), o.lit(o.Course, "Neap"))
	tray := o.post.Server
	var took *atomic.Int32
	o.post.Server, took = broken(t, 15)
	if n, err := o.at(time.Minute).Send(t.Context()); n != 15 || err == nil || took.Load() != 15 {
		t.Errorf("%d sent, %d taken: %v", n, took.Load(), err)
	}
	o.post.Server = "127.0.0.1:1" // nobody is there
	if n, err := o.at(time.Minute).Send(t.Context()); n != 0 || err == nil {
		t.Errorf("%d sent to nobody: %v", n, err)
	}
	o.post.Server = tray
	errs := make(chan error, 4)
	for range cap(errs) {
		go func() {
			_, err := o.at(2 * time.Minute).Send(context.Background())
			errs <- err
		}()
	}
	for range cap(errs) {
		o.Must(<-errs)
	}
	list, err := o.tray.Letters()
	o.Must(err)
	to := map[string]bool{}
	for _, l := range list {
		to[l.To] = true
	}
	if len(list) != 25 || len(to) != 25 || o.Count(`select count(*) from news_reader where mail = 'sent'`) != 40 {
		t.Errorf("%d to %d people, of 25", len(list), len(to))
	}
}
