package signal

import (
	"math"
	"slices"
	"time"

	"latelantern/internal/core/span"
)

// Speech is found in the energies of frames of 20 ms. A frame is active when it lies a little
// above the noise of the room; where enough frames around a moment are active, someone speaks.
// What goes on as steadily as music or the murmur of a hall is not one who speaks.
const (
	frame      = 20 * time.Millisecond
	frameLen   = Rate / 50
	floorShare = 0.20   // of all frames are taken to be the noise of the room
	clear      = 6.0    // dB above that noise
	faintest   = -75.0  // dB; below it nothing is speech
	mute       = -100.0 // dB; below it no microphone was on, and it says nothing of the room
	spread     = 8.0    // dB between floor and the loudest tenth, with less of which nothing stands out

	around    = 15   // frames to each side in which active ones are counted: 0.3 s
	begins    = 0.35 // share of them with which speech begins
	ends      = 0.15 // and with which it ends
	minIsland = 800 * time.Millisecond
	maxPause  = 4 * time.Second // within speech
	steadyWin = 50              // frames to each side for telling music from speech: 1 s
	steadyLow = 0.5             // of the mean energy, under which a frame is a dip
	fewDips   = 0.15            // share of dips below which nobody speaks
	someDips  = 0.32            // and below which it depends on
	someSwing = 10.0            // how far, in dB, levels swing: of one voice further, of many not
	minSteady = 6 * time.Second // that music or murmur lasts at least
)

// Speech is where someone speaks, in stretches between which there are more than four seconds
// of something else.
func (s *Sound) Speech() span.Set {
	limit, ok := threshold(s.Levels)
	if !ok {
		return span.Set{}
	}
	active := make([]bool, len(s.Levels))
	above := func(limit float64) {
		for i, l := range s.Levels {
			active[i] = l > limit
		}
	}
	silence := func(runs [][2]int) {
		for _, x := range runs {
			for i := x[0]; i < x[1]; i++ {
				active[i] = false
			}
		}
	}
	above(limit)
	music := s.steady(active)
	if len(music) > 0 { // which is no noise of the room
		if limit, ok = threshold(without(s.Levels, music)); !ok {
			return span.Set{}
		}
		above(limit)
		silence(music)
	}
	silence(far(s.Levels, active))
	var heard []span.Span
	for _, x := range islands(active) {
		heard = append(heard, span.Span{Start: time.Duration(x[0]) * frame, End: time.Duration(x[1]) * frame})
	}
	for i := range heard {
		if i+1 < len(heard) && heard[i+1].Start-heard[i].End <= maxPause {
			heard[i].End = heard[i+1].Start
		}
	}
	return span.Of(heard...).Intersect(span.Of(span.Span{End: s.Length()}))
}

// threshold is the level above which a frame is active; ok is false when nothing stands out.
func threshold(levels []float64) (limit float64, ok bool) {
	sorted := make([]float64, 0, len(levels))
	for _, l := range levels {
		if l > mute {
			sorted = append(sorted, l)
		}
	}
	if len(sorted) == 0 {
		return 0, false
	}
	slices.Sort(sorted)
	at := func(share float64) float64 { return sorted[int(float64(len(sorted)-1)*share)] }
	floor := at(floorShare)
	// A few words in a long silence are less than a tenth of it.
	if at(0.99)-floor < spread {
		return 0, false
	}
	return max(floor+clear, faintest), true
}

// islands lists the runs of frames [from, to) in which someone speaks.
func islands(active []bool) [][2]int {
	sum := make([]int, len(active)+1)
	for i, a := range active {
		sum[i+1] = sum[i]
		if a {
			sum[i+1]++
		}
	}
	density := func(i int) float64 {
		from, to := max(0, i-around), min(len(active), i+around+1)
		return float64(sum[to]-sum[from]) / float64(2*around+1)
	}
	var out [][2]int
	on, from := false, 0
	close := func(to int) {
		// Counting around a moment blurs its edges by up to 0.3 s: the edges are where frames are active.
		for from < to && !sustained(active, from, 1) {
			from++
		}
		for to > from && !sustained(active, to-1, -1) {
			to--
		}
		if time.Duration(to-from)*frame >= minIsland {
			out = append(out, [2]int{from, to})
		}
	}
	for i := range active {
		switch d := density(i); {
		case !on && d >= begins:
			on, from = true, i
			for from > 0 && i-from < around && density(from-1) >= ends {
				from--
			}
			if n := len(out); n > 0 {
				from = max(from, out[n-1][1])
			}
		case on && d < ends:
			on = false
			close(i)
		}
	}
	if on {
		close(len(active))
	}
	return out
}

