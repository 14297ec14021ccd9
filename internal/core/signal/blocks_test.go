package signal

import (
	"reflect"
	"slices"
	"testing"
	"time"
)

// grey is a picture of one brightness.
func grey(v byte) []byte { return slices.Repeat([]byte{v}, Width*Height) }

// dots changes some pixels of a block, from its first on, by so much.
func dots(p []byte, block, n int, by int) []byte {
	out := slices.Clone(p)
	x0, y0 := block%across*blockW, block/across*blockH
	for i := range n {
		at := (y0+i/blockW)*Width + x0 + i%blockW
		out[at] = byte(int(out[at]) + by)
	}
	return out
}

// TestADifference counts the pixels of each block that changed, and the blocks.
func TestADifference(t *testing.T) {
	a := grey(100)
	for _, by := range []int{25, -25} {
		b := dots(dots(dots(a, 0, 2, by), 57, 3, by), blocks-1, blockW*blockH, by)
		got := difference(a, b)
		want := step{count: 2}
		want.pixels[0], want.pixels[57], want.pixels[blocks-1] = 2, 3, blockW*blockH
		if got != want {
			t.Errorf("by %d: %d blocks, %v", by, got.count, got.pixels)
		}
	}
	for _, by := range []int{24, -24, 0} {
		if got := difference(a, dots(a, 5, 40, by)); got != (step{}) {
			t.Errorf("by %d there is a difference", by)
		}
	}
	if difference(a, a[1:]) != (step{}) || difference(a[1:], dots(a, 1, 9, 99)) != (step{}) {
		t.Error("pictures of another size differ")
	}
}

// TestTheDistance is the sum of what changed in blocks that count.
func TestTheDistance(t *testing.T) {
	a := grey(100)
	b := dots(dots(dots(a, 0, 4, 10), 21, 48, -3), 22, 10, 50)
	for _, c := range []struct {
		blocks []int
		want   int
	}{{[]int{0}, 40}, {[]int{21}, 144}, {[]int{0, 21}, 184}, {[]int{22}, 500}, {[]int{1, 20, blocks - 1}, 0}} {
		if got := (Change{changed: c.blocks}).distance(a, b); got != c.want {
			t.Errorf("in %v it is %d, want %d", c.blocks, got, c.want)
		}
	}
	if s := (Change{changed: make([]int, blocks/4)}).Share(); s != 0.25 {
		t.Errorf("a quarter of all blocks is %v", s)
	}
}

// TestTheMomentIsBetween the two pictures, at the first that is more like the one after.
func TestTheMomentIsBetween(t *testing.T) {
	c := Change{changed: []int{3}}
	at := func(s int, v byte) Picture { return Picture{time.Duration(s) * time.Second, grey(v)} }
	before, after := at(10, 0), at(20, 100)
	for name, x := range map[string]struct {
		between []Picture
		want    int
	}{
		"more like it":    {[]Picture{at(12, 49), at(15, 51), at(17, 90)}, 15},
		"in the middle":   {[]Picture{at(15, 50)}, 20},
		"at the one":      {[]Picture{at(10, 100), at(16, 100)}, 16},
		"at the other":    {[]Picture{at(20, 100)}, 20},
		"outside":         {[]Picture{at(9, 100), at(21, 100)}, 20},
		"none before it":  {[]Picture{at(11, 100)}, 11},
		"nothing between": {nil, 20},
	} {
		if got := c.Moment(before, x.between, after); got != time.Duration(x.want)*time.Second {
			t.Errorf("%s: %v, want %d s", name, got, x.want)
		}
	}
}

// steps are differences in which blocks change as lines of signs say, a line a block, # for three pixels.
func steps(lines map[int]string) []step {
	n := 0
	for _, l := range lines {
		n = len(l)
	}
	out := make([]step, n)
	for b, l := range lines {
		for i, r := range l {
			if r == '#' {
				out[i].pixels[b] = inBlock
				out[i].count++
			}
		}
	}
	return out
}

