package ical

import (
	"bytes"
	"context"
	"fmt"
	"strings"
	"testing"
	"testing/quick"
	"time"
	_ "time/tzdata"

	"latelantern/internal/core/texts"
)

// cal puts the body of a calendar between its ends, with the line ends of the standard.
func cal(body string) string {
	return strings.ReplaceAll("BEGIN:VCALENDAR\nVERSION:2.0\nPRODID:-//x//EN\n"+strings.TrimSpace(body)+
		"\nEND:VCALENDAR\n", "\n", "\r\n")
}

func one(lines ...string) string {
	return cal("BEGIN:VEVENT\nUID:a\n" + strings.Join(lines, "\n") + "\nEND:VEVENT")
}

func read(t *testing.T, in string, o Options) (lectures, faults []string) {
	t.Helper()
	c, err := Read(context.Background(), strings.NewReader(in), o)
	if err != nil {
		t.Fatal(err)
	}
	for _, l := range c.Lectures {
		s := fmt.Sprintf("%s %d %s", l.Start.Format("2006-01-02T15:04Z"), int(l.End.Sub(l.Start).Minutes()), l.Title)
		if l.Hall != "" {
			s += " @" + l.Hall
		}
		if l.CalledOff {
			s += " off"
		}
		lectures = append(lectures, s)
	}
	for _, f := range c.Faults {
		faults = append(faults, fmt.Sprintf("%d: %s", f.Line, texts.English.Say(f.Text)))
	}
	return lectures, faults
}

// berlin is a zone as calendar programs describe it, under a name that is in no database.
const berlin = `BEGIN:VTIMEZONE
TZID:Somewhere Standard Time
BEGIN:STANDARD
DTSTART:16010101T030000
TZOFFSETFROM:+0200
TZOFFSETTO:+0100
RRULE:FREQ=YEARLY;INTERVAL=1;BYDAY=-1SU;BYMONTH=10
END:STANDARD
BEGIN:DAYLIGHT
DTSTART:16010101T020000
TZOFFSETFROM:+0100
TZOFFSETTO:+0200
RRULE:FREQ=YEARLY;INTERVAL=1;BYDAY=-1SU;BYMONTH=3
END:DAYLIGHT
END:VTIMEZONE
`

