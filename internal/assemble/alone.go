package assemble

import (
	"context"
	"time"

	"latelantern/internal/core/span"
	"latelantern/internal/measure"
	"latelantern/internal/platform/blobs"
	"latelantern/internal/publication"
	"latelantern/internal/recordings"
)

// Alone is a packaged file outside of any library: what the command line works on, with the same
// code as the server.
type Alone struct {
	reader *recordings.Reader
	file   recordings.Part
}

// OpenAlone opens a file that was packaged under a key of a disk. Its error is recordings.ErrNotReady when nothing of
// it can be played.
func OpenAlone(disk blobs.Keeper, key string, pictures, sound bool) (*Alone, error) {
	r := recordings.New(nil, disk)
	file, err := r.File(key, pictures, sound)
	if err != nil {
		return nil, err
	}
	return &Alone{r, file}, nil
}

// Length is that of the whole file.
func (a *Alone) Length() time.Duration { return a.file.Length() }

// Analyse measures the file as the server does for a strip page.
func (a *Alone) Analyse(ctx context.Context) (measure.Analysis, error) {
	return measure.Analyse(ctx, a.reader, a.file)
}

// Cut writes what is kept of the file to path as one MP4 file, as an edition is published and
// taken away. It gives the stretches as they could be kept, snapped to pictures.
func (a *Alone) Cut(ctx context.Context, kept span.Set, path string) (*recordings.Presentation, error) {
	return publication.Cut(ctx, a.reader, a.file, kept, path)
}
