package measure

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"image/jpeg"
	"slices"
	"time"

	"latelantern/internal/core/signal"
	"latelantern/internal/platform/media"
	"latelantern/internal/recordings"
)

// The size of slide pictures.
const slideWidth, slideHeight = 2 * signal.Width, 2 * signal.Height

// sight is what was seen of a track so far: its key pictures, small and grey, and the moments at
// which slides were found to begin.
type sight struct {
	keys    []signal.Picture
	moments map[int]time.Duration // by the number of the key picture that shows the slide first
}

// slide is a slide as it first appears, and the key picture that shows it.
type slide struct {
	at  time.Duration
	key int
}

// look finds the slides of a track: first by its key pictures alone, of which those not seen yet
// are decoded; then, where one follows another, by what lies between the two.
func (s *Service) look(ctx context.Context, t *recordings.Packed, seen *sight) ([]slide, error) {
	times := t.Index.Keys()
	if n := len(seen.keys); n < len(times) {
		var fresh []recordings.Beginning
		for i := n; i < len(times); i++ {
			fresh = append(fresh, recordings.Beginning{Segment: i, Samples: 1})
		}
		in, err := s.Recordings.Beginnings(t, fresh)
		if err != nil {
			return nil, err
		}
		defer in.Close()
		more := &pictures{size: signal.Width * signal.Height, each: func(i int, raw []byte) error {
			if n+i < len(times) {
				seen.keys = append(seen.keys, signal.Picture{At: t.Index.Time(times[n+i]), Grey: bytes.Clone(raw)})
			}
			return nil
		}}
		_, err = media.FFmpeg(ctx, media.Run{
			Limit: 20 * time.Minute, Nice: 5, Input: media.Input{Format: media.MOV, Path: "pipe:0"}, Stdin: in,
			Stdout: more, Output: sketched(1),
		})
		if err != nil {
			return nil, err
		}
	}
	if seen.moments == nil {
		seen.moments = map[int]time.Duration{}
	}
	changes := signal.Changes(seen.keys)
	var unclear []signal.Change
	var err error
	for _, c := range changes {
		if _, known := seen.moments[c.Picture]; known || c.Picture == 0 {
			continue
		}
		if at, ok := burst(t, c.Picture-1); ok {
			seen.moments[c.Picture] = at
		} else if nothingNew(t, c) {
			seen.moments[c.Picture] = seen.keys[c.Picture].At
		} else {
			unclear = append(unclear, c)
		}
	}
	// What is new costs most: the largest picture most often shows it, and what follows need not be
	// decoded. Where it does not, all of the group is.
	for _, whole := range []bool{false, true} {
		if unclear, err = s.compare(ctx, t, seen, unclear, whole); err != nil {
			return nil, err
		}
	}
	var out []slide
	for _, c := range changes {
		at := seen.keys[c.Picture].At
		if m, ok := seen.moments[c.Picture]; ok {
			at = m
		}
		out = append(out, slide{at, c.Picture})
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
func burst(t *recordings.Packed, segment int) (at time.Duration, ok bool) {
	seg := t.Index.Segments[segment]
	samples := t.Index.Samples[seg.First+1 : seg.First+seg.Count]
	if len(samples) < 8 {
		return 0, false
	}
	sizes := make([]uint32, len(samples))
	top := 0
	for i, x := range samples {
		sizes[i] = x.Size
		if x.Size > samples[top].Size {
			top = i
		}
	}
	slices.Sort(sizes)
	most := sizes[len(sizes)-1]
	if most < burstOver*sizes[len(sizes)/2] || most < burstNext*sizes[len(sizes)-2] {
		return 0, false
	}
	return t.Index.Time(samples[top].PTS), true
}

// newCosts is the share of the size that what changes has in the key picture after it, that it has at
// least in the picture that shows it first.
const newCosts = 0.25

// nothingNew tells whether no picture between two key pictures can show a change, since what
// changed would have cost more than any of them: then it begins with the second.
func nothingNew(t *recordings.Packed, c signal.Change) bool {
	seg := t.Index.Segments[c.Picture-1]
	key := t.Index.Samples[t.Index.Segments[c.Picture].First].Size
	most := t.Index.Samples[seg.First+largest(t, c.Picture-1, 0, 1<<62)].Size
	return seg.Count > 1 && float64(most) < newCosts*c.Share()*float64(key)
}

// compare finds the moments of changes by the pictures between two key pictures: all, or those up
// to the largest. It gives the changes whose moments it did not find.
func (s *Service) compare(ctx context.Context, t *recordings.Packed, seen *sight, changes []signal.Change,
	whole bool) (left []signal.Change, err error) {
	parts := make([]recordings.Beginning, len(changes))
	for i, c := range changes {
		parts[i] = recordings.Beginning{Segment: c.Picture - 1, Samples: t.Index.Segments[c.Picture-1].Count}
		if !whole {
			parts[i].Samples = min(parts[i].Samples, largest(t, c.Picture-1, 0, 1<<62)+1+reordered)
		}
	}
	between, err := s.between(ctx, t, parts)
	if err != nil {
		return nil, err
	}
	for i, c := range changes {
		before, after := seen.keys[c.Picture-1], seen.keys[c.Picture]
		at := c.Moment(before, between[i], after)
		if at == after.At && !whole {
			left = append(left, c)
			continue
		}
		// Only some pictures were compared: it began after the last that did not show it.
		from := before.At
		for _, p := range between[i] {
			if p.At < at {
				from = max(from, p.At)
			}
		}
		if at < after.At {
			seg := t.Index.Segments[c.Picture-1]
			at = t.Index.Time(t.Index.Samples[seg.First+largest(t, c.Picture-1, from, at)].PTS)
		}
		seen.moments[c.Picture] = at
	}
	return left, nil
}

// reordered is how many pictures may follow one in a track that are shown before it.
const reordered = 4

// largest is the number, in order of decoding, of the largest picture of a segment, its first
// aside, that is shown after from and not after to.
func largest(t *recordings.Packed, segment int, from, to time.Duration) int {
	seg := t.Index.Segments[segment]
	at, size := seg.Count-1, uint32(0)
	for i, x := range t.Index.Samples[seg.First+1 : seg.First+seg.Count] {
		if when := t.Index.Time(x.PTS); when > from && when <= to && x.Size > size {
			at, size = i+1, x.Size
		}
	}
	return at
}

// sketched makes raw pictures that are only to be compared, of every so many.
func sketched(of int) []string {
	filter := fmt.Sprintf("scale=%[1]d:%[2]d:force_original_aspect_ratio=decrease:flags=fast_bilinear,pad=%[1]d:%[2]d:-1:-1,format=gray", signal.Width, signal.Height)
	if of > 1 {
		filter = fmt.Sprintf("select='not(mod(n,%d))',", of) + filter
	}
	return []string{"-map", "0:v:0", "-fps_mode", "passthrough", "-vf", filter, "-f", "rawvideo", "pipe:1"}
}

// drawn makes raw pictures of the size of slides.
var drawn = []string{"-map", "0:v:0", "-fps_mode", "passthrough",
	"-vf", fmt.Sprintf("scale=%[1]d:%[2]d:force_original_aspect_ratio=decrease,pad=%[1]d:%[2]d:-1:-1,format=yuv420p",
		slideWidth, slideHeight),
	"-f", "rawvideo", "pipe:1"}

// compared is how far apart the pictures are that are compared between two key pictures.
const compared = 120 * time.Millisecond

// between gives pictures of the beginnings of segments, each with its time.
func (s *Service) between(ctx context.Context, t *recordings.Packed,
	parts []recordings.Beginning) ([][]signal.Picture, error) {
	if len(parts) == 0 {
		return nil, nil
	}
	out := make([][]signal.Picture, len(parts))
	var shown []int64 // when all of those pictures are shown
	var of []int      // the part to which each belongs
	for i, p := range parts {
		seg := t.Index.Segments[p.Segment]
		first := len(shown)
		for _, x := range t.Index.Samples[seg.First : seg.First+p.Samples] {
			shown, of = append(shown, x.PTS), append(of, i)
		}
		slices.Sort(shown[first:])
	}
	stride := 1
	if len(shown) > 1 {
		stride = max(1, int(compared/max(time.Millisecond, t.Index.Time(shown[1]-shown[0]))))
	}
	in, err := s.Recordings.Beginnings(t, parts)
	if err != nil {
		return nil, err
	}
	defer in.Close()
	all := &pictures{size: signal.Width * signal.Height, each: func(i int, raw []byte) error {
		if n := i * stride; n < len(shown) {
			out[of[n]] = append(out[of[n]], signal.Picture{At: t.Index.Time(shown[n]), Grey: bytes.Clone(raw)})
		}
		return nil
	}}
	_, err = media.FFmpeg(ctx, media.Run{
		Limit: 20 * time.Minute, Nice: 5, Before: []string{"-skip_loop_filter", "all"},
		Input: media.Input{Format: media.MOV, Path: "pipe:0"},
		Stdin: in, Stdout: all, Output: sketched(stride),
	})
	return out, err
}

// draw gives the slides at key pictures as JPEG, one after another.
func (s *Service) draw(ctx context.Context, t *recordings.Packed, keys []int,
	keep func(i int, picture []byte) error) error {
	if len(keys) == 0 {
		return nil
	}
	parts := make([]recordings.Beginning, len(keys))
	for i, k := range keys {
		parts[i] = recordings.Beginning{Segment: k, Samples: 1}
	}
	in, err := s.Recordings.Beginnings(t, parts)
	if err != nil {
		return err
	}
	defer in.Close()
	all := &pictures{size: slideWidth * slideHeight * 3 / 2, each: func(i int, raw []byte) error {
		if i >= len(keys) {
			return nil
		}
		var drawing bytes.Buffer
		if err := jpeg.Encode(&drawing, picture(raw), &jpeg.Options{Quality: 78}); err != nil {
			return fmt.Errorf("draw a slide: %w", err)
		}
		return keep(i, drawing.Bytes())
	}}
	_, err = media.FFmpeg(ctx, media.Run{
		Limit: 20 * time.Minute, Nice: 5, Input: media.Input{Format: media.MOV, Path: "pipe:0"}, Stdin: in, Stdout: all,
		Output: drawn,
	})
	return err
}

// pictures takes raw pictures of a size in bytes, one after another.
type pictures struct {
	size int
	each func(n int, raw []byte) error
	n    int
	rest []byte
}

func (w *pictures) Write(b []byte) (int, error) {
	w.rest = append(w.rest, b...)
	whole := w.rest
	for ; len(whole) >= w.size; whole = whole[w.size:] {
		if err := w.each(w.n, whole[:w.size]); err != nil {
			return 0, err
		}
		w.n++
	}
	w.rest = append(w.rest[:0], whole...)
	return len(b), nil
}

func picture(raw []byte) image.Image {
	y, c := slideWidth*slideHeight, slideWidth*slideHeight/4
	return &image.YCbCr{
		Y: raw[:y], Cb: raw[y : y+c], Cr: raw[y+c:], YStride: slideWidth, CStride: slideWidth / 2,
		SubsampleRatio: image.YCbCrSubsampleRatio420, Rect: image.Rect(0, 0, slideWidth, slideHeight),
	}
}
