package recordings

import (
	"bytes"
	_ "embed"
	"fmt"
	"sync"
	"time"

	"latelantern/internal/core/splice"
	"latelantern/internal/format/fmp4"
)

// One black picture and some frames of silence. They were made by
//
//	ffmpeg -f lavfi -i color=black:s=640x360:r=1:d=1 -frames:v 1 -c:v libx264 -bf 0 -bsf:v filter_units=remove_types=6 -movflags +empty_moov+default_base_moof+frag_keyframe+delay_moov black.mp4
//	ffmpeg -f lavfi -i anullsrc=r=48000:cl=stereo:d=0.2 -c:a aac -movflags +delay_moov+default_base_moof silence.mp4
//
//go:embed blank/black.mp4
var blackFile []byte

//go:embed blank/silence.mp4
var silenceFile []byte

// blank stands where a recording has nothing to show or to be heard, so that its clock is
// unbroken.
type blank struct {
	init   fmp4.Init
	sample []byte
	frame  int64 // ticks of a sample; 0 for pictures, which stand as long as wanted
}

// blankStep is the usual length of one segment of a blank.
const blankStep = 2 * time.Second

var black = sync.OnceValue(func() *blank { return readBlank(blackFile) })
var silence = sync.OnceValue(func() *blank { return readBlank(silenceFile) })

func readBlank(file []byte) *blank {
	var b blank
	err := fmp4.Read(bytes.NewReader(file), func(x fmp4.Init) error { b.init = x; return nil },
		func(f fmp4.Fragment) error {
			x := f.Samples[len(f.Samples)/2] // past the beginning of an encoder, for sound
			b.sample = f.Raw[x.Off : x.Off+int64(x.Size)]
			if b.init.Width == 0 {
				b.frame = int64(x.Dur)
			}
			return nil
		})
	if err != nil || b.sample == nil {
		panic(fmt.Sprintf("a blank that ships cannot be read: %v", err)) // its tests would have failed
	}
	return &b
}

func (b *blank) ticks(d time.Duration) int64 {
	x := splice.Index{Timescale: b.init.Timescale}
	return x.Ticks(d)
}

// segment makes one segment of about length, and says how many ticks it has: 0 when that is
// less than a frame.
func (b *blank) segment(length time.Duration) (raw []byte, tfdtAt, dur int64, err error) {
	dur = b.ticks(length)
	samples := []fmp4.Payload{{Data: b.sample, Dur: uint32(dur), Sync: true}}
	if b.frame > 0 {
		samples = nil
		count := (dur + b.frame/2) / b.frame
		for range count {
			samples = append(samples, fmp4.Payload{Data: b.sample, Dur: uint32(b.frame), Sync: true})
		}
		dur = count * b.frame
	}
	if dur == 0 {
		return nil, 0, 0, nil
	}
	track, err := fmp4.TrackID(b.init.Raw)
	if err != nil {
		return nil, 0, 0, err
	}
	raw, tfdtAt, err = fmp4.Write(1, track, samples)
	return raw, tfdtAt, dur, err
}
