package signal

import (
	"math"
	"math/rand"
	"reflect"
	"slices"
	"testing"
	"time"

	"latelantern/internal/core/span"
)

// said are stretches of speech, from and to in seconds.
func said(seconds ...float64) (out []span.Span) {
	at := func(s float64) time.Duration { return time.Duration(math.Round(s*1000)) * time.Millisecond }
	for i := 0; i < len(seconds); i += 2 {
		out = append(out, span.Span{Start: at(seconds[i]), End: at(seconds[i+1])})
	}
	return out
}

// TestAFalseStart is short beside the lecture, soon after the first word, and a silence follows it.
func TestAFalseStart(t *testing.T) {
	for name, c := range map[string]struct {
		spoken []span.Span
		want   int
	}{
		"nothing else":            {said(0, 10), 0},
		"a silence of five":       {said(0, 10, 15, 1000), 1},
		"a shorter one":           {said(0, 10, 14.999, 1000), 0},
		"of 45 s":                 {said(0, 45, 60, 1000), 1},
		"longer":                  {said(0, 45.001, 60, 1000), 0},
		"two words, then":         {said(0, 20, 22, 47, 60, 1000), 2},
		"two words too long":      {said(0, 20, 22, 47.001, 60, 1000), 0},
		"within three minutes":    {said(0, 10, 180, 1000), 1},
		"later":                   {said(0, 10, 180.001, 1000), 0},
		"begun later":             {said(60, 70, 240, 1000), 1},
		"eight times as long":     {said(0, 10, 20, 100), 1},
		"not quite":               {said(0, 10, 20, 99.999), 0},
		"the fourth":              {said(0, 1, 2, 3, 4, 5, 6, 7, 20, 1000), 4},
		"the fifth":               {said(0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 20, 1000), 0},
		"the first silence of it": {said(0, 1, 10, 11, 20, 1000), 1},
	} {
		if got := falseStart(c.spoken); got != c.want {
			t.Errorf("%s: %d, want %d", name, got, c.want)
		}
	}
}

// TestATail is little beside the lecture, and long after its last word.
func TestATail(t *testing.T) {
	for name, c := range map[string]struct {
		spoken []span.Span
		want   int
	}{
		"nothing else":         {said(0, 1000), 0},
		"after eight seconds":  {said(0, 1000, 1008, 1010), 0},
		"sooner":               {said(0, 1000, 1007.999, 1010), 1},
		"eight times as long":  {said(0, 80, 100, 110), 0},
		"not quite":            {said(0, 79.999, 100, 110), 1},
		"two of them":          {said(0, 1000, 1010, 1011, 1012, 1013), 0},
		"the earlier silence":  {said(0, 1000, 1010, 1011, 1030, 1031), 0},
		"within five minutes":  {said(0, 1000, 1010, 1011, 1309, 1310), 0},
		"further apart":        {said(0, 1000, 1009, 1010, 1309, 1310), 1},
		"too much of it":       {said(0, 300, 310, 340, 350, 360), 1},
		"much in two halves":   {said(0, 100, 120, 220), 1},
		"little in the middle": {said(0, 1000, 1010, 1020, 1021, 1022), 0},
	} {
		if got := tail(c.spoken); got != c.want {
			t.Errorf("%s: %d, want %d", name, got, c.want)
		}
	}
}

// TestWhatIsProposedAtItsBounds: of each kind the shortest that is, and what is shorter.
func TestWhatIsProposedAtItsBounds(t *testing.T) {
	for name, c := range map[string]struct {
		spoken []span.Span
		length float64
		want   []Why
	}{
		"before and after":     {said(3.7, 600), 603.7, []Why{Before, After}},
		"hardly before":        {said(3.699, 600), 600, nil},
		"hardly after":         {said(0, 600), 603.699, nil},
		"a silence":            {said(0, 300, 306, 600), 600, []Why{Silence}},
		"a shorter one":        {said(0, 300, 305.999, 600), 600, nil},
		"a long silence":       {said(0, 300, 311.5, 600), 600, []Why{Silence}},
		"a break":              {said(0, 300, 311.501, 600), 600, []Why{Break}},
		"a tail":               {said(0, 600, 610, 611), 611, []Why{Tail}},
		"a false start":        {said(0, 5, 11, 600), 600, []Why{FalseStart}},
		"a word, and another":  {said(0, 1, 100, 101), 101, []Why{Break}},
		"a start and a tail":   {said(0, 1, 10, 600, 620, 621), 621, []Why{FalseStart, Tail}},
		"silence between them": {said(0, 1, 10, 300, 307, 600, 620, 621), 625, []Why{FalseStart, Silence, Tail, After}},
	} {
		var got []Why
		end := time.Duration(0)
		for _, p := range Proposals(span.Of(c.spoken...), time.Duration(c.length*1000)*time.Millisecond) {
			got = append(got, p.Why)
			if p.Start < end || p.End <= p.Start {
				t.Errorf("%s: %v is over what was before", name, p)
			}
			end = p.End
		}
		if !slices.Equal(got, c.want) {
			t.Errorf("%s: %v, want %v", name, got, c.want)
		}
	}
}

