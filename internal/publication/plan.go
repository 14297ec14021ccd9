package publication

import (
	"errors"
	"time"

	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/layout"
	"latelantern/internal/core/span"
	"latelantern/internal/core/splice"
	"latelantern/internal/recordings"
)

// kind is one of the renditions of a presentation.
type kind int

const (
	video kind = iota
	second
	audio
)

// plan says of which segments a presentation consists, before any is made.
type plan struct {
	runs      []run
	stretches []cutlist.Stretch // of the source, in published order
	length    time.Duration
	filled    [3]bool // by kind: with blanks to the end
}

// run is what one rendition shows of a track from a published time on.
type run struct {
	in    kind
	track *recordings.Packed
	at    time.Duration
	steps splice.Plan
	anew  bool // all of it is encoded, not the pictures around the cuts alone
}

// planOf says how what is kept of a source is published, around the cuts alone or all of it encoded anew. Its error is
// splice.ErrNothing when nothing is left.
func planOf(x recordings.Source, struck span.Set, anew bool) (plan, error) {
	var out plan
	kept := layout.Covered(x.Laid).Subtract(struck)
	for _, piece := range x.Laid {
		local := layout.Within(piece, x.Times, kept).Spans()
		if len(local) == 0 {
			continue
		}
		if err := out.add(x.Parts[piece.Part], local, anew); err != nil && !errors.Is(err, splice.ErrNothing) {
			return out, err
		}
	}
	if out.length == 0 {
		return out, splice.ErrNothing
	}
	// A rendition that ends a little early is usual; one that the last part does not have is filled.
	several := len(x.Parts) > 1
	out.filled = [3]bool{video: several, second: true, audio: several}
	return out, nil
}

// add plans what is kept of one piece, on the clock of its part.
func (p *plan) add(part recordings.Part, kept []span.Span, anew bool) error {
	var runs []run
	var stretches []cutlist.Stretch
	var length time.Duration
	if part.Video != nil {
		steps, err := splice.Pictures(&part.Video.Index, kept)
		if err != nil {
			return err
		}
		runs = append(runs, run{in: video, track: part.Video, at: p.length, steps: steps})
		stretches, length = steps.Stretches, part.Video.Index.Time(steps.Dur)
	} else {
		for _, k := range kept {
			stretches = append(stretches, cutlist.Stretch{Source: k, At: length})
			length += k.Len()
		}
	}
	if part.Audio != nil {
		steps, err := splice.Sound(&part.Audio.Index, stretches)
		switch {
		case err == nil:
			runs = append(runs, run{in: audio, track: part.Audio, at: p.length, steps: steps})
		case !errors.Is(err, splice.ErrNothing) || part.Video == nil: // there may be pictures without sound
			return err
		}
	}
	beside, err := p.beside(part, stretches)
	if err != nil {
		return err
	}
	for _, r := range append(runs, beside...) {
		r.anew = anew || r.track.Init.Width > 0 && dearer(r.track, r.steps)
		p.runs = append(p.runs, r)
	}
	for _, x := range stretches {
		source := span.Span{Start: part.Start + x.Source.Start, End: part.Start + x.Source.End}
		p.stretches = append(p.stretches, cutlist.Stretch{Source: source, At: p.length + x.At})
	}
	p.length += length
	return nil
}

// beside plans the second video of a piece stretch by stretch where the first one is, so
// that they stay in step however many cuts there are.
func (p *plan) beside(part recordings.Part, stretches []cutlist.Stretch) ([]run, error) {
	if part.SecondVideo == nil {
		return nil, nil
	}
	var out []run
	for _, x := range stretches {
		at := span.Span{Start: max(0, x.Source.Start-part.Lag), End: x.Source.End - part.Lag}
		r, err := stretch(second, part.SecondVideo, at, p.length+x.At+max(0, part.Lag-x.Source.Start))
		if err == nil {
			out = append(out, r)
		} else if !errors.Is(err, splice.ErrNothing) {
			return nil, err
		}
	}
	return out, nil
}

// stretch plans one stretch of a video track from a published time on; it is snapped to the pictures of that track. Its
// error is splice.ErrNothing when it has none there.
func stretch(in kind, t *recordings.Packed, at span.Span, from time.Duration) (run, error) {
	at.End = min(at.End, t.Index.Duration())
	if at.Empty() {
		return run{}, splice.ErrNothing
	}
	steps, err := splice.Pictures(&t.Index, []span.Span{at})
	if err != nil {
		return run{}, err
	}
	return run{in: in, track: t, at: from + max(0, steps.Stretches[0].Source.Start-at.Start), steps: steps}, nil
}

// What encoding takes, in seconds of processor time, as measured for x264 veryfast on the machine of
// docs/measurements.md: to start the tool for a piece, and for a pixel of a picture that is encoded, or decoded alone.
const (
	startingTool  = 0.12
	encodingPixel = 3e-8
	decodingPixel = encodingPixel / 6
)

// dearer reports whether the pieces around the cuts of a plan take more than encoding all of it as one, as
// many small pieces of small pictures do.
func dearer(t *recordings.Packed, steps splice.Plan) bool {
	picture := float64(t.Init.Width * t.Init.Height)
	pieces, kept, last := 0.0, 0, 0
	for _, s := range steps.Steps {
		n := s.To - s.From
		kept += n
		last = max(last, s.To)
		if s.Kind == splice.Encode {
			pieces += startingTool + float64(n)*picture*encodingPixel
		}
	}
	return pieces > startingTool+float64(kept)*picture*encodingPixel+float64(last)*picture*decodingPixel
}
