package capture_test

import (
	"context"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"latelantern/internal/testfilm"
	"latelantern/internal/testhouse"
)

// shot is a film that the tool makes by itself, of a test picture at 25 a second and a tone.
func shot(t *testing.T, name string, length time.Duration, args ...string) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	all := []string{"-v", "error", "-f", "lavfi", "-i", "testsrc2=s=160x120:r=25", "-f", "lavfi", "-i", "sine=r=48000",
		"-t", fmt.Sprint(length.Seconds())}
	if out, err := exec.Command("ffmpeg", append(append(all, args...), path)...).CombinedOutput(); err != nil {
		t.Fatalf("%v %s", err, out)
	}
	return path
}

var h264 = []string{"-c:v", "libx264", "-preset", "ultrafast", "-pix_fmt", "yuv420p", "-c:a", "aac"}

// TestForeignFilesBecomeOurs: of what cannot be used as it came an own copy is made, with groups
// of two seconds.
func TestForeignFilesBecomeOurs(t *testing.T) {
	s := testhouse.New(t)
	upright := filepath.Join(t.TempDir(), "turned.mp4")
	if out, err := exec.Command("ffmpeg", "-v", "error", "-i", shot(t, "a.mp4", 3*time.Second, h264...), "-c", "copy",
		"-metadata:s:v:0", "rotate=90", upright).CombinedOutput(); err != nil {
		t.Fatalf("%v %s", err, out)
	}
	for _, c := range []struct {
		name          string
		path          string
		length        time.Duration
		width, height int
		encoded       bool
		pictures      int // 0 for any number
	}{
		{"closed groups of two seconds", shot(t, "a.mp4", 5*time.Second, with("-g", "50")...), 5 * time.Second, 160,
			120, false, 125},
		{"one group of 20 seconds", shot(t, "a.mp4", 20*time.Second, with("-g", "9999", "-sc_threshold", "0")...),
			20 * time.Second, 160, 120, true, 500},
		{"open groups",
			shot(t, "a.mkv", 6*time.Second, with("-bf", "2", "-x264-params", "open-gop=1:keyint=25:scenecut=0")...),
			6 * time.Second, 160, 120, true, 150},
		{"in a matroska, of sound at 44.1 kHz", shot(t, "a.mkv", 20*time.Second, with("-ar", "44100", "-g", "50")...),
			20 * time.Second, 160, 120, false, 500},
		{"an odd size",
			shot(t, "a.webm", 3*time.Second, "-vf", "scale=161:121", "-c:v", "libvpx", "-deadline", "realtime",
				"-cpu-used", "8", "-c:a", "libopus"), 3 * time.Second, 160, 120, true, 75},
		{"larger than is shown",
			shot(t, "a.mkv", 1*time.Second, "-vf", "scale=2561:1441", "-c:v", "mjpeg", "-pix_fmt", "yuvj420p", "-c:a",
				"pcm_s16le"), time.Second, 1920, 1080, true, 25},
		{"pictures that come now and then",
			shot(t, "a.mkv", 8*time.Second,
				with("-vf", "select='lt(mod(n,100),25)+not(mod(n,25))'", "-fps_mode", "vfr", "-g", "50")...),
			8 * time.Second, 160, 120, false, 56},
		{"pictures that come now and then, of another kind",
			shot(t, "a.webm", 8*time.Second, "-vf", "select='lt(mod(n,100),25)+not(mod(n,25))'", "-fps_mode", "vfr",
				"-c:v", "libvpx", "-deadline", "realtime", "-cpu-used", "8", "-c:a", "libopus"), 8 * time.Second, 160,
			120, true, 56},
		{"turned on its side", upright, 3 * time.Second, 120, 160, true, 75},
		{"half pictures",
			shot(t, "a.mkv", 3*time.Second,
				with("-flags", "+ildct+ilme", "-x264opts", "tff=1", "-field_order", "tt")...), 3 * time.Second, 160,
			120, true, 75},
		{"sound of another rate", shot(t, "a.m4a", 3*time.Second, "-vn", "-ar", "22050", "-c:a", "aac"),
			3 * time.Second, 0, 0, true, 0},
	} {
		t.Run(c.name, func(t *testing.T) {
			id, _ := s.File(s.Lecture, c.path)
			r := s.Settled(id)
			if r.State != "ready" || r.Encoded != c.encoded {
				t.Fatalf("it is %s %q, an own copy: %v", r.State, r.Fault, r.Encoded)
			}
			// The last picture of a film without a steady rate is shown for as long as the one before.
			if d := (r.Length - c.length).Abs(); d > 1100*time.Millisecond ||
				c.name[:8] != "pictures" && d > 120*time.Millisecond {
				t.Errorf("it is %v long, not %v", r.Length, c.length)
			}
			if c.width == 0 {
				return
			}
			x, err := s.Recordings.Captured(context.Background(), id)
			s.Must(err)
			if track := x.Video.TrackOf(0); track.Width != c.width || track.Height != c.height {
				t.Errorf("it is %d by %d", track.Width, track.Height)
			}
			if c.encoded {
				for i, d := range x.Video.Durations() {
					if d > 2500*time.Millisecond {
						t.Errorf("group %d is %v long", i, d)
					}
				}
			}
			path := filepath.Join(t.TempDir(), "all.mp4")
			f, err := os.Create(path)
			s.Must(err, s.Recordings.WriteRendition(f, x.Video), f.Close())
			n, err := exec.Command("ffprobe", "-v", "error", "-select_streams", "v", "-count_frames", "-show_entries",
				"stream=nb_read_frames", "-of", "csv=p=0", path).Output()
			if got := strings.TrimSpace(string(n)); err != nil || got != strconv.Itoa(c.pictures) {
				t.Errorf("it has %s pictures, not %d (%v)", got, c.pictures, err)
			}
		})
	}
}

