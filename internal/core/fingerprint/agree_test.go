package fingerprint

import (
	"math"
	"math/rand/v2"
	"slices"
	"testing"
)

// tells is what a window of peaks tells, computed as the definition says it.
func tells(peaks []byte, i int) (told, louder bool) {
	around := peaks[max(0, i-aroundWindows):min(len(peaks), i+aroundWindows+1)]
	sum := 0
	for _, p := range around {
		sum += int(p)
	}
	d := float64(peaks[i]) - float64(sum)/float64(len(around))
	told = int(slices.Max(around))-int(slices.Min(around)) >= telling && (d > telling/6 || d < -telling/6)
	return told, told && d > 0
}

func bit(of []uint64, i int) bool { return of[i/64]>>(i%64)&1 == 1 }

// TestWindowsTellWhatTheyShould: each window by the definition, also where they are hardly told apart.
func TestWindowsTellWhatTheyShould(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for round := range 300 {
		peaks := make([]byte, r.IntN(200))
		least, most := r.IntN(200), 1+r.IntN(30)
		for i := range peaks {
			peaks[i] = byte(least + r.IntN(most))
		}
		s := SoundOf(peaks)
		if s.Windows != len(peaks) || len(s.told) != (len(peaks)+63)/64 || len(s.louder) != len(s.told) {
			t.Fatalf("%d windows in %d and %d words of %d", s.Windows, len(s.told), len(s.louder), len(peaks))
		}
		for i := range peaks {
			if told, louder := tells(peaks, i); bit(s.told, i) != told || bit(s.louder, i) != louder {
				t.Fatalf("round %d, window %d of %v: told %v, louder %v", round, i, peaks, told, louder)
			}
		}
	}
	// By exactly how much it must differ.
	flat := func(high byte, at, n int) []byte {
		peaks := make([]byte, n)
		for i := range peaks {
			peaks[i] = 100
		}
		peaks[at] = high
		return peaks
	}
	for high, want := range map[byte]bool{100 + telling - 1: false, 100 + telling: true, 100 - telling: true} {
		if s := SoundOf(flat(high, 30, 61)); bit(s.told, 30) != want || bit(s.louder, 30) != (want && high > 100) {
			t.Errorf("%d among 100s: told %v", high, bit(s.told, 30))
		}
	}
}

// TestAgreementIsCounted window by window, wherever one lies in the other.
func TestAgreementIsCounted(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	for range 400 {
		one, other := SoundOf(lecture(r.Uint64(), 1+r.IntN(300))), SoundOf(lecture(r.Uint64(), 1+r.IntN(300)))
		offset := r.IntN(one.Windows+other.Windows) - other.Windows
		from := r.IntN(other.Windows)
		to := from + r.IntN(other.Windows-from+1)
		var want agreement
		for i := from; i < to; i++ {
			if at := i + offset; at >= 0 && at < one.Windows && bit(one.told, at) && bit(other.told, i) {
				want.told++
				if bit(one.louder, at) == bit(other.louder, i) {
					want.same++
				}
			}
		}
		if got := one.agree(other, offset, from, to); got != want {
			t.Fatalf("[%d, %d) of %d in %d at %d: %+v, want %+v", from, to, other.Windows, one.Windows, offset, got,
				want)
		}
	}
}

// TestTheMostTellingPiece is the first of those that tell most, whatever the length.
func TestTheMostTellingPiece(t *testing.T) {
	quiet := func(n int) []byte { return make([]byte, n) }
	loud := lecture(7, probe)
	for _, c := range []struct {
		name       string
		peaks      []byte
		from, size int
	}{
		{"nothing", nil, 0, 0},
		{"one window", quiet(1), 0, 1},
		{"shorter than a piece", lecture(8, 500), 0, 500},
		{"just a piece", loud, 0, probe},
		{"silence", quiet(5 * probe), 0, probe},
		{"after silence", append(quiet(2*probe), loud...), 2 * probe, probe},
		{"between silence", append(append(quiet(probe), loud...), quiet(3*probe)...), probe, probe},
		{"half a piece in", append(append(quiet(probe/2), loud...), quiet(probe)...), probe / 2, probe},
		{"twice, the first of them", append(append(append(quiet(probe), loud...), quiet(probe)...), loud...), probe,
			probe},
	} {
		if from, size := SoundOf(c.peaks).mostTelling(); from != c.from || size != c.size {
			t.Errorf("%s: %d from %d on", c.name, size, from)
		}
	}
}

// TestThePieceIsTheOneInWhichMostTell, of any windows, counted one by one.
func TestThePieceIsTheOneInWhichMostTell(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	for range 60 {
		shares := []int{r.IntN(100), r.IntN(100), r.IntN(100), r.IntN(100), r.IntN(100)}
		s := tellingSound(5*probe/2+r.IntN(probe), func(i int) (bool, bool) {
			return r.IntN(100) < shares[i*2/probe%len(shares)], false
		})
		most, want := -1, 0
		for at := 0; at+probe <= s.Windows; at += probe / 2 {
			n := 0
			for i := range probe {
				if bit(s.told, at+i) {
					n++
				}
			}
			if n > most {
				most, want = n, at
			}
		}
		if from, size := s.mostTelling(); from != want || size != probe {
			t.Fatalf("the piece from %d on, want that from %d on", from, want)
		}
	}
}

