package demo

import (
	"bytes"
	"path"
	"slices"
	"strings"
	"testing"
	"time"

	"latelantern/internal/core/timetable"
	"latelantern/internal/format/captionfile"
)

// TestTodayIsAlwaysAWeekdayInTheMiddleOfTheTerm, whenever the demonstration is loaded.
func TestTodayIsAlwaysAWeekdayInTheMiddleOfTheTerm(t *testing.T) {
	for d := range 400 {
		loaded := time.Date(2026, 1, 1, 23, 40, 0, 0, time.UTC).AddDate(0, 0, d)
		at, err := Start(loaded)
		if err != nil {
			t.Fatal(err)
		}
		if w := at.Weekday(); w == time.Saturday || w == time.Sunday || at.Format("15:04") != "10:20" {
			t.Fatalf("loaded on %v it takes place on %v", loaded, at)
		}
		if away := at.Sub(loaded); away < -24*time.Hour || away > 3*24*time.Hour {
			t.Fatalf("loaded on %v it takes place on %v", loaded, at)
		}
		today := timetable.DayOf(at, at.Location())
		plan, monday := term(today)
		if w, ok := plan.WeekOf(today); !ok || w.Number != thisWeek || !w.Monday.Equal(monday(thisWeek)) {
			t.Fatalf("on %v it is week %+v", today, w)
		}
		if last, ok := plan.WeekOf(monday(weeks)); !ok || last.Number != weeks {
			t.Fatalf("the last week is %+v", last)
		}
	}
}

func TestTalksAreThere(t *testing.T) {
	total := 0
	for _, talk := range append(slices.Clone(Talks), Came) {
		c := slices.IndexFunc(courses, func(c course) bool { return c.code == talk.Course })
		if c < 0 || talk.Week < 1 || talk.Week >= thisWeek || courses[c].topics[talk.Week-1] != talk.Topic {
			t.Errorf("%s does not belong to its course", talk.File)
			continue
		}
		film, err := media.ReadFile(path.Join("media", talk.File+".mp4"))
		if err != nil || len(film) > 4_000_000 || !bytes.Equal(film[4:8], []byte("ftyp")) {
			t.Errorf("%s: %d bytes (%v)", talk.File, len(film), err)
		}
		total += len(film)
		captions, err := media.ReadFile(path.Join("media", talk.File+".vtt"))
		if err != nil {
			t.Fatal(err)
		}
		file, err := captionfile.Read(captions)
		cues := file.Cues
		if err != nil || len(cues) < 10 {
			t.Errorf("%s: %d cues (%v)", talk.File, len(cues), err)
			continue
		}
		// True captions: what the script says, in its order.
		var said []string
		for _, s := range talk.Slides {
			said = append(said, s.Say)
		}
		var shown []string
		for _, c := range cues {
			shown = append(shown, c.Text)
		}
		if strings.Join(shown, " ") != strings.Join(said, " ") {
			t.Errorf("%s: the captions are not what is said", talk.File)
		}
		if length := cues[len(cues)-1].End; length < 90*time.Second || length > 4*time.Minute {
			t.Errorf("%s is %v long", talk.File, length)
		}
	}
	if len(Talks) != 12 || total > 24_000_000 {
		t.Errorf("%d talks of %d bytes", len(Talks), total)
	}
}

func TestPeople(t *testing.T) {
	seen := map[string]bool{}
	for n := range studentCount {
		if a := address(student(n)); seen[a] || !strings.HasSuffix(a, ".example") {
			t.Errorf("student %d is %s", n, a)
		}
		seen[address(student(n))] = true
	}
	enrolled := map[string]int{}
	for _, c := range courses {
		for n := c.students[0]; n < c.students[1]; n++ {
			if n >= studentCount {
				t.Errorf("%s enrols student %d", c.code, n)
			}
			enrolled[address(student(n))]++
		}
		if len(c.topics) != weeks {
			t.Errorf("%s has %d topics", c.code, len(c.topics))
		}
		if c.rule != nil {
			if err := c.rule.Check(); err != nil {
				t.Errorf("%s: %v", c.code, err)
			}
		}
	}
	for _, a := range Accounts[2:] {
		if enrolled[a.Email] == 0 {
			t.Errorf("%s is enrolled nowhere", a.Email)
		}
	}
	out := courses[slices.IndexFunc(courses, func(c course) bool { return c.code == "BOA 140" })]
	for n := out.students[0]; n < out.students[1]; n++ {
		if address(student(n)) == Accounts[4].Email && slices.Contains(out.rule.Groups, out.groups[n%len(out.groups)]) {
			t.Error("the student whom the rule should leave out is in it")
		}
	}
}
