package splice

import (
	"errors"
	"slices"
	"testing"
	"time"

	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/span"
)

// grid is sound in frames of ten ticks of a millisecond, four to a segment, the first of which is at first.
func grid(t testing.TB, frames int, first int64) *Index {
	t.Helper()
	x := &Index{Timescale: 1000}
	for at := 0; at < frames; at += 4 {
		var all []Sample
		for i := at; i < min(at+4, frames); i++ {
			pts := first + int64(i)*10
			all = append(all, Sample{Dur: 10, Sync: true, DTS: pts, PTS: pts})
		}
		if err := x.Add(Segment{}, all); err != nil {
			t.Fatal(err)
		}
	}
	return x
}

// part is a stretch in milliseconds, and where it lies in what is published.
func part(from, to, at time.Duration) cutlist.Stretch {
	return cutlist.Stretch{Source: span.Span{Start: from * ms, End: to * ms}, At: at * ms}
}

func TestSoundInItsFrames(t *testing.T) {
	x := grid(t, 16, -10)
	for _, c := range []struct {
		name string
		in   []cutlist.Stretch
		want []Step
	}{
		{"a whole segment", []cutlist.Stretch{part(30, 70, 0)},
			[]Step{{Kind: Copy, First: 1, Last: 2, From: 4, To: 8, Source: 30, Dur: 40}}},
		{"parts of two", []cutlist.Stretch{part(40, 80, 0)}, []Step{
			{Kind: Carry, First: 1, Last: 2, From: 5, To: 8, Source: 40, Dur: 30},
			{Kind: Carry, First: 2, Last: 3, From: 8, To: 9, Source: 70, Out: 30, Dur: 10}}},
		{"a frame within a segment", []cutlist.Stretch{part(42, 54, 0)},
			[]Step{{Kind: Carry, First: 1, Last: 2, From: 5, To: 6, Source: 40, Dur: 10}}},
		{"two stretches, the second as far from its pictures as the first left it", []cutlist.Stretch{part(0, 42, 0),
			part(80, 118, 42)}, []Step{
			{Kind: Carry, First: 0, Last: 1, From: 1, To: 4, Source: 0, Dur: 30},
			{Kind: Carry, First: 1, Last: 2, From: 4, To: 5, Source: 30, Out: 30, Dur: 10},
			{Kind: Carry, Stretch: 1, First: 2, Last: 3, From: 9, To: 12, Source: 80, Out: 40, Dur: 30},
			{Kind: Carry, Stretch: 1, First: 3, Last: 4, From: 12, To: 13, Source: 110, Out: 70, Dur: 10}}},
		{"more than there is", []cutlist.Stretch{part(130, 200, 0)},
			[]Step{{Kind: Carry, First: 3, Last: 4, From: 14, To: 16, Source: 130, Dur: 20}}},
		{"a stretch without sound between two, where what comes before the second stands",
			[]cutlist.Stretch{part(30, 70, 0), part(500, 540, 40), part(30, 70, 80)}, []Step{
				{Kind: Copy, First: 1, Last: 2, From: 4, To: 8, Source: 30, Dur: 40},
				{Kind: Copy, Stretch: 2, First: 0, Last: 1, From: 0, To: 4, Source: -10, Out: 40, Dur: 40},
				{Kind: Copy, Stretch: 2, First: 1, Last: 2, From: 4, To: 8, Source: 30, Out: 80, Dur: 40}}},
	} {
		p, err := Sound(x, c.in)
		if err != nil || !slices.Equal(p.Steps, c.want) || len(p.Stretches) != len(c.in) {
			t.Errorf("%s: %+v %v", c.name, p.Steps, err)
		}
		if last := c.want[len(c.want)-1]; p.Dur != last.Out+last.Dur {
			t.Errorf("%s: of %d", c.name, p.Dur)
		}
	}
	if _, err := Sound(x, []cutlist.Stretch{part(500, 600, 0)}); !errors.Is(err, ErrNothing) {
		t.Errorf("where there is no sound: %v", err)
	}
}

func TestSoundWithoutAGrid(t *testing.T) {
	whole := []cutlist.Stretch{part(0, 1000, 0)}
	of := func(lengths ...uint32) *Index {
		x, at, all := &Index{Timescale: 1000}, int64(0), []Sample(nil)
		for _, d := range lengths {
			all = append(all, Sample{Dur: d, Sync: true, PTS: at, DTS: at})
			at += int64(d)
		}
		if err := x.Add(Segment{}, all); err != nil {
			t.Fatal(err)
		}
		return x
	}
	for _, c := range []struct {
		name string
		x    *Index
		want error
	}{
		{"no frame", of(), ErrNothing},
		{"frames without length", of(0, 0), ErrUneven},
		{"one before the last that is short", of(10, 10, 7, 10), ErrUneven},
		{"the last that is short", of(10, 10, 7), nil},
		{"the shortest", of(1, 1, 1), nil},
	} {
		if _, err := Sound(c.x, whole); !errors.Is(err, c.want) {
			t.Errorf("%s: %v", c.name, err)
		}
	}
}

