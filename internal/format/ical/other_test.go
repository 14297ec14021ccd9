package ical

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"os/exec"
	"slices"
	"strings"
	"testing"
	"time"
)

// newYork is the zone of the examples of RFC 5545, as 3.6.5 describes it, under a name that means another elsewhere.
const newYork = `BEGIN:VTIMEZONE
TZID:EST
BEGIN:STANDARD
DTSTART:19671029T020000
RRULE:FREQ=YEARLY;BYDAY=-1SU;BYMONTH=10;UNTIL=20061029T060000Z
TZOFFSETFROM:-0400
TZOFFSETTO:-0500
END:STANDARD
BEGIN:DAYLIGHT
DTSTART:19870405T020000
RRULE:FREQ=YEARLY;BYDAY=1SU;BYMONTH=4;UNTIL=20060402T070000Z
TZOFFSETFROM:-0500
TZOFFSETTO:-0400
END:DAYLIGHT
BEGIN:DAYLIGHT
DTSTART:20070311T020000
RRULE:FREQ=YEARLY;BYDAY=2SU;BYMONTH=3
TZOFFSETFROM:-0500
TZOFFSETTO:-0400
END:DAYLIGHT
BEGIN:STANDARD
DTSTART:20071104T020000
RRULE:FREQ=YEARLY;BYDAY=1SU;BYMONTH=11
TZOFFSETFROM:-0400
TZOFFSETTO:-0500
END:STANDARD
END:VTIMEZONE
`

// listed is a zone whose changes are named one by one.
const listed = `BEGIN:VTIMEZONE
TZID:Listed
BEGIN:STANDARD
DTSTART:20251026T030000
RDATE:20251026T030000
RDATE:20261025T030000
RDATE:20271031T030000
TZOFFSETFROM:+0200
TZOFFSETTO:+0100
END:STANDARD
BEGIN:DAYLIGHT
DTSTART:20260329T020000
RDATE:20260329T020000
RDATE:20270328T020000
TZOFFSETFROM:+0100
TZOFFSETTO:+0200
END:DAYLIGHT
END:VTIMEZONE
`

