// Package testfilm makes films whose every picture carries its number and whose sound
// clicks twice a second, and reads both back, so that a test or a measurement can say which
// picture was shown and how far the sound is from where it belongs.
package testfilm

import (
	"bytes"
	"context"
	"encoding/binary"
	"fmt"
	"io"
	"math"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"testing"
	"time"
)

// Film is what to make. The zero value of a field means its usual value.
type Film struct {
	Length   time.Duration // 10 s
	Rate     int           // pictures a second; 25
	Width    int           // 640
	Height   int           // 360
	Group    int           // pictures from one key picture to the next; 50
	BFrames  int           // pictures that are decoded out of order; 0
	Scene    string        // what is seen behind the numbers, as a source of ffmpeg's lavfi; a test picture
	NoSound  bool
	NoView   bool     // no pictures
	Encoding []string // of the pictures, in place of H.264; and of the sound, in place of AAC
}

// The number of a picture stands in its upper left corner: so many blocks side by side, each so many
// pixels a side, white for 1, the lowest bit first.
const (
	Block = 16
	Bits  = 16
)

const (
	hertz  = 48000
	every  = 500 * time.Millisecond // a click
	clicks = 6 * time.Millisecond   // long
)

func or[T comparable](v, usual T) T {
	var zero T
	if v == zero {
		return usual
	}
	return v
}

// Make writes the film to path, in the format that its name ends with.
func (f Film) Make(ctx context.Context, path string) error {
	f.Length, f.Rate, f.Width, f.Height, f.Group = or(f.Length, 10*time.Second), or(f.Rate, 25), or(f.Width, 640),
		or(f.Height, 360), or(f.Group, 50)
	seconds := strconv.FormatFloat(f.Length.Seconds(), 'f', 3, 64)
	args := []string{"-y", "-v", "error"}
	inputs := 0
	var numbers, sound io.Reader
	if !f.NoView {
		numbers = f.numbers()
		scene := or(f.Scene, fmt.Sprintf("testsrc2=s=%dx%d:r=%d", f.Width, f.Height, f.Rate))
		args = append(args, "-f", "lavfi", "-i", scene,
			"-f", "rawvideo", "-pix_fmt", "gray", "-s", fmt.Sprintf("%dx%d", Block*Bits, Block), "-r",
			strconv.Itoa(f.Rate), "-i", "pipe:0")
		inputs = 2
	}
	if !f.NoSound {
		sound = f.pcm()
		pipe := "pipe:0"
		if numbers != nil {
			pipe = "pipe:3"
		}
		args = append(args, "-f", "s16le", "-ar", strconv.Itoa(hertz), "-ac", "1", "-i", pipe)
	}
	if numbers != nil {
		args = append(args, "-filter_complex", "[0:v][1:v]overlay=0:0,format=yuv420p[v]", "-map", "[v]")
	}
	if sound != nil {
		args = append(args, "-map", fmt.Sprintf("%d:a", inputs))
	}
	args = append(args, "-t", seconds)
	if f.Encoding != nil {
		args = append(args, f.Encoding...)
	} else {
		if numbers != nil {
			args = append(args, "-c:v", "libx264", "-preset", "ultrafast", "-crf", "23", "-bf", strconv.Itoa(f.BFrames),
				"-g", strconv.Itoa(f.Group), "-keyint_min", strconv.Itoa(f.Group), "-sc_threshold", "0")
		}
		if sound != nil {
			args = append(args, "-c:a", "aac", "-b:a", "96k")
		}
	}
	cmd := exec.CommandContext(ctx, "ffmpeg", append(args, path)...)
	var complaint bytes.Buffer
	cmd.Stderr = &complaint
	cmd.Stdin = numbers
	if numbers == nil {
		cmd.Stdin = sound
	} else if sound != nil {
		r, w, err := os.Pipe()
		if err != nil {
			return fmt.Errorf("make a pipe: %w", err)
		}
		defer r.Close()
		cmd.ExtraFiles = []*os.File{r}
		go func() {
			_, _ = io.Copy(w, sound) // what is not taken is beyond the end
			w.Close()
		}()
	}
	if err := cmd.Run(); err != nil {
		return fmt.Errorf("make a film: %w: %s", err, complaint.String())
	}
	return nil
}

// numbers is a strip of black and white blocks for each picture: its number in binary.
func (f Film) numbers() io.Reader {
	n := 0
	return &source{f: func() []byte {
		if n >= int(f.Length.Seconds()*float64(f.Rate))+f.Rate {
			return nil
		}
		row := make([]byte, Block*Bits)
		for x := range row {
			if n>>(x/Block)&1 == 1 {
				row[x] = 235
			} else {
				row[x] = 16
			}
		}
		n++
		return bytes.Repeat(row, Block)
	}}
}

