package library

import (
	"context"
	"errors"
	"fmt"
	"math"
	"os"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/reel"
	"latelantern/internal/core/signal"
	"latelantern/internal/core/span"
	"latelantern/internal/platform/blobs"
	"latelantern/internal/platform/clock"
)

// Alone is a packaged file outside of any library: what the command line works on, with the same
// code as the server.
type Alone struct {
	service *Service
	part    part
}

// OpenAlone opens a file that was packaged under a key of a disk.
func OpenAlone(disk *blobs.Disk, key string, pictures, sound bool) (*Alone, error) {
	a := &Alone{service: New(nil, disk, nil, clock.Clock{})}
	var err error
	if pictures {
		if a.part.pictures, err = a.service.playable(key + "/pictures"); err != nil {
			return nil, err
		}
	}
	if sound {
		if a.part.sound, err = a.service.playable(key + "/sound"); err != nil {
			return nil, err
		}
	}
	if a.part.pictures == nil && a.part.sound == nil {
		return nil, ErrNotReady
	}
	return a, nil
}

// Length is that of the whole file.
func (a *Alone) Length() time.Duration { return a.part.length() }

// Analysis is what is found in a file.
type Analysis struct {
	Speech    span.Set
	Proposals []signal.Proposal
	Slides    []time.Duration // when each begins
	Loudness  *float64        // LUFS; nil when there is nothing to be heard
}

// Analyse measures the file as the server does for a strip page.
func (a *Alone) Analyse(ctx context.Context) (Analysis, error) {
	var out Analysis
	if t := a.part.sound; t != nil {
		var heard hearing
		if err := a.service.listen(ctx, t, &heard, true); err != nil {
			return out, fmt.Errorf("measure the sound: %w", err)
		}
		out.Speech = heard.sound.Speech()
		if l := heard.meter.Levels.Integrated(); !math.IsInf(l, 0) && !math.IsNaN(l) {
			out.Loudness = &l
		}
	}
	out.Proposals = signal.Proposals(out.Speech, a.Length())
	if t := a.part.pictures; t != nil {
		slides, err := a.service.look(ctx, t, &sight{})
		if err != nil {
			return out, fmt.Errorf("look for slides: %w", err)
		}
		for _, x := range slides {
			out.Slides = append(out.Slides, x.at)
		}
	}
	return out, nil
}

// Cut writes what is kept of the file to path as one MP4 file, as an edition is published and
// taken away. It gives the stretches as they could be kept, snapped to pictures.
func (a *Alone) Cut(ctx context.Context, kept span.Set, path string) (*Rendition, error) {
	whole := span.Span{End: a.Length()}
	x := source{parts: []part{a.part}, times: []reel.Part{{Length: a.Length()}}, ended: true}
	x.laid = reel.Lay(x.times)
	r, _, err := a.service.splice(ctx, x, span.Of(whole).Subtract(kept), uuid.New(), false)
	if err == nil {
		err = a.service.check(r)
	}
	if err != nil {
		return nil, err
	}
	folder, err := os.MkdirTemp("", "late-lantern-cut-")
	if err != nil {
		return nil, fmt.Errorf("make a folder for a cut: %w", err)
	}
	return r, errors.Join(a.service.copyInto(ctx, r, nil, nil, folder, path, nil), os.RemoveAll(folder))
}
