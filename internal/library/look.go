package library

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"image/jpeg"
	"io"
	"slices"
	"time"

	"latelantern/internal/core/signal"
	"latelantern/internal/platform/media"
)

// The size of slide pictures.
const slideWidth, slideHeight = 2 * signal.Width, 2 * signal.Height

// found is a slide as it first appears, with its picture as JPEG.
type found struct {
	At      time.Duration
	Picture []byte
}

// look finds the slides of a track: first by its key pictures alone, then, where one follows
// another, by all pictures between the two.
func (s *Service) look(ctx context.Context, t *packedTrack) ([]found, error) {
	in, err := s.packedStream(t)
	if err != nil {
		return nil, err
	}
	defer in.Close()
	keys := &frames{times: t.Index.Keys(), at: t.Index.Time}
	_, err = media.FFmpeg(ctx, media.Run{
		Limit: 20 * time.Minute, Before: []string{"-skip_frame", "nokey"},
		Input: media.Input{Format: media.MOV, Path: "pipe:0"}, Stdin: in, Stdout: keys,
		Output: drawn,
	})
	if err != nil {
		return nil, err
	}
	changes := signal.Changes(keys.small)
	between, err := s.between(ctx, t, changes)
	if err != nil {
		return nil, err
	}
	var out []found
	for _, c := range changes {
		f := found{keys.small[c.Picture].At, keys.drawn[c.Picture]}
		if c.Picture > 0 {
			f.At = c.Moment(keys.small[c.Picture-1], between[c.Picture], keys.small[c.Picture])
		}
		out = append(out, f)
	}
	return out, nil
}

// drawn makes raw pictures of the size of slides.
var drawn = []string{"-map", "0:v:0", "-fps_mode", "passthrough",
	"-vf", fmt.Sprintf("scale=%[1]d:%[2]d:force_original_aspect_ratio=decrease,pad=%[1]d:%[2]d:-1:-1,format=yuv420p", slideWidth, slideHeight),
	"-f", "rawvideo", "pipe:1"}

// between gives the pictures before the key picture with which each change was seen, and after
// the one before it.
func (s *Service) between(ctx context.Context, t *packedTrack, changes []signal.Change) (map[int][]signal.Picture, error) {
	out := map[int][]signal.Picture{}
	var parts []io.Reader
	var order [][2]int // change, first picture shown
	var times []int64
	f, err := s.Blobs.Open(t.key + ".mp4")
	if err != nil {
		return nil, err
	}
	defer f.Close()
	for _, c := range changes {
		if c.Picture == 0 {
			continue
		}
		seg := t.Index.Segments[c.Picture-1]
		parts = append(parts, io.NewSectionReader(f, seg.Off, seg.Len))
		order = append(order, [2]int{c.Picture, len(times)})
		shown := make([]int64, 0, seg.Count)
		for _, x := range t.Index.Samples[seg.First : seg.First+seg.Count] {
			shown = append(shown, x.PTS)
		}
		slices.Sort(shown)
		times = append(times, shown...)
	}
	if len(parts) == 0 {
		return out, nil
	}
	all := &frames{times: times, at: t.Index.Time, blind: true}
	_, err = media.FFmpeg(ctx, media.Run{
		Limit: 20 * time.Minute, Input: media.Input{Format: media.MOV, Path: "pipe:0"},
		Stdin: io.MultiReader(append([]io.Reader{bytes.NewReader(t.Init.Raw)}, parts...)...), Stdout: all, Output: drawn,
	})
	if err != nil {
		return nil, err
	}
	for i, o := range order {
		end := len(all.small)
		if i+1 < len(order) {
			end = min(end, order[i+1][1])
		}
		out[o[0]] = all.small[min(o[1], end):end]
	}
	return out, nil
}

// frames collects raw pictures: small grey ones to compare, and a drawing of each that is not
// much like the one before.
type frames struct {
	times []int64 // of the pictures, in the order in which they are shown
	at    func(int64) time.Duration
	blind bool // nothing is drawn
	rest  []byte
	small []signal.Picture
	drawn map[int][]byte // JPEG
}

const frameSize = slideWidth * slideHeight * 3 / 2

func (w *frames) Write(b []byte) (int, error) {
	w.rest = append(w.rest, b...)
	for len(w.rest) >= frameSize {
		raw := w.rest[:frameSize]
		n := len(w.small)
		if n >= len(w.times) {
			w.rest = w.rest[:0]
			return len(b), nil
		}
		grey := halved(raw)
		if !w.blind && (n == 0 || signal.Differ(w.small[n-1].Grey, grey)) {
			var drawing bytes.Buffer
			if err := jpeg.Encode(&drawing, picture(raw), &jpeg.Options{Quality: 78}); err != nil {
				return 0, fmt.Errorf("draw a slide: %w", err)
			}
			if w.drawn == nil {
				w.drawn = map[int][]byte{}
			}
			w.drawn[n] = drawing.Bytes()
		}
		w.small = append(w.small, signal.Picture{At: w.at(w.times[n]), Grey: grey})
		w.rest = w.rest[frameSize:]
	}
	w.rest = append([]byte(nil), w.rest...)
	return len(b), nil
}

// halved is the grey part of a picture at half its size.
func halved(raw []byte) []byte {
	out := make([]byte, 0, slideWidth*slideHeight/4)
	for y := 0; y < slideHeight; y += 2 {
		for x := 0; x < slideWidth; x += 2 {
			i := y*slideWidth + x
			out = append(out, byte((int(raw[i])+int(raw[i+1])+int(raw[i+slideWidth])+int(raw[i+slideWidth+1]))/4))
		}
	}
	return out
}

func picture(raw []byte) image.Image {
	y, c := slideWidth*slideHeight, slideWidth*slideHeight/4
	return &image.YCbCr{
		Y: raw[:y], Cb: raw[y : y+c], Cr: raw[y+c:], YStride: slideWidth, CStride: slideWidth / 2,
		SubsampleRatio: image.YCbCrSubsampleRatio420, Rect: image.Rect(0, 0, slideWidth, slideHeight),
	}
}