func TestRead(t *testing.T) {
	for _, c := range []struct {
		name, in string
		want     []string
	}{
		{"in UTC", one("DTSTART:20261006T081500Z", "DTEND:20261006T094500Z", "SUMMARY:Tides"),
			[]string{"2026-10-06T08:15Z 90 Tides"}},
		{"with a zone, weekly over the end of summer time",
			one("DTSTART;TZID=Europe/Berlin:20261020T101500", "DTEND;TZID=Europe/Berlin:20261020T114500",
				"RRULE:FREQ=WEEKLY;COUNT=3", "SUMMARY:Tides"),
			[]string{"2026-10-20T08:15Z 90 Tides", "2026-10-27T09:15Z 90 Tides", "2026-11-03T09:15Z 90 Tides"}},
		{"a zone that the file describes",
			cal(berlin + "BEGIN:VEVENT\nUID:a\nDTSTART;TZID=Somewhere Standard Time:20261020T101500\nDTEND;TZID=\"Somewhere Standard Time\":20261020T114500\nRRULE:FREQ=WEEKLY;UNTIL=20261103T091500Z;BYDAY=TU;WKST=SU\nSUMMARY:Tides\nEND:VEVENT"),
			[]string{"2026-10-20T08:15Z 90 Tides", "2026-10-27T09:15Z 90 Tides", "2026-11-03T09:15Z 90 Tides"}},
		{"a zone behind a prefix",
			one("DTSTART;TZID=/programs.example/Europe/Berlin:20261020T101500", "DURATION:PT1H30M", "SUMMARY:x"),
			[]string{"2026-10-20T08:15Z 90 x"}},
		{"folded lines, also within a character, and escapes",
			one("DTSTART:20261006T081500Z", "DURATION:PT90M",
				"SUMMARY:Tides\\, streams\\; and\n  more \xc3\n \xa9t\xc3\xa9\\nsecond line", "LOCATION:Kelp\n  Hall"),
			[]string{"2026-10-06T08:15Z 90 Tides, streams; and more été second line @Kelp Hall"}},
		{"dates left out and added",
			one("DTSTART;TZID=Europe/Berlin:20260908T101500", "DURATION:PT1H", "RRULE:FREQ=WEEKLY;UNTIL=20260929",
				"EXDATE;TZID=Europe/Berlin:20260915T101500,20260922T101500", "RDATE;TZID=Europe/Berlin:20261001T140000",
				"SUMMARY:x"),
			[]string{"2026-09-08T08:15Z 60 x", "2026-09-29T08:15Z 60 x", "2026-10-01T12:00Z 60 x"}},
		{"a day left out, a period added",
			one("DTSTART:20260908T101500Z", "DURATION:PT1H", "RRULE:FREQ=WEEKLY;COUNT=2", "EXDATE;VALUE=DATE:20260915",
				"RDATE;VALUE=PERIOD:20260916T100000Z/PT2H", "SUMMARY:x"),
			[]string{"2026-09-08T10:15Z 60 x", "2026-09-16T10:00Z 120 x"}},
		{"until in UTC is the same instant on the wall",
			one("DTSTART;TZID=Europe/Berlin:20260908T230000", "DURATION:PT1H",
				"RRULE:FREQ=DAILY;UNTIL=20260909T210000Z", "SUMMARY:x"),
			[]string{"2026-09-08T21:00Z 60 x", "2026-09-09T21:00Z 60 x"}},
		{"a date moved, one called off, one moved that is not there", cal(`BEGIN:VEVENT
UID:a
DTSTART;TZID=Europe/Berlin:20260908T101500
DTEND;TZID=Europe/Berlin:20260908T114500
RRULE:FREQ=WEEKLY;COUNT=3
SUMMARY:Tides
BEGIN:VALARM
TRIGGER:-PT10M
SUMMARY:not this
END:VALARM
END:VEVENT
BEGIN:VEVENT
UID:a
RECURRENCE-ID;TZID=Europe/Berlin:20260915T101500
DTSTART;TZID=Europe/Berlin:20260916T140000
DTEND;TZID=Europe/Berlin:20260916T150000
SUMMARY:Tides elsewhere
LOCATION:Net Loft
END:VEVENT
BEGIN:VEVENT
UID:a
RECURRENCE-ID:20260922T081500Z
DTSTART:20260922T081500Z
DTEND:20260922T094500Z
STATUS:CANCELLED
SUMMARY:Tides
END:VEVENT
BEGIN:VEVENT
UID:a
RECURRENCE-ID:20261222T081500Z
DTSTART:20261222T081500Z
DTEND:20261222T094500Z
SUMMARY:Extra
END:VEVENT`), []string{"2026-09-08T08:15Z 90 Tides", "2026-09-16T12:00Z 60 Tides elsewhere @Net Loft",
			"2026-09-22T08:15Z 90 Tides off", "2026-12-22T08:15Z 90 Extra"}},
		{"a change of all later ones",
			cal("BEGIN:VEVENT\nUID:a\nDTSTART:20260908T080000Z\nDURATION:PT1H\nRRULE:FREQ=WEEKLY;COUNT=3\nSUMMARY:x\nEND:VEVENT\nBEGIN:VEVENT\nUID:a\nRECURRENCE-ID;RANGE=THISANDFUTURE:20260915T080000Z\nDTSTART:20260915T100000Z\nDURATION:PT2H\nSUMMARY:y\nEND:VEVENT"),
			[]string{"2026-09-08T08:00Z 60 x", "2026-09-15T10:00Z 120 y", "2026-09-22T10:00Z 120 y"}},
		{"the newest revision counts",
			cal("BEGIN:VEVENT\nUID:a\nSEQUENCE:1\nDTSTART:20260909T080000Z\nDURATION:PT1H\nSUMMARY:new\nEND:VEVENT\nBEGIN:VEVENT\nUID:a\nDTSTART:20260908T080000Z\nDURATION:PT1H\nSUMMARY:old\nEND:VEVENT"), []string{"2026-09-09T08:00Z 60 new"}},
		{"one name for two events",
			cal("BEGIN:VEVENT\nUID:a\nDTSTART:20260909T080000Z\nDURATION:PT1H\nSUMMARY:b\nEND:VEVENT\nBEGIN:VEVENT\nUID:a\nDTSTART:20260908T080000Z\nDURATION:PT1H\nSUMMARY:a\nEND:VEVENT"), []string{"2026-09-08T08:00Z 60 a", "2026-09-09T08:00Z 60 b"}},
		{"a zone for all of the calendar",
			cal("X-WR-TIMEZONE:Europe/Berlin\nBEGIN:VEVENT\nUID:a\nDTSTART:20261020T101500\nDURATION:PT1H\nSUMMARY:x\nEND:VEVENT"), []string{"2026-10-20T08:15Z 60 x"}},
		{"the last day of each month",
			one("DTSTART:20260930T080000Z", "DURATION:PT1H", "RRULE:FREQ=MONTHLY;BYMONTHDAY=-1;COUNT=3", "SUMMARY:x"),
			[]string{"2026-09-30T08:00Z 60 x", "2026-10-31T08:00Z 60 x", "2026-11-30T08:00Z 60 x"}},
	} {
		got, faults := read(t, c.in, Options{})
		if strings.Join(got, "\n") != strings.Join(c.want, "\n") || len(faults) > 0 {
			t.Errorf("%s:\n%s\nwant\n%s\nfaults %q", c.name, strings.Join(got, "\n"), strings.Join(c.want, "\n"),
				faults)
		}
	}
	// The same text with bare line feeds and a byte order mark.
	plain := "\xef\xbb\xbf" +
		strings.ReplaceAll(one("DTSTART:20261006T081500Z", "DTEND:20261006T094500Z", "SUMMARY:Tides"), "\r", "")
	if got, faults := read(t, plain, Options{}); len(got) != 1 || len(faults) > 0 {
		t.Errorf("%q %q", got, faults)
	}
	endless := one("DTSTART:20260908T080000Z", "DURATION:PT1H", "RRULE:FREQ=WEEKLY", "SUMMARY:x")
	if got, _ := read(t, endless, Options{Until: time.Date(2026, 9, 22, 23, 0, 0, 0, time.UTC)}); len(got) != 3 {
		t.Errorf("until the end of the term: %q", got)
	}
	berlin, err := time.LoadLocation("Europe/Berlin")
	if err != nil {
		t.Fatal(err)
	}
	if got, _ := read(t, one("DTSTART:20261020T101500", "DURATION:PT1H", "SUMMARY:x"),
		Options{Zone: berlin}); got[0] != "2026-10-20T08:15Z 60 x" {
		t.Errorf("in the zone of the college: %q", got)
	}
}

