package main

import (
	"bytes"
	"encoding/binary"
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"
)

func probeTool(args []string, out, errs *bytes.Buffer) int { return printProbe(args, out, errs) }

// made is a film of two seconds.
func made(t *testing.T, name string, args ...string) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	all := append([]string{"-v", "error", "-f", "lavfi", "-i", "testsrc2=s=320x180:r=25", "-f", "lavfi", "-i",
		"sine=r=48000", "-t", "2"}, args...)
	if out, err := exec.Command("ffmpeg", append(all, path)...).CombinedOutput(); err != nil {
		t.Fatalf("%v %s", err, out)
	}
	return path
}

// TestProbeTool tells apart what can be watched at once, after a copy, and not at all.
// claims is a film that says of itself that it is longer: in the head of the film and of its tracks.
func claims(t *testing.T, film []byte, length time.Duration) string {
	t.Helper()
	b := bytes.Clone(film)
	// ISO/IEC 14496-12, 8.2.2 and 8.4.2: version 0, made, changed, ticks a second, length
	for _, box := range []string{"mvhd", "mdhd"} {
		for at := 0; ; {
			n := bytes.Index(b[at:], []byte(box))
			if n < 0 {
				break
			}
			at += n + 4
			ticks := uint64(binary.BigEndian.Uint32(b[at+12:])) * uint64(length/time.Second)
			binary.BigEndian.PutUint32(b[at+16:], uint32(min(ticks, 1<<32-2)))
		}
	}
	return string(b)
}

// pipe is a named pipe into which nobody writes.
func pipe(t *testing.T) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), "lecture.mp4")
	if err := syscall.Mkfifo(path, 0o600); err != nil {
		t.Fatal(err)
	}
	return path
}

// TestPathsAreOfWhereItIsCalled: the media tools work in another folder, where a file of that name may lie.
func TestPathsAreOfWhereItIsCalled(t *testing.T) {
	film := made(t, "lecture.mp4", "-c:v", "libx264", "-preset", "ultrafast", "-pix_fmt", "yuv420p", "-c:a", "aac")
	t.Chdir(filepath.Dir(film))
	t.Setenv("TMPDIR", t.TempDir())
	if err := os.WriteFile(filepath.Join(os.TempDir(), "lecture.mp4"), []byte("another"), 0o600); err != nil {
		t.Fatal(err)
	}
	if out, errs, code := run2(probeTool, "lecture.mp4"); code != 0 || !strings.Contains(out, "It is used as it is.") {
		t.Errorf("probe: %d %s%s", code, out, errs)
	}
	if _, errs, code := tool(analyse, "lecture.mp4"); code != 0 {
		t.Errorf("analyse: %d %s", code, errs)
	}
	if _, errs, code := tool(cutting, "--keep", "0-1", "lecture.mp4", "cut.mp4"); code != 0 {
		t.Errorf("cut: %d %s", code, errs)
	}
	if about, err := os.Stat("cut.mp4"); err != nil || about.Size() < 1000 {
		t.Errorf("what was cut does not lie there: %v", err)
	}
	if _, errs, code := tool(cutting, "--keep", "0-1", "lecture.mp4", "cut.mp4"); code != 2 ||
		!strings.Contains(errs, "is there already") {
		t.Errorf("over what is there: %d %s", code, errs)
	}
}

