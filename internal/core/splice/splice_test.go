package splice

import (
	"errors"
	"math/rand"
	"testing"
	"time"

	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/span"
)

const (
	ms  = time.Millisecond
	sec = time.Second
)

// film is an index of pictures: groups of `group` frames of `step` ticks, 90,000 a second.
// With reorder every second and third frame swap their order of decoding.
func film(t testing.TB, frames, group int, step int64, reorder bool) *Index {
	x := &Index{Timescale: 90000}
	for at := 0; at < frames; at += group {
		var ss []Sample
		for i := at; i < min(at+group, frames); i++ {
			shown := i
			if reorder && i+2 < min(at+group, frames) {
				shown = i + []int{0, 1, -1}[(i-at)%3]
			}
			ss = append(ss,
				Sample{Off: int64(i) * 100, Size: 100, Dur: uint32(step), Sync: i == at, DTS: int64(i) * step,
					PTS: int64(shown) * step})
		}
		if err := x.Add(Segment{Off: int64(at) * 100, Len: int64(len(ss)) * 100}, ss); err != nil {
			t.Fatal(err)
		}
	}
	return x
}

// tape is an index of sound: frames of 1024 at 48 kHz, 94 to a segment, the first before zero.
func tape(t testing.TB, length time.Duration) *Index {
	x := &Index{Timescale: 48000}
	n := int(length*48000/1024/sec) + 2
	for at := 0; at < n; at += 94 {
		var ss []Sample
		for i := at; i < min(at+94, n); i++ {
			pts := int64(i-1) * 1024
			ss = append(ss, Sample{Size: 10, Dur: 1024, Sync: true, DTS: pts, PTS: pts})
		}
		if err := x.Add(Segment{}, ss); err != nil {
			t.Fatal(err)
		}
	}
	return x
}

func TestPicturesAreExactAndUnbroken(t *testing.T) {
	r := rand.New(rand.NewSource(1))
	for _, reorder := range []bool{false, true} {
		x := film(t, 4*60*30, 60, 3000, reorder)
		sound := tape(t, 4*time.Minute)
		for range 400 {
			var in []span.Span
			for range 1 + r.Intn(6) {
				a := time.Duration(r.Intn(239)) * sec / 1 * 1
				in = append(in,
					span.Span{Start: a + time.Duration(r.Intn(1000))*ms, End: a + time.Duration(1000+r.Intn(40000))*ms})
			}
			kept := span.Of(in...).Intersect(span.Of(span.Span{End: x.Duration()})).Spans()
			p, err := Pictures(x, kept)
			if err != nil {
				t.Fatal(err)
			}
			checkPictures(t, x, p, kept)
			checkSound(t, sound, p)
		}
	}
}

func checkPictures(t *testing.T, x *Index, p Plan, kept []span.Span) {
	t.Helper()
	var shown []int
	out := int64(0)
	for _, s := range p.Steps {
		if s.Out != out {
			t.Fatalf("step %+v begins at %d, want %d", s, s.Out, out)
		}
		out += s.Dur
		if first := x.Segments[s.First]; s.Kind == Copy && (s.Last != s.First+1 || s.To-s.From != first.Count) {
			t.Fatalf("a copy is not one whole segment: %+v", s)
		}
		if s.Kind == Carry && !x.Samples[x.shown[s.From]].Sync {
			t.Fatalf("carried samples begin without a key: %+v", s)
		}
		for i := s.From; i < s.To; i++ {
			shown = append(shown, i)
			if seg := x.segmentOf(i); seg < s.First || seg >= s.Last {
				t.Fatalf("frame %d is not in the segments of %+v", i, s)
			}
		}
	}
	var want []int
	for _, k := range kept {
		for i := x.FrameFrom(x.Ticks(k.Start - near)); i < x.FrameFrom(x.Ticks(k.End-near)); i++ {
			want = append(want, i)
		}
	}
	if len(shown) != len(want) {
		t.Fatalf("kept %v: %d frames, want %d", kept, len(shown), len(want))
	}
	for i := range want {
		if shown[i] != want[i] {
			t.Fatalf("kept %v: frame %d is %d, want %d", kept, i, shown[i], want[i])
		}
	}
	if out != p.Dur || out != int64(len(want))*3000 {
		t.Fatalf("%d ticks published, want %d", out, len(want)*3000)
	}
}

func checkSound(t *testing.T, x *Index, pictures Plan) {
	t.Helper()
	p, err := Sound(x, pictures.Stretches)
	if err != nil {
		t.Fatal(err)
	}
	out := int64(0)
	for _, s := range p.Steps {
		if s.Out != out || s.Dur != int64(s.To-s.From)*1024 {
			t.Fatalf("sound step %+v at %d", s, out)
		}
		out += s.Dur
	}
	for _, d := range drift(x, p) {
		if d.Abs() > 11*ms {
			t.Fatalf("sound is %v from its picture", d)
		}
	}
}

