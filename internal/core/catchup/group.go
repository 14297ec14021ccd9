package catchup

import (
	"time"

	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/span"
)

// Group is how students stand with a lecture: of all of them some were there for all of it, and each of the others has
// caught up, has begun to, or has not.
type Group struct {
	Students int
	There    int
	CaughtUp int
	Begun    int
}

// Add counts one student more: what they followed live and watched since, both on the clock of the source, of a lecture
// that c publishes and whose source lasts whole. Of those who say that they know it nothing is left.
func (g *Group) Add(c cutlist.Carrier, whole time.Duration, attended, watched span.Set, known bool) {
	g.Students++
	now := Reckon(c, whole, attended, watched)
	switch {
	case !attended.Empty() && Reckon(c, whole, attended, span.Set{}).Missed.Empty():
		g.There++
	case known || now.Missed.Empty():
		g.CaughtUp++
	case !now.Watched.Empty():
		g.Begun++
	}
}

// Enough is the least number of people whose watching is told together, so that nobody's is told alone.
const Enough = 3

// Curve is how many of the sets, one for each person, hold at least half of each bin, one after the other to the end.
// What fewer than Enough did is told as none.
func Curve(sets []span.Set, bin, end time.Duration) []int {
	if bin <= 0 || end <= 0 {
		return nil
	}
	out := make([]int, (end+bin-1)/bin)
	for _, s := range sets {
		had := map[int]time.Duration{}
		for _, x := range s.Spans() {
			for i := int(x.Start / bin); i < len(out) && time.Duration(i)*bin < x.End; i++ {
				from := time.Duration(i) * bin
				had[i] += min(x.End, from+bin, end) - max(x.Start, from)
			}
		}
		for i, d := range had {
			if 2*d >= min(bin, end-time.Duration(i)*bin) {
				out[i]++
			}
		}
	}
	for i, n := range out {
		if n < Enough {
			out[i] = 0
		}
	}
	return out
}
