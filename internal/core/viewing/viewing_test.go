package viewing

import (
	"testing"
	"time"
)

var (
	noon = time.Date(2026, 10, 14, 12, 0, 0, 0, time.UTC)
	open = Rule{Audience: Everyone, Uses: AllUses,
		Window: Window{From: FromLecture, Until: UntilTerm, DaysAfterTerm: 30}}
	lit = Release{Own: true, Watchable: true, Lit: true, LectureEnd: noon.Add(-time.Hour),
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
		{"in no group", &groupB, Viewer{Role: Student}, lit, noon, OtherGroup, false},
		{"a moment before the end of the lecture", &open, student, lit, lit.LectureEnd.Add(-1), NotYet, false},
		{"at the end of the lecture", &open, student, lit, lit.LectureEnd, ByRule, true},
		{"the last moment", &open, student, lit, lit.TermEnd.AddDate(0, 0, 30).Add(-1), ByRule, true},
		{"the moment it ends", &open, student, lit, lit.TermEnd.AddDate(0, 0, 30), NoLonger, false},
		{"for ever", new(with(open, func(r *Rule) { r.Until = UntilEver })), student, lit, noon.AddDate(90, 0, 0),
			ByRule, true},
	} {
		got := Way{Rule: c.rule, Viewer: c.who, Release: c.what}.Decide(c.at)
		if got.Reason != c.want || got.Watch() != c.watch {
			t.Errorf("%s: %+v, want %s %v", c.name, got, c.want, c.watch)
		}
		if want := c.want == AsStaff || c.want == ByRule; (got.Uses == AllUses) != want { // by the rules of this test
			t.Errorf("%s: they may do %v, want all %v", c.name, got.Uses.Names(), want)
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
	watch := with(open, func(r *Rule) { r.Uses = WatchRead })
	over := with(open, func(r *Rule) { r.Until, r.UntilAt = UntilDate, noon })
	// Each is nearer than the next.
	ways := []Way{
		{Viewer: Viewer{Role: Lecturer}, Release: Release{Own: true}},
		{Rule: &open, Viewer: student, Release: lit},
		{Rule: &watch, Viewer: student, Release: lit},
		{Opening: &Opening{Uses(ToWatch), open.Window}, Release: lit},
		{Rule: &later, Viewer: student, Release: lit},
		{Rule: &open, Viewer: student, Release: lit, ShutUntil: ForGood},
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
	if got, by := Decide(nil, noon); got.Watch() || got.Reason != NotEnrolled || by != -1 {
		t.Errorf("no way in: %+v by %d", got, by)
	}
}

// TestWhatMayBeDone follows the rule, for students alone; by several ways one may do what any of them lets one do.
func TestWhatMayBeDone(t *testing.T) {
	student, sound := Viewer{Role: Student}, Uses(ToWatch|TakeSound)
	heard := with(open, func(r *Rule) { r.Uses = sound })
	read := with(open, func(r *Rule) { r.Uses = WatchRead })
	by := func(r *Rule) Way { return Way{Rule: r, Viewer: student, Release: lit} }
	shut := Way{Rule: &open, Viewer: student, Release: lit, ShutUntil: ForGood}
	for _, c := range []struct {
		name string
		ways []Way
		want Uses
	}{
		{"a student", []Way{by(&heard)}, sound},
		{"a lecturer", []Way{{Rule: &heard, Viewer: Viewer{Role: Lecturer}, Release: lit}}, AllUses},
		{"by two courses", []Way{by(&heard), by(&read)}, sound | WatchRead},
		{"by a course that is closed as well", []Way{by(&heard), shut}, sound},
		{"beside a course", []Way{by(&heard), {Opening: &Opening{WatchRead, open.Window}, Release: lit}},
			sound | WatchRead},
		{"by no way", []Way{shut}, 0},
	} {
		if got, _ := Decide(c.ways, noon); got.Uses != c.want {
			t.Errorf("%s may %v, want %v", c.name, got.Uses.Names(), c.want.Names())
		}
	}
}

func TestUsesHaveNames(t *testing.T) {
	for u := range AllUses + 1 {
		if got, ok := UsesOf(u.Names()...); !ok || got != u {
			t.Errorf("%b is called %v, which is %b", u, u.Names(), got)
		}
	}
	if _, ok := UsesOf("watch", "sell"); ok {
		t.Error("there is no such use")
	}
	if WatchRead.Has(TakeText) || !WatchRead.Has(ToRead) || WatchRead&Takeaway != 0 || AllUses&Takeaway != Takeaway {
		t.Error("to watch and read is to take something away")
	}
}

// TestShutOut wins over every rule and opening, but not over teaching.
func TestShutOut(t *testing.T) {
	student := Viewer{Role: Student, Group: "A"}
	opening := &Opening{AllUses, Window{From: FromOnce, Until: UntilEver}}
	for _, c := range []struct {
		name  string
		way   Way
		until time.Time
		want  Reason
	}{
		{"for good", Way{Rule: &open, Viewer: student, Release: lit}, ForGood, ShutOut},
		{"of what is dark", Way{Rule: &open, Viewer: student}, ForGood, ShutOut},
		{"until later", Way{Rule: &open, Viewer: student, Release: lit}, noon.Add(1), ShutOut},
		{"until now", Way{Rule: &open, Viewer: student, Release: lit}, noon, ByRule},
		{"though it is opened", Way{Opening: opening, Release: lit}, ForGood, ShutOut},
		{"opened, until now", Way{Opening: opening, Release: lit}, noon, ByOpening},
		{"who teaches", Way{Rule: &open, Viewer: Viewer{Role: Lecturer}, Release: Release{Own: true}},
			ForGood, AsStaff},
	} {
		c.way.ShutUntil = c.until
		if got := c.way.Decide(noon); got.Reason != c.want || got.Watch() != (c.want != ShutOut) {
			t.Errorf("shut out %s: %+v, want %s", c.name, got, c.want)
		}
	}
}

// TestAnOpening is for no course, but needs something to watch and has a window.
func TestAnOpening(t *testing.T) {
	what := Release{Own: true, Watchable: true, LectureEnd: noon, TermEnd: noon.AddDate(0, 0, 7)}
	for _, c := range []struct {
		name   string
		window Window
		what   Release
		at     time.Time
		want   Reason
	}{
		{"at once", Window{From: FromOnce, Until: UntilEver}, what, noon.AddDate(-1, 0, 0), ByOpening},
		{"with nothing to watch", Window{From: FromOnce, Until: UntilEver}, Release{}, noon, NotLit},
		{"before the lecture ends", Window{From: FromLecture, Until: UntilEver}, what, noon.Add(-1), NotYet},
		{"when it ends", Window{From: FromLecture, Until: UntilEver}, what, noon, ByOpening},
		{"short of two days after", Window{From: FromDays, DaysAfterLecture: 2, Until: UntilEver}, what,
			noon.Add(48*time.Hour - 1), NotYet},
		{"two days after", Window{From: FromDays, DaysAfterLecture: 2, Until: UntilEver}, what,
			noon.Add(48 * time.Hour),
			ByOpening},
		{"at its end", Window{From: FromOnce, Until: UntilDate, UntilAt: noon}, what, noon, NoLonger},
		{"after term", Window{From: FromOnce, Until: UntilTerm}, what, noon.AddDate(0, 0, 7), NoLonger},
		{"from a moment that there is not", Window{From: "soon", Until: UntilEver}, what, noon, NotYet},
		{"until a moment that there is not", Window{From: FromOnce, Until: "soon"}, what, noon, NoLonger},
	} {
		got := Way{Opening: &Opening{WatchRead, c.window}, Release: c.what}.Decide(c.at)
		if got.Reason != c.want || got.Watch() != (c.want == ByOpening) {
			t.Errorf("%s: %+v, want %s", c.name, got, c.want)
		}
	}
	if err := (Opening{Uses(ToRead), open.Window}).Check(); err == nil {
		t.Error("an opening that opens nothing")
	}
	if err := (Opening{WatchRead, Window{From: FromOnce, Until: "soon"}}).Check(); err == nil {
		t.Error("an opening without an end that there is")
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
		"at once":               func(r *Rule) { r.From = FromOnce },
		"ten years after":       func(r *Rule) { r.From, r.DaysAfterLecture = FromDays, 3650 },
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
		"nothing to watch":    func(r *Rule) { r.Uses = Takeaway },
		"no days after":       func(r *Rule) { r.From = FromDays },
		"too many days after": func(r *Rule) { r.From, r.DaysAfterLecture = FromDays, 3651 },
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
