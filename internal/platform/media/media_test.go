package media

import (
	"bytes"
	"context"
	"errors"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"
)

func make5s(t *testing.T, name string, args ...string) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	all := append([]string{"-v", "error", "-f", "lavfi", "-i", "testsrc2=s=320x180:r=10", "-f", "lavfi", "-i", "sine",
		"-t", "5"}, args...)
	if out, err := exec.Command("ffmpeg", append(all, path)...).CombinedOutput(); err != nil {
		t.Fatalf("%v %s", err, out)
	}
	return path
}

func TestSniffAndLook(t *testing.T) {
	for _, c := range []struct {
		name            string
		args            []string
		format          Format
		pictures, sound bool
	}{
		{"a.mp4", nil, MOV, true, true},
		{"a.mkv", nil, Matroska, true, true},
		{"a.webm", []string{"-c:v", "libvpx", "-deadline", "realtime"}, Matroska, true, true},
		{"silent.mp4", []string{"-an"}, MOV, true, false},
		{"blind.mkv", []string{"-vn"}, Matroska, false, true},
		{"a.mp3", []string{"-vn"}, MP3, false, true},
		{"a.wav", []string{"-vn"}, WAV, false, true},
		{"a.flac", []string{"-vn"}, FLAC, false, true},
		{"a.ogg", []string{"-vn", "-c:a", "libvorbis"}, Ogg, false, true},
		{"a.ts", nil, MPEGTS, true, true},
	} {
		path := make5s(t, c.name, c.args...)
		b, _ := os.ReadFile(path)
		f, err := Sniff(b[:SniffLength])
		if f != c.format || err != nil {
			t.Errorf("%s is %q %v", c.name, f, err)
			continue
		}
		p, err := Look(context.Background(), Input{f, path}, nil)
		if err != nil || (p.Video != nil) != c.pictures || (p.Audio != nil) != c.sound {
			t.Errorf("%s: %+v %v", c.name, p, err)
		}
	}
}

func TestSniffRefuses(t *testing.T) {
	for _, b := range []string{"", "x", "#EXTM3U\n", "ffconcat version 1.0\nfile /etc/passwd\n", "<html>",
		strings.Repeat("G", 100)} {
		if f, err := Sniff([]byte(b)); !errors.Is(err, ErrNoMedia) {
			t.Errorf("%.12q is %q", b, f)
		}
	}
}

// A playlist dressed as a recording must not make the tool read another person's file.
func TestAListDressedAsARecordingReadsNothing(t *testing.T) {
	secret := make5s(t, "secret.mp4")
	for name, text := range map[string]string{
		"playlist": "#EXTM3U\n#EXT-X-TARGETDURATION:5\n#EXTINF:5,\nfile://" + secret + "\n#EXT-X-ENDLIST\n",
		"concat":   "ffconcat version 1.0\nfile '" + secret + "'\n",
	} {
		path := filepath.Join(t.TempDir(), "lecture.mp4")
		if err := os.WriteFile(path, []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
		for _, f := range []Format{MOV, Matroska, MPEGTS} {
			if p, err := Look(context.Background(), Input{f, path}, nil); err == nil &&
				(p.Video != nil || p.Audio != nil) {
				t.Errorf("a %s read as %s gave %+v", name, f, p)
			}
		}
		if _, err := Look(context.Background(), Input{"hls", path}, nil); err == nil {
			t.Errorf("a %s was read by a format that is not listed", name)
		}
	}
}

func TestFFmpegIsKilledAtItsLimit(t *testing.T) {
	r, w, err := os.Pipe()
	if err != nil {
		t.Fatal(err)
	}
	defer w.Close()
	began := time.Now()
	_, err = FFmpeg(context.Background(),
		Run{Input: Input{Matroska, "pipe:0"}, Output: []string{"-f", "null", "-"}, Stdin: r, Limit: time.Second})
	if err == nil || time.Since(began) > 8*time.Second {
		t.Errorf("%v after %v", err, time.Since(began))
	}
}

func TestFFmpegWritesTwoPipes(t *testing.T) {
	path := make5s(t, "a.mkv")
	var one, three bytes.Buffer
	_, err := FFmpeg(context.Background(),
		Run{Input: Input{Matroska, path}, Limit: time.Minute, Stdout: &one, Third: &three,
			Output: []string{"-map", "0:v", "-c", "copy", "-f", "matroska", "pipe:1", "-map", "0:a", "-f", "wav",
				"pipe:3"}})
	if err != nil || one.Len() < 1000 || !bytes.HasPrefix(three.Bytes(), []byte("RIFF")) {
		t.Errorf("%d and %d bytes, %v", one.Len(), three.Len(), err)
	}
	_, err = FFmpeg(context.Background(),
		Run{Input: Input{MOV, path}, Limit: time.Minute, Output: []string{"-f", "null", "-"}})
	if !errors.Is(err, ErrTool) || !strings.Contains(err.Error(), "moov") {
		t.Errorf("a Matroska file read as MP4: %v", err)
	}
}