// pcm is silence with a click of 2 kHz at every half second.
func (f Film) pcm() io.Reader {
	at, end := 0, int(f.Length.Seconds()*hertz)
	return &source{f: func() []byte {
		if at >= end {
			return nil
		}
		const chunk = 4800
		out := make([]byte, 0, chunk*2)
		for i := range chunk {
			since := time.Duration(at+i) * time.Second / hertz % every
			v := 0.0
			if since < clicks {
				v = 24000 * math.Sin(2*math.Pi*2000*since.Seconds())
			}
			out = binary.LittleEndian.AppendUint16(out, uint16(int16(v)))
		}
		at += chunk
		return out
	}}
}

// source reads what f gives, until it gives nothing.
type source struct {
	f    func() []byte
	rest []byte
}

func (s *source) Read(b []byte) (int, error) {
	if len(s.rest) == 0 {
		if s.rest = s.f(); s.rest == nil {
			return 0, io.EOF
		}
	}
	n := copy(b, s.rest)
	s.rest = s.rest[n:]
	return n, nil
}

// Numbers reads the number of every picture of a film, in the order in which they are shown.
func Numbers(ctx context.Context, path string) ([]int, error) {
	cmd := exec.CommandContext(ctx, "ffmpeg", "-v", "error", "-i", path, "-map", "0:v:0", "-vf",
		fmt.Sprintf("crop=%d:%d:0:0,format=gray", Block*Bits, Block), "-fps_mode", "passthrough", "-f", "rawvideo", "-")
	raw, err := cmd.Output()
	if err != nil {
		return nil, fmt.Errorf("read the pictures of a film: %w", err)
	}
	var out []int
	for size := Block * Bits * Block; len(raw) >= size; raw = raw[size:] {
		n := 0
		for bit := range Bits {
			sum := 0
			for y := 4; y < Block-4; y++ {
				for x := 4; x < Block-4; x++ {
					sum += int(raw[y*Block*Bits+bit*Block+x])
				}
			}
			if sum > 128*(Block-8)*(Block-8) {
				n |= 1 << bit
			}
		}
		out = append(out, n)
	}
	return out, nil
}

// Clicks reads the moment of every click of a film, by the times that its container says: what is missing in
// between is silence.
func Clicks(ctx context.Context, path string) ([]time.Duration, error) {
	cmd := exec.CommandContext(ctx, "ffmpeg", "-v", "error", "-i", path, "-map", "0:a:0", "-af",
		"aresample=async=1:first_pts=0", "-ac", "1", "-ar", strconv.Itoa(hertz), "-f", "s16le", "-")
	raw, err := cmd.Output()
	if err != nil {
		return nil, fmt.Errorf("read the sound of a film: %w", err)
	}
	var out []time.Duration
	quiet := 1 << 30
	for i := 0; i+1 < len(raw); i += 2 {
		v := int(int16(binary.LittleEndian.Uint16(raw[i:])))
		if v > 9000 || v < -9000 {
			if quiet > hertz/80 { // a click swings through zero
				out = append(out, time.Duration(i/2)*time.Second/hertz)
			}
			quiet = 0
		}
		quiet++
	}
	return out, nil
}

// Tool runs ffmpeg with args, in which the file that is made comes last.
func Tool(t testing.TB, args ...string) {
	t.Helper()
	if out, err := exec.Command("ffmpeg",
		append([]string{"-y", "-v", "error"}, args...)...).CombinedOutput(); err != nil {
		t.Fatalf("%v\n%s", err, out)
	}
}

// Noise writes someone who speaks for two minutes, louder and quieter, as WAV.
func Noise(t testing.TB, seed uint64) string {
	t.Helper()
	const rate = 16000
	r := rand.New(rand.NewPCG(seed, 5))
	raw := make([]byte, 0, 2*rate*120)
	level := 0.0
	for i := range rate * 120 {
		if i%(rate/10) == 0 && r.IntN(6) == 0 {
			level = []float64{0.01, 0.05, 0.2, 0.5, 0.7}[r.IntN(5)]
		}
		raw = binary.LittleEndian.AppendUint16(raw, uint16(int16(32767*level*(2*r.Float64()-1))))
	}
	folder := t.TempDir()
	pcm, wav := filepath.Join(folder, "a.pcm"), filepath.Join(folder, "a.wav")
	if err := os.WriteFile(pcm, raw, 0o600); err != nil {
		t.Fatal(err)
	}
	Tool(t, "-f", "s16le", "-ar", "16000", "-ac", "1", "-i", pcm, wav)
	return wav
}
