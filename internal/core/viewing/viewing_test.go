package viewing

import (
	"testing"
	"time"
)

var (
	noon = time.Date(2026, 10, 14, 12, 0, 0, 0, time.UTC)
	open = Rule{Audience: Everyone, Download: true, From: FromLecture, Until: UntilTerm, DaysAfterTerm: 30}
	lit  = Release{Own: true, Watchable: true, Lit: true, LectureEnd: noon.Add(-time.Hour),
		TermEnd: noon.AddDate(0, 0, 60)}
)

func with[T any](x T, change func(*T)) T {
	change(&x)
	return x
}

func TestDecide(t *testing.T) {
	student := Viewer{Role: Student, Group: "A"}
	groupB := with(open, func(r *Rule) { r.Audience, r.Groups = Groups, []string{"B", "C"} })
	for _, c := range []struct {
		name  string
		rule  *Rule
		who   Viewer
		what  Release
		at    time.Time
		want  Reason
		watch bool
	}{
		{"a student of the course", &open, student, lit, noon, ByRule, true},
		{"a lecturer, though it is dark", nil, Viewer{Role: Lecturer}, Release{Own: true}, noon, AsStaff, true},
		{"an assistant", nil, Viewer{Role: Assistant}, Release{Own: true}, noon, AsStaff, true},
		{"a coordinator of no course", nil, Viewer{Coordinator: true}, Release{}, noon, AsStaff, true},
		{"a lecturer of another course that it is lit for", nil, Viewer{Role: Lecturer},
			with(lit, func(x *Release) { x.Own = false }), noon, AsStaff, true},
		{"a lecturer of another course, before that", nil, Viewer{Role: Lecturer}, Release{Watchable: true}, noon,
			NotLit, false},
		{"a lecturer of another course, without an edition", nil, Viewer{Role: Lecturer}, Release{Lit: true}, noon,
			NotLit, false},
		{"a student of another course", &open, Viewer{}, lit, noon, NotEnrolled, false},
		{"not lit", &open, student, with(lit, func(x *Release) { x.Lit = false }), noon, NotLit, false},
		{"lit, but no edition", &open, student, with(lit, func(x *Release) { x.Watchable = false }), noon, NotLit,
			false},
		{"no rule", nil, student, lit, noon, NoRule, false},
		{"another group", &groupB, student, lit, noon, OtherGroup, false},
		{"the group", &groupB, Viewer{Role: Student, Group: "C"}, lit, noon, ByRule, true},
		{"shut out for good", &open, Viewer{Role: Student, ShutUntil: ForGood}, lit, noon, ShutOut, false},
		{"shut out of what is dark", &open, Viewer{Role: Student, ShutUntil: ForGood}, Release{}, noon, ShutOut, false},
		{"shut out until later", &open, Viewer{Role: Student, ShutUntil: noon.Add(1)}, lit, noon, ShutOut, false},
		{"shut out until now", &open, Viewer{Role: Student, ShutUntil: noon}, lit, noon, ByRule, true},
		{"who teaches is not shut out", &open, Viewer{Role: Lecturer, ShutUntil: ForGood}, Release{Own: true}, noon,
			AsStaff, true},
		{"in no group", &groupB, Viewer{Role: Student}, lit, noon, OtherGroup, false},
		{"a moment before the end of the lecture", &open, student, lit, lit.LectureEnd.Add(-1), NotYet, false},
		{"at the end of the lecture", &open, student, lit, lit.LectureEnd, ByRule, true},
		{"the last moment", &open, student, lit, lit.TermEnd.AddDate(0, 0, 30).Add(-1), ByRule, true},
		{"the moment it ends", &open, student, lit, lit.TermEnd.AddDate(0, 0, 30), NoLonger, false},
		{"for ever", new(with(open, func(r *Rule) { r.Until = UntilEver })), student, lit, noon.AddDate(90, 0, 0),
			ByRule, true},
	} {
		got := Way{c.rule, c.who, c.what}.Decide(c.at)
		if got.Reason != c.want || got.Watch != c.watch {
			t.Errorf("%s: %+v, want %s %v", c.name, got, c.want, c.watch)
		}
		if want := c.want == AsStaff || c.want == ByRule; got.Download != want { // the rules of this test let it
			t.Errorf("%s: a copy can be taken: %v, want %v", c.name, got.Download, want)
		}
	}
}

