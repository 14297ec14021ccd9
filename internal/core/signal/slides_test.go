package signal

import (
	"math/rand"
	"reflect"
	"slices"
	"testing"
	"time"
)

// slide is a page with a title and some lines, which differ by its number.
func slide(number int64) []byte {
	r := rand.New(rand.NewSource(number))
	p := slices.Repeat([]byte{235}, Width*Height)
	for line := range 7 {
		y0 := 6 + line*11
		for x := 8; x < 60+r.Intn(80); x++ {
			for y := y0; y < y0+4; y++ {
				if r.Intn(3) > 0 {
					p[y*Width+x] = 40
				}
			}
		}
	}
	return p
}

// with draws a rectangle of noise over a picture.
func with(p []byte, x0, y0, w, h int, r *rand.Rand) []byte {
	out := slices.Clone(p)
	for y := y0; y < y0+h; y++ {
		for x := x0; x < x0+w; x++ {
			out[y*Width+x] = byte(r.Intn(256))
		}
	}
	return out
}

// show makes a recording of pictures two seconds apart, each slide as long as given.
func show(long int, number int, draw func(n int, p []byte) []byte) (pictures []Picture, begins []int) {
	for s := range number {
		begins = append(begins, len(pictures))
		for range long {
			n := len(pictures)
			pictures = append(pictures, Picture{time.Duration(n) * 2 * time.Second, draw(n, slide(int64(s+1)))})
		}
	}
	return pictures, begins
}

func at(changes []Change) []int {
	var out []int
	for _, c := range changes {
		out = append(out, c.Picture)
	}
	return out
}

func TestChanges(t *testing.T) {
	r := rand.New(rand.NewSource(2))
	for name, draw := range map[string]func(int, []byte) []byte{
		"still slides": func(_ int, p []byte) []byte { return p },
		"a speaker in the corner": func(_ int, p []byte) []byte {
			return with(p, 120, 60, 40, 30, r)
		},
		"a speaker who moves now and then": func(n int, p []byte) []byte {
			if n%3 == 0 {
				return with(p, 128, 66, 32, 24, rand.New(rand.NewSource(int64(n))))
			}
			return with(p, 128, 66, 32, 24, rand.New(rand.NewSource(int64(n-n%3))))
		},
		"a pointer": func(n int, p []byte) []byte { return with(p, r.Intn(Width-3), r.Intn(Height-4), 3, 4, r) },
		"grain of a camera": func(_ int, p []byte) []byte {
			out := slices.Clone(p)
			for i := range out {
				out[i] = byte(min(255, max(0, int(out[i])+int(r.NormFloat64()*5))))
			}
			return out
		},
		"a film on every second slide": func(n int, p []byte) []byte {
			if n/12%2 == 1 && n%12 > 1 {
				return with(p, 40, 20, 80, 50, r)
			}
			return p
		},
	} {
		pictures, begins := show(12, 10, draw)
		got := at(Changes(pictures))
		if name == "a film on every second slide" {
			// That a film begins, and is gone, may count: that it plays must not.
			got = slices.DeleteFunc(got, func(n int) bool { return n%12 == 2 })
		}
		if !reflect.DeepEqual(got, begins) {
			t.Errorf("%s: %v, not %v", name, got, begins)
		}
	}
	if Changes(nil) != nil {
		t.Error("slides in nothing")
	}
}

func TestSlidesInQuickSuccession(t *testing.T) {
	pictures, begins := show(2, 12, func(_ int, p []byte) []byte { return p })
	if got := at(Changes(pictures)); !reflect.DeepEqual(got, begins) {
		t.Errorf("%v, not %v", got, begins)
	}
}

func TestAFilmHasFewSlides(t *testing.T) {
	r := rand.New(rand.NewSource(3))
	var film []Picture
	for i := range 1800 {
		p := make([]byte, Width*Height)
		r.Read(p)
		film = append(film, Picture{time.Duration(i) * 2 * time.Second, p})
	}
	if n := len(Changes(film)); n > 12 {
		t.Errorf("a film of an hour has %d slides", n)
	}
}

func TestTheMomentOfAChange(t *testing.T) {
	ms := time.Millisecond
	a, b := slide(1), slide(2)
	pictures := []Picture{{0, a}, {2000 * ms, a}, {4000 * ms, b}, {6000 * ms, b}}
	changes := Changes(pictures)
	if len(changes) != 2 {
		t.Fatalf("%v", at(changes))
	}
	mixed := make([]byte, len(a))
	for i := range a {
		mixed[i] = byte((int(a[i])*2 + int(b[i])*3) / 5)
	}
	between := []Picture{{2040 * ms, a}, {2080 * ms, a}, {2120 * ms, mixed}, {2160 * ms, b}, {2200 * ms, b}}
	if m := changes[1].Moment(pictures[1], between, pictures[2]); m != 2120*ms {
		t.Errorf("it begins at %v", m)
	}
	if m := changes[1].Moment(pictures[1], nil, pictures[2]); m != 4000*ms {
		t.Errorf("with nothing between it begins at %v", m)
	}
}
