package capture

import (
	"context"
	"errors"
	"fmt"
	"io"
	"path"
	"path/filepath"
	"time"

	"latelantern/internal/core/splice"
	"latelantern/internal/core/tally"
	"latelantern/internal/format/fmp4"
	"latelantern/internal/platform/blobs"
	"latelantern/internal/platform/media"
)

// segment runs the packager once and writes what it gives, pictures and sound apart, under a
// key. Each growth is told. An error of the tool comes with what was written until then; an error
// that something is to be encoded anew, with nothing.
func segment(ctx context.Context, disk blobs.Keeper, run media.Run, h how, source Source, key string,
	grown func(time.Duration) error) (packed, error) {
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	out := outputs{cancel: cancel, done: make(chan error, 3)}
	begin := func(name string, pictures bool) (io.Writer, error) {
		k, err := newSink(disk, path.Join(key, name), pictures, grown)
		if err != nil {
			return nil, err
		}
		if !pictures && !h.encodeSound {
			k.grid = new(grid)
		}
		out.sinks = append(out.sinks, k)
		return out.pipe(func(r io.Reader) error { return fmp4.Read(r, k.head, k.take) }), nil
	}
	var err error
	if h.probe.Video != nil {
		if run.Stdout, err = begin("pictures", true); err != nil {
			return packed{}, err
		}
		run.Output = append(append(run.Output, picturesArgs(h, source)...), "pipe:1")
	}
	if h.probe.Audio != nil {
		if run.Third, err = begin("sound", false); err != nil {
			return packed{}, err
		}
		run.Output = append(append(run.Output, soundArgs(h)...), "pipe:3")
	}
	came := newLedger(h)
	if run.Third == nil {
		run.Third = out.pipe(came.read)
		run.Output = append(run.Output, ledgerArgs(h, "pipe:3")...)
	} else {
		run.Fourth = out.pipe(came.read)
		run.Output = append(run.Output, ledgerArgs(h, "pipe:4")...)
	}
	_, toolErr := media.FFmpeg(ctx, run)
	if err := out.end(run.Stdout, run.Third, run.Fourth); err != nil {
		return packed{}, err
	}
	made := packed{sinks: out.sinks}
	if err := made.compare(h, source, came); err != nil {
		return packed{}, err
	}
	return made, toolErr
}

// outputs are what one run of the tool writes, each read as it comes.
type outputs struct {
	sinks   []*sink
	readers int
	done    chan error // of each reader, when it has read all
	cancel  func()     // ends the tool
}

// pipe is what the tool can write to, and is read from. When reading fails the tool is ended: what it goes on to write
// is of no use.
func (o *outputs) pipe(read func(io.Reader) error) io.Writer {
	o.readers++
	from, to := io.Pipe()
	go func() {
		err := read(from)
		if err != nil {
			o.cancel()
		}
		from.CloseWithError(err)
		o.done <- err
	}()
	return closer{to}
}

// end closes what was written to and waits until all of it is read and kept.
func (o *outputs) end(written ...io.Writer) error {
	for _, w := range written {
		if c, ok := w.(closer); ok {
			c.Close()
		}
	}
	var err error
	for range o.readers {
		err = errors.Join(err, <-o.done)
	}
	for _, k := range o.sinks {
		err = errors.Join(err, k.close())
	}
	return err
}

// encodeFor says whether an error of a run is that something must be encoded anew, and takes
// note of it.
func (h *how) encodeFor(err error) bool {
	var held heldFor
	switch {
	case errors.As(err, &held) && !h.held():
		h.encodePictures, h.before, h.after = true, held.before, held.after
	case errors.Is(err, errChanged) && !h.changing:
		h.encodePictures, h.changing = true, true
	case (errors.Is(err, splice.ErrOpenGroup) || errors.Is(err, errLongGroup)) && !h.encodePictures:
		h.encodePictures = true
	case errors.Is(err, errPicturesDiffer) && !h.encodePictures:
		h.encodePictures = true
	case (errors.Is(err, splice.ErrUneven) || errors.Is(err, errSoundDiffers)) && !h.encodeSound:
		h.encodeSound = true
	default:
		return false
	}
	return true
}

// Packaged tells what a file holds that was packaged.
type Packaged struct {
	Video, Audio bool
	Encoded      bool               // an own copy was made
	Differs      []tally.Difference // what cannot be watched although it came
}

// Package packages a file under a key of a disk as the server does with a file that came,
// pictures and sound as KEY/pictures and KEY/sound. Its error is a Fault for a file of which
// nothing can be watched.
func Package(ctx context.Context, disk blobs.Keeper, file, key string) (Packaged, error) {
	file, err := filepath.Abs(file)
	if err != nil {
		return Packaged{}, fmt.Errorf("find a file: %w", err)
	}
	f, h, err := examine(ctx, file)
	if err != nil {
		return Packaged{}, err
	}
	if f.Watchable == Never {
		return Packaged{}, f.Fault
	}
	for {
		run := media.Run{Limit: longestRun, Input: media.Input{Format: h.format, Path: file}}
		made, err := segment(ctx, disk, run, h, File, key, func(time.Duration) error { return nil })
		if err != nil && h.encodeFor(err) {
			if err := disk.Delete(key); err != nil {
				return Packaged{}, err
			}
			continue
		}
		out := Packaged{Encoded: h.encodePictures || h.encodeSound, Differs: made.differs}
		for _, k := range made.sinks {
			if len(k.index.Segments) > 0 {
				out.Video, out.Audio = out.Video || k.pictures, out.Audio || !k.pictures
			}
		}
		if err == nil && !out.Video && !out.Audio {
			err = Unreadable
		}
		// A source that breaks off is kept as far as it goes.
		if errors.Is(err, media.ErrTool) && (out.Video || out.Audio) {
			err = nil
		}
		return out, err
	}
}
