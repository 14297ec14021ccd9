package capture

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"time"

	"latelantern/internal/core/splice"
	"latelantern/internal/core/tally"
	"latelantern/internal/format/fmp4"
	"latelantern/internal/platform/media"
)

// Watchable says when something of a file can be watched.
type Watchable string

// The ways.
const (
	AtOnce    Watchable = "at_once"        // its pictures and sound are used as they are
	AfterCopy Watchable = "after_own_copy" // as far as a copy of it that is made anew has come
	Never     Watchable = "no"
)

// Finding is what an import would make of a file.
type Finding struct {
	Format    media.Format // "" when it is none that can be taken
	Video     *media.VideoProbe
	Audio     *media.AudioProbe
	Length    time.Duration // that can be read
	Said      time.Duration // that the file claims; 0 when it does not say
	Watchable Watchable
	Fault     Fault // why Never
	// What must be encoded anew, after which it is AfterCopy.
	EncodePictures, EncodeSound bool
}

// CutOff reports whether less of the file is there than its head says; other formats only guess
// how long they are.
func (f Finding) CutOff() bool {
	_, cut := tally.CutOff(f.Said, f.Length)
	return cut && how{format: f.Format}.says()
}

// ErrNoFile says that a path leads to a folder, a device or a pipe.
var ErrNoFile = errors.New("this is no file, but a folder, a device or a pipe")

// Examine says what an import would make of a file. Nothing but the file is read. Its error is
// ErrNoFile, that the file cannot be opened, or that a media tool failed by itself.
func Examine(ctx context.Context, path string) (Finding, error) {
	f, _, err := examine(ctx, path)
	return f, err
}

// openFile opens a file for reading, by its whole path, since the tools work elsewhere. A pipe is not opened: that
// would wait for someone who writes.
func openFile(path string) (f *os.File, size int64, err error) {
	if path, err = filepath.Abs(path); err != nil {
		return nil, 0, fmt.Errorf("examine a file: %w", err)
	}
	about, err := os.Stat(path)
	if err != nil {
		return nil, 0, fmt.Errorf("examine a file: %w", err)
	}
	if !about.Mode().IsRegular() {
		return nil, 0, fmt.Errorf("examine %s: %w", filepath.Base(path), ErrNoFile)
	}
	if f, err = os.Open(path); err != nil {
		return nil, 0, fmt.Errorf("examine a file: %w", err)
	}
	return f, about.Size(), nil
}

func examine(ctx context.Context, path string) (out Finding, h how, err error) {
	out = Finding{Watchable: Never}
	f, size, err := openFile(path)
	if err != nil {
		return out, h, err
	}
	defer f.Close()
	begin := make([]byte, media.SniffLength)
	n, err := io.ReadFull(f, begin)
	if n == 0 {
		if err != io.EOF {
			return out, h, fmt.Errorf("examine a file: %w", err)
		}
		out.Fault = Empty
		return out, h, nil
	}
	if out.Format, err = media.Sniff(begin[:n]); err != nil {
		out.Fault = noMedia(err)
		return out, h, nil
	}
	in := media.Input{Format: out.Format, Path: f.Name()}
	h = how{format: out.Format}
	h.probe, err = media.Look(ctx, in, nil)
	if ctx.Err() != nil {
		return out, h, ctx.Err()
	}
	if err != nil || h.probe.Video == nil && h.probe.Audio == nil {
		out.Fault = Unreadable
		if out.Format == media.MOV && media.Unfinished(f, size) {
			out.Fault = Unfinished
		}
		return out, h, nil
	}
	out.Video, out.Audio, out.Said = h.probe.Video, h.probe.Audio, h.probe.Duration
	if h.decide(File) != nil {
		out.Fault = Encrypted
		return out, h, nil
	}
	reach, err := media.Readable(ctx, in)
	if err != nil || reach.Length == 0 {
		out.Fault = Unreadable
		return out, h, ctx.Err()
	}
	out.Length = reach.Length
	if p, a := reach.Video, reach.Audio; h.probe.Video != nil && h.probe.Audio != nil {
		h.encodePictures = h.encodePictures || p.Start-a.Start > alone || a.End-p.End > alone
	}
	if h.probe.Video != nil && !h.encodePictures {
		fit, err := h.groupsFit(ctx, in)
		if err != nil {
			return out, h, err
		}
		h.encodePictures = !fit
	}
	out.EncodePictures, out.EncodeSound = h.encodePictures, h.encodeSound
	out.Watchable = AtOnce
	if out.EncodePictures || out.EncodeSound {
		out.Watchable = AfterCopy
	}
	return out, h, nil
}

// groupsFit reports whether the groups of pictures of a file can be used as they are: each can
// be decoded without the one before, and none is very long.
func (h how) groupsFit(ctx context.Context, in media.Input) (bool, error) {
	reader, writer := io.Pipe()
	var fault error
	var timescale uint32
	done := make(chan struct{})
	go func() {
		defer close(done)
		fault = fmp4.Read(reader, func(x fmp4.Init) error { timescale = x.Timescale; return nil },
			func(f fmp4.Fragment) error { return usable(f, timescale) })
		reader.CloseWithError(fault)
	}()
	_, err := media.FFmpeg(ctx,
		media.Run{Limit: time.Hour, CPU: 10 * time.Minute, Input: in, Output: append(picturesArgs(h, File), "pipe:1"),
			Stdout: writer})
	writer.Close()
	<-done
	if errors.Is(fault, splice.ErrOpenGroup) || errors.Is(fault, errLongGroup) {
		return false, nil
	}
	if ctx.Err() != nil {
		return false, ctx.Err()
	}
	if err != nil && !errors.Is(err, media.ErrTool) { // what breaks off is used as far as it goes
		return false, err
	}
	return true, nil
}
