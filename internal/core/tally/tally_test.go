package tally

import (
	"testing"
	"time"
)

const (
	ms     = time.Millisecond
	second = time.Second
)

// of is a track of frames that are so far apart.
func of(n int, start, step time.Duration) (t Track) {
	for i := range n {
		t.Add(start + time.Duration(i)*step)
	}
	return t
}

func TestAddLeavesOutWhatIsNotShown(t *testing.T) {
	var x Track
	for _, at := range []time.Duration{-21 * ms, 80 * ms, 0, 40 * ms} {
		x.Add(at)
	}
	if x != (Track{Frames: 3, Start: 0, Last: 80 * ms}) {
		t.Errorf("%+v", x)
	}
}

func TestAgrees(t *testing.T) {
	hour := of(90_000, 0, 40*ms)
	for _, c := range []struct {
		name       string
		came, made Track
		rule       Rule
		want       bool
	}{
		{"the same", hour, hour, Rule{Count: true}, true},
		{"nothing came", Track{}, Track{}, Rule{Count: true}, true},
		{"nothing was made", of(1, 0, 0), Track{}, Rule{}, false},
		{"60 frames of 2814, spread over all of it", of(2814, 0, 21*ms), of(60, 0, second), Rule{Count: true}, false},
		{"the same, of what is encoded anew", of(2814, 0, 21*ms), of(60, 0, 1001*ms), Rule{}, true},
		{"it stops midway", of(500, 0, 40*ms), of(9, 0, 40*ms), Rule{}, false},
		{"earlier by its lateness", of(500, 700*ms, 40*ms), of(500, 0, 40*ms), Rule{Count: true}, false},
		{"it begins later", of(500, 0, 40*ms), of(500, 700*ms, 40*ms), Rule{Count: true}, false},
		{"a picture stands before it", of(500, 2*second, 40*ms), of(550, 0, 40*ms), Rule{Count: true}, true},
		{"one frame is missing at the end", of(500, 0, 40*ms), of(499, 0, 40*ms), Rule{Count: true}, true},
		{"250 ms of an hour", hour, of(90_000-6, 0, 40*ms), Rule{Count: true}, true},
		{"more than that", hour, of(90_000-7, 0, 40*ms), Rule{Count: true}, false},
		{"half pictures", of(1000, 0, 20*ms), of(500, 0, 40*ms), Rule{Count: true, Fields: true}, true},
		{"half of them", of(1000, 0, 20*ms), of(500, 0, 40*ms), Rule{Count: true}, false},
		{"as late as is allowed", of(500, 0, 40*ms), of(500, 110*ms, 40*ms), Rule{Count: true}, true},
		{"as early at its end as is allowed", of(500, 0, 40*ms), Track{3, 0, 19_850 * ms}, Rule{}, true},
		{"two fifths of half pictures", of(1000, 0, 20*ms), of(400, 0, 50*ms), Rule{Count: true, Fields: true}, false},
		{"a two hundredth is missing in between", of(1000, 0, 20*ms), of(995, 0, 20_100*time.Microsecond),
			Rule{Count: true}, true},
		{"a hundredth is missing in between", of(1000, 0, 20*ms), of(990, 0, 20_200*time.Microsecond),
			Rule{Count: true}, false},
		{"250 ms of an hour in between", hour, Track{90_000 - 6, 0, hour.Last}, Rule{Count: true}, true},
		{"more of an hour in between", hour, Track{90_000 - 7, 0, hour.Last}, Rule{Count: true}, false},
		{"one picture", of(1, 0, 0), of(1, 0, 0), Rule{Count: true}, true},
		{"a quarter of half pictures", of(1000, 0, 20*ms), of(250, 0, 80*ms), Rule{Count: true, Fields: true}, false},
	} {
		if got := Agrees(c.came, c.made, c.rule); got != c.want {
			t.Errorf("%s: %v", c.name, got)
		}
	}
}

func TestLengths(t *testing.T) {
	for _, c := range []struct {
		d               Difference
		came, watchable time.Duration
	}{
		{Difference{What: Pictures, Came: of(501, 0, 40*ms), Made: of(51, 0, 40*ms)}, 20 * second, 2 * second},
		{Difference{What: Pictures, Came: of(500, 0, 40*ms), Made: of(250, 0, 80*ms)}, 19960 * ms, 9980 * ms},
		{Difference{What: Sound, Came: of(938, 0, 20*ms), Made: of(469, 0, 40*ms)}, 18740 * ms, 18720 * ms},
		{Difference{What: Sound, Came: of(11, 0, second)}, 10 * second, 0},
		{Difference{What: Sound, Came: of(11, second, second), Made: of(11, 3*second, second)}, 10 * second,
			10 * second},
		{Difference{What: Pictures}, 0, 0},
	} {
		if came, watchable := c.d.Lengths(); came != c.came || (watchable-c.watchable).Abs() > 50*ms {
			t.Errorf("%+v: %v of %v", c.d, watchable, came)
		}
	}
}

func TestAllowed(t *testing.T) {
	for length, want := range map[time.Duration]time.Duration{0: 110 * ms, 20 * second: 110 * ms, 40 * second: 200 * ms,
		time.Minute: 250 * ms, time.Hour: 250 * ms} {
		if got := Allowed(length); got != want {
			t.Errorf("of %v, %v", length, got)
		}
	}
}

func TestCutOff(t *testing.T) {
	for _, c := range []struct {
		said, length time.Duration
		want         bool
	}{{0, time.Minute, false}, {time.Minute, time.Minute, false}, {time.Hour, 59 * time.Minute, false},
		{time.Hour, 58 * time.Minute, true}, {time.Hour, 3528 * second, false}, {10 * second, 9900 * ms, false},
		{10 * second, 9700 * ms, false}, {10 * second, 9500 * ms, false},
		{10 * second, 9_499_500 * time.Microsecond, true},
		{10 * second, 9 * second, true}} {
		d, ok := CutOff(c.said, c.length)
		if came, watchable := d.Lengths(); ok != c.want || came != c.said || watchable != min(c.said, c.length) {
			t.Errorf("%v of %v: %v, %v of %v", c.length, c.said, ok, watchable, came)
		}
	}
}
