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
	bursts := map[int]time.Duration{}
	var unclear []signal.Change
	for _, c := range changes {
		if c.Picture == 0 {
			continue
		}
		if at, ok := burst(t, c.Picture-1); ok {
			bursts[c.Picture] = at
		} else {
			unclear = append(unclear, c)
		}
	}
	between, err := s.between(ctx, t, unclear)
	if err != nil {
		return nil, err
	}
	var out []found
	for _, c := range changes {
		f := found{keys.small[c.Picture].At, keys.drawn[c.Picture]}
		if at, ok := bursts[c.Picture]; ok {
			f.At = at
		} else if c.Picture > 0 {
			f.At = c.Moment(keys.small[c.Picture-1], between[c.Picture], keys.small[c.Picture])
		}
		out = append(out, f)
	}
	return out, nil
}

// A picture that shows something new is by so much larger than usual in its group, and than the
// next larger one, that it need not be decoded to be found.
const (
	burstOver = 4
	burstNext = 2
)

// burst is when the one picture of a segment is shown that is much larger than the others, its
// first aside; ok is false when there is none, or more than one.
func burst(t *packedTrack, segment int) (at time.Duration, ok bool) {
	seg := t.Index.Segments[segment]
	samples := t.Index.Samples[seg.First+1 : seg.First+seg.Count]
	if len(samples) < 8 {
		return 0, false
	}
	sizes := make([]uint32, len(samples))
	largest := 0
	for i, x := range samples {
		sizes[i] = x.Size
		if x.Size > samples[largest].Size {
			largest = i
		}
	}
	slices.Sort(sizes)
	top := sizes[len(sizes)-1]
	if top < burstOver*sizes[len(sizes)/2] || top < burstNext*sizes[len(sizes)-2] {
		return 0, false
	}
	return t.Index.Time(samples[largest].PTS), true
}

// drawn makes raw pictures of the size of slides.
var drawn = []string{"-map", "0:v:0", "-fps_mode", "passthrough",
	"-vf", fmt.Sprintf("scale=%[1]d:%[2]d:force_original_aspect_ratio=decrease,pad=%[1]d:%[2]d:-1:-1,format=yuv420p", slideWidth, slideHeight),
	"-f", "rawvideo", "pipe:1"}

// sketched makes raw pictures that are only to be compared.
var sketched = []string{"-map", "0:v:0", "-fps_mode", "passthrough",
	"-vf", fmt.Sprintf("scale=%[1]d:%[2]d:force_original_aspect_ratio=decrease:flags=area,pad=%[1]d:%[2]d:-1:-1,format=gray", signal.Width, signal.Height),
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
	all := &frames{times: times, at: t.Index.Time, grey: true}
	_, err = media.FFmpeg(ctx, media.Run{
		Limit: 20 * time.Minute, Before: []string{"-skip_loop_filter", "all"}, Input: media.Input{Format: media.MOV, Path: "pipe:0"},
		Stdin: io.MultiReader(append([]io.Reader{bytes.NewReader(t.Init.Raw)}, parts...)...), Stdout: all, Output: sketched,
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
	grey  bool // they come small and grey, and none is drawn
	rest  []byte
	small []signal.Picture
	drawn map[int][]byte // JPEG
}

const frameSize = slideWidth * slideHeight * 3 / 2

func (w *frames) Write(b []byte) (int, error) {
	w.rest = append(w.rest, b...)
	size := frameSize
	if w.grey {
		size = signal.Width * signal.Height
	}
	for len(w.rest) >= size {
		raw := w.rest[:size]
		n := len(w.small)
		if n >= len(w.times) {
			w.rest = w.rest[:0]
			return len(b), nil
		}
		grey := bytes.Clone(raw)
		if !w.grey {
			grey = halved(raw)
		}
		if !w.grey && (n == 0 || signal.Differ(w.small[n-1].Grey, grey)) {
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
		w.rest = w.rest[size:]
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