// TestWhatCannotBeTaken is named with its line, and the rest is taken.
func TestWhatCannotBeTaken(t *testing.T) {
	good := "BEGIN:VEVENT\nUID:good\nDTSTART:20261006T081500Z\nDURATION:PT1H\nSUMMARY:good\nEND:VEVENT\n"
	start, length := "DTSTART:20261006T081500Z", "DURATION:PT1H"
	for _, c := range []struct {
		name  string
		lines []string
		at    int // of the lines, from 0; -1 for the event
		says  string
	}{
		{"all day", []string{"DTSTART;VALUE=DATE:20261006", "DTEND;VALUE=DATE:20261007"}, 0, "all-day"},
		{"all day, by its form alone", []string{"DTSTART:20261006", length}, 0, "all-day"},
		{"no start", []string{length}, -1, "no start"},
		{"no end", []string{start}, -1, "no end"},
		{"an end before the start", []string{start, "DTEND:20261006T081400Z"}, 1, "before it begins"},
		{"more than a day", []string{start, "DTEND:20261007T081600Z"}, 1, "longer than a day"},
		{"a zone that does not exist", []string{"DTSTART;TZID=Atlantis/Deep:20261006T081500", length}, 0,
			"no zone named “Atlantis/Deep”"},
		{"a zone that is a path", []string{"DTSTART;TZID=../../etc/passwd:20261006T081500", length}, 0,
			"no zone named"},
		{"no time", []string{"DTSTART:tomorrow", length}, 0, "is no time"},
		{"no length", []string{start, "DURATION:PT"}, 1, "before it begins"},
		{"a length that is none", []string{start, "DURATION:90 minutes"}, 1, "no length of time"},
		{"10,000 repetitions", []string{start, length, "RRULE:FREQ=DAILY;COUNT=10000"}, 2, "repeats 10000 times"},
		{"too many by their end", []string{start, length, "RRULE:FREQ=DAILY;UNTIL=20290101"}, 2, "more than 400 times"},
		{"an end far away", []string{start, length, "RRULE:FREQ=WEEKLY;UNTIL=20990101"}, 2, "more than 400 times"},
		{"without end", []string{start, length, "RRULE:FREQ=WEEKLY"}, 2, "without end"},
		{"by the hour", []string{start, length, "RRULE:FREQ=HOURLY;COUNT=3"}, 2, "within a day"},
		{"a rule that cannot be read", []string{start, length, "RRULE:FREQ=OFTEN"}, 2, "cannot be read"},
		{"a date that never comes",
			[]string{start, length, "RRULE:FREQ=DAILY;BYMONTH=2;BYMONTHDAY=31;COUNT=5", "X-NOTE:x"}, 2,
			"gives no date"},
		{"a rule to leave out", []string{start, length, "RRULE:FREQ=DAILY;COUNT=5", "EXRULE:FREQ=DAILY"}, 3, "EXRULE"},
		{"every century", []string{start, length, "RRULE:FREQ=YEARLY;COUNT=30"}, 2, "more than 20 years"},
		{"no interval", []string{start, length, "RRULE:FREQ=DAILY;INTERVAL=0;COUNT=3"}, 2, "INTERVAL=0"},
		{"no times", []string{start, length, "RRULE:FREQ=DAILY;COUNT=0"}, 2, "COUNT=0"},
		{"an end before the start", []string{start, length, "RRULE:FREQ=DAILY;UNTIL=20261001"}, 2, "before it begins"},
		{"two hours of a day", []string{start, length, "RRULE:FREQ=DAILY;BYHOUR=8,10;COUNT=4"}, 2, "within a day"},
		{"a date to leave out that is none", []string{start, length, "RRULE:FREQ=DAILY;COUNT=3", "EXDATE:never"}, 3,
			"is no time"},
		{"an added day", []string{start, length, "RDATE;VALUE=DATE:20261010"}, 2, "without the hour"},
		{"an added period that is none", []string{start, length, "RDATE;VALUE=PERIOD:20261010T100000Z/soon"}, 2,
			"no period"},
		{"a changed date that repeats",
			[]string{start, length, "RECURRENCE-ID:20261006T081500Z", "RRULE:FREQ=DAILY;COUNT=3"}, 3, "cannot repeat"},
		{"bytes that are no text", []string{start, length, "SUMMARY:caf\xe9"}, 2, "UTF-8"},
		{"a line without a colon", []string{start, length, "SUMMARY"}, 2, "not a line of a calendar"},
	} {
		in := cal("BEGIN:VEVENT\nUID:bad\n" + strings.Join(c.lines, "\n") + "\nEND:VEVENT\n" + good)
		got, faults := read(t, in, Options{})
		want := fmt.Sprintf("%d: ", 6+c.at)
		if c.at < 0 {
			want = "4: "
		}
		if len(faults) != 1 || !strings.HasPrefix(faults[0], want) || !strings.Contains(faults[0], c.says) ||
			len(got) == 0 || !strings.HasSuffix(got[len(got)-1], "good") {
			t.Errorf("%s: took %q, faults %q, want one at %s about %q", c.name, got, faults, want, c.says)
		}
	}
	for in, says := range map[string]string{
		"":                            "1: This is not a calendar",
		"hello":                       "1: This is not a line",
		"BEGIN:VEVENT\nEND:VEVENT":    "1: VEVENT stands outside",
		"BEGIN:VCALENDAR\n":           "1: VCALENDAR is begun here and never ended",
		"END:VCALENDAR\n":             "1: END:VCALENDAR closes nothing",
		cal("BEGIN:VTODO\nEND:VTODO"): "4: VTODO is not an event",
	} {
		if _, faults := read(t, in, Options{}); len(faults) == 0 || !strings.HasPrefix(faults[0], says) {
			t.Errorf("%q: %q, want %q", in, faults, says)
		}
	}
}

