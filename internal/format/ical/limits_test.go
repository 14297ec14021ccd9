package ical

import (
	"context"
	"fmt"
	"strings"
	"testing"
	"time"

	"latelantern/internal/core/texts"
)

// TestACalendarHasItsLimits: of one with more lectures than can be taken, or more faults than can be told, the first
// are, in a moment.
func TestACalendarHasItsLimits(t *testing.T) {
	events := func(n int, more string) string {
		var b strings.Builder
		b.WriteString("BEGIN:VCALENDAR\r\n")
		for i := range n {
			fmt.Fprintf(&b,
				"BEGIN:VEVENT\r\nUID:%d\r\nDTSTART:20260921T081500Z\r\nDTEND:20260921T094500Z\r\n%sEND:VEVENT\r\n", i,
				more)
		}
		return b.String() + "END:VCALENDAR\r\n"
	}
	read := func(text string) Calendar {
		t.Helper()
		c, err := Read(context.Background(), strings.NewReader(text),
			Options{Until: time.Date(2026, 12, 18, 0, 0, 0, 0, time.UTC)})
		if err != nil {
			t.Fatal(err)
		}
		return c
	}
	began := time.Now()
	for name, text := range map[string]string{
		"200 that repeat daily": events(200, "RRULE:FREQ=DAILY\r\n"),
		"60,000 that do not":    events(60_000, ""),
		"changes of none": strings.ReplaceAll(events(3000, "RECURRENCE-ID:20260921T081500Z\r\n"), "UID:",
			"UID:x\r\nX-N:"),
		"one name, many of them": strings.ReplaceAll(events(20_000, "RRULE:FREQ=DAILY\r\n"), "UID:", "UID:x\r\nX-N:"),
	} {
		c := read(text)
		if len(c.Lectures) != MostLectures || c.FaultsAll != 1 ||
			!strings.Contains(texts.English.Say(c.Faults[0].Text), "more than 2000 lectures") {
			t.Errorf("%s: %d lectures, faults %v", name, len(c.Lectures), c.Faults)
		}
	}
	if c := read(events(2000, "")); len(c.Lectures) != 2000 || c.FaultsAll != 0 {
		t.Errorf("2,000: %d lectures, faults %v", len(c.Lectures), c.Faults)
	}
	if c := read(strings.ReplaceAll(events(5000, ""), "DTSTART", "X-START")); len(c.Faults) != MostTold ||
		c.FaultsAll != 5000 {
		t.Errorf("%d faults are told of %d", len(c.Faults), c.FaultsAll)
	}
	if took := time.Since(began); took > 10*time.Second {
		t.Errorf("it took %v", took)
	}
}
