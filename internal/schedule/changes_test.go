package schedule_test

import (
	"bytes"
	"errors"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/capture"
	"latelantern/internal/core/doorway"
	"latelantern/internal/core/texts"
	"latelantern/internal/core/timetable"
	"latelantern/internal/format/ical"
	"latelantern/internal/schedule"
	"latelantern/internal/testhouse"
)

// five is a plan of five Thursdays from 15 October on, over the end of summer time.
func five(t *testing.T) (*testhouse.Stage, []schedule.Lecture) {
	s := testhouse.New(t, true)
	kelp := hall(s, "Kelp Hall")
	_, err := s.Schedule.AddPlan(t.Context(), s.Course, s.Lecturer, weekly(time.Thursday, "2026-10-15", 5, &kelp))
	s.Must(err)
	return s, planned(s, s.Course)
}

func edit(s *testhouse.Stage, l schedule.Lecture, e schedule.Edit) uuid.UUID {
	s.T.Helper()
	change, err := s.Schedule.Edit(s.T.Context(), l.ID, s.Lecturer, e)
	s.Must(err)
	return change
}

func ids(list []schedule.Lecture) []uuid.UUID {
	var out []uuid.UUID
	for _, l := range list {
		out = append(out, l.ID)
	}
	return out
}

// TestOneMoves and keeps its address, knows where it was, and can go back.
func TestOneMoves(t *testing.T) {
	s, before := five(t)
	friday, at := day("2026-10-23"), 14*time.Hour
	change := edit(s, before[1], schedule.Edit{Day: &friday, At: &at})
	after := planned(s, s.Course)
	if !slices.Equal(ids(after), ids(before)) || starts(after)[1] != "2026-10-23T13:00Z" || !after[1].Moved() ||
		!after[1].PlannedAt.Equal(before[1].StartsAt) || after[1].EndsAt.Sub(after[1].StartsAt) != 90*time.Minute {
		t.Errorf("moved: %+v", after[1])
	}
	for _, i := range []int{0, 2, 3, 4} {
		if !after[i].StartsAt.Equal(before[i].StartsAt) || after[i].Moved() {
			t.Errorf("%d moved along: %+v", i, after[i])
		}
	}
	s.Must(s.Schedule.Undo(t.Context(), s.Course, change, s.Lecturer))
	if again := planned(s, s.Course); !slices.Equal(starts(again), starts(before)) || again[1].Moved() {
		t.Errorf("undone: %v", starts(again))
	}
	if err := s.Schedule.Undo(t.Context(), s.Course, change, s.Lecturer); !errors.Is(err, schedule.ErrUnknown) {
		t.Errorf("undone twice: %v", err)
	}
}

// TestTheWeekdayChangesLater: the lectures before keep their plan, those after have one of
// their own, and what was captured or moved by hand stays where it is.
func TestTheWeekdayChangesLater(t *testing.T) {
	s, before := five(t)
	by := day("2026-10-30")
	edit(s, before[2], schedule.Edit{Day: &by}) // by hand
	_, err := s.Capture.Begin(t.Context(), capture.Start{Lecture: before[3].ID, By: s.Lecturer, Source: capture.Desk})
	s.Must(err)
	tuesday, at := day("2026-10-20"), 8*time.Hour
	e := schedule.Edit{Later: true, Day: &tuesday, At: &at}
	look, err := s.Schedule.PreviewEdit(t.Context(), before[1].ID, e)
	s.Must(err)
	if len(look) != 4 || look[0].Stays || !look[1].Stays || !look[2].Stays || look[3].Stays {
		t.Errorf("a look says %+v", look)
	}
	change := edit(s, before[1], e)
	after := planned(s, s.Course)
	want := []string{"2026-10-15T09:15Z", "2026-10-20T07:00Z", "2026-10-30T10:15Z", "2026-11-05T10:15Z",
		"2026-11-10T08:00Z"}
	if !slices.Equal(starts(after), want) || !slices.Equal(ids(after), ids(before)) {
		t.Errorf("after: %v", starts(after))
	}
	if after[1].Moved() || after[4].Moved() || !after[2].Moved() {
		t.Error("what a plan says now counts as moved")
	}
	plans, err := s.Schedule.Plans(t.Context(), s.Course)
	s.Must(err)
	if len(plans) != 2 || plans[0].Lectures != 1 || !slices.Equal(plans[0].Weekdays, []int{4}) ||
		plans[1].Lectures != 4 || !slices.Equal(plans[1].Weekdays, []int{2}) || plans[1].AtMin != 480 {
		t.Errorf("the plans are %+v", plans)
	}
	s.Must(s.Schedule.Undo(t.Context(), s.Course, change, s.Lecturer))
	if plans, err = s.Schedule.Plans(t.Context(), s.Course); err != nil || len(plans) != 1 || plans[0].Lectures != 5 {
		t.Errorf("undone, the plans are %+v (%v)", plans, err)
	}
}