// TestTones are what goes through zero seldom where it is quietest.
func TestTones(t *testing.T) {
	sound := func(quiet, loud uint8) *Sound {
		s := &Sound{}
		for i := range 100 {
			l, c := -20.0, loud
			if i%5 == 0 {
				l, c = -50, quiet
			}
			s.Levels, s.Crossings = append(s.Levels, l), append(s.Crossings, c)
		}
		return s
	}
	for name, c := range map[string]struct {
		s        *Sound
		from, to int
		want     bool
	}{
		"a tone":          {sound(89, 255), 0, 100, true},
		"breath":          {sound(90, 0), 0, 100, false},
		"of some frames":  {sound(89, 255), 20, 60, true},
		"of none":         {sound(0, 0), 50, 50, false},
		"beyond what is":  {sound(0, 0), 0, 101, false},
		"one loud frame":  {sound(0, 200), 1, 2, false},
		"one quiet frame": {sound(0, 200), 5, 6, true},
	} {
		if got := c.s.tones(c.from, c.to); got != c.want {
			t.Errorf("%s: %v", name, got)
		}
	}
	tone := sound(0, 0)
	for _, c := range []struct {
		on   int
		want bool
	}{{15, true}, {14, false}} {
		for i := range tone.Levels {
			tone.Levels[i] = -20 - float64(i%2)*18.4
		}
		if got := tone.rings(0, 100, c.on); got != c.want {
			t.Errorf("with %d of a hundred active it rings: %v", c.on, got)
		}
	}
	for i := range tone.Levels {
		tone.Levels[i] = -20 - float64(i%2)*18.5
	}
	if tone.rings(0, 100, 50) {
		t.Error("what swings as far as speech rings")
	}
	if (&Sound{Levels: tone.Levels}).rings(0, 100, 50) {
		t.Error("what was not measured rings")
	}
}

// TestFar finds who is heard from further away, for six seconds at least.
func TestFar(t *testing.T) {
	const near, away, room = -20.0, -33.5, -60.0
	is := func(levels []float64) []bool {
		out := make([]bool, len(levels))
		for i, l := range levels {
			out[i] = l > -50
		}
		return out
	}
	for name, c := range map[string]struct {
		levels []float64
		want   [][2]int
	}{
		"nobody":            {frames(1000, room), nil},
		"one who speaks":    {frames(1000, near), nil},
		"chatter after":     {frames(1000, near, 300, away), [][2]int{{1000, 1300}}},
		"for a moment":      {frames(1000, near, 299, away), nil},
		"chatter before":    {frames(300, away, 1000, near), [][2]int{{0, 300}}},
		"chatter between":   {frames(700, near, 400, away, 700, near), [][2]int{{700, 1100}}},
		"hardly further":    {frames(1000, near, 400, -32.9), nil},
		"silence is none":   {frames(1000, near, 400, room), nil},
		"hardly any of it":  {frames(1000, near, 370, room, 30, away), nil},
		"a tenth of it":     {frames(1000, near, 360, room, 40, away), [][2]int{{1000, 1400}}},
		"most is far away":  {frames(200, near, 1000, away), nil},
		"a quarter is near": {frames(400, near, 1000, away), [][2]int{{400, 1400}}},
		"twice":             {frames(350, away, 2000, near, 350, away), [][2]int{{0, 350}, {2350, 2700}}},
	} {
		if got := far(c.levels, is(c.levels)); !reflect.DeepEqual(got, c.want) {
			t.Errorf("%s: %v, want %v", name, got, c.want)
		}
	}
}

// TestSteady finds what goes on as no speech does, for six seconds at least.
func TestSteady(t *testing.T) {
	r := rand.New(rand.NewSource(4))
	hum := func(n int) (out []float64) {
		for range n {
			out = append(out, -20+r.Float64())
		}
		return out
	}
	speech := func(n int) (out []float64) {
		for i := range n {
			out = append(out, []float64{-20, -21, -22, -45, -50}[i%5])
		}
		return out
	}
	near := func(a, b, by int) bool { return max(a-b, b-a) <= by }
	for name, c := range map[string]struct {
		levels []float64
		want   [][2]int
	}{
		"speech":          {speech(2000), nil},
		"a hum":           {hum(2000), [][2]int{{0, 2000}}},
		"after speech":    {append(speech(1000), hum(1000)...), [][2]int{{1000, 2000}}},
		"before speech":   {append(hum(1000), speech(1000)...), [][2]int{{0, 1000}}},
		"for too short":   {append(append(speech(1000), hum(200)...), speech(1000)...), nil},
		"with a breath":   {append(append(hum(600), frames(20, -50)...), hum(600)...), [][2]int{{0, 1220}}},
		"nothing is none": {frames(1000, -100), nil},
	} {
		s := &Sound{Levels: c.levels}
		active := make([]bool, len(c.levels))
		for i, l := range c.levels {
			active[i] = l > -40
		}
		got := s.steady(active)
		ok := len(got) == len(c.want)
		for i := 0; ok && i < len(got); i++ {
			ok = near(got[i][0], c.want[i][0], 25) && near(got[i][1], c.want[i][1], 25)
		}
		if !ok {
			t.Errorf("%s: %v, want %v", name, got, c.want)
		}
	}
}
