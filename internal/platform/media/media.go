// Package media runs the media tools on a leash. What they read was uploaded by someone,
// so they get one named format, no other protocol than files and pipes, limits on
// processor time, file size and wall time, a process group that is killed as a whole, and
// where the machine allows it no network.
package media

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"
)

// Input is what a tool reads.
type Input struct {
	Format Format
	Path   string // a file; "pipe:0" for standard input
}

// Args are the arguments that name the input and keep the tool from reading anything else.
func (i Input) Args() []string {
	return []string{
		"-f", string(i.Format), "-format_whitelist", formats,
		"-protocol_whitelist", "file,pipe", "-i", i.Path,
	}
}

// guard are the options before an input: no picture is decoded that is larger than any screen,
// and no reference to another file is followed, which only one format has.
func (i Input) guard() []string {
	out := []string{"-max_pixels", strconv.Itoa(maxPixels)}
	if i.Format == MOV {
		out = append(out, "-enable_drefs", "0")
	}
	return out
}

// Run is one call of ffmpeg.
type Run struct {
	Before []string // options of the input
	Input  Input
	Output []string // everything after the input
	Stdin  io.Reader
	Stdout io.Writer
	Third  io.Writer     // what ffmpeg writes to pipe:3
	Fourth io.Writer     // what ffmpeg writes to pipe:4; only beside a third
	Limit  time.Duration // of wall time; at least a second
	CPU    time.Duration // of processor time; 0 for the wall time
	Nice   int           // how far others go before it, from 0 to 19
}

// What a tool may take, beside its time. With less room for addresses than a gigabyte ffmpeg
// does not load.
const (
	maxFile   = 64 << 30        // bytes that it may write to one file
	maxRoom   = 6 << 30         // bytes of addresses
	maxPixels = 8192 * 4320 * 2 // of a picture
)

// sandbox reports the words to put before a tool so that it has no network.
var sandbox = sync.OnceValue(func() []string {
	words := []string{"unshare", "--net", "--"}
	if os.Geteuid() != 0 {
		words = []string{"unshare", "--user", "--map-root-user", "--net", "--"}
	}
	if exec.Command(words[0], append(words[1:], "true")...).Run() != nil {
		return nil
	}
	return words
})

// command is tool with args on its leash.
func command(ctx context.Context, limit, cpu time.Duration, nice int, tool string,
	args ...string) (*exec.Cmd, context.CancelFunc) {
	if cpu == 0 {
		cpu = limit
	}
	words := append([]string{}, sandbox()...)
	if nice > 0 {
		words = append(words, "nice", "-n", strconv.Itoa(nice))
	}
	words = append(words, "prlimit", "--cpu="+strconv.Itoa(int(cpu.Seconds())+1), "--fsize="+strconv.Itoa(maxFile),
		"--as="+strconv.Itoa(maxRoom), "--core=0", "--", tool)
	words = append(words, args...)
	ctx, cancel := context.WithTimeout(ctx, limit)
	cmd := exec.CommandContext(ctx, words[0], words[1:]...)
	cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true}
	cmd.Cancel = func() error { return syscall.Kill(-cmd.Process.Pid, syscall.SIGKILL) }
	cmd.WaitDelay = 5 * time.Second
	cmd.Env = []string{"PATH=" + os.Getenv("PATH"), "HOME=/nonexistent", "LANG=C.UTF-8",
		"OMP_THREAD_LIMIT=1"} // more threads of tesseract take twice the processor time for the same
	cmd.Dir = os.TempDir()
	return cmd, cancel
}

// ErrTool says that a tool ended with a complaint.
var ErrTool = errors.New("the media tool failed")

// FFmpeg runs ffmpeg and returns the processor time that it took. Whatever it complains of
// is in the error, cut to its last lines.
func FFmpeg(ctx context.Context, r Run) (cpu time.Duration, err error) {
	args := append([]string{"-nostdin", "-hide_banner", "-v", "error"}, r.Before...)
	args = append(args, r.Input.guard()...)
	args = append(args, r.Input.Args()...)
	args = append(args, r.Output...)
	cmd, cancel := command(ctx, max(r.Limit, time.Second), r.CPU, r.Nice, "ffmpeg", args...)
	defer cancel()
	var complaint tail
	cmd.Stderr = &complaint
	cmd.Stdin, cmd.Stdout = r.Stdin, r.Stdout
	copied, err := hand(cmd, r.Third, r.Fourth)
	if err != nil {
		return 0, err
	}
	err = errors.Join(cmd.Wait(), copied())
	if cmd.ProcessState != nil {
		cpu = cmd.ProcessState.UserTime() + cmd.ProcessState.SystemTime()
	}
	if ctx.Err() != nil {
		return cpu, ctx.Err()
	}
	if err != nil {
		return cpu, fmt.Errorf("%w: %w: %s", ErrTool, err, complaint.String())
	}
	return cpu, nil
}

