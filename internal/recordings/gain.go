package recordings

import (
	"context"
	"errors"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/signal"
	"latelantern/internal/core/span"
)

// leastGain is how far a gain must be from none to be worth anything, in dB.
const leastGain = 0.5

// GainOf is the gain by which an edition is brought to its loudness; nil when it is to be played as
// it was captured, or was not measured.
func (s *Reader) GainOf(ctx context.Context, recording uuid.UUID, r *Presentation) (*signal.Gain, error) {
	if r.Gain != nil || !r.Ended {
		return r.Gain, nil
	}
	var kept []span.Span
	length := time.Duration(0)
	for _, x := range r.Stretches {
		kept = append(kept, x.Source)
		length = max(length, x.Source.End)
	}
	strip, err := s.Strip(ctx, recording, length)
	if errors.Is(err, ErrNotReady) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	return strip.Gain(span.Of(kept...)), nil
}

// Frame is how long a picture of a recording is shown, by the first of them; 0 when it has none.
func (s *Reader) Frame(ctx context.Context, recording uuid.UUID) (time.Duration, error) {
	x, err := s.Source(ctx, recording)
	if err != nil {
		return 0, err
	}
	for _, p := range x.Parts {
		if p.Video != nil && len(p.Video.Index.Samples) > 1 {
			i := &p.Video.Index
			return i.Time(i.Shown(1).PTS - i.Shown(0).PTS), nil
		}
	}
	return 0, nil
}

// Gain is the gain of what is kept; nil when there is nothing to be heard, or it is right as it is.
func (x Strip) Gain(kept span.Set) *signal.Gain {
	g, ok := x.keptLevels(kept).Gain()
	if !ok || g.DB > -leastGain && g.DB < leastGain {
		return nil
	}
	return &g
}