// TestAMovedLectureLandsOnAnother, which is said before it is done.
func TestAMovedLectureLandsOnAnother(t *testing.T) {
	s, before := five(t)
	onto := day("2026-10-29")
	look, err := s.Schedule.PreviewEdit(t.Context(), before[1].ID, schedule.Edit{Day: &onto})
	s.Must(err)
	if len(look) != 1 || len(look[0].Clashes) != 1 || look[0].Clashes[0].Lecture != before[2].ID ||
		!look[0].Clashes[0].InHall || !look[0].Clashes[0].OfCourse || look[0].Was != before[1].StartsAt {
		t.Errorf("%+v", look)
	}
	same := day("2026-10-22")
	if look, err = s.Schedule.PreviewEdit(t.Context(), before[1].ID, schedule.Edit{Day: &same}); err != nil ||
		len(look[0].Clashes) != 0 {
		t.Errorf("it clashes with itself: %+v %v", look, err)
	}
}

func TestCallingOffAndBringingBack(t *testing.T) {
	s, before := five(t)
	off, on := true, false
	edit(s, before[3], schedule.Edit{Later: true, CalledOff: &off})
	for i, l := range planned(s, s.Course) {
		if l.CalledOff != (i >= 3) || l.Moved() {
			t.Errorf("%d: %+v", i, l)
		}
	}
	edit(s, before[3], schedule.Edit{CalledOff: &on})
	if list := planned(s, s.Course); list[3].CalledOff || !list[4].CalledOff {
		t.Error("brought back is not the one that was asked for")
	}
}

// TestChoicesOfLaterLectures leave time and place alone.
func TestChoicesOfLaterLectures(t *testing.T) {
	s, before := five(t)
	closed, yes, lead, topic := doorway.Closed, true, 7, "  Of its   own "
	edit(s, before[2], schedule.Edit{Later: true, Doorway: &closed, Capture: &yes, LeadMin: &lead, Topic: &topic})
	after := planned(s, s.Course)
	for i, l := range after {
		if (l.Doorway == doorway.Closed) != (i >= 2) || l.CaptureAuto != (i >= 2) || (l.LeadMin == 7) != (i >= 2) ||
			!l.StartsAt.Equal(before[i].StartsAt) {
			t.Errorf("%d: %+v", i, l)
		}
	}
	if after[2].Topic != "Of its own" || after[3].Topic != "" {
		t.Errorf("topics are %q and %q", after[2].Topic, after[3].Topic)
	}
}