// TestWhatRests: a block moves beside a picture with which it changes and six of which it changes in two thirds, or
// now and then where few do.
func TestWhatRests(t *testing.T) {
	for name, c := range map[string]struct {
		few        bool // blocks that change with it
		line, want string
	}{
		"never":            {true, "....................", "oooooooooooooooooooo"},
		"once":             {true, ".........#..........", "oooooooooooooooooooo"},
		"always":           {true, "####################", "...................."},
		"three alone":      {true, "....#....#....#.....", "oooooooooooooooooooo"},
		"four alone":       {true, "...#....#....#....#.", "...................."},
		"four with others": {false, "...#....#....#....#.", "oooooooooooooooooooo"},
		"at the end":       {false, "...........#########", "oooooooooo.........."},
		"at the beginning": {false, "##########..........", "...........ooooooooo"},
		"four of six":      {false, "......####..........", "ooooo.oooo.ooooooooo"},
		"for a while":      {false, "......########......", "ooooo..........ooooo"},
		"with gaps":        {false, "......##.##.##......", "ooooo..o.oo.o..ooooo"},
	} {
		all := map[int]string{7: c.line}
		for b := 100; !c.few && b < 130; b++ {
			all[b] = c.line
		}
		got := ""
		for _, blocks := range rest(steps(all)) {
			if !blocks[8] {
				t.Errorf("%s: what never changes moves", name)
			}
			got += map[bool]string{true: "o", false: "."}[blocks[7]]
		}
		if got != c.want {
			t.Errorf("%s:\n%s rests\n%s, want\n%s", name, c.line, got, c.want)
		}
	}
}

// TestALineStays: what was added stands still after it, and nothing stood there before.
func TestALineStays(t *testing.T) {
	a := grey(200)
	line := dots(a, 30, 24, -150)
	other := dots(a, 30, 24, 50)
	for name, c := range map[string]struct {
		pictures [][]byte
		i        int
		want     bool
	}{
		"it stays":              {[][]byte{a, a, a, line, line, line, line}, 3, true},
		"at the very end":       {[][]byte{a, a, a, line}, 3, false},
		"it goes at once":       {[][]byte{a, a, a, line, a, a}, 3, false},
		"the next slide came":   {[][]byte{a, a, a, line, line, a, a}, 3, true},
		"it was there before":   {[][]byte{a, line, a, line, line, line, line}, 3, false},
		"something else was":    {[][]byte{other, other, a, line, line, line, line}, 3, true},
		"near the beginning":    {[][]byte{a, line, line, line}, 1, true},
		"it was there long ago": {[][]byte{line, line, a, a, a, a, line, line, line, line}, 6, true},
		"three pictures ago":    {[][]byte{a, line, a, a, line, line, line}, 4, false},
	} {
		var pictures []Picture
		for n, p := range c.pictures {
			pictures = append(pictures, Picture{time.Duration(2*n) * time.Second, p})
		}
		if got := stays(pictures, c.i, []int{30}); got != c.want {
			t.Errorf("%s: %v", name, got)
		}
	}
}

// TestASlideAtItsBounds: how many blocks change, how far apart slides are, and how many there are at most.
func TestASlideAtItsBounds(t *testing.T) {
	a := grey(200)
	changed := func(n, pixels int) []byte {
		p := a
		for b := range n {
			p = dots(p, 2*b, pixels, -150)
		}
		return p
	}
	stay := func(p []byte) [][]byte { return [][]byte{a, a, p, p, p} }
	run := func(apart time.Duration, pictures ...[]byte) []int {
		var all []Picture
		for n, p := range pictures {
			all = append(all, Picture{time.Duration(n) * apart, p})
		}
		return at(Changes(all))
	}
	for name, c := range map[string]struct {
		apart    time.Duration
		pictures [][]byte
		want     []int
	}{
		"eight blocks":         {2 * time.Second, [][]byte{a, a, changed(8, 48), a, a}, []int{0, 2, 3}},
		"seven blocks":         {2 * time.Second, [][]byte{a, a, changed(7, 48), a, a}, []int{0}},
		"eight hardly changed": {2 * time.Second, [][]byte{a, a, changed(8, 9), a, a}, []int{0}},
		"a line of three":      {2 * time.Second, stay(changed(3, 6)), []int{0, 2}},
		"a line of two":        {2 * time.Second, stay(changed(2, 48)), []int{0}},
		"hardly a line":        {2 * time.Second, stay(changed(3, 4)), []int{0}},
		"a second apart":       {time.Second, [][]byte{a, grey(0), a, grey(0)}, nil},
		"less than a second":   {999 * time.Millisecond, [][]byte{a, grey(0), grey(0), grey(0)}, []int{0}},
		"two seconds later":    {time.Second, [][]byte{a, a, a, grey(0), grey(0), grey(0)}, []int{0, 3}},
	} {
		if got := run(c.apart, c.pictures...); c.want != nil && !reflect.DeepEqual(got, c.want) {
			t.Errorf("%s: %v, want %v", name, got, c.want)
		}
	}
	for long, want := range map[int]int{4: 10, 3: 1} { // more than twelve in a minute or so are a film
		var quick [][]byte
		for n := range 40 {
			quick = append(quick, slide(int64(n/long)))
		}
		if got := run(2*time.Second, quick...); len(got) != want {
			t.Errorf("of slides of %d pictures there are %d, want %d", long, len(got), want)
		}
	}
}
