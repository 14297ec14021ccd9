package publication

import (
	"context"
	"errors"
	"fmt"
	"os"

	"github.com/google/uuid"

	"latelantern/internal/core/span"
	"latelantern/internal/platform/clock"
	"latelantern/internal/recordings"
)

// Cut writes what is kept of a file that is in no library to path as one MP4 file, as an edition is published and
// taken away. It gives the stretches as they could be kept, snapped to pictures.
func Cut(ctx context.Context, r *recordings.Reader, file recordings.Part, kept span.Set,
	path string) (*recordings.Presentation, error) {
	s := New(nil, nil, clock.Clock{}, r)
	struck := span.Of(span.Span{End: file.Length()}).Subtract(kept)
	made, _, err := s.splice(ctx, recordings.Alone(file), struck, uuid.New(), false)
	if err != nil {
		return nil, err
	}
	folder, err := os.MkdirTemp("", "late-lantern-cut-")
	if err != nil {
		return nil, fmt.Errorf("make a folder for a cut: %w", err)
	}
	return made, errors.Join(s.copyInto(ctx, made, nil, nil, folder, path, nil), os.RemoveAll(folder))
}
