package viewing

import (
	"testing"
	"time"
)

var (
	noon = time.Date(2026, 10, 14, 12, 0, 0, 0, time.UTC)
	open = Rule{Audience: Everyone, Download: true, From: FromLecture, Until: UntilTerm, DaysAfterTerm: 30}
	lit  = Recording{Watchable: true, Lit: true, LectureEnd: noon.Add(-time.Hour), TermEnd: noon.AddDate(0, 0, 60)}
)

func with[T any](x T, change func(*T)) T {
	change(&x)
	return x
}

func TestDecide(t *testing.T) {
	student := Viewer{Part: Student, Group: "A"}
	groupB := with(open, func(r *Rule) { r.Audience, r.Groups = Groups, []string{"B", "C"} })
	for _, c := range []struct {
		name  string
		rule  *Rule
		who   Viewer
		what  Recording
		at    time.Time
		want  Reason
		watch bool
	}{
		{"a student of the course", &open, student, lit, noon, ByRule, true},
		{"a lecturer, though it is dark", nil, Viewer{Part: Lecturer}, Recording{}, noon, AsStaff, true},
		{"an assistant", nil, Viewer{Part: Assistant}, Recording{}, noon, AsStaff, true},
		{"a coordinator of no course", nil, Viewer{Coordinator: true}, Recording{}, noon, AsStaff, true},
		{"a student of another course", &open, Viewer{}, lit, noon, NotEnrolled, false},
		{"not lit", &open, student, with(lit, func(x *Recording) { x.Lit = false }), noon, NotLit, false},
		{"lit, but no edition", &open, student, with(lit, func(x *Recording) { x.Watchable = false }), noon, NotLit, false},
		{"no rule", nil, student, lit, noon, NoRule, false},
		{"another group", &groupB, student, lit, noon, OtherGroup, false},
		{"the group", &groupB, Viewer{Part: Student, Group: "C"}, lit, noon, ByRule, true},
		{"in no group", &groupB, Viewer{Part: Student}, lit, noon, OtherGroup, false},
		{"a moment before the end of the lecture", &open, student, lit, lit.LectureEnd.Add(-1), NotYet, false},
		{"at the end of the lecture", &open, student, lit, lit.LectureEnd, ByRule, true},
		{"the last moment", &open, student, lit, lit.TermEnd.AddDate(0, 0, 30).Add(-1), ByRule, true},
		{"the moment it ends", &open, student, lit, lit.TermEnd.AddDate(0, 0, 30), NoLonger, false},
		{"for ever", new(with(open, func(r *Rule) { r.Until = UntilEver })), student, lit, noon.AddDate(90, 0, 0), ByRule, true},
	} {
		got := Decide(c.rule, c.who, c.what, c.at)
		if got.Reason != c.want || got.Watch != c.watch {
			t.Errorf("%s: %+v, want %s %v", c.name, got, c.want, c.watch)
		}
		if got.Download && !got.Watch {
			t.Errorf("%s: may download and not watch", c.name)
		}
	}
}

func TestCheckRefusesRulesThatCannotBe(t *testing.T) {
	if err := open.Check(); err != nil {
		t.Fatal(err)
	}
	for name, change := range map[string]func(*Rule){
		"no audience":         func(r *Rule) { r.Audience = "" },
		"groups without any":  func(r *Rule) { r.Audience = Groups },
		"no beginning":        func(r *Rule) { r.From = "" },
		"a date without one":  func(r *Rule) { r.From = FromDate },
		"an end without date": func(r *Rule) { r.Until = UntilDate },
		"no end":              func(r *Rule) { r.Until = "later" },
		"days below nought":   func(r *Rule) { r.DaysAfterTerm = -1 },
		"too many days":       func(r *Rule) { r.DaysAfterTerm = 3651 },
		"end before start": func(r *Rule) {
			r.From, r.FromAt, r.Until, r.UntilAt = FromDate, noon, UntilDate, noon
		},
	} {
		r := open
		change(&r)
		if r.Check() == nil {
			t.Errorf("%s: accepted", name)
		}
	}
}

func TestLight(t *testing.T) {
	for c, want := range map[Count]Light{{0, 0}: Dark, {0, 48}: Dark, {1, 48}: PartLit, {47, 48}: PartLit, {48, 48}: Lit, {1, 1}: Lit} {
		if got := c.Light(); got != want {
			t.Errorf("%v: %s, want %s", c, got, want)
		}
	}
}

func TestLectureEnd(t *testing.T) {
	start, end := noon, noon.Add(90*time.Minute)
	for after, want := range map[time.Duration]time.Time{-24 * time.Hour: start, 0: start, time.Hour: noon.Add(time.Hour), 90 * time.Minute: end, 3 * time.Hour: end} {
		stopped := noon.Add(after)
		if got := LectureEnd(start, end, &stopped); !got.Equal(want) {
			t.Errorf("stopped %v after the start: %v, want %v", after, got, want)
		}
	}
	if got := LectureEnd(start, end, nil); !got.Equal(end) {
		t.Errorf("not stopped: %v", got)
	}
}
