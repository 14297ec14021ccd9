package recorder

import (
	"bytes"
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"time"
)

// film is what the cameras of a hall see and its microphone hears, again and again: made up
// beforehand, so that to play it costs next to nothing.
type film struct {
	slides  string // with the sound
	speaker string
	silent  string // the slides with silence
	black   string // a black picture with the sound
	levels  []float64
	faces   [][]byte // JPEG, each ten seconds
	nothing []byte   // JPEG of a black picture
}

const faceEvery = 10 * time.Second

// figure draws somebody who speaks, a head over shoulders that sway.
const figure = "geq=lum='if(lt(hypot(X-160-6*sin(T*2),(Y-72)*0.85),34),170,if(lt(hypot((X-160-4*sin(T*2))*0.62,Y-196),66),70,120+20*Y/180))':cb='if(lt(hypot(X*2-160-6*sin(T*2),(Y*2-72)*0.85),34),112,126)':cr='if(lt(hypot(X*2-160-6*sin(T*2),(Y*2-72)*0.85),34),146,128)'"

func ffmpeg(ctx context.Context, args ...string) error {
	out, err := exec.CommandContext(ctx, "ffmpeg",
		append([]string{"-nostdin", "-y", "-v", "error"}, args...)...).CombinedOutput()
	if err != nil {
		return fmt.Errorf("make what a hall sees: %w: %s", err, out)
	}
	return nil
}

// prepare makes a film from a lecture with slides and sound, and what is wrong with it. What was made before is used
// again.
func prepare(ctx context.Context, lecture, folder string, how Misbehaviour) (*film, error) {
	f := &film{}
	at := func(name string) string { return filepath.Join(folder, name) }
	h264 := []string{"-c:v", "libx264", "-preset", "veryfast", "-bf", "0", "-g", "30", "-keyint_min", "30",
		"-sc_threshold", "0", "-pix_fmt", "yuv420p"}
	aac := []string{"-c:a", "aac", "-b:a", "96k", "-ar", "48000"}
	make := func(to *string, name string, args ...string) error {
		*to = at(name)
		if _, err := os.Stat(*to); err == nil {
			return nil
		}
		if err := ffmpeg(ctx, append(args, at("new.mkv"))...); err != nil {
			return err
		}
		return os.Rename(at("new.mkv"), *to)
	}
	join := func(parts ...[]string) (out []string) {
		for _, p := range parts {
			out = append(out, p...)
		}
		return out
	}
	err := errors.Join(
		make(&f.slides, "slides.mkv", join([]string{"-i", lecture, "-vf", "fps=15"}, h264, aac)...),
		make(&f.speaker, "speaker.mkv",
			join([]string{"-f", "lavfi", "-i", "color=gray:s=320x180:r=15:d=4", "-vf", figure + ",scale=640:360"},
				h264)...))
	if err == nil && how.Mute {
		err = make(&f.silent, "silent.mkv",
			join([]string{"-i", f.slides, "-f", "lavfi", "-i", "anullsrc=r=48000:cl=mono", "-map", "0:v", "-map", "1:a",
				"-shortest", "-c:v", "copy"}, aac)...)
	}
	if err == nil && how.Black {
		err = make(&f.black, "black.mkv",
			join([]string{"-f", "lavfi", "-i", "color=black:s=1280x720:r=15", "-i", f.slides, "-map", "0:v", "-map",
				"1:a", "-shortest", "-c:a", "copy"}, h264)...)
	}
	if err != nil {
		return nil, err
	}
	if err := f.listen(ctx); err != nil {
		return nil, err
	}
	return f, f.look(ctx)
}

// listen measures the level of each second, in decibels below full scale.
func (f *film) listen(ctx context.Context) error {
	const rate = 8000
	pcm, err := exec.CommandContext(ctx, "ffmpeg", "-nostdin", "-v", "error", "-i", f.slides, "-ac", "1", "-ar",
		fmt.Sprint(rate), "-f", "s16le", "-").Output()
	if err != nil {
		return fmt.Errorf("listen to a film: %w", err)
	}
	for len(pcm) >= 2*rate {
		var sum float64
		for i := 0; i < 2*rate; i += 2 {
			x := float64(int16(binary.LittleEndian.Uint16(pcm[i:]))) / 32768
			sum += x * x
		}
		f.levels = append(f.levels, 10*math.Log10(sum/rate+1e-12))
		pcm = pcm[2*rate:]
	}
	if len(f.levels) == 0 {
		return fmt.Errorf("the film has less than a second of sound")
	}
	return nil
}

// look takes a picture each ten seconds, and one of nothing.
func (f *film) look(ctx context.Context) error {
	take := func(path, filter string) ([][]byte, error) {
		out, err := exec.CommandContext(ctx, "ffmpeg", "-nostdin", "-v", "error", "-i", path, "-vf",
			filter+",scale=480:-2", "-c:v", "mjpeg", "-q:v", "5", "-f", "image2pipe", "-").Output()
		if err != nil {
			return nil, fmt.Errorf("take pictures of a film: %w", err)
		}
		var all [][]byte
		for _, b := range bytes.SplitAfter(out, []byte{0xff, 0xd9}) {
			if len(b) > 100 {
				all = append(all, b)
			}
		}
		if len(all) == 0 {
			return nil, fmt.Errorf("take pictures of a film: %w", io.ErrUnexpectedEOF)
		}
		return all, nil
	}
	var err error
	if f.faces, err = take(f.slides, fmt.Sprintf("fps=1/%d", int(faceEvery.Seconds()))); err != nil {
		return err
	}
	if f.black == "" {
		return nil
	}
	dark, err := take(f.black, "select='eq(n,0)'")
	if err == nil {
		f.nothing = dark[0]
	}
	return err
}

// level is the loudest of five seconds before a moment of the film, which is played in a loop.
func (f *film) level(at time.Duration) float64 {
	loudest := math.Inf(-1)
	for n := range 5 {
		i := (int(at.Seconds()) - n + 5*len(f.levels)) % len(f.levels)
		loudest = max(loudest, f.levels[i])
	}
	return loudest
}

func (f *film) face(at time.Duration) []byte {
	return f.faces[int(at/faceEvery)%len(f.faces)]
}
