package demo

import (
	"bytes"
	"context"
	"slices"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/capture"
	"latelantern/internal/platform/clock"
)

// elsewhere lets files come in during the night: one that finds its lecture by the time in its
// name, one of which only the date of the file speaks, and one that is no recording.
func (l *loader) elsewhere(ctx context.Context) error {
	kelp, lights := l.lectures["ALG 118"][2], l.lectures["SIG 305"][2]
	talk, err := Film(Came.File)
	if err != nil {
		return err
	}
	other, err := Film("sig-3")
	if err != nil {
		return err
	}
	// Other files than those of the talks: each has an empty box at its end.
	box := []byte("\x00\x00\x00\x08free")
	for n, f := range []struct {
		name, folder string
		written      time.Time
		bytes        []byte
	}{
		{kelp.starts.Add(-2*time.Minute).In(l.place).Format("20060102_150405") + ".mp4", "Kelp Hall", kelp.ends,
			slices.Concat(talk, box)},
		{"MVI_0042.mp4", "", lights.starts.Add(12 * time.Minute), slices.Concat(other, box)},
		{"talk final.mp4", "", l.night, []byte("The talk as it was written down.")},
	} {
		then := l.h.At(clock.Starting(l.night.Add(time.Duration(n+1) * 4 * time.Minute)))
		size := int64(len(f.bytes))
		begun, err := then.Capture.Begin(ctx,
			capture.Start{By: l.people[coordinator], Source: capture.File, FileName: f.name, Words: f.folder,
				Modified: f.written, MediaType: "video/mp4", Length: &size})
		if err != nil {
			return err
		}
		if _, err := then.Capture.Append(ctx, begun.Track, 0, nil, bytes.NewReader(f.bytes)); err != nil {
			return err
		}
		if err := l.until(ctx, func() (bool, error) { return l.settled(ctx, begun.Track) }); err != nil {
			return err
		}
	}
	return nil
}

// settled reports whether a file waits for a person, or can be watched.
func (l *loader) settled(ctx context.Context, track uuid.UUID) (bool, error) {
	a, err := l.h.Capture.Arrival(ctx, track)
	return a.Sorted && (a.LectureID == nil || a.State == "ready"), err
}