func TestFaultsOfAnEdit(t *testing.T) {
	s, before := five(t)
	outside, past, long := day("2026-12-24"), -time.Minute, 25*time.Hour
	ajar, many, text := doorway.Way("ajar"), 241, strings.Repeat("x", 201)
	for field, e := range map[string]schedule.Edit{
		"day": {Day: &outside}, "ends": {Lasts: &past}, "doorway": {Doorway: &ajar}, "opens_min": {OpensMin: &many},
		"topic": {Topic: &text}, "tail_min": {TailMin: &many},
	} {
		if _, err := s.Schedule.Edit(t.Context(), before[0].ID, s.Lecturer, e); fieldOf(t, err) != field {
			t.Errorf("want a fault at %s: %v", field, err)
		}
	}
	if _, err := s.Schedule.Edit(t.Context(), before[0].ID, s.Lecturer,
		schedule.Edit{Lasts: &long}); fieldOf(t, err) != "ends" {
		t.Errorf("more than a day: %v", err)
	}
	if !slices.Equal(starts(planned(s, s.Course)), starts(before)) {
		t.Error("a refused change moved something")
	}
	if _, err := s.Schedule.Edit(t.Context(), uuid.New(), s.Lecturer, schedule.Edit{}); !errors.Is(err,
		schedule.ErrUnknown) {
		t.Errorf("no such lecture: %v", err)
	}
}

// TestWhatWasChangedAgainIsNotUndone, and what was captured is not taken away.
func TestWhatWasChangedAgainIsNotUndone(t *testing.T) {
	s, before := five(t)
	friday, topic := day("2026-10-23"), "A topic"
	first := edit(s, before[1], schedule.Edit{Day: &friday})
	second := edit(s, before[1], schedule.Edit{Topic: &topic})
	if err := s.Schedule.Undo(t.Context(), s.Course, first, s.Lecturer); !errors.Is(err, schedule.ErrChanged) {
		t.Errorf("undone below a later change: %v", err)
	}
	if err := s.Schedule.Undo(t.Context(), s.Other, second, s.Lecturer); !errors.Is(err, schedule.ErrUnknown) {
		t.Errorf("undone through another course: %v", err)
	}
	s.Must(s.Schedule.Undo(t.Context(), s.Course, second, s.Lecturer),
		s.Schedule.Undo(t.Context(), s.Course, first, s.Lecturer))
	if !slices.Equal(starts(planned(s, s.Course)), starts(before)) {
		t.Error("undone in order, it is not as it was")
	}
	_, err := s.Capture.Begin(t.Context(), capture.Start{Lecture: before[0].ID, By: s.Lecturer, Source: capture.Desk})
	s.Must(err)
	gone, err := s.Schedule.RemovePlan(t.Context(), s.Course, *before[0].PlanID, s.Lecturer)
	s.Must(err)
	if left := planned(s, s.Course); len(left) != 1 || left[0].ID != before[0].ID {
		t.Errorf("%d are left", len(left))
	}
	s.Must(s.Schedule.Undo(t.Context(), s.Course, gone, s.Lecturer))
	if again := planned(s, s.Course); !slices.Equal(ids(again), ids(before)) ||
		!slices.Equal(starts(again), starts(before)) {
		t.Error("taken away and undone, addresses or times differ")
	}
	added, err := s.Schedule.AddPlan(t.Context(), s.Other, s.Colleague, weekly(time.Thursday, "2026-10-15", 1, nil))
	s.Must(err)
	_, err = s.Capture.Begin(t.Context(),
		capture.Start{Lecture: planned(s, s.Other)[0].ID, By: s.Colleague, Source: capture.Desk})
	s.Must(err)
	if err := s.Schedule.Undo(t.Context(), s.Other, added, s.Colleague); !errors.Is(err, schedule.ErrChanged) {
		t.Errorf("a plan that was captured is undone: %v", err)
	}
}

// export is the timetable of a course as a file.
func export(s *testhouse.Stage, course uuid.UUID) []byte {
	s.T.Helper()
	name, events, err := s.Schedule.Calendar(s.T.Context(), schedule.OfCourse, course,
		"https://lectures.college.example")
	s.Must(err)
	var b bytes.Buffer
	s.Must(ical.Write(&b, name, events))
	return b.Bytes()
}