// rules are those of the examples of RFC 5545, 3.8.5.3, that repeat by the day or more seldom, with the start of each;
// where an example goes on for ever it is given an end.
var rules = []struct{ start, rule string }{
	{"19970902T090000", "FREQ=DAILY;COUNT=10"},
	{"19970902T090000", "FREQ=DAILY;UNTIL=19971224T000000Z"},
	{"19970902T090000", "FREQ=DAILY;INTERVAL=2;COUNT=100"},
	{"19970902T090000", "FREQ=DAILY;INTERVAL=10;COUNT=5"},
	{"19980101T090000", "FREQ=YEARLY;UNTIL=20000131T140000Z;BYMONTH=1;BYDAY=SU,MO,TU,WE,TH,FR,SA"},
	{"19980101T090000", "FREQ=DAILY;UNTIL=20000131T140000Z;BYMONTH=1"},
	{"19970902T090000", "FREQ=WEEKLY;COUNT=10"},
	{"19970902T090000", "FREQ=WEEKLY;UNTIL=19971224T000000Z"},
	{"19970902T090000", "FREQ=WEEKLY;INTERVAL=2;WKST=SU;COUNT=30"},
	{"19970902T090000", "FREQ=WEEKLY;UNTIL=19971007T000000Z;WKST=SU;BYDAY=TU,TH"},
	{"19970901T090000", "FREQ=WEEKLY;INTERVAL=2;UNTIL=19971224T000000Z;WKST=SU;BYDAY=MO,WE,FR"},
	{"19970902T090000", "FREQ=WEEKLY;INTERVAL=2;COUNT=8;WKST=SU;BYDAY=TU,TH"},
	{"19970905T090000", "FREQ=MONTHLY;COUNT=10;BYDAY=1FR"},
	{"19970905T090000", "FREQ=MONTHLY;UNTIL=19971224T000000Z;BYDAY=1FR"},
	{"19970907T090000", "FREQ=MONTHLY;INTERVAL=2;COUNT=10;BYDAY=1SU,-1SU"},
	{"19970922T090000", "FREQ=MONTHLY;COUNT=6;BYDAY=-2MO"},
	{"19970928T090000", "FREQ=MONTHLY;BYMONTHDAY=-3;COUNT=12"},
	{"19970902T090000", "FREQ=MONTHLY;COUNT=10;BYMONTHDAY=2,15"},
	{"19970930T090000", "FREQ=MONTHLY;COUNT=10;BYMONTHDAY=1,-1"},
	{"19970910T090000", "FREQ=MONTHLY;INTERVAL=18;COUNT=10;BYMONTHDAY=10,11,12,13,14,15"},
	{"19970902T090000", "FREQ=MONTHLY;INTERVAL=2;BYDAY=TU;COUNT=40"},
	{"19970610T090000", "FREQ=YEARLY;COUNT=10;BYMONTH=6,7"},
	{"19970310T090000", "FREQ=YEARLY;INTERVAL=2;COUNT=10;BYMONTH=1,2,3"},
	{"19970101T090000", "FREQ=YEARLY;INTERVAL=3;COUNT=10;BYYEARDAY=1,100,200"},
	{"19970313T090000", "FREQ=YEARLY;BYMONTH=3;BYDAY=TH;COUNT=30"},
	{"19970605T090000", "FREQ=YEARLY;BYDAY=TH;BYMONTH=6,7,8;COUNT=60"},
	{"19980213T090000", "FREQ=MONTHLY;BYDAY=FR;BYMONTHDAY=13;COUNT=12"},
	{"19970913T090000", "FREQ=MONTHLY;BYDAY=SA;BYMONTHDAY=7,8,9,10,11,12,13;COUNT=30"},
	{"19961105T090000", "FREQ=YEARLY;INTERVAL=4;BYMONTH=11;BYDAY=TU;BYMONTHDAY=2,3,4,5,6,7,8;COUNT=4"},
	{"19970904T090000", "FREQ=MONTHLY;COUNT=3;BYDAY=TU,WE,TH;BYSETPOS=3"},
	{"19970929T090000", "FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-2;COUNT=14"},
	{"19970805T090000", "FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=MO"},
	{"19970805T090000", "FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=SU"},
	{"20070115T090000", "FREQ=MONTHLY;BYMONTHDAY=15,30;COUNT=5"},
	{"20260131T090000", "FREQ=MONTHLY;COUNT=80"},
}

// others are calendars in which more comes together.
var others = map[string]string{
	"changes named one by one": listed + event1("DTSTART;TZID=Listed:20260303T101500", "RRULE:FREQ=WEEKLY;COUNT=90"),
	"all later ones, over a change of clocks": newYork +
		event1("DTSTART;TZID=EST:20261006T101500", "RRULE:FREQ=WEEKLY;COUNT=10") +
		event1("DTSTART;TZID=EST:20261014T140000", "RECURRENCE-ID;RANGE=THISANDFUTURE;TZID=EST:20261013T101500"),
	"all later ones, twice, the later one first": newYork +
		event1("DTSTART;TZID=EST:20261006T101500", "RRULE:FREQ=WEEKLY;COUNT=12") +
		event1("DTSTART;TZID=EST:20261112T160000", "RECURRENCE-ID;RANGE=THISANDFUTURE;TZID=EST:20261110T101500") +
		event1("DTSTART;TZID=EST:20261014T140000", "RECURRENCE-ID;RANGE=THISANDFUTURE;TZID=EST:20261013T101500"),
	"dates left out and added": newYork +
		event1("DTSTART;TZID=EST:20261006T101500", "RRULE:FREQ=WEEKLY;COUNT=10",
			"EXDATE;TZID=EST:20261013T101500,20261020T101500", "RDATE;TZID=EST:20261105T101500"),
	"one moved": newYork + event1("DTSTART;TZID=EST:20261006T101500", "RRULE:FREQ=DAILY;COUNT=40") +
		event1("DTSTART;TZID=EST:20261109T080000", "RECURRENCE-ID;TZID=EST:20261102T101500"),
}

func event1(lines ...string) string {
	return "BEGIN:VEVENT\nUID:a\nDURATION:PT1H\n" + strings.Join(lines, "\n") + "\nEND:VEVENT\n"
}