// TestRoundTrip: whatever is written is read the same.
func TestRoundTrip(t *testing.T) {
	law := func(titles []string, from uint32, minutes uint8) bool {
		var events []Event
		for i, title := range titles {
			start := time.Unix(int64(from), 0).UTC().Truncate(time.Minute).AddDate(0, 0, i)
			events = append(events,
				Event{UID: fmt.Sprint("u", i), Series: "s", Start: start,
					End: start.Add(time.Duration(1+int(minutes)) * time.Minute), Changed: start, Title: title,
					Hall: "Kelp; Hall, 2", Address: "http://x.example/lectures/1", CalledOff: i%3 == 0})
		}
		var b bytes.Buffer
		if err := Write(&b, "A, name", events); err != nil {
			return false
		}
		for _, l := range strings.Split(b.String(), "\r\n") {
			if len(l) > 75 {
				t.Errorf("a line of %d octets", len(l))
			}
		}
		c, err := Read(context.Background(), &b, Options{})
		if err != nil || len(c.Faults) > 0 || len(c.Lectures) != len(events) || c.Name != "A, name" {
			t.Errorf("%v %+v", err, c.Faults)
			return false
		}
		for i, l := range c.Lectures {
			e := events[i]
			if l.UID != e.UID || l.Series != "s" || !l.Start.Equal(e.Start) || !l.End.Equal(e.End) ||
				l.Title != strings.Join(strings.Fields(e.Title), " ") || l.Hall != e.Hall ||
				l.CalledOff != e.CalledOff {
				t.Errorf("%+v was read as %+v", e, l)
				return false
			}
		}
		return true
	}
	if err := quick.Check(law, &quick.Config{MaxCount: 100}); err != nil {
		t.Error(err)
	}
}

// FuzzRead: nothing in a file makes the reader fail or hang.
func FuzzRead(f *testing.F) {
	f.Add(one("DTSTART:20261006T081500Z", "DURATION:PT1H", "RRULE:FREQ=WEEKLY;COUNT=3", "EXDATE:20261006T081500Z"))
	f.Add(cal(berlin))
	f.Fuzz(func(t *testing.T, in string) {
		c, err := Read(context.Background(), strings.NewReader(in),
			Options{Until: time.Date(2027, 1, 1, 0, 0, 0, 0, time.UTC)})
		if err != nil {
			t.Fatal(err)
		}
		for i, l := range c.Lectures {
			if !l.End.After(l.Start) || i > 0 && l.Start.Before(c.Lectures[i-1].Start) {
				t.Errorf("%+v", l)
			}
		}
	})
}