// sustained reports whether frame i is active, and so are two of the four that follow it in a
// direction: a knock beside speech is no part of it.
func sustained(active []bool, i, step int) bool {
	if !active[i] {
		return false
	}
	n := 0
	for k := 1; k <= 4; k++ {
		if j := i + k*step; j >= 0 && j < len(active) && active[j] {
			n++
		}
	}
	return n >= 2
}

// steady lists the runs of active frames [from, to) that go on as no speech does: of what one
// says, a third or more is far below its mean, as between syllables; of music, murmur or noise it
// is not (the ratio of low energy of Lu, Zhang and Jiang, 2002, over two seconds).
func (s *Sound) steady(active []bool) [][2]int {
	levels := s.Levels
	energy := make([]float64, len(levels)+1)
	for i, l := range levels {
		energy[i+1] = energy[i] + math.Pow(10, l/10)
	}
	flat, rung := make([]bool, len(levels)), make([]bool, len(levels))
	step := 5 // every tenth of a second
	for i := 0; i < len(levels); i += step {
		from, to := max(0, i-steadyWin), min(len(levels), i+steadyWin)
		mean := (energy[to] - energy[from]) / float64(to-from)
		low := 10 * math.Log10(mean*steadyLow+1e-15)
		dips, on := 0, 0
		for j := from; j < to; j++ {
			if levels[j] < low {
				dips++
			}
			if active[j] {
				on++
			}
		}
		share := float64(dips) / float64(to-from)
		is := on > (to-from)*3/4 && (share < fewDips || share < someDips && swing(levels[from:to]) < someSwing)
		ring := !is && s.rings(from, to, on)
		for j := i; j < min(len(levels), i+step); j++ {
			flat[j], rung[j] = is || ring, ring
		}
	}
	var out [][2]int
	for i := 0; i < len(flat); {
		if !flat[i] {
			i++
			continue
		}
		from, held := i, i
		// A breath in a piece of music does not make it speech.
		for ; i < len(flat) && i-held < int(2*time.Second/frame); i++ {
			if flat[i] {
				held = i + 1
			}
		}
		if time.Duration(held-from)*frame >= minSteady {
			out = append(out, s.widened(from, held, rung[from:held]))
		}
		i = max(i, held)
	}
	return out
}

// swing is how far levels swing, but for the outermost twentieth to each side.
func swing(levels []float64) float64 {
	w := slices.Clone(levels)
	slices.Sort(w)
	return w[len(w)-1-len(w)/20] - w[len(w)/20]
}

// widened moves the ends of a steady run, which are known to a second, to where it begins and
// ends: as far as levels swing no more than within it.
func (s *Sound) widened(from, to int, rung []bool) [2]int {
	levels := s.Levels
	const half = 10 // frames to each side: 0.4 s in all
	swing := func(i int) float64 { return swing(levels[max(0, i-half):min(len(levels), i+half+1)]) }
	ring := 0
	for _, r := range rung {
		if r {
			ring++
		}
	}
	var within []float64
	for i := from + steadyWin; i < to-steadyWin; i += half {
		within = append(within, swing(i))
	}
	if len(within) == 0 {
		return [2]int{from, to}
	}
	slices.Sort(within)
	limit := within[len(within)*9/10]*1.2 + 1
	// A second further in it is surely steady: from there outwards.
	a, b := min(from+steadyWin, to), max(to-steadyWin, from)
	for a > max(0, from-steadyWin) && swing(a) <= limit {
		a--
	}
	for b < min(len(levels), to+steadyWin) && swing(b) <= limit {
		b++
	}
	if 2*ring > len(rung) { // the last word before it may sound like a tone that goes on
		a = from + half
	}
	return [2]int{max(0, a-half), min(len(levels), b+half)}
}