// TestAnExportComesBackAsTheSameLectures, in the same plans.
func TestAnExportComesBackAsTheSameLectures(t *testing.T) {
	s, before := five(t)
	friday, off, topic := day("2026-10-23"), true, "Red; green, and \"blue\"\nweeds"
	edit(s, before[1], schedule.Edit{Day: &friday, Topic: &topic})
	edit(s, before[3], schedule.Edit{CalledOff: &off})
	file := export(s, s.Course)
	empty, err := s.Schedule.KeepCourse(t.Context(), uuid.Nil,
		schedule.CourseForm{Term: must(s.Schedule.CurrentTerm(t.Context())).ID, Code: "NEW 3", Title: "New"})
	s.Must(err)
	look, err := s.Schedule.PreviewImport(t.Context(), empty, file)
	s.Must(err)
	if len(look.Faults) != 0 || look.Lectures() != 7 || len(planned(s, empty)) != 0 {
		t.Fatalf("a look says %d lectures, %v", look.Lectures(), look.Faults)
	}
	change, err := s.Schedule.ApplyImport(t.Context(), empty, s.Lecturer, file)
	s.Must(err)
	want, err := s.Schedule.Lectures(t.Context(), []uuid.UUID{s.Course})
	s.Must(err)
	got := planned(s, empty)
	if len(got) != len(want) {
		t.Fatalf("%d lectures came back, want %d", len(got), len(want))
	}
	for i, w := range want {
		g := got[i]
		if !g.StartsAt.Equal(w.StartsAt) || !g.EndsAt.Equal(w.EndsAt) || g.Hall != w.Hall || g.Topic != w.Topic ||
			g.CalledOff != w.CalledOff {
			t.Errorf("%d came back as %+v, want %+v", i, g, w)
		}
	}
	again := strings.ReplaceAll(string(export(s, empty)), "NEW 3 New", "COU 1 A course")
	if strings.Count(again, "BEGIN:VEVENT") != strings.Count(string(file), "BEGIN:VEVENT") {
		t.Error("written again it has another number of events")
	}
	s.Must(s.Schedule.Undo(t.Context(), empty, change, s.Lecturer))
	if n := len(planned(s, empty)); n != 0 {
		t.Errorf("undone, %d are left", n)
	}
}

func must[T any](v T, err error) T {
	if err != nil {
		panic(err)
	}
	return v
}

// TestAForeignCalendar becomes plans with sentences; what is outside the term, or in a hall
// that is not known, is said.
func TestAForeignCalendar(t *testing.T) {
	s := testhouse.New(t, true)
	hall(s, "Kelp Hall")
	file := strings.ReplaceAll(`BEGIN:VCALENDAR
VERSION:2.0
BEGIN:VEVENT
UID:a
SUMMARY:Tides
LOCATION:kelp hall
DTSTART;TZID=Atlantic/Faroe:20261013T101500
DTEND;TZID=Atlantic/Faroe:20261013T114500
RRULE:FREQ=WEEKLY;BYDAY=TU,TH;COUNT=6
EXDATE;TZID=Atlantic/Faroe:20261020T101500
END:VEVENT
BEGIN:VEVENT
UID:b
SUMMARY:An outing
LOCATION:The skerries
DTSTART:20261105T080000Z
DTEND:20261105T160000Z
END:VEVENT
BEGIN:VEVENT
UID:c
SUMMARY:Too late
DTSTART:20270105T080000Z
DTEND:20270105T090000Z
END:VEVENT
END:VCALENDAR
`, "\n", "\r\n")
	look, err := s.Schedule.PreviewImport(t.Context(), s.Course, []byte(file))
	s.Must(err)
	if len(look.Faults) != 0 || len(look.Plans) != 2 || look.Lectures() != 6 {
		t.Fatalf("%+v", look)
	}
	tides := look.Plans[0]
	if tides.HallID == nil || !tides.ByDates || len(tides.Lectures) != 5 || tides.Title != "Tides" ||
		tides.At != 10*time.Hour+15*time.Minute {
		t.Errorf("%+v", tides)
	}
	if len(look.Notes) != 2 || !strings.Contains(texts.English.Say(look.Notes[0].Text), "The skerries") ||
		!strings.Contains(texts.English.Say(look.Notes[1].Text), "outside the term") {
		t.Errorf("notes: %+v", look.Notes)
	}
	bad := strings.Replace(file, "DTEND:20261105T160000Z", "DTEND:20261104T160000Z", 1)
	if _, err := s.Schedule.ApplyImport(t.Context(), s.Course, s.Lecturer, []byte(bad)); fieldOf(t, err) != "file" ||
		!strings.Contains(texts.English.Error(err), "Line ") {
		t.Errorf("with a bad line: %v", err)
	}
	if n := len(planned(s, s.Course)); n != 0 {
		t.Errorf("%d of a bad file were planned", n)
	}
}

