package fingerprint

import "math/bits"

// Sound is by what the sound of a recording is known again, however it was encoded, however loud
// it is and wherever it was cut: of each window of sound, whether it is louder than what is around
// it, and whether that is telling at all.
type Sound struct {
	Windows      int
	louder, told []uint64 // a bit for each window
}

const (
	aroundWindows = 10 // windows to each side
	telling       = 12 // by how much the loudest window around must be louder than the quietest, of 255
	leastTelling  = 300
	probe         = 1200 // windows of the shorter one that are looked for in the longer one
	probeAlike    = 0.75
	// AlikeFrom is the share of telling windows that agree from which two recordings are taken to be
	// of the same sound. By chance it is a half.
	AlikeFrom = 0.85
)

// SoundOf makes it of the peaks of a recording, one for each window, 0 to 255.
func SoundOf(peaks []byte) Sound {
	n := len(peaks)
	s := Sound{n, make([]uint64, (n+63)/64), make([]uint64, (n+63)/64)}
	sums := make([]int, n+1)
	for i, p := range peaks {
		sums[i+1] = sums[i] + int(p)
	}
	for i, p := range peaks {
		from, to := max(0, i-aroundWindows), min(n, i+aroundWindows+1)
		low, high := p, p
		for _, q := range peaks[from:to] {
			low, high = min(low, q), max(high, q)
		}
		mean := float64(sums[to]-sums[from]) / float64(to-from)
		// Close to the mean, a little noise would turn it.
		if d := float64(p) - mean; int(high)-int(low) >= telling && (d > telling/6 || d < -telling/6) {
			s.told[i/64] |= 1 << (i % 64)
			if d > 0 {
				s.louder[i/64] |= 1 << (i % 64)
			}
		}
	}
	return s
}

// Match is how two recordings sound alike.
type Match struct {
	Share   float64 // of the telling windows of both that agree, 0 to 1
	Offset  int     // the window of the first in which the second begins; negative when it begins earlier
	Overlap int     // windows that both have
}

// Alike finds where one recording lies in another; ok is false when they are of different sound.
// It looks for a piece from the most telling part of the shorter one.
func (s Sound) Alike(o Sound) (m Match, ok bool) {
	long, short := s, o
	if o.Windows > s.Windows {
		long, short = o, s
	}
	from, size := short.mostTelling()
	if short.agree(short, 0, from, from+size).told < min(leastTelling, size/2) {
		return Match{}, false
	}
	best, at := 0.0, 0
	for offset := -from; offset+from+size <= long.Windows; offset++ {
		if a := long.agree(short, offset, from, from+size); a.told >= leastTelling/2 && a.share() > best {
			best, at = a.share(), offset
		}
	}
	if best < probeAlike {
		return Match{}, false
	}
	begin, end := max(0, -at), min(short.Windows, long.Windows-at)
	a := long.agree(short, at, begin, end)
	m = Match{a.share(), at, end - begin}
	if o.Windows > s.Windows {
		m.Offset = -at
	}
	return m, m.Share >= AlikeFrom && a.told >= leastTelling
}

// mostTelling is the piece with which a recording is looked for.
func (s Sound) mostTelling() (from, size int) {
	size = min(probe, s.Windows)
	best := -1
	for at := 0; at+size <= s.Windows; at += max(1, size/2) {
		n := 0
		for i := at; i < at+size; i++ {
			n += int(s.told[i/64] >> (i % 64) & 1)
		}
		if n > best {
			best, from = n, at
		}
	}
	return from, size
}

type agreement struct{ told, same int }

func (a agreement) share() float64 { return float64(a.same) / float64(max(1, a.told)) }

// agree compares the windows [from, to) of o with those of s that lie offset later.
func (s Sound) agree(o Sound, offset, from, to int) (a agreement) {
	from, to = max(from, -offset), min(to, s.Windows-offset)
	for i := from; i < to; i += 64 {
		told := word(s.told, i+offset) & word(o.told, i)
		if left := to - i; left < 64 {
			told &= 1<<left - 1
		}
		a.told += bits.OnesCount64(told)
		a.same += bits.OnesCount64(told &^ (word(s.louder, i+offset) ^ word(o.louder, i)))
	}
	return a
}

// word is the 64 bits from bit i on, which is one of b, or as many as follow it.
func word(b []uint64, i int) uint64 {
	n, shift := i/64, i%64
	w := b[n] >> shift
	if shift > 0 && n+1 < len(b) {
		w |= b[n+1] << (64 - shift)
	}
	return w
}
