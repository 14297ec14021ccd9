package timetable

import (
	"testing"
	"time"
)

func day(y int, m time.Month, d int) Day { return time.Date(y, m, d, 0, 0, 0, 0, time.UTC) }

func TestWeeksAreNumberedWithoutBreaks(t *testing.T) {
	term := Term{day(2026, 9, 9), day(2026, 11, 6), []Break{
		{day(2026, 10, 3), day(2026, 10, 11), "reading week"},
		{day(2026, 10, 22), day(2026, 10, 23), "two days off"},
	}}
	want := []int{1, 2, 3, 4, 0, 5, 6, 7, 8}
	weeks := term.Weeks()
	if len(weeks) != len(want) {
		t.Fatalf("%d weeks, want %d", len(weeks), len(want))
	}
	for i, w := range weeks {
		if w.Number != want[i] || w.Monday.Weekday() != time.Monday || (w.Number == 0) != (w.Break == "reading week") {
			t.Errorf("week at %d: %+v, want number %d", i, w, want[i])
		}
	}
}

func TestWeekOf(t *testing.T) {
	term := Term{First: day(2026, 9, 9), Last: day(2026, 12, 18)}
	for _, c := range []struct {
		at     Day
		number int
		ok     bool
	}{
		{day(2026, 9, 6), 0, false},   // Sunday before
		{day(2026, 9, 7), 1, true},    // Monday of the first week, before the first day
		{day(2026, 9, 13), 1, true},   // Sunday
		{day(2026, 9, 14), 2, true},   // Monday
		{day(2026, 12, 20), 15, true}, // Sunday of the last week
		{day(2026, 12, 21), 0, false},
	} {
		if w, ok := term.WeekOf(c.at); ok != c.ok || w.Number != c.number {
			t.Errorf("%s: week %d %v, want %d %v", c.at.Format(time.DateOnly), w.Number, ok, c.number, c.ok)
		}
	}
}

func TestDayOfFollowsTheZone(t *testing.T) {
	zone, err := time.LoadLocation("Pacific/Auckland")
	if err != nil {
		t.Fatal(err)
	}
	if got := DayOf(time.Date(2026, 9, 8, 20, 0, 0, 0, time.UTC), zone); !got.Equal(day(2026, 9, 9)) {
		t.Errorf("got %v", got)
	}
}

func TestNight(t *testing.T) {
	zone, err := time.LoadLocation("Atlantic/Faroe") // summer time ends on 25 October 2026 at 02:00
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct{ now, from, until string }{
		{"2026-10-14 10:20", "2026-10-13 18:00", "2026-10-14 08:00"},
		{"2026-10-14 03:00", "2026-10-13 18:00", "2026-10-14 08:00"},
		{"2026-10-14 17:59", "2026-10-13 18:00", "2026-10-14 08:00"},
		{"2026-10-14 18:00", "2026-10-14 18:00", "2026-10-15 08:00"},
		{"2026-10-25 12:00", "2026-10-24 18:00", "2026-10-25 08:00"},
	} {
		now, err := time.ParseInLocation("2006-01-02 15:04", c.now, zone)
		if err != nil {
			t.Fatal(err)
		}
		from, until := Night(now, zone)
		if f, u := from.In(zone).Format("2006-01-02 15:04"), until.In(zone).Format("2006-01-02 15:04"); f != c.from ||
			u != c.until {
			t.Errorf("at %s: %s to %s", c.now, f, u)
		}
	}
}