// TestFeeds: each has a private address, which is worth nothing once it was renewed or its
// subject is gone, and which says nothing about others.
func TestFeeds(t *testing.T) {
	s, before := five(t)
	halls, err := s.Schedule.Halls(t.Context())
	s.Must(err)
	for kind, subject := range map[schedule.FeedKind]uuid.UUID{schedule.OfPerson: s.Student,
		schedule.OfCourse: s.Course, schedule.OfHall: halls[1].ID} {
		key, err := s.Schedule.FeedKey(t.Context(), kind, subject)
		s.Must(err)
		name, events, err := s.Schedule.Feed(t.Context(), key, "https://lectures.college.example")
		s.Must(err)
		if name == "" || len(events) < 5 ||
			!strings.HasPrefix(events[len(events)-1].Address, "https://lectures.college.example/lectures/") {
			t.Errorf("%s: %q with %d events", kind, name, len(events))
		}
		next, err := s.Schedule.RenewFeed(t.Context(), kind, subject)
		s.Must(err)
		if _, _, err := s.Schedule.Feed(t.Context(), key, ""); !errors.Is(err, schedule.ErrUnknown) {
			t.Errorf("%s: the old address: %v", kind, err)
		}
		if _, again, err := s.Schedule.Feed(t.Context(), next, ""); err != nil || len(again) != len(events) {
			t.Errorf("%s: the new address: %d, %v", kind, len(again), err)
		}
		broken := []byte(next)
		broken[len(broken)/2] ^= 1
		for _, wrong := range []string{"", "AAAA", string(broken), next + "A"} {
			if _, _, err := s.Schedule.Feed(t.Context(), wrong, ""); !errors.Is(err, schedule.ErrUnknown) {
				t.Errorf("%s: %q: %v", kind, wrong, err)
			}
		}
	}
	// Who is taken off a roster has its lectures in their calendar no longer.
	key, err := s.Schedule.FeedKey(t.Context(), schedule.OfPerson, s.Second)
	s.Must(err)
	s.Do(`delete from membership where person_id = $1`, s.Second)
	if _, events, err := s.Schedule.Feed(t.Context(), key, ""); err != nil || len(events) != 0 {
		t.Errorf("taken off: %d, %v", len(events), err)
	}
	// A change is told by a higher sequence, under the same UID.
	at := 14 * time.Hour
	edit(s, before[0], schedule.Edit{At: &at})
	_, events, err := s.Schedule.Calendar(t.Context(), schedule.OfCourse, s.Course, "")
	s.Must(err)
	i := slices.IndexFunc(events, func(e ical.Event) bool { return strings.HasPrefix(e.UID, before[0].ID.String()) })
	if i < 0 || events[i].Sequence != 1 || timetable.ClockOf(events[i].Start, time.UTC) != 13*time.Hour {
		t.Errorf("%d: %+v", i, events)
	}
}