// hand starts a command whose third and fourth streams are copied to writers, as far as there are any. The
// function that it gives waits until all has been copied.
func hand(cmd *exec.Cmd, streams ...io.Writer) (wait func() error, err error) {
	var ends []*os.File
	done := make(chan error, len(streams))
	var begun int
	wait = func() error {
		var all error
		for range begun {
			all = errors.Join(all, <-done)
		}
		return all
	}
	closeAll := func() (all error) {
		for _, f := range ends {
			all = errors.Join(all, f.Close())
		}
		return all
	}
	for _, w := range streams {
		if w == nil {
			break
		}
		from, to, err := os.Pipe()
		if err != nil {
			return nil, errors.Join(fmt.Errorf("make a pipe: %w", err), closeAll(), wait())
		}
		ends = append(ends, to)
		begun++
		go func() {
			_, err := io.Copy(w, from)
			done <- errors.Join(err, from.Close())
		}()
	}
	cmd.ExtraFiles = ends
	if err := cmd.Start(); err != nil {
		return nil, errors.Join(fmt.Errorf("start ffmpeg: %w", err), closeAll(), wait())
	}
	if err := closeAll(); err != nil {
		return nil, fmt.Errorf("close a pipe: %w", err)
	}
	return wait, nil
}

// tail keeps the last 2 kB written to it.
type tail struct{ b []byte }

func (t *tail) Write(p []byte) (int, error) {
	t.b = append(t.b, p...)
	if len(t.b) > 2048 {
		t.b = t.b[len(t.b)-2048:]
	}
	return len(p), nil
}

func (t *tail) String() string { return strings.TrimSpace(string(bytes.ToValidUTF8(t.b, nil))) }

// Probe is what a source holds.
type Probe struct {
	Video     *VideoProbe // nil for none
	Audio     *AudioProbe
	Duration  time.Duration // 0 when it is not said
	Encrypted bool          // locked with a key that is not in it
	Made      time.Time     // when it was made, as it says itself; zero when it does not
	Words     string        // what it is called inside: its title, and who and where
}

// VideoProbe tells of the first stream of pictures.
type VideoProbe struct {
	Codec         string
	Width, Height int
	PixelFormat   string
	Turned        bool // they are to be turned when they are shown
	Interlaced    bool // each comes as two half pictures
}

// AudioProbe tells of the first stream of sound.
type AudioProbe struct {
	Codec    string
	Profile  string
	Rate     int
	Channels int
}

// Look probes the input; stdin is read when its path is pipe:0.
func Look(ctx context.Context, in Input, stdin io.Reader) (Probe, error) {
	args := append([]string{"-v", "error", "-of", "json", "-show_entries",
		"format=duration:format_tags:stream=codec_type,codec_name,profile,width,height,pix_fmt,field_order,sample_rate,channels:stream_disposition=attached_pic:stream_side_data=rotation:packet_side_data=side_data_type", "-read_intervals", "%+#4"}, in.guard()...)
	cmd, cancel := command(ctx, 30*time.Second, 20*time.Second, 0, "ffprobe", append(args, in.Args()...)...)
	defer cancel()
	var out bytes.Buffer
	var complaint tail
	cmd.Stdout, cmd.Stderr, cmd.Stdin = &out, &complaint, stdin
	if err := cmd.Run(); err != nil {
		return Probe{}, fmt.Errorf("%w: look at media: %w: %s", ErrTool, err, complaint.String())
	}
	var raw probed
	if err := json.Unmarshal(out.Bytes(), &raw); err != nil {
		return Probe{}, fmt.Errorf("read what media hold: %w", err)
	}
	return raw.probe(), nil
}

// probed is what ffprobe writes of a source, as far as it is asked for.
type probed struct {
	Streams []struct {
		CodecType  string `json:"codec_type"`
		CodecName  string `json:"codec_name"`
		Profile    string `json:"profile"`
		Width      int    `json:"width"`
		Height     int    `json:"height"`
		PixFmt     string `json:"pix_fmt"`
		SampleRate string `json:"sample_rate"`
		Channels   int    `json:"channels"`
		FieldOrder string `json:"field_order"`
		SideData   []struct {
			Rotation float64 `json:"rotation"`
		} `json:"side_data_list"`
		Disposition struct {
			AttachedPic int `json:"attached_pic"`
		} `json:"disposition"`
	} `json:"streams"`
	Packets []struct {
		Side []struct {
			Type string `json:"side_data_type"`
		} `json:"side_data_list"`
	} `json:"packets"`
	Format struct {
		Duration string            `json:"duration"`
		Tags     map[string]string `json:"tags"`
	} `json:"format"`
}

func (raw probed) probe() Probe {
	var p Probe
	for _, s := range raw.Streams {
		switch {
		case s.CodecType == "video" && p.Video == nil && s.Width > 0 && s.Disposition.AttachedPic == 0:
			p.Video = &VideoProbe{Codec: s.CodecName, Width: s.Width, Height: s.Height, PixelFormat: s.PixFmt,
				Interlaced: s.FieldOrder != "" && s.FieldOrder != "progressive" && s.FieldOrder != "unknown"}
			for _, side := range s.SideData {
				p.Video.Turned = p.Video.Turned || side.Rotation != 0
			}
		case s.CodecType == "audio" && p.Audio == nil && s.Channels > 0:
			rate, _ := strconv.Atoi(s.SampleRate)
			p.Audio = &AudioProbe{s.CodecName, s.Profile, rate, s.Channels}
		}
	}
	for _, packet := range raw.Packets {
		for _, side := range packet.Side {
			p.Encrypted = p.Encrypted || side.Type == "Encryption info" // ISO/IEC 23001-7
		}
	}
	p.Made, p.Words = tags(raw.Format.Tags)
	if d, err := strconv.ParseFloat(raw.Format.Duration, 64); err == nil && d > 0 {
		p.Duration = time.Duration(d * float64(time.Second))
	}
	return p
}
