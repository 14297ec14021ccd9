package measure

import (
	"context"
	"fmt"
	"math"
	"time"

	"latelantern/internal/core/signal"
	"latelantern/internal/core/span"
	"latelantern/internal/platform/clock"
	"latelantern/internal/recordings"
)

// Analysis is what is found in a file.
type Analysis struct {
	Speech    span.Set
	Proposals []signal.Proposal
	Slides    []time.Duration // when each begins
	Loudness  *float64        // LUFS; nil when there is nothing to be heard
}

// Analyse measures a file that is in no library as the server does for a strip page.
func Analyse(ctx context.Context, r *recordings.Reader, file recordings.Part) (Analysis, error) {
	s := &Service{Blobs: r.Blobs, Clock: clock.Clock{}, Recordings: r}
	var out Analysis
	if t := file.Audio; t != nil {
		var heard hearing
		if err := s.listen(ctx, t, &heard, true); err != nil {
			return out, fmt.Errorf("measure the sound: %w", err)
		}
		out.Speech = heard.sound.Speech()
		if l := heard.meter.Levels.Integrated(); !math.IsInf(l, 0) && !math.IsNaN(l) {
			out.Loudness = &l
		}
	}
	out.Proposals = signal.Proposals(out.Speech, file.Length())
	if t := file.Video; t != nil {
		slides, err := s.look(ctx, t, &sight{})
		if err != nil {
			return out, fmt.Errorf("look for slides: %w", err)
		}
		for _, x := range slides {
			out.Slides = append(out.Slides, x.at)
		}
	}
	return out, nil
}
