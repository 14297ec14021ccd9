package signal

import (
	"math"
	"reflect"
	"slices"
	"strings"
	"testing"
	"time"

	"latelantern/internal/core/span"
)

// marks are frames written as a line of signs, of which # is active.
func marks(line string) (out []bool) {
	for _, r := range line {
		out = append(out, r == '#')
	}
	return out
}

// levels are frames in which some runs have a level each: pairs of how many and what.
func frames(runs ...float64) (out []float64) {
	for i := 0; i < len(runs); i += 2 {
		out = append(out, slices.Repeat([]float64{runs[i+1]}, int(runs[i]))...)
	}
	return out
}

// TestTheQuietest is the level of the lowest fifth and a half more, as a byte.
func TestTheQuietest(t *testing.T) {
	for _, c := range []struct {
		peaks []byte
		want  byte
	}{{[]byte{0}, 2}, {[]byte{9}, 15}, {[]byte{50, 40, 30, 20, 10}, 32}, {[]byte{9, 9, 9, 9}, 15},
		{[]byte{255, 255, 255, 200, 200}, 255}, {[]byte{170, 1, 255, 255, 255}, 255},
		{[]byte{168, 1, 255, 255, 255}, 254},
		{[]byte{1, 2, 3, 4, 5, 6, 7, 8, 9, 10}, 6}} {
		if got := quietest(c.peaks); got != c.want {
			t.Errorf("of %v it is %d, want %d", c.peaks, got, c.want)
		}
	}
}

// TestTheNearestQuiet is taken, the earlier of two alike, and none further than ten seconds.
func TestTheNearestQuiet(t *testing.T) {
	peaks := slices.Repeat([]byte{200}, 400)
	for _, i := range []int{0, 1, 100, 101, 110, 111, 300, 301} {
		peaks[i] = 1
	}
	for i := 0; i < 90; i += 2 { // one alone is none
		peaks[150+i], peaks[310+i] = 1, 1
	}
	at := func(tenths int) time.Duration { return time.Duration(tenths) * Window }
	for _, c := range []struct {
		near, want int
		ok         bool
	}{{0, 1, true}, {101, 101, true}, {105, 101, true}, {106, 101, true}, {107, 111, true}, {206, 111, true},
		{207, 301, true}, {401, 301, true}, {402, 0, false}, {220, 301, true}, {200, 111, true}} {
		if got, ok := Quiet(peaks, at(c.near)); ok != c.ok || got != at(c.want) {
			t.Errorf("near %v it is %v %v, want %v", at(c.near), got, ok, at(c.want))
		}
	}
	if got := Pauses([]byte{9, 9, 200, 9, 9, 9, 200, 200, 9}, 2*Window); !reflect.DeepEqual(got,
		[]span.Span{{Start: 0, End: 2 * Window}, {Start: 3 * Window, End: 6 * Window}}) {
		t.Errorf("pauses are %v", got)
	}
	if got := Pauses([]byte{9, 9}, 3*Window); got != nil {
		t.Errorf("what is too short is %v", got)
	}
	if got := Pauses([]byte{9, 9, 9}, 3*Window); len(got) != 1 {
		t.Errorf("what is just long enough is %v", got)
	}
}

// TestTheThreshold lies a little above the noise of the room, where something stands out of it.
func TestTheThreshold(t *testing.T) {
	for name, c := range map[string]struct {
		levels []float64
		want   float64
		ok     bool
	}{
		"nothing":              {nil, 0, false},
		"no microphone":        {frames(100, -110), 0, false},
		"just on":              {frames(100, -100), 0, false},
		"a room":               {frames(100, -60), 0, false},
		"speech in it":         {frames(60, -60, 40, -20), -54, true},
		"little stands out":    {frames(60, -60, 40, -52.5), 0, false},
		"just enough":          {frames(60, -60, 40, -52), -54, true},
		"a word in a silence":  {frames(970, -60, 30, -20), -54, true},
		"a knock in a silence": {frames(995, -60, 5, -20), 0, false},
		"no microphone before": {frames(500, -120, 60, -60, 40, -20), -54, true},
		"a very still room":    {frames(60, -99, 40, -20), -75, true},
		"at a fifth":           {frames(21, -60, 80, -20), -54, true},
		"below a fifth":        {frames(19, -60, 82, -20), 0, false},
	} {
		if got, ok := threshold(c.levels); ok != c.ok || got != c.want {
			t.Errorf("%s: %v %v, want %v %v", name, got, ok, c.want, c.ok)
		}
	}
}