// TestAgreesWithAnother holds what is read against ical.js.
func TestAgreesWithAnother(t *testing.T) {
	var names, all []string
	for _, r := range rules {
		names = append(names, r.rule)
		all = append(all, cal(newYork+event1("DTSTART;TZID=EST:"+r.start, "RRULE:"+r.rule)))
	}
	for name, text := range others {
		names, all = append(names, name), append(all, cal(text))
	}
	in, err := json.Marshal(all)
	if err != nil {
		t.Fatal(err)
	}
	cmd := exec.Command("node", "testdata/expand.mjs")
	cmd.Stdin = bytes.NewReader(in)
	var complaint bytes.Buffer
	cmd.Stderr = &complaint
	out, err := cmd.Output()
	if err != nil {
		t.Fatalf("ask the other (make build installs it): %v %s", err, complaint.String())
	}
	var want [][]string
	if err := json.Unmarshal(out, &want); err != nil || len(want) != len(all) {
		t.Fatalf("%d of %d: %v", len(want), len(all), err)
	}
	for i, text := range all {
		c, err := Read(t.Context(), strings.NewReader(text), Options{})
		if err != nil || len(c.Faults) > 0 {
			t.Errorf("%s: %v %v", names[i], c.Faults, err)
			continue
		}
		var got []string
		for _, l := range c.Lectures {
			got = append(got, l.Start.Format("2006-01-02T15:04Z"))
		}
		if !slices.Equal(got, want[i]) || len(got) == 0 {
			t.Errorf("%s:\nread  %v\nother %v", names[i], got, want[i])
		}
	}
}

// TestTheStandardsOwnDates: what RFC 5545, 3.8.5.3, gives for rules of which the other thinks otherwise.
func TestTheStandardsOwnDates(t *testing.T) {
	for _, c := range []struct{ zone, start, rule, want string }{
		{"EST", "19970519T090000", "FREQ=YEARLY;BYDAY=20MO;COUNT=3",
			"[1997-05-19T13:00Z 60 1998-05-18T13:00Z 60 1999-05-17T13:00Z 60]"},
		{"EST", "19970512T090000", "FREQ=YEARLY;BYWEEKNO=20;BYDAY=MO;COUNT=3",
			"[1997-05-12T13:00Z 60 1998-05-11T13:00Z 60 1999-05-17T13:00Z 60]"},
		{"Listed", "20261020T101500", "FREQ=WEEKLY;COUNT=2", "[2026-10-20T08:15Z 60 2026-10-27T09:15Z 60]"},
	} {
		zones := newYork + strings.ReplaceAll(listed, "\nRDATE:20261025", ",20261025")
		got, faults := read(t, cal(zones+event1("DTSTART;TZID="+c.zone+":"+c.start, "RRULE:"+c.rule)), Options{})
		for i := range got {
			got[i] = strings.TrimSpace(got[i])
		}
		if fmt.Sprint(got) != c.want || len(faults) > 0 {
			t.Errorf("%s: %v %v, want %s", c.rule, got, faults, c.want)
		}
	}
}

// TestRulesAsTheyAreWritten: letters of either kind, an end that says nothing, and an hour that the start says too.
func TestRulesAsTheyAreWritten(t *testing.T) {
	want, _ := read(t, one("DTSTART:20260908T101500Z", "DURATION:PT1H", "RRULE:FREQ=WEEKLY;COUNT=5;BYDAY=TU"),
		Options{})
	for _, rule := range []string{"freq=weekly;count=5;byday=tu", "FREQ=WEEKLY;COUNT=5;BYDAY=TU;",
		"FREQ=WEEKLY;COUNT=5;BYHOUR=10;BYMINUTE=15;BYSECOND=0"} {
		if got, faults := read(t, one("DTSTART:20260908T101500Z", "DURATION:PT1H", "RRULE:"+rule),
			Options{}); !slices.Equal(got, want) || len(faults) > 0 {
			t.Errorf("%s: %v %v", rule, got, faults)
		}
	}
}

