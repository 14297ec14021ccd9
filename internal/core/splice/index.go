// Package splice computes how a trimmed recording is put together from the segments that
// exist, so that only what lies around a cut has to be made anew.
//
// Pictures and sound are two tracks. Pictures are exact to the frame: segments wholly
// inside a kept stretch are copied, the frames between a cut and the nearest key frame
// are encoded again, or carried over as they are where nothing depends on what is left
// out. Sound is never encoded: it moves on an unbroken grid of sound frames.
package splice

import (
	"errors"
	"math/bits"
	"slices"
	"time"
)

// Sample is one encoded picture or one frame of sound. Times are in ticks of its track,
// with the edit list folded in, so that pictures and sound of one source share their zero.
type Sample struct {
	Off  int64 // of its bytes in the packaged track
	Size uint32
	Dur  uint32 // ticks, as written in the container
	Sync bool   // can be decoded without any other
	DTS  int64  // decode time
	PTS  int64  // presentation time
}

// Segment is a run of samples that can be decoded without any other segment.
type Segment struct {
	Off, Len int64 // its bytes in the packaged track
	TfdtAt   int64 // offset, from Off, of the eight bytes of its decode time
	First    int   // its first sample
	Count    int
}

// Index lists the samples and segments of one packaged track in order of decoding.
type Index struct {
	Timescale uint32 // ticks per second
	Samples   []Sample
	Segments  []Segment
	shown     []int // sample numbers in order of presentation
}

// ErrOpenGroup says that a segment cannot be decoded, or shown, without its neighbour.
var ErrOpenGroup = errors.New("a group of pictures depends on another")

// Add appends one segment and its samples. It fails with ErrOpenGroup unless the segment
// begins with a sync sample that is shown before all others in it and after all before it.
func (x *Index) Add(s Segment, samples []Sample) error {
	if len(samples) == 0 {
		return nil
	}
	key := samples[0]
	if !key.Sync || len(x.shown) > 0 && key.PTS < x.Samples[x.shown[len(x.shown)-1]].PTS {
		return ErrOpenGroup
	}
	order := make([]int, len(samples))
	for i, p := range samples {
		if p.PTS < key.PTS {
			return ErrOpenGroup
		}
		order[i] = len(x.Samples) + i
	}
	s.First, s.Count = len(x.Samples), len(samples)
	x.Samples = append(x.Samples, samples...)
	slices.SortStableFunc(order, func(a, b int) int { return int(x.Samples[a].PTS - x.Samples[b].PTS) })
	x.shown = append(x.shown, order...)
	x.Segments = append(x.Segments, s)
	return nil
}

// Shown is the n-th sample in order of presentation.
func (x *Index) Shown(n int) Sample { return x.Samples[x.shown[n]] }

// FrameFrom is the number, in order of presentation, of the first sample at or after t;
// len(Samples) when there is none.
func (x *Index) FrameFrom(t int64) int {
	n, _ := slices.BinarySearchFunc(x.shown, t, func(i int, t int64) int {
		if x.Samples[i].PTS < t {
			return -1
		}
		return 1
	})
	return n
}

// End is when the last sample ceases to be shown, in ticks; 0 for an empty index.
func (x *Index) End() int64 {
	if len(x.shown) == 0 {
		return 0
	}
	last := x.Shown(len(x.shown) - 1)
	return last.PTS + int64(last.Dur)
}

// Duration is End as a time.
func (x *Index) Duration() time.Duration { return x.Time(x.End()) }

// Keys lists the presentation times of the first samples of all segments.
func (x *Index) Keys() []int64 {
	keys := make([]int64, len(x.Segments))
	for i, s := range x.Segments {
		keys[i] = x.Samples[s.First].PTS
	}
	return keys
}

// Ticks is d in ticks, rounded to the nearest.
func (x *Index) Ticks(d time.Duration) int64 {
	return mulDiv(int64(d), int64(x.Timescale), int64(time.Second))
}

// Time is a number of ticks as a duration, rounded to the nearest nanosecond.
func (x *Index) Time(ticks int64) time.Duration {
	return time.Duration(mulDiv(ticks, int64(time.Second), int64(x.Timescale)))
}

// mulDiv is a*b/c rounded to the nearest, without overflow in between; b and c are positive.
func mulDiv(a, b, c int64) int64 {
	neg := a < 0
	if neg {
		a = -a
	}
	hi, lo := bits.Mul64(uint64(a), uint64(b))
	lo, carry := bits.Add64(lo, uint64(c)/2, 0)
	q, _ := bits.Div64(hi+carry, lo, uint64(c))
	if neg {
		return -int64(q)
	}
	return int64(q)
}