// TestAPieceIsFoundAtItsEdges: where it ends with the other, where it begins before it, and of the same length.
func TestAPieceIsFoundAtItsEdges(t *testing.T) {
	whole := lecture(11, 4*probe)
	for _, c := range []struct {
		name        string
		one, other  []byte
		offset, all int
	}{
		{"itself", whole, whole, 0, 4 * probe},
		{"its end", whole, whole[3*probe:], 3 * probe, probe},
		{"its beginning", whole, whole[:probe], 0, probe},
		{"the longer second", whole[probe : 2*probe], whole, -probe, probe},
		{"the second begins before", whole[:3*probe], append(slices.Repeat([]byte{90}, 200), whole[:2*probe]...), -200,
			2 * probe},
		{"both go on elsewhere", whole[:3*probe], append(slices.Clone(whole[probe:3*probe]), make([]byte, probe)...),
			probe, 2 * probe},
	} {
		m, ok := SoundOf(c.one).Alike(SoundOf(c.other))
		if !ok || m.Offset != c.offset || m.Overlap != c.all || m.Share < 0.98 {
			t.Errorf("%s: %+v %v", c.name, m, ok)
		}
	}
	if _, ok := SoundOf(nil).Alike(SoundOf(whole)); ok {
		t.Error("nothing is alike")
	}
	if _, ok := SoundOf(make([]byte, 2*probe)).Alike(SoundOf(make([]byte, 3*probe))); ok {
		t.Error("silence is alike")
	}
}

// tellingSound is a recording whose windows tell what they are said to.
func tellingSound(n int, window func(i int) (told, louder bool)) Sound {
	s := Sound{n, make([]uint64, (n+63)/64), make([]uint64, (n+63)/64)}
	for i := range n {
		told, louder := window(i)
		if told {
			s.told[i/64] |= 1 << (i % 64)
		}
		if told && louder {
			s.louder[i/64] |= 1 << (i % 64)
		}
	}
	return s
}

// TestHowMuchMustAgree: by how many windows and which share of them two are alike, and by which they are looked at.
func TestHowMuchMustAgree(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 9))
	pattern := make([]bool, 2000)
	for i := range pattern {
		pattern[i] = r.IntN(2) == 0
	}
	// of n windows the first so many tell, and the first so many of these are the other way about.
	of := func(n, tell, other int) Sound {
		return tellingSound(n, func(i int) (bool, bool) { return i < tell, pattern[i] != (i < other) })
	}
	for _, c := range []struct {
		name     string
		one, two Sound
		share    float64 // 0 for one that was not looked at to its end
		ok       bool
	}{
		{"just enough agree", of(1000, 1000, 150), of(1000, 1000, 0), 0.85, true},
		{"one less", of(1000, 1000, 151), of(1000, 1000, 0), 0.849, false},
		{"just enough for a second look", of(1000, 1000, 250), of(1000, 1000, 0), 0.75, false},
		{"not enough", of(1000, 1000, 251), of(1000, 1000, 0), 0, false},
		{"just enough tell", of(600, 300, 0), of(600, 300, 0), 1, true},
		{"one less", of(600, 299, 0), of(600, 299, 0), 0, false},
		{"half of a short one tells", of(500, 250, 0), of(500, 250, 0), 1, false},
		{"one less", of(500, 249, 0), of(500, 249, 0), 0, false},
		{"just enough tell in both", of(600, 150, 0), of(600, 600, 0), 1, false},
		{"one less", of(600, 149, 0), of(600, 600, 0), 0, false},
	} {
		if m, ok := c.one.Alike(c.two); ok != c.ok || math.Abs(m.Share-c.share) > 1e-9 {
			t.Errorf("%s: %+v %v", c.name, m, ok)
		}
	}
}

// TestOfTwoPlacesTheFirst is taken, and the best before both.
func TestOfTwoPlacesTheFirst(t *testing.T) {
	piece := lecture(21, probe)
	spoilt := slices.Clone(piece)
	for i := 0; i < probe; i += 9 {
		spoilt[i] = 255 - spoilt[i]
	}
	gap := make([]byte, 40)
	one := SoundOf(piece)
	for name, c := range map[string]struct {
		in   []byte
		want int
	}{
		"twice":        {append(append(append(slices.Clone(gap), piece...), gap...), piece...), 40},
		"spoilt first": {append(append(append(slices.Clone(gap), spoilt...), gap...), piece...), 80 + probe},
	} {
		if m, ok := SoundOf(c.in).Alike(one); !ok || m.Offset != c.want {
			t.Errorf("%s: %+v %v, want it at %d", name, m, ok, c.want)
		}
	}
}
