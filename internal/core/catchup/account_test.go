package catchup

import (
	"math/rand/v2"
	"testing"
	"time"

	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/span"
	"latelantern/internal/core/wall"
)

func set(seconds ...int) span.Set {
	var out []span.Span
	for i := 0; i < len(seconds); i += 2 {
		out = append(out, span.Span{Start: time.Duration(seconds[i]) * time.Second,
			End: time.Duration(seconds[i+1]) * time.Second})
	}
	return span.Of(out...)
}

// TestReckon says what is missed of an hour.
func TestReckon(t *testing.T) {
	for _, c := range []struct {
		name                    string
		whole                   int // seconds
		kept, attended, watched span.Set
		missed                  span.Set // published
	}{
		{"nothing of it was seen", 3600, set(0, 3600), set(), set(), set(0, 3600)},
		{"who came at twenty past misses what was before", 3600, set(0, 3600), set(1200, 3600), set(), set(0, 1200)},
		{"a break that is struck is not missed", 3600, set(0, 1800, 2400, 3600), set(0, 1800, 2400, 3600), set(),
			set()},
		{"who went into the break and did not come back", 3600, set(0, 1800, 2400, 3600), set(0, 1800), set(),
			set(1800, 3000)},
		{"what was watched since is not missed", 3600, set(0, 3600), set(1200, 3600), set(0, 600), set(600, 1200)},
		{"under twenty seconds is no line", 3600, set(0, 3600), set(19, 3600), set(), set()},
		{"twenty seconds are", 3600, set(0, 3600), set(20, 3600), set(), set(0, 20)},
		{"a long gap of which little is published is none", 3600, set(0, 1000, 1490, 3600), set(0, 1000, 1500, 3600),
			set(), set()},
		{"two short gaps are none, though what was between is struck", 3600, set(0, 100, 115, 1000),
			set(0, 85, 100, 115, 130, 1000), set(), set()},
		{"of a short lecture a fifth", 60, set(0, 60), set(), set(0, 48), set(48, 60)},
		{"of a short lecture less than that", 60, set(0, 60), set(), set(0, 49), set()},
		{"nothing is published", 3600, set(), set(), set(), set()},
	} {
		got := Reckon(cutlist.CarrierOf(c.kept), time.Duration(c.whole)*time.Second, c.attended, c.watched)
		if !got.Missed.Equal(c.missed) {
			t.Errorf("%s: missed %v, want %v", c.name, got.Missed.Spans(), c.missed.Spans())
		}
	}
}

// anywhere is a random set of whole seconds within an hour.
func anywhere(r *rand.Rand, most int) span.Set {
	var out []span.Span
	for range r.IntN(most + 1) {
		at := r.IntN(3600)
		out = append(out, span.Span{Start: time.Duration(at) * time.Second,
			End: time.Duration(min(3600, at+1+r.IntN(300))) * time.Second})
	}
	return span.Of(out...)
}

// TestLaws holds for whatever was struck, attended and watched: an account covers what is published exactly and no
// moment twice; who watches what they missed misses nothing; and no trim makes anybody miss what they did not.
func TestLaws(t *testing.T) {
	r := rand.New(rand.NewPCG(24, 1))
	const whole = time.Hour
	hour := span.Of(span.Span{End: whole})
	slighted, left := 0, 0
	for range 4000 {
		kept := hour.Subtract(anywhere(r, 5))
		attended, watched := anywhere(r, 12), anywhere(r, 40)
		c := cutlist.CarrierOf(kept)
		x := Reckon(c, whole, attended, watched)
		var sum time.Duration
		var union span.Set
		for _, s := range []span.Set{x.Attended, x.Watched, x.Slight, x.Missed} {
			sum, union = sum+s.Len(), union.Union(s)
		}
		if all := span.Of(span.Span{End: c.Length()}); sum != c.Length() || !union.Equal(all) {
			t.Fatalf("an account of %v is %v, in all %v", all.Spans(), union.Spans(), sum)
		}
		if then := Reckon(c, whole, attended, watched.Union(c.SourceSet(x.Missed))); !then.Missed.Empty() {
			t.Fatalf("who watched all that they missed still misses %v", then.Missed.Spans())
		}
		trimmed := cutlist.CarrierOf(kept.Subtract(anywhere(r, 5)))
		after := Reckon(trimmed, whole, attended, watched)
		if made := trimmed.SourceSet(after.Missed).Subtract(c.SourceSet(x.Missed)); !made.Empty() {
			t.Fatalf("a trim made %v missed", made.Spans())
		}
		slighted, left = slighted+len(x.Slight.Spans()), left+len(x.Missed.Spans())
	}
	if slighted < 1000 || left < 1000 {
		t.Errorf("of what was tried only %d gaps were short and %d long", slighted, left)
	}
}

func TestAttended(t *testing.T) {
	ten := time.Date(2026, 10, 5, 10, 0, 0, 0, time.UTC)
	at := func(minutes float64) time.Time { return ten.Add(time.Duration(minutes * float64(time.Minute))) }
	paused := wall.Clock{Began: ten, Pauses: []wall.Pause{{At: 30 * time.Minute, Long: 10 * time.Minute},
		{At: 40 * time.Minute, Long: 5 * time.Minute}}}
	for _, c := range []struct {
		name  string
		clock wall.Clock
		stays []Stay
		want  span.Set
	}{
		{"all of it", wall.Clock{Began: ten}, []Stay{{at(0), at(60)}}, set(0, 3615)},
		{"who was there before it began", wall.Clock{Began: ten}, []Stay{{at(-5), at(10)}}, set(0, 615)},
		{"who went before it began", wall.Clock{Began: ten}, []Stay{{at(-5), at(-2)}}, set()},
		{"who came late", wall.Clock{Began: ten}, []Stay{{at(20), at(60)}}, set(1200, 3615)},
		{"who went out and came back", wall.Clock{Began: ten}, []Stay{{at(0), at(20)}, {at(25), at(30)}},
			set(0, 1215, 1500, 1815)},
		{"up to a pause", paused, []Stay{{at(0), at(29)}}, set(0, 1755)},
		{"who went in a pause", paused, []Stay{{at(0), at(35)}}, set(0, 1800)},
		{"who came in a pause", paused, []Stay{{at(35), at(45)}}, set(1800, 2115)},
		{"after both pauses", paused, []Stay{{at(60), at(65)}}, set(2700, 3015)},
	} {
		if got := Attended(c.clock, c.stays); !got.Equal(c.want) {
			t.Errorf("%s: %v, want %v", c.name, got.Spans(), c.want.Spans())
		}
	}
}
