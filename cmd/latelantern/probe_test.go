package main

import (
	"bytes"
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
)

func probeTool(args []string, out, errs *bytes.Buffer) int { return printProbe(args, out, errs) }

// made is a film of two seconds.
func made(t *testing.T, name string, args ...string) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	all := append([]string{"-v", "error", "-f", "lavfi", "-i", "testsrc2=s=320x180:r=25", "-f", "lavfi", "-i", "sine=r=48000", "-t", "2"}, args...)
	if out, err := exec.Command("ffmpeg", append(all, path)...).CombinedOutput(); err != nil {
		t.Fatalf("%v %s", err, out)
	}
	return path
}

// TestProbeTool tells apart what can be watched at once, after a copy, and not at all.
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
		"used as it is":           {made(t, "a.mp4", usual...), "video", "at_once", "It is used as it is.", 0},
		"in a matroska":           {made(t, "a.mkv", usual...), "video", "at_once", "as it is", 0},
		"vp8 and vorbis":          {made(t, "a.webm", "-c:v", "libvpx", "-deadline", "realtime", "-c:a", "libvorbis"), "video", "after_own_copy", "Pictures (vp8) and sound (vorbis)", 0},
		"ten bits":                {made(t, "a.mp4", "-c:v", "libx264", "-preset", "ultrafast", "-pix_fmt", "yuv420p10le", "-c:a", "aac"), "video", "after_own_copy", "The pictures (h264)", 0},
		"an odd size":             {made(t, "a.mkv", "-vf", "scale=321:181", "-c:v", "libx264", "-preset", "ultrafast", "-pix_fmt", "yuv444p", "-c:a", "aac"), "video", "after_own_copy", "The pictures (h264)", 0},
		"open groups":             {made(t, "a.mp4", "-c:v", "libx264", "-preset", "ultrafast", "-bf", "2", "-x264-params", "open-gop=1:keyint=25:scenecut=0", "-pix_fmt", yuv, "-c:a", "aac"), "video", "after_own_copy", "The pictures (h264)", 0},
		"no sound":                {made(t, "a.mp4", append([]string{"-an"}, usual[:6]...)...), "video", "at_once", "It has no sound.", 0},
		"no picture":              {made(t, "a.mp3", "-vn"), "audio", "after_own_copy", "The sound (mp3) is encoded anew; it can be watched as far as that has come. It has no picture.", 0},
		"empty":                   {write(t, "a.mp4", ""), "none", "no", "The file is empty.", 1},
		"a text":                  {write(t, "a.mp4", "Dear students,\n"), "none", "no", "This is not a recording", 1},
		"a playlist in disguise":  {write(t, "a.mp4", "#EXTM3U\n#EXTINF:2,\nfile://"+secret+"\n#EXT-X-ENDLIST\n"), "none", "no", "This is not a recording", 1},
		"a script in disguise":    {write(t, "a.mkv", "ffconcat version 1.0\nfile '"+secret+"'\n"), "none", "no", "This is not a recording", 1},
		"encrypted":               {made(t, "a.mp4", append(usual, "-encryption_scheme", "cenc-aes-ctr", "-encryption_key", strings.Repeat("ab", 16), "-encryption_kid", strings.Repeat("12", 16))...), "video", "no", "It is encrypted", 1},
		"cut off before its head": {write(t, "a.mp4", string(whole[:2000])), "none", "no", "looks like a recording", 1},
		"cut off in the middle":   {write(t, "a.mp4", string(whole[:len(whole)*6/10])), "video", "at_once", "It is cut off: of 2 s", 0},
	} {
		out, errs, code := run2(probeTool, c.path)
		var p probed
		if err := json.Unmarshal([]byte(out), &p); err != nil {
			t.Errorf("%s: %v\n%s%s", name, err, out, errs)
			continue
		}
		if p.Kind != c.kind || string(p.Watchable) != c.watchable || !strings.Contains(p.Reason, c.because) || code != c.code || (p.Watchable != "no" && (p.Duration < 800 || p.Duration > 2200)) {
			t.Errorf("%s: %d %+v", name, code, p)
		}
		if (p.Kind == "video") != (p.Video != nil) {
			t.Errorf("%s: video %+v", name, p.Video)
		}
	}
	if _, errs, code := run2(probeTool); code != 2 || errs == "" {
		t.Errorf("without a file: %d %s", code, errs)
	}
	if _, errs, code := run2(probeTool, "missing.mp4"); code != 1 || !strings.Contains(errs, "missing.mp4") {
		t.Errorf("a file that is not there: %d %s", code, errs)
	}
}