func TestWholeLeavesOutWhatIsBeforeZero(t *testing.T) {
	for first, want := range map[int64][]Step{
		-10: {
			{Kind: Carry, First: 0, Last: 1, From: 1, To: 4, Source: 0, Out: 0, Dur: 30},
			{Kind: Copy, First: 1, Last: 2, From: 4, To: 8, Source: 30, Out: 30, Dur: 40},
			{Kind: Copy, First: 2, Last: 3, From: 8, To: 10, Source: 70, Out: 70, Dur: 20}},
		-50: {
			{Kind: Carry, First: 1, Last: 2, From: 5, To: 8, Source: 0, Out: 0, Dur: 30},
			{Kind: Copy, First: 2, Last: 3, From: 8, To: 10, Source: 30, Out: 30, Dur: 20}},
	} {
		p := Whole(grid(t, 10, first))
		if !slices.Equal(p.Steps, want) || p.Dur != first+100 ||
			p.Stretches[0].Source != (span.Span{End: time.Duration(first+100) * ms}) {
			t.Errorf("from %d: %+v of %d", first, p.Steps, p.Dur)
		}
	}
}

func TestWithinAStep(t *testing.T) {
	x := grid(t, 16, -10)
	step := Step{Kind: Copy, Stretch: 3, First: 1, Last: 2, From: 4, To: 8, Source: 30, Out: 200, Dur: 40}
	last := Step{Kind: Copy, First: 3, Last: 4, From: 12, To: 16, Source: 110, Out: 300, Dur: 40}
	of := func(s Step, from, to int, source, out, dur int64) Step {
		s.Kind, s.From, s.To, s.Source, s.Out, s.Dur = Carry, from, to, source, out, dur
		return s
	}
	for _, c := range []struct {
		in       Step
		from, to int64
		want     Step
	}{
		{step, 0, 1000, step},
		{step, 30, 70, step},
		{step, 41, 62, of(step, 6, 8, 50, 220, 20)},
		{step, 0, 50, of(step, 4, 6, 30, 200, 20)},
		{step, 40, 60, of(step, 5, 7, 40, 210, 20)},
		{step, 40, 1000, of(step, 5, 8, 40, 210, 30)},
		{last, 131, 1000, of(last, 15, 16, 140, 330, 10)},
	} {
		if got, ok := x.Within(c.in, c.from, c.to); !ok || got != c.want {
			t.Errorf("in [%d, %d): %+v %v", c.from, c.to, got, ok)
		}
	}
	for _, none := range [][2]int64{{0, 30}, {70, 200}, {80, 100}, {45, 45}, {-50, -20}} {
		if got, ok := x.Within(step, none[0], none[1]); ok {
			t.Errorf("in %v: %+v", none, got)
		}
	}
}

func TestTicksAreRounded(t *testing.T) {
	for _, c := range []struct {
		scale uint32
		ticks int64
		time  time.Duration
	}{{1000, 0, 0}, {1000, 1500, 1500 * ms}, {1000, -1500, -1500 * ms}, {3, 1, 333333333}, {3, -1, -333333333},
		{4_000_000_000, 18_446_744_073, 4_611_686_018}, {90000, 1 << 40, 12216795864177778}} {
		x := Index{Timescale: c.scale}
		if got := x.Time(c.ticks); got != c.time {
			t.Errorf("%d of %d are %d", c.ticks, c.scale, got)
		}
	}
	for d, want := range map[time.Duration]int64{1500 * time.Microsecond: 2, 1499 * time.Microsecond: 1,
		-1500 * time.Microsecond: -2, 400 * time.Microsecond: 0} {
		if got := (&Index{Timescale: 1000}).Ticks(d); got != want {
			t.Errorf("%v are %d ticks", d, got)
		}
	}
}

func TestTheEndOfAnIndex(t *testing.T) {
	var none Index
	if err := none.Add(Segment{}, nil); err != nil || len(none.Segments) != 0 || none.End() != 0 {
		t.Errorf("of nothing: %v, %d segments until %d", err, len(none.Segments), none.End())
	}
	if one := grid(t, 1, 20); one.End() != 30 {
		t.Errorf("of one sample: %d", one.End())
	}
	x := grid(t, 1, 20)
	if err := x.Add(Segment{}, []Sample{{Dur: 10, Sync: true, PTS: 20}}); err != nil || len(x.Segments) != 2 {
		t.Errorf("a segment that begins where the last sample does: %v", err)
	}
}

// TestTheFirstPictureStands: a cut before the first picture begins with it, one while it stands shows it.
func TestTheFirstPictureStands(t *testing.T) {
	of := func(at ...int64) *Index {
		x := &Index{Timescale: 1000}
		for i, pts := range at {
			d := uint32(40)
			if i+1 < len(at) {
				d = uint32(at[i+1] - pts)
			}
			if err := x.Add(Segment{}, []Sample{{Dur: d, Sync: true, PTS: pts, DTS: pts}}); err != nil {
				t.Fatal(err)
			}
		}
		return x
	}
	p, err := Pictures(of(2000, 2040, 2080), []span.Span{{End: 3 * sec}})
	if err != nil || p.Stretches[0].Source != (span.Span{Start: 2 * sec, End: 2120 * ms}) {
		t.Errorf("before the first: %+v %v", p.Stretches, err)
	}
	p, err = Pictures(of(0, 10_000, 10_040), []span.Span{{Start: 4 * sec, End: 11 * sec}})
	if err != nil || p.Stretches[0].Source != (span.Span{Start: 4 * sec, End: 10_080 * ms}) || p.Steps[0].From != 0 ||
		p.Steps[0].Dur != 6000 {
		t.Errorf("while the first stands: %+v %v", p, err)
	}
}
