package viewing

import (
	"math/rand/v2"
	"testing"
	"time"
)

// TestNothingChangesBeforeNext: over ways taken at random, decisions stay what they are until the moment that is
// said; and where one lets in, or is closed by a window or a shut, the moment that ends that is found.
func TestNothingChangesBeforeNext(t *testing.T) {
	chance := rand.New(rand.NewPCG(3, 4))
	start := time.Date(2026, 10, 14, 10, 0, 0, 0, time.UTC)
	hour := func() time.Time { return start.Add(time.Duration(chance.IntN(48)) * time.Hour) }
	window := func() Window {
		return Window{From: []From{FromOnce, FromLecture, FromDays, FromDate}[chance.IntN(4)], FromAt: hour(),
			DaysAfterLecture: 1 + chance.IntN(2), Until: []Until{UntilTerm, UntilDate, UntilEver}[chance.IntN(3)],
			UntilAt: hour(), DaysAfterTerm: chance.IntN(2)}
	}
	changes := 0
	for range 3000 {
		var ways []Way
		for range 1 + chance.IntN(3) {
			w := Way{Viewer: Viewer{Role: Student, Group: "A"}, Release: Release{Lit: true, Watchable: true,
				LectureEnd: hour(), TermEnd: hour()}}
			if chance.IntN(2) == 0 {
				w.Rule = &Rule{Audience: Everyone, Uses: WatchRead, Window: window()}
			} else {
				w.Opening = &Opening{Uses: AllUses, Window: window()}
			}
			if chance.IntN(3) == 0 {
				w.ShutUntil = hour()
			}
			ways = append(ways, w)
		}
		now := hour().Add(time.Duration(chance.IntN(60)) * time.Minute)
		next := Next(ways, now)
		if !next.IsZero() && !next.After(now) {
			t.Fatalf("at %v the next moment is %v", now, next)
		}
		before, by := Decide(ways, now)
		for at := now; at.Before(start.Add(96 * time.Hour)); at = at.Add(30 * time.Minute) {
			if d, b := Decide(ways, at); d != before || b != by {
				if next.IsZero() || at.Before(next) {
					t.Fatalf("%+v at %v, which changes at %v and not before %v: %+v", before, now, at, next, ways)
				}
				changes++
				break
			}
		}
	}
	if changes < 500 {
		t.Errorf("only %d changed", changes)
	}
	open := Way{Viewer: Viewer{Role: Student}, Release: Release{Lit: true, Watchable: true, LectureEnd: start},
		Rule: &Rule{Audience: Everyone, Uses: WatchRead, Window: Window{From: FromDays, DaysAfterLecture: 2,
			Until: UntilDate, UntilAt: start.Add(72 * time.Hour)}}, ShutUntil: start.Add(60 * time.Hour)}
	for _, c := range []struct{ after, want time.Duration }{{0, 48}, {48, 60}, {60, 72}} {
		if got := Next([]Way{open}, start.Add(c.after*time.Hour)); !got.Equal(start.Add(c.want * time.Hour)) {
			t.Errorf("after %d hours it is %v, want %d hours", c.after, got.Sub(start), c.want)
		}
	}
	if got := Next([]Way{open}, start.Add(72*time.Hour)); !got.IsZero() {
		t.Errorf("after the end there is %v", got)
	}
}
