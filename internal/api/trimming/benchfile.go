package trimming

import (
	"context"
	"errors"
	"time"

	"latelantern/internal/api/page"
	"latelantern/internal/capture"
	"latelantern/internal/recordings"
)

// benchFile adds what the trim bench says of a file that was made elsewhere.
func (a *API) benchFile(ctx context.Context, b *Bench, r recordings.Recording) error {
	if b.OwnCopy = r.Encoded; r.PackBeganAt != nil && b.Stopped {
		b.LeftMs = page.LeftOf(b.LengthMs, b.ExpectedMs, a.Clock.Now().Sub(*r.PackBeganAt))
	}
	if r.Source != string(capture.File) || r.StoppedAt == nil || r.OriginalGoneAt != nil {
		return nil
	}
	// A file that holds more than this recording is not given out with it.
	if _, err := a.Capture.Original(ctx, r.ID); errors.Is(err, capture.ErrUnknown) {
		return nil
	} else if err != nil {
		return err
	}
	b.Original = true
	if !r.Encoded || r.PackedAt == nil {
		return nil
	}
	days, err := a.Capture.OriginalDays(ctx, r.CourseID)
	if err == nil && days > 0 {
		until := r.PackedAt.Add(time.Duration(days) * 24 * time.Hour)
		b.OriginalUntil = &until
	}
	return err
}