func TestProbeTool(t *testing.T) {
	const yuv = "yuv420p"
	usual := []string{"-c:v", "libx264", "-preset", "ultrafast", "-pix_fmt", yuv, "-c:a", "aac"}
	front := append([]string{"-movflags", "+faststart"}, usual...)
	whole, err := os.ReadFile(made(t, "a.mp4", front...))
	if err != nil {
		t.Fatal(err)
	}
	secret := made(t, "secret.mp4", usual...)
	for name, c := range map[string]struct {
		path                     string
		kind, watchable, because string
		code                     int
	}{
		"used as it is": {made(t, "a.mp4", usual...), "video", "at_once", "It is used as it is.", 0},
		"in a matroska": {made(t, "a.mkv", usual...), "video", "at_once", "as it is", 0},
		"vp8 and vorbis": {made(t, "a.webm", "-c:v", "libvpx", "-deadline", "realtime", "-c:a", "libvorbis"),
			"video", "after_own_copy", "Pictures (vp8) and sound (vorbis)", 0},
		"ten bits": {made(t, "a.mp4", "-c:v", "libx264", "-preset", "ultrafast", "-pix_fmt",
			"yuv420p10le", "-c:a", "aac"), "video", "after_own_copy", "The pictures (h264)", 0},
		"an odd size": {made(t, "a.mkv", "-vf", "scale=321:181", "-c:v", "libx264", "-preset", "ultrafast",
			"-pix_fmt", "yuv444p", "-c:a", "aac"), "video", "after_own_copy", "The pictures (h264)", 0},
		"open groups": {made(t, "a.mp4", "-c:v", "libx264", "-preset", "ultrafast", "-bf", "2",
			"-x264-params", "open-gop=1:keyint=25:scenecut=0", "-pix_fmt", yuv, "-c:a", "aac"), "video",
			"after_own_copy", "The pictures (h264)", 0},
		"no sound": {made(t, "a.mp4", append([]string{"-an"}, usual[:6]...)...), "video", "at_once",
			"It has no sound.", 0},
		"no picture": {made(t, "a.mp3", "-vn"), "audio", "after_own_copy",
			"The sound (mp3) is encoded anew; it can be watched as far as that has come. It has no picture.", 0},
		"empty":  {write(t, "a.mp4", ""), "none", "no", "The file is empty.", 1},
		"a text": {write(t, "a.mp4", "Dear students,\n"), "none", "no", "This is not a recording", 1},
		"a playlist in disguise": {write(t, "a.mp4", "#EXTM3U\n#EXTINF:2,\nfile://"+secret+"\n#EXT-X-ENDLIST\n"),
			"none", "no", "This is a list of other files", 1},
		"a script in disguise": {write(t, "a.mkv", "ffconcat version 1.0\nfile '"+secret+"'\n"), "none", "no",
			"This is a list of other files", 1},
		"encrypted": {made(t, "a.mp4",
			append(usual, "-encryption_scheme", "cenc-aes-ctr", "-encryption_key", strings.Repeat("ab", 16),
				"-encryption_kid", strings.Repeat("12", 16))...), "video", "no", "It is encrypted", 1},
		"cut off before its head": {write(t, "a.mp4", string(whole[:2000])), "none", "no",
			"it was not copied to its end", 1},
		"a claim of 48 days": {write(t, "a.mp4", claims(t, whole, 48*24*time.Hour)), "video", "at_once",
			"It claims to be 48 days long; there are 2 s of it.", 0},
		"a second of sound more": {made(t, "a.mkv", "-filter:v", "trim=end=0.6", "-c:v", "libx264", "-preset",
			"ultrafast", "-pix_fmt", yuv, "-c:a", "aac"), "video", "after_own_copy", "The pictures (h264)", 0},
		"half of the list": {write(t, "a.mp4", string(whole[:600])), "none", "no", "it was not copied to its end",
			1},
		"cut off in the middle": {write(t, "a.mp4", string(whole[:len(whole)*6/10])), "video", "at_once",
			"It is cut off: of 2 s", 0},
	} {
		out, errs, code := run2(probeTool, c.path)
		var p probed
		if err := json.Unmarshal([]byte(out), &p); err != nil {
			t.Errorf("%s: %v\n%s%s", name, err, out, errs)
			continue
		}
		if p.Kind != c.kind || string(p.Watchable) != c.watchable || !strings.Contains(p.Reason, c.because) ||
			code != c.code || (p.Watchable != "no" && (p.Duration < 800 || p.Duration > 2200)) {
			t.Errorf("%s: %d %+v", name, code, p)
		}
		if (p.Kind == "video") != (p.Video != nil) {
			t.Errorf("%s: video %+v", name, p.Video)
		}
	}
	for _, path := range []string{t.TempDir(), "/dev/null", pipe(t)} {
		if _, errs, code := run2(probeTool, path); code != 1 || !strings.Contains(errs, "this is no file") {
			t.Errorf("%s: %d %s", path, code, errs)
		}
	}
	if _, errs, code := run2(probeTool); code != 2 || errs == "" {
		t.Errorf("without a file: %d %s", code, errs)
	}
	if _, errs, code := run2(probeTool, "missing.mp4"); code != 1 || !strings.Contains(errs, "missing.mp4") {
		t.Errorf("a file that is not there: %d %s", code, errs)
	}
}
