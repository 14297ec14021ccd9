package library

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/span"
	"latelantern/internal/core/splice"
	"latelantern/internal/format/fmp4"
)

// Captured is a recording as it was captured, up to now while it still runs. Where nothing
// was captured it is black and silent, so that its clock is that of the recording.
func (s *Service) Captured(ctx context.Context, recording uuid.UUID) (*Rendition, error) {
	x, err := s.source(ctx, recording)
	if err != nil {
		return nil, err
	}
	return s.captured(x, span.Set{})
}

// Live is a recording as it is followed while it runs: as captured, but black and silent where something was struck
// meanwhile, and in whatever is not of the same run.
func (s *Service) Live(ctx context.Context, recording uuid.UUID) (*Rendition, error) {
	x, err := s.source(ctx, recording)
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
func (x source) run() (from time.Duration) {
	for i := 1; i < len(x.laid); i++ {
		if x.laid[i].At.Start-x.laid[i-1].At.End > together {
			from = x.laid[i].At.Start
		}
	}
	return from
}

// captured is what of a source is not hidden, on its own clock.
func (s *Service) captured(x source, hidden span.Set) (out *Rendition, err error) {
	out = &Rendition{Ended: x.ended, Length: x.end()}
	for _, shown := range span.Of(span.Span{End: out.Length}).Subtract(hidden).Spans() {
		out.Stretches = append(out.Stretches, splice.Stretch{Source: shown, At: shown.Start})
	}
	pictures := func(p part) (*packedTrack, time.Duration) { return p.pictures, 0 }
	if out.Pictures, err = s.whole(x, black(), hidden, pictures); err != nil {
		return nil, err
	}
	second := func(p part) (*packedTrack, time.Duration) { return p.second, p.lag }
	if out.Second, err = s.whole(x, black(), hidden, second); err != nil {
		return nil, err
	}
	sound := func(p part) (*packedTrack, time.Duration) { return p.sound, 0 }
	out.Sound, err = s.whole(x, silence(), hidden, sound)
	return out, err
}

// whole lays one rail of all parts, but for segments that hold anything hidden.
func (s *Service) whole(
	x source, b *blank, hidden span.Set, of func(part) (*packedTrack, time.Duration),
) (*Rail, error) {
	l := s.laying(b, nil)
	for i, piece := range x.laid {
		p := x.parts[piece.Part]
		t, lag := of(p)
		if t == nil {
			continue
		}
		reel := -1
		start := p.start + lag
		cut := piece.At.Start > p.start // what the part has before that is shown by another
		for _, step := range splice.Whole(&t.Index).Steps {
			at := start + t.Index.Time(step.Out)
			if t.Init.Width == 0 && (cut || piece.At.End < p.start+p.length()) {
				// Sound is cut to its frames, so that nothing is heard of what is another's.
				var ok bool
				if step, ok = t.Index.Within(step, t.Index.Ticks(piece.At.Start-start), t.Index.Ticks(piece.At.End-start)); !ok {
					continue
				}
				at = max(at, start+t.Index.Time(step.Out))
			} else if cut && at < piece.At.Start || at >= piece.At.End && piece.At.End < p.start+p.length() {
				continue
			}
			if !hidden.Intersect(span.Of(span.Span{Start: at, End: at + t.Index.Time(step.Dur)})).Empty() {
				continue
			}
			if i > 0 || start > 0 || !hidden.Empty() { // a track may begin a moment late by itself
				if err := l.fill(at, true); err != nil {
					return nil, err
				}
			}
			if reel < 0 {
				reel = l.reel(t.reel())
			}
			step.Out += t.Index.Ticks(start)
			it, data, err := s.place(t, step, nil)
			if err != nil {
				return nil, err
			}
			l.add(it, reel, at, data)
		}
	}
	if t, _ := of(x.parts[x.laid[len(x.laid)-1].Part]); t == nil {
		if err := l.fill(x.end(), x.ended); err != nil {
			return nil, err
		}
	}
	return l.done()
}

// place makes the item of one step. A copied step needs no bytes; for the others data are
// those of a new segment with the given samples, or with those of the source when samples
// is nil.
func (s *Service) place(t *packedTrack, step splice.Step, samples [][]byte) (it Item, data []byte, err error) {
	if step.Kind == splice.Copy {
		seg := t.Index.Segments[step.First]
		first := t.Index.Samples[seg.First]
		return Item{Off: seg.Off, Len: seg.Len, TfdtAt: seg.TfdtAt, Time: first.DTS + step.Out - step.Source, Dur: step.Dur, Frames: step.To - step.From}, nil, nil
	}
	if samples == nil {
		if samples, err = s.samples(t, step); err != nil {
			return it, nil, err
		}
	}
	payload := make([]fmp4.Payload, len(samples))
	at := step.Source
	for i := range samples {
		n := step.From + i
		end := step.Source + step.Dur
		if i+1 < len(samples) {
			end = t.Index.Shown(n + 1).PTS
		}
		payload[i] = fmp4.Payload{Data: samples[i], Dur: uint32(max(0, end-at)), Sync: i == 0 || t.Init.Width == 0}
		at = end
	}
	track, err := fmp4.TrackID(t.Init.Raw)
	if err != nil {
		return it, nil, err
	}
	data, tfdtAt, err := fmp4.Write(1, track, payload)
	if err != nil {
		return it, nil, err
	}
	return Item{Piece: true, Len: int64(len(data)), TfdtAt: tfdtAt, Time: step.Out, Dur: step.Dur, Frames: len(samples)}, data, nil
}

// samples reads the samples that a carried step shows.
func (s *Service) samples(t *packedTrack, step splice.Step) ([][]byte, error) {
	f, err := s.Blobs.Open(t.key + ".mp4")
	if err != nil {
		return nil, err
	}
	defer f.Close()
	var out [][]byte
	for n := step.From; n < step.To; n++ {
		x := t.Index.Shown(n)
		b := make([]byte, x.Size)
		if _, err := f.ReadAt(b, x.Off); err != nil {
			return nil, fmt.Errorf("read a sample: %w", err)
		}
		out = append(out, b)
	}
	return out, nil
}
