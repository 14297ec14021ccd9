package signal

import (
	"cmp"
	"math"
	"slices"
	"time"
)

// Notes that are plucked or struck swing as speech does, but between them they ring on: the quietest frames
// of a second or two are tones, which go through zero seldom, where those of speech are breath and the
// noise of the room. In a hall that rings, speech swings further than music.
const (
	ringShare     = 0.15 // of frames that are active where something may ring
	ringSwing     = 18.5 // dB, that levels swing at most
	ringQuiet     = 5    // the quietest frames are one in so many
	ringCrossings = 90   // of those, on the average, in a frame of 20 ms: a tone of 2 kHz, or a lower one in noise
)

// rings reports whether frames [from, to) sound like music that is plucked or struck.
func (s *Sound) rings(from, to, on int) bool {
	if len(s.Crossings) < to || float64(on) < ringShare*float64(to-from) || swing(s.Levels[from:to]) >= ringSwing {
		return false
	}
	return s.tones(from, to)
}

// tones reports whether the quietest of frames [from, to) are tones.
func (s *Sound) tones(from, to int) bool {
	if len(s.Crossings) < to || from >= to {
		return false
	}
	order := make([]int, to-from)
	for i := range order {
		order[i] = from + i
	}
	slices.SortFunc(order, func(a, b int) int { return cmp.Compare(s.Levels[a], s.Levels[b]) })
	quiet := order[:max(1, len(order)/ringQuiet)]
	sum := 0
	for _, i := range quiet {
		sum += int(s.Crossings[i])
	}
	return sum < ringCrossings*len(quiet)
}

// Those who chat in the rows are heard from further away than who speaks.
const (
	farBelow = 13.0            // dB below the one who speaks most
	nearHalf = 25              // frames to each side in which the loudest count: half a second
	loudest  = 10              // the loudest one in so many
	minFar   = 6 * time.Second // that chatter lasts at least
	farShare = 0.1             // of its frames that are active; else it is silence
	mainAt   = 0.75            // the level that so many of what is active stay below is that of the speaker
)

// far lists the runs of frames [from, to) in which only people further away are heard.
func far(levels []float64, active []bool) [][2]int {
	loud := make([]float64, len(levels))
	var heard []float64
	window := make([]float64, 0, 2*nearHalf+1)
	const step = 5 // every tenth of a second
	for i := 0; i < len(levels); i += step {
		window = append(window[:0], levels[max(0, i-nearHalf):min(len(levels), i+nearHalf+1)]...)
		slices.Sort(window)
		l := window[len(window)-1-len(window)/loudest]
		on := false
		for j := i; j < min(len(levels), i+step); j++ {
			loud[j] = l
			on = on || active[j]
		}
		if on {
			heard = append(heard, l)
		}
	}
	if len(heard) == 0 {
		return nil
	}
	slices.Sort(heard)
	limit := heard[int(float64(len(heard)-1)*mainAt)] - farBelow
	var out [][2]int
	for i := 0; i < len(loud); {
		if loud[i] >= limit {
			i++
			continue
		}
		from := i
		for i < len(loud) && loud[i] < limit {
			i++
		}
		// What counts the loudest around a moment blurs its edges by half a second: up to the first loud frame.
		to := i
		for to < len(levels) && levels[to] < limit {
			to++
		}
		for from > 0 && levels[from-1] < limit {
			from--
		}
		on := 0
		for j := from; j < to; j++ {
			if active[j] {
				on++
			}
		}
		if time.Duration(to-from)*frame >= minFar && float64(on) >= farShare*float64(to-from) {
			out = append(out, [2]int{from, to})
		}
		i = max(i, to)
	}
	return out
}

// without is levels without some runs of frames.
func without(levels []float64, runs [][2]int) []float64 {
	out := slices.Clone(levels)
	for _, x := range runs {
		for i := x[0]; i < x[1]; i++ {
			out[i] = math.Inf(-1)
		}
	}
	return slices.DeleteFunc(out, func(l float64) bool { return math.IsInf(l, -1) })
}
