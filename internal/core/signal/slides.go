package signal

import (
	"time"
)

// Picture is one picture of a recording, small and grey.
type Picture struct {
	At   time.Duration
	Grey []byte // Width by Height, one byte a pixel
}

// The size of the pictures in which slides are looked for, and of the blocks in which what moves
// is told from what changes.
const (
	Width, Height  = 160, 90
	blockW, blockH = 8, 6
	across, down   = Width / blockW, Height / blockH
	blocks         = across * down
)

const (
	differs     = 24    // of 255, per pixel
	inBlock     = 3     // pixels of a block, with which it has changed
	pixels      = 0.008 // share of all pixels at rest that change with a slide
	blockShare  = 0.025 // share of all blocks at rest
	linePixels  = 0.001 // share of pixels of which at least a line of text consists that is added to a slide
	lineBlocks  = 3     // and blocks: it counts as a slide when it stays
	lineStays   = 3     // pictures after it in which it stands, and before it in which it does not
	leastApart  = time.Second
	mostPerHour = 360 // slides; beyond that the picture is a film

	beside = 6    // pictures to one side by which it is seen that a block moves
	moves  = 0.66 // share of those in which it changes
	lately = 60   // pictures to each side by which it is seen that a block moves now and then
	alone  = 0.08 // share of all blocks; when fewer change, it is not the slide
	nowAnd = 0.20 // share of such pictures in which a block that moves now and then changes
)

// Change is where a slide begins.
type Change struct {
	Picture int   // the first picture that shows it; 0 for the first of all
	changed []int // the blocks by which it differs from the one before
}

// Share is how much of the picture changes, by blocks: 0 to 1.
func (c Change) Share() float64 { return float64(len(c.changed)) / blocks }

// Changes lists the slides of a recording by the pictures given, which are a second or two
// apart. What moves all the time or now and then (a speaker, a film, a pointer) begins none.
func Changes(pictures []Picture) []Change {
	if len(pictures) == 0 {
		return nil
	}
	n := len(pictures)
	diffs := make([]step, n)
	for i := 1; i < n; i++ {
		diffs[i] = difference(pictures[i-1].Grey, pictures[i].Grey)
	}
	resting := rest(diffs)
	out := []Change{{}}
	scores := []float64{1}
	for i := 1; i < n; i++ {
		var changed []int
		px, still := 0, 0
		for b := range blocks {
			if !resting[i][b] {
				continue
			}
			still++
			if c := diffs[i].pixels[b]; c >= inBlock {
				px += int(c)
				changed = append(changed, b)
			}
		}
		if still < blocks/10 { // a film, or a camera that is carried
			continue
		}
		share := float64(px) / float64(still*blockW*blockH)
		large := share >= pixels && float64(len(changed)) >= blockShare*float64(still)
		if !large && !(share >= linePixels && len(changed) >= lineBlocks && stays(pictures, i, changed)) ||
			pictures[i].At-pictures[out[len(out)-1].Picture].At < leastApart {
			continue
		}
		out, scores = append(out, Change{i, changed}), append(scores, share)
	}
	most := max(12, int(mostPerHour*(pictures[n-1].At-pictures[0].At).Hours()))
	for limit := 2 * pixels; len(out) > most && limit < 1; limit *= 1.5 {
		kept, keptScores := out[:1], scores[:1]
		for i := 1; i < len(out); i++ {
			if scores[i] >= limit {
				kept, keptScores = append(kept, out[i]), append(keptScores, scores[i])
			}
		}
		out, scores = kept, keptScores
	}
	return out
}

// stays reports whether what changed in picture i stands still after it, and did before it, so that it is
// a line that was added, and neither a pointer nor a speaker.
func stays(pictures []Picture, i int, changed []int) bool {
	c := Change{changed: changed}
	if i+1 >= len(pictures) {
		return false
	}
	step := c.distance(pictures[i-1].Grey, pictures[i].Grey)
	for k := 1; k <= lineStays; k++ {
		if j := i + k; j < len(pictures) && 8*c.distance(pictures[i].Grey, pictures[j].Grey) > step {
			if k == 1 {
				return false
			}
			break // the next slide came
		}
	}
	for k := 2; k <= lineStays; k++ {
		if j := i - k; j >= 0 && 8*c.distance(pictures[i-1].Grey, pictures[j].Grey) > step {
			return c.distance(pictures[j].Grey, pictures[i].Grey) > step/2
		}
	}
	return true
}

// Moment is when the slide of a change begins: at the first of the pictures between that is more
// like the one after than like the one before. It is that of the one after when there is none.
func (c Change) Moment(before Picture, between []Picture, after Picture) time.Duration {
	for _, p := range between {
		if p.At <= before.At || p.At >= after.At {
			continue
		}
		if c.distance(p.Grey, after.Grey) < c.distance(p.Grey, before.Grey) {
			return p.At
		}
	}
	return after.At
}

// distance is how far two pictures differ where the slide changes.
func (c Change) distance(a, b []byte) int {
	sum := 0
	for _, n := range c.changed {
		x0, y0 := n%across*blockW, n/across*blockH
		for y := y0; y < y0+blockH; y++ {
			for i := y*Width + x0; i < y*Width+x0+blockW; i++ {
				d := int(a[i]) - int(b[i])
				sum += max(d, -d)
			}
		}
	}
	return sum
}

// step is how two pictures differ: pixels that changed, by block.
type step struct {
	pixels [blocks]uint8
	count  int // blocks that changed
}

func difference(a, b []byte) step {
	var out step
	if len(a) != Width*Height || len(b) != Width*Height {
		return out
	}
	for y := range Height {
		row := y / blockH * across
		for x := range Width {
			i := y*Width + x
			if d := int(a[i]) - int(b[i]); d > differs || d < -differs {
				out.pixels[row+x/blockW]++
			}
		}
	}
	for _, n := range out.pixels {
		if n >= inBlock {
			out.count++
		}
	}
	return out
}

// rest says for each picture which blocks do not move around it.
func rest(diffs []step) [][blocks]bool {
	n := len(diffs)
	out := make([][blocks]bool, n)
	// Sums over all pictures so far, by block: changes, and changes of few blocks at once.
	all, few := make([][blocks]int32, n+1), make([][blocks]int32, n+1)
	fewPictures := make([]int32, n+1)
	for i, d := range diffs {
		all[i+1], few[i+1], fewPictures[i+1] = all[i], few[i], fewPictures[i]
		small := float64(d.count) < alone*blocks
		if small {
			fewPictures[i+1]++
		}
		for b, px := range d.pixels {
			if px >= inBlock {
				all[i+1][b]++
				if small {
					few[i+1][b]++
				}
			}
		}
	}
	share := func(b, from, to int) float64 {
		from, to = max(1, from), min(n, to)
		if to <= from {
			return 0
		}
		return float64(all[to][b]-all[from][b]) / float64(to-from)
	}
	for i := range n {
		from, to := max(1, i-lately), min(n, i+lately+1)
		quiet := max(1, fewPictures[to]-fewPictures[from])
		for b := range blocks {
			// What moves does so in the next picture too, to one side or the other, and for some time.
			before, after := share(b, i-beside, i), share(b, i+1, i+1+beside)
			moving := before >= moves && share(b, i-1, i) > 0 || after >= moves && share(b, i+1, i+2) > 0
			lone := few[to][b] - few[from][b]
			out[i][b] = !moving && (lone < 3 || float64(lone)/float64(quiet) < nowAnd)
		}
	}
	return out
}