// TestHoursThatAreNotOrTwice: RFC 5545, 3.3.5, for a zone by its name and one that is described.
func TestHoursThatAreNotOrTwice(t *testing.T) {
	for _, zone := range []string{"EST", "America/New_York"} {
		for wall, want := range map[string]string{
			"20070311T013000": "2007-03-11T06:30Z", "20070311T023000": "2007-03-11T07:30Z",
			"20070311T033000": "2007-03-11T07:30Z",
			"20071104T003000": "2007-11-04T04:30Z", "20071104T013000": "2007-11-04T05:30Z",
			"20071104T023000": "2007-11-04T07:30Z",
		} {
			c, err := Read(t.Context(), strings.NewReader(cal(newYork+event1("DTSTART;TZID="+zone+":"+wall))),
				Options{})
			if err != nil || len(c.Lectures) != 1 || c.Lectures[0].Start.Format("2006-01-02T15:04Z") != want {
				t.Errorf("%s in %s: %v %v %v, want %s", wall, zone, c.Lectures, c.Faults, err, want)
			}
		}
	}
}

// TestReadingEnds: whatever a zone or a rule says, reading takes no longer than its limits, and no longer than
// whoever asks waits.
func TestReadingEnds(t *testing.T) {
	zone := func(rule string) string {
		return "BEGIN:VTIMEZONE\nTZID:Z\nBEGIN:STANDARD\nDTSTART:16010101T000000\nRRULE:" + rule +
			"\nTZOFFSETFROM:+0100\nTZOFFSETTO:+0200\nEND:STANDARD\nEND:VTIMEZONE\n"
	}
	for _, rule := range []string{"FREQ=SECONDLY", "FREQ=MINUTELY;BYMONTH=2;BYMONTHDAY=31", "FREQ=DAILY",
		"FREQ=YEARLY;INTERVAL=0", "FREQ=MONTHLY;BYMONTHDAY=1,2,3,4,5"} {
		began := time.Now()
		c, err := Read(t.Context(), strings.NewReader(cal(zone(rule)+event1("DTSTART;TZID=Z:20261006T101500"))),
			Options{})
		if err != nil || len(c.Faults) == 0 || c.Faults[0].Line < 5 {
			t.Errorf("%s: %v %v", rule, c.Faults, err)
		}
		if took := time.Since(began); took > 10*time.Second {
			t.Errorf("%s takes %v", rule, took)
		}
	}
	var never strings.Builder
	for n := range 5000 {
		fmt.Fprintf(&never,
			"BEGIN:VEVENT\nUID:%d\nDURATION:PT1H\nDTSTART:20261006T101500\nRRULE:FREQ=DAILY;BYMONTH=2;BYMONTHDAY=30;COUNT=9\nEND:VEVENT\n", n)
	}
	ctx, cancel := context.WithTimeout(t.Context(), 100*time.Millisecond)
	defer cancel()
	began := time.Now()
	if _, err := Read(ctx, strings.NewReader(cal(never.String())), Options{}); err == nil {
		t.Error("it was read although nobody waits")
	}
	if took := time.Since(began); took > 10*time.Second {
		t.Errorf("it went on for %v", took)
	}
	if c, err := Read(t.Context(), strings.NewReader(cal(never.String())), Options{}); err != nil ||
		c.FaultsAll > mostBarren+2 {
		t.Errorf("%d faults, %v", c.FaultsAll, err)
	}
}

// TestTenThousandEvents with a zone that is described.
func TestTenThousandEvents(t *testing.T) {
	var b strings.Builder
	b.WriteString(newYork)
	for n := range 10_000 {
		fmt.Fprintf(&b,
			"BEGIN:VEVENT\nUID:%d\nDURATION:PT1H\nDTSTART;TZID=EST:2026%02d%02dT101500\nSTATUS:CANCELLED\nEND:VEVENT\n",
			n/10, n%12+1, n%28+1)
	}
	began := time.Now()
	if c, err := Read(t.Context(), strings.NewReader(cal(b.String())), Options{}); err != nil ||
		len(c.Lectures) != MostLectures {
		t.Errorf("%d lectures, %v", len(c.Lectures), err)
	}
	if took := time.Since(began); took > 15*time.Second { // some tenths of a second on an idle machine
		t.Errorf("it takes %v", took)
	}
}