func TestPicturesUseWhatThereIs(t *testing.T) {
	plain, reordered := film(t, 600, 60, 3000, false), film(t, 600, 60, 3000, true)
	count := func(x *Index, kept ...span.Span) map[Kind]int {
		p, err := Pictures(x, kept)
		if err != nil {
			t.Fatal(err)
		}
		n := map[Kind]int{}
		for _, s := range p.Steps {
			n[s.Kind]++
		}
		return n
	}
	for _, c := range []struct {
		name string
		x    *Index
		kept span.Span
		want map[Kind]int
	}{
		{"all of it", plain, span.Span{End: 20 * sec}, map[Kind]int{Copy: 10}},
		{"from key to key", plain, span.Span{Start: 4 * sec, End: 8 * sec}, map[Kind]int{Copy: 2}},
		{"a tail in order", plain, span.Span{Start: 4 * sec, End: 9 * sec}, map[Kind]int{Copy: 2, Carry: 1}},
		{"a tail out of order", reordered, span.Span{Start: 4 * sec, End: 8100 * ms}, map[Kind]int{Copy: 2, Encode: 1}},
		{"a head", plain, span.Span{Start: 3 * sec, End: 8 * sec}, map[Kind]int{Encode: 1, Copy: 2}},
		{"inside one group", plain, span.Span{Start: 4500 * ms, End: 5 * sec}, map[Kind]int{Encode: 1}},
		{"over one key", plain, span.Span{Start: 5 * sec, End: 7 * sec}, map[Kind]int{Encode: 1, Carry: 1}},
		{"the last group's end", plain, span.Span{Start: 19 * sec, End: 99 * sec}, map[Kind]int{Encode: 1}},
	} {
		got := count(c.x, c.kept)
		for _, k := range []Kind{Copy, Encode, Carry} {
			if got[k] != c.want[k] {
				t.Errorf("%s: %v, want %v", c.name, got, c.want)
				break
			}
		}
	}
}

func TestACutInsideAStillHoldsIt(t *testing.T) {
	x := &Index{Timescale: 1000}
	for i, at := range []int64{0, 6000, 20000} { // three stills, each its own group
		_ = i
		if err := x.Add(Segment{}, []Sample{{Size: 1, Dur: 6000, Sync: true, DTS: at, PTS: at}}); err != nil {
			t.Fatal(err)
		}
	}
	p, err := Pictures(x, []span.Span{{Start: 8 * sec, End: 15 * sec}})
	if err != nil {
		t.Fatal(err)
	}
	want := Step{Kind: Encode, First: 1, Last: 2, From: 1, To: 2, Source: 8000, Dur: 7000}
	if len(p.Steps) != 1 || p.Steps[0] != want {
		t.Errorf("%+v, want %+v", p.Steps, want)
	}
	if _, err := Pictures(x, []span.Span{{Start: 30 * sec, End: 40 * sec}}); !errors.Is(err, ErrNothing) {
		t.Errorf("after the end: %v", err)
	}
}

func TestWholeGrowsOnlyAtItsEnd(t *testing.T) {
	long := tape(t, time.Minute)
	short := &Index{Timescale: 48000}
	for _, s := range long.Segments[:5] {
		if err := short.Add(s, long.Samples[s.First:s.First+s.Count]); err != nil {
			t.Fatal(err)
		}
	}
	a, b := Whole(short), Whole(long)
	for i, s := range a.Steps {
		if s != b.Steps[i] {
			t.Errorf("step %d changed from %+v to %+v", i, s, b.Steps[i])
		}
	}
	if a.Steps[0].Kind != Carry || a.Steps[0].Out != 0 || a.Steps[1].Kind != Copy {
		t.Errorf("what lies before zero is not dropped: %+v", a.Steps[:2])
	}
}

func TestAddRefusesOpenGroups(t *testing.T) {
	for name, ss := range map[string][]Sample{
		"no key":                {{PTS: 0}},
		"shown before its key":  {{PTS: 3, Sync: true}, {PTS: 2}},
		"shown before the last": {{PTS: -5, Sync: true}},
	} {
		x := &Index{Timescale: 1}
		if err := x.Add(Segment{}, []Sample{{PTS: 0, Dur: 1, Sync: true}}); err != nil {
			t.Fatal(err)
		}
		if err := x.Add(Segment{}, ss); !errors.Is(err, ErrOpenGroup) {
			t.Errorf("%s: %v", name, err)
		}
	}
}

func TestUnevenSoundIsRefused(t *testing.T) {
	x := tape(t, 10*sec)
	x.Samples[7].Dur = 960
	if _, err := Sound(x, []cutlist.Stretch{{Source: span.Span{End: 5 * sec}}}); !errors.Is(err, ErrUneven) {
		t.Errorf("%v", err)
	}
}

// drift is how far the sound of each stretch that has any lies from its pictures: positive when sound comes late.
func drift(sound *Index, p Plan) []time.Duration {
	var out []time.Duration
	last := -1
	for _, step := range p.Steps {
		if step.Stretch == last {
			continue
		}
		last = step.Stretch
		s := p.Stretches[last]
		out = append(out, (sound.Time(step.Out)-s.At)-(sound.Time(step.Source)-s.Source.Start))
	}
	return out
}
