package capture

import (
	"bytes"
	"context"
	"errors"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/platform/media"
)

// Fault is why nothing of a track can be watched; the message catalogue has its sentence.
type Fault string

// The faults. A fault implements error.
const (
	Empty      Fault = "empty"      // no byte came
	NoMedia    Fault = "no_media"   // not a recording
	Encrypted  Fault = "encrypted"  // locked with a key that is not in it
	Unfinished Fault = "unfinished" // the list of where its pictures and sound lie is cut off
	// a recording by its looks, but it holds neither pictures nor sound that can be read
	Unreadable Fault = "unreadable"
)

// noMedia is the fault of bytes that are no recording: what they are, where that is known.
func noMedia(err error) Fault {
	var other media.Other
	if errors.As(err, &other) {
		return Fault(other)
	}
	return NoMedia
}

func (f Fault) Error() string { return "nothing can be watched: " + string(f) }

// how is the way a track is packaged.
type how struct {
	format         media.Format
	probe          media.Probe
	encodePictures bool
	encodeSound    bool
	changing       bool          // the pictures change their size midway, and are brought to that of the first
	before, after  time.Duration // for how long the first picture stands before it, and the last one after it
}

// lookAt is how many bytes are looked at first: a second or so of a quiet picture.
const lookAt = 16 << 10

// look waits for the first bytes and finds out what they are.
func (s *Service) look(ctx context.Context, track uuid.UUID, source Source) (how, error) {
	log, err := s.follow(ctx, track)
	if err != nil {
		return how{}, err
	}
	defer log.Close()
	begin, err := log.head(media.SniffLength)
	if err != nil {
		return how{}, err
	}
	if len(begin) == 0 {
		return how{}, Empty
	}
	var h how
	if h.format, err = media.Sniff(begin); err != nil {
		return h, noMedia(err)
	}
	file := ""
	if source == File {
		var done func()
		if file, done, err = s.Blobs.Local(logKey(track)); err != nil {
			return h, err
		}
		defer done()
	}
	for size := int64(lookAt); ; size *= 2 {
		if source == File {
			h.probe, err = media.Look(ctx, media.Input{Format: h.format, Path: file}, nil)
		} else {
			var prefix []byte
			if prefix, err = log.head(size); err != nil {
				return h, err
			}
			h.probe, err = media.Look(ctx, media.Input{Format: h.format, Path: "pipe:0"}, bytes.NewReader(prefix))
		}
		if ctx.Err() != nil {
			return h, ctx.Err()
		}
		whole := source == File || log.known.Complete() && log.known.Stored <= size
		p := h.probe.Video
		known := err == nil && (p != nil || h.probe.Audio != nil)
		if known && (whole || p == nil || p.PixelFormat != "") {
			break
		}
		if whole {
			return h, s.unreadable(track, h.format)
		}
	}
	return h, h.decide(source)
}

// unreadable is the fault of a track that is a recording by its looks alone.
func (s *Service) unreadable(track uuid.UUID, format media.Format) Fault {
	f, err := s.Blobs.Open(logKey(track))
	if err != nil {
		return Unreadable
	}
	defer f.Close()
	if format == media.MOV && media.Unfinished(f, s.Blobs.Size(logKey(track))) {
		return Unfinished
	}
	return Unreadable
}

// timed are the formats that say of each picture when it is shown, beside when it is decoded.
var timed = map[media.Format]bool{media.MOV: true, media.Matroska: true, media.MPEGTS: true, media.FLV: true}

// decide says what must be encoded anew of what the probe found. Its error is Encrypted.
func (h *how) decide(source Source) error {
	if h.probe.Encrypted {
		return Encrypted
	}
	if p := h.probe.Video; p != nil {
		h.encodePictures = !timed[h.format] || p.Codec != "h264" ||
			p.PixelFormat != "yuv420p" && p.PixelFormat != "yuvj420p" || p.Turned || p.Interlaced
	}
	if a := h.probe.Audio; a != nil {
		h.encodeSound = source.Live() || !timed[h.format] && h.format != media.AAC || a.Codec != "aac" ||
			a.Profile != "LC" || a.Rate != 48000 && a.Rate != 44100
	}
	return nil
}