// TestTheBestWayInWins, whatever the order of the ways.
func TestTheBestWayInWins(t *testing.T) {
	student, later := Viewer{Role: Student}, with(open, func(r *Rule) {
		r.From, r.FromAt = FromDate,
			noon.AddDate(0, 0, 1)
	})
	only := with(open, func(r *Rule) { r.Audience, r.Groups = Groups, []string{"B"} })
	watch := with(open, func(r *Rule) { r.Download = false })
	over := with(open, func(r *Rule) { r.Until, r.UntilAt = UntilDate, noon })
	// Each is nearer than the next.
	ways := []Way{
		{Viewer: Viewer{Role: Lecturer}, Release: Release{Own: true}},
		{Rule: &open, Viewer: student, Release: lit},
		{Rule: &watch, Viewer: student, Release: lit},
		{Rule: &later, Viewer: student, Release: lit},
		{Rule: &open, Viewer: Viewer{Role: Student, ShutUntil: ForGood}, Release: lit},
		{Rule: &only, Viewer: student, Release: lit},
		{Rule: &over, Viewer: student, Release: lit},
		{Viewer: student, Release: lit},
		{Rule: &open, Viewer: student},
		{Rule: &open, Release: lit},
	}
	for i := range ways {
		for k := i; k < len(ways); k++ {
			want := ways[i].Decide(noon)
			if got, by := Decide([]Way{ways[i], ways[k]}, noon); got != want || by != 0 {
				t.Errorf("%d before %d: %+v by %d, want %+v", i, k, got, by, want)
			}
			if got, _ := Decide([]Way{ways[k], ways[i]}, noon); got != want {
				t.Errorf("%d before %d: %+v, want %+v", k, i, got, want)
			}
		}
	}
	if got, by := Decide(nil, noon); got.Watch || got.Reason != NotEnrolled || by != -1 {
		t.Errorf("no way in: %+v by %d", got, by)
	}
}

// TestWhoMayNotTakeACopy though they may watch.
func TestWhoMayNotTakeACopy(t *testing.T) {
	rule := with(open, func(r *Rule) { r.Download = false })
	if got := (Way{&rule, Viewer{Role: Student}, lit}).Decide(noon); !got.Watch || got.Download {
		t.Errorf("a student: %+v", got)
	}
	if got := (Way{&rule, Viewer{Role: Lecturer}, lit}).Decide(noon); !got.Watch || !got.Download {
		t.Errorf("a lecturer: %+v", got)
	}
}

func TestLearns(t *testing.T) {
	for _, c := range []struct {
		who           Viewer
		private, open bool
		want          bool
	}{
		{Viewer{Coordinator: true}, true, false, true},
		{Viewer{Role: Lecturer}, true, false, true},
		{Viewer{Role: Assistant}, true, false, true},
		{Viewer{Role: Student}, false, false, true},
		{Viewer{Role: Student}, false, true, true},
		{Viewer{Role: Student}, true, true, true},
		{Viewer{Role: Student}, true, false, false},
		{Viewer{}, false, true, false},
		{Viewer{}, true, true, false},
	} {
		if got := Learns(c.who, c.private, c.open); got != c.want {
			t.Errorf("%+v of a lecture that is private %v and open %v: %v", c.who, c.private, c.open, got)
		}
	}
}

// TestCheckLetsPass what stands at the edges, and a date on one side alone.
func TestCheckLetsPass(t *testing.T) {
	for name, change := range map[string]func(*Rule){
		"with the end of term":  func(r *Rule) { r.DaysAfterTerm = 0 },
		"ten years after it":    func(r *Rule) { r.DaysAfterTerm = 3650 },
		"from a date, for ever": func(r *Rule) { r.From, r.FromAt, r.Until = FromDate, noon, UntilEver },
		"until a date alone":    func(r *Rule) { r.Until, r.UntilAt = UntilDate, noon },
		"for a moment": func(r *Rule) {
			r.From, r.FromAt, r.Until, r.UntilAt = FromDate, noon, UntilDate,
				noon.Add(1)
		},
		"days that do not count": func(r *Rule) { r.Until, r.DaysAfterTerm = UntilEver, -1 },
	} {
		r := open
		change(&r)
		if err := r.Check(); err != nil {
			t.Errorf("%s: %v", name, err)
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
	for c, want := range map[Count]Light{{0, 0}: Dark, {0, 48}: Dark, {1, 48}: PartLit, {47, 48}: PartLit,
		{48, 48}: Lit, {1, 1}: Lit} {
		if got := c.Light(); got != want {
			t.Errorf("%v: %s, want %s", c, got, want)
		}
	}
}

func TestLectureEnd(t *testing.T) {
	start, end := noon, noon.Add(90*time.Minute)
	for after, want := range map[time.Duration]time.Time{-24 * time.Hour: start, 0: start,
		time.Hour: noon.Add(time.Hour), 90 * time.Minute: end, 3 * time.Hour: end} {
		stopped := noon.Add(after)
		if got := LectureEnd(start, end, &stopped); !got.Equal(want) {
			t.Errorf("stopped %v after the start: %v, want %v", after, got, want)
		}
	}
	if got := LectureEnd(start, end, nil); !got.Equal(end) {
		t.Errorf("not stopped: %v", got)
	}
}