// TestSwing leaves out the outermost twentieth to each side.
func TestSwing(t *testing.T) {
	ramp := make([]float64, 100)
	for i := range ramp {
		ramp[i] = float64((i * 37) % 100)
	}
	if got := swing(ramp); got != 94-5 {
		t.Errorf("of 0 to 99 it is %v", got)
	}
	if ramp[0] != 0 || ramp[1] != 37 {
		t.Error("what is asked about was put in order")
	}
	if got := swing([]float64{3, 1, 2}); got != 2 {
		t.Errorf("of three it is %v", got)
	}
	if got := swing([]float64{7}); got != 0 {
		t.Errorf("of one it is %v", got)
	}
}

// TestSustained wants two of the four that follow.
func TestSustained(t *testing.T) {
	for line, want := range map[string]bool{"#": false, "##": false, "###": true, "#.##": true, "#..##": true,
		"#...##": false, "#..#": false, ".####": false, "#.#.#": true} {
		frames := marks(line)
		if got := sustained(frames, 0, 1); got != want {
			t.Errorf("%s: %v", line, got)
		}
		slices.Reverse(frames)
		if got := sustained(frames, len(frames)-1, -1); got != want {
			t.Errorf("%s backwards: %v", line, got)
		}
	}
}

// TestIslands lie where enough frames are active, end with the active ones, and have 0.8 s at least.
func TestIslands(t *testing.T) {
	quiet, fifty, dozen := strings.Repeat(".", 60), strings.Repeat("#", 50), strings.Repeat(".", 12)
	for name, c := range map[string]struct {
		line string
		want [][2]int
	}{
		"nothing":         {quiet, nil},
		"just too short":  {quiet + strings.Repeat("#", 39) + quiet, nil},
		"just long":       {quiet + strings.Repeat("#", 40) + quiet, [][2]int{{60, 100}}},
		"to the ends":     {strings.Repeat("#", 80), [][2]int{{0, 80}}},
		"two of them":     {fifty + quiet + fifty, [][2]int{{0, 50}, {110, 160}}},
		"a short pause":   {fifty + dozen + dozen + fifty, [][2]int{{0, 124}}},
		"a knock before":  {quiet + "#" + dozen + fifty + quiet, [][2]int{{73, 123}}},
		"a knock after":   {quiet + fifty + dozen + "#" + quiet, [][2]int{{60, 110}}},
		"a third of them": {quiet + strings.Repeat("#..", 60) + quiet, nil},
		"two fifths":      {quiet + strings.Repeat("###....", 30) + quiet, [][2]int{{60, 266}}},
	} {
		if got := islands(marks(c.line)); !reflect.DeepEqual(got, c.want) {
			t.Errorf("%s: %v, want %v", name, got, c.want)
		}
	}
}

// TestWithout leaves runs of frames out.
func TestWithout(t *testing.T) {
	levels := []float64{0, 1, 2, 3, 4, 5}
	if got := without(levels, [][2]int{{0, 1}, {3, 5}}); !slices.Equal(got, []float64{1, 2, 5}) {
		t.Errorf("%v", got)
	}
	if levels[0] != 0 || !math.IsInf(without([]float64{math.Inf(1)}, nil)[0], 1) {
		t.Error("what is left is another")
	}
}