// TestTwelveHours come in as an hour does.
func TestTwelveHours(t *testing.T) {
	s := testhouse.New(t)
	minute := shot(t, "minute.mp4", time.Minute, with("-vf", "fps=1,scale=64:48", "-g", "2", "-an")...)
	path := filepath.Join(t.TempDir(), "day.mp4")
	if out, err := exec.Command("ffmpeg", "-v", "error", "-stream_loop", "719", "-i", minute, "-c", "copy",
		path).CombinedOutput(); err != nil {
		t.Fatalf("%v %s", err, out)
	}
	began := time.Now()
	id, _ := s.File(s.Lecture, path)
	r := s.Settled(id)
	if r.State != "ready" || (r.Length-12*time.Hour).Abs() > time.Second || r.Encoded {
		t.Fatalf("it is %s %q, %v long", r.State, r.Fault, r.Length)
	}
	if took := time.Since(began); took > 2*time.Minute {
		t.Errorf("twelve hours took %v", took)
	}
}

func with(more ...string) []string { return append(slices.Clone(h264), more...) }

// TestSoundOfAMatroskaFileStaysInPlace: its times are in milliseconds, and nothing of it is encoded anew.
func TestSoundOfAMatroskaFileStaysInPlace(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t)
	for _, name := range []string{"a.mkv", "a.mp4"} {
		path := film(t, name, testfilm.Film{Length: 30 * time.Second})
		id, _ := s.File(s.Lecture, path)
		if r := s.Settled(id); r.State != "ready" || r.Encoded {
			t.Fatalf("%s is %s, an own copy: %v", name, r.State, r.Encoded)
		}
		x, err := s.Recordings.Captured(ctx, id)
		s.Must(err)
		out := filepath.Join(t.TempDir(), "sound.mp4")
		f, err := os.Create(out)
		s.Must(err, s.Recordings.WriteRendition(f, x.Audio), f.Close())
		clicks, err := testfilm.Clicks(ctx, out)
		s.Must(err)
		want, err := testfilm.Clicks(ctx, path)
		s.Must(err)
		// The first lies in what an encoder begins with.
		begun := func(at time.Duration) bool { return at < 300*time.Millisecond }
		clicks, want = slices.DeleteFunc(clicks, begun), slices.DeleteFunc(want, begun)
		if len(clicks) != len(want) || len(want) < 58 {
			t.Fatalf("%s: %d clicks of %d", name, len(clicks), len(want))
		}
		first := clicks[0] - want[0]
		for i := range want {
			if d := clicks[i] - want[i] - first; d.Abs() > 2*time.Millisecond {
				t.Errorf("%s: click %d is off by %v from the first", name, i, d)
			}
		}
		// what an encoder begins with, which a track by itself does not leave out
		if first.Abs() > 45*time.Millisecond {
			t.Errorf("%s: all are off by %v", name, first)
		}
	}
}
