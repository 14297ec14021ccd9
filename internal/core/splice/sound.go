package splice

import (
	"errors"

	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/span"
)

// ErrUneven says that the frames of a sound track differ in length, so that it has no grid.
var ErrUneven = errors.New("the frames of the sound differ in length")

// frame is the length of a sound frame. Only the last frame of a track may be shorter.
func (x *Index) frame() (int64, error) {
	if len(x.Samples) == 0 {
		return 0, ErrNothing
	}
	d := x.Samples[0].Dur
	for _, s := range x.Samples[:len(x.Samples)-1] {
		if s.Dur != d {
			return 0, ErrUneven
		}
	}
	if d == 0 {
		return 0, ErrUneven
	}
	return int64(d), nil
}

// Sound plans the published sound for stretches as Pictures gave them. For each stretch
// it takes the frames that lie nearest to where the pictures are, so that sound is never
// further from its picture than half a frame, however many cuts there are. Where the
// source has no sound the track ends early.
func Sound(x *Index, stretches []cutlist.Stretch) (Plan, error) {
	length, err := x.frame()
	if err != nil {
		return Plan{}, err
	}
	p := Plan{Stretches: stretches}
	placed := int64(0) // frames so far
	for n, s := range stretches {
		at, end := x.Ticks(s.At), x.Ticks(s.At+s.Source.Len())
		want := x.Ticks(s.Source.Start) + placed*length - at
		from := x.FrameFrom(want - length/2)
		count := (end+length/2)/length - placed
		to := min(from+int(count), len(x.Samples))
		if from < to {
			x.run(&p, n, from, to, length)
			placed += int64(to - from)
		}
	}
	if len(p.Steps) == 0 {
		return p, ErrNothing
	}
	return p, nil
}

// run adds the sound frames [from, to): whole segments as they are, the rest carried over.
func (x *Index) run(p *Plan, stretch, from, to int, length int64) {
	add := func(kind Kind, a, b int) {
		d := int64(b-a) * length
		p.Steps = append(p.Steps,
			Step{Kind: kind, Stretch: stretch, First: x.segmentOf(a), Last: x.segmentOf(b-1) + 1, From: a, To: b,
				Source: x.Samples[a].PTS, Out: p.Dur, Dur: d})
		p.Dur += d
	}
	for i := x.segmentOf(from); from < to; i++ {
		s := x.Segments[i]
		switch end := s.First + s.Count; {
		case s.First >= from && end <= to:
			add(Copy, s.First, end)
			from = end
		default:
			add(Carry, from, min(end, to))
			from = min(end, to)
		}
	}
}

// Whole plans a track as it was captured, from zero: every segment as it is, but for
// samples of sound that lie before zero, which are dropped. More segments only make the
// plan longer, so that a lecture that still runs can be followed.
func Whole(x *Index) Plan {
	var p Plan
	end := x.End()
	for i, s := range x.Segments {
		from, to := s.First, s.First+s.Count
		kind := Copy
		for from < to && x.Samples[x.shown[from]].PTS < 0 {
			from++
			kind = Carry
		}
		if from == to {
			continue
		}
		stop := end
		if i+1 < len(x.Segments) {
			stop = x.Samples[x.Segments[i+1].First].PTS
		}
		at := x.Shown(from).PTS
		p.Steps = append(p.Steps,
			Step{Kind: kind, First: i, Last: i + 1, From: from, To: to, Source: at, Out: at, Dur: stop - at})
	}
	p.Dur = end
	p.Stretches = []cutlist.Stretch{{Source: span.Span{End: x.Time(end)}}}
	return p
}

// Within is what of a step of sound lies in [from, to), in ticks of the source; ok is false when
// nothing does. Frames are never cut.
func (x *Index) Within(step Step, from, to int64) (part Step, ok bool) {
	a, b := max(step.From, x.FrameFrom(from)), min(step.To, x.FrameFrom(to))
	if a >= b || a == step.From && b == step.To {
		return step, a < b
	}
	end := step.Source + step.Dur
	if b < step.To {
		end = x.Shown(b).PTS
	}
	at := x.Shown(a).PTS
	return Step{Kind: Carry, Stretch: step.Stretch, First: step.First, Last: step.Last, From: a, To: b, Source: at,
		Out: step.Out + at - step.Source, Dur: end - at}, true
}
