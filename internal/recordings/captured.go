package recordings

import (
	"context"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/span"
	"latelantern/internal/core/splice"
)

// Together is how long after a part of a lecture another may begin and still belong to the same recording.
const Together = 4 * time.Hour

// Captured is a recording as it was captured, up to now while it still runs. Where nothing
// was captured it is black and silent, so that its clock is that of the recording.
func (s *Reader) Captured(ctx context.Context, recording uuid.UUID) (*Presentation, error) {
	x, err := s.Source(ctx, recording)
	if err != nil {
		return nil, err
	}
	return s.captured(x, span.Set{})
}

// Live is a recording as it is followed while it runs: as captured, but black and silent where something was struck
// meanwhile, and in whatever is not of the same run.
func (s *Reader) Live(ctx context.Context, recording uuid.UUID) (*Presentation, error) {
	x, err := s.Source(ctx, recording)
	if err != nil {
		return nil, err
	}
	r, err := s.Recording(ctx, recording)
	if err != nil {
		return nil, err
	}
	return s.captured(x, r.Struck.Union(span.Of(span.Span{End: x.run()})))
}

// run is where the run begins that is captured last: before it nothing was for long.
func (x Source) run() (from time.Duration) {
	for i := 1; i < len(x.Laid); i++ {
		if x.Laid[i].At.Start-x.Laid[i-1].At.End > Together {
			from = x.Laid[i].At.Start
		}
	}
	return from
}

// captured is what of a source is not hidden, on its own clock.
func (s *Reader) captured(x Source, hidden span.Set) (out *Presentation, err error) {
	out = &Presentation{Ended: x.Ended, Length: x.end()}
	for _, shown := range span.Of(span.Span{End: out.Length}).Subtract(hidden).Spans() {
		out.Stretches = append(out.Stretches, cutlist.Stretch{Source: shown, At: shown.Start})
	}
	pictures := func(p Part) (*Packed, time.Duration) { return p.Video, 0 }
	if out.Video, err = s.whole(x, Video(nil), hidden, pictures); err != nil {
		return nil, err
	}
	second := func(p Part) (*Packed, time.Duration) { return p.SecondVideo, p.Lag }
	if out.SecondVideo, err = s.whole(x, Video(nil), hidden, second); err != nil {
		return nil, err
	}
	sound := func(p Part) (*Packed, time.Duration) { return p.Audio, 0 }
	out.Audio, err = s.whole(x, Audio(nil), hidden, sound)
	return out, err
}

// whole composes one rendition of all parts, but for segments that hold anything hidden.
func (s *Reader) whole(x Source, c *Composer, hidden span.Set,
	of func(Part) (*Packed, time.Duration)) (*Rendition, error) {
	for i, piece := range x.Laid {
		p := x.Parts[piece.Part]
		t, lag := of(p)
		if t == nil {
			continue
		}
		track := -1
		start := p.Start + lag
		for _, step := range splice.Whole(&t.Index).Steps {
			step, at, shown := visible(t, step, p, start, piece.At)
			if !shown || !hidden.Intersect(span.Of(span.Span{Start: at, End: at + t.Index.Time(step.Dur)})).Empty() {
				continue
			}
			if i > 0 || start > 0 || !hidden.Empty() { // a track may begin a moment late by itself
				if err := c.Fill(at, true); err != nil {
					return nil, err
				}
			}
			if track < 0 {
				track = c.Track(t.Track())
			}
			step.Out += t.Index.Ticks(start)
			it, data, err := s.Compose(t, step, nil)
			if err != nil {
				return nil, err
			}
			c.Add(it, track, at, data)
		}
	}
	if t, _ := of(x.Parts[x.Laid[len(x.Laid)-1].Part]); t == nil {
		if err := c.Fill(x.end(), x.Ended); err != nil {
			return nil, err
		}
	}
	return c.Done()
}

// visible is what of a step of a track, whose clock begins at start, belongs to the piece of its part that lies at
// within:
// the rest of the part is shown by another.
func visible(t *Packed, step splice.Step, p Part, start time.Duration,
	within span.Span) (splice.Step, time.Duration, bool) {
	at := start + t.Index.Time(step.Out)
	before, after := within.Start > p.Start, within.End < p.Start+p.Length()
	if t.Init.Width > 0 {
		return step, at, !(before && at < within.Start) && !(after && at >= within.End)
	}
	if !before && !after {
		return step, at, true
	}
	// Sound is cut to its frames, so that nothing is heard of what is another's.
	step, ok := t.Index.Within(step, t.Index.Ticks(within.Start-start), t.Index.Ticks(within.End-start))
	return step, max(at, start+t.Index.Time(step.Out)), ok
}
