package main

import (
	"bytes"
	"context"
	"encoding/json"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"latelantern/demo"
	"latelantern/internal/core/span"
	"latelantern/internal/testfilm"
)

func tool(do func([]string, *bytes.Buffer, *bytes.Buffer) int, args ...string) (string, string, int) {
	var out, errs bytes.Buffer
	code := do(args, &out, &errs)
	return out.String(), errs.String(), code
}

func analyse(args []string, out, errs *bytes.Buffer) int { return printAnalysis(args, out, errs) }
func cutting(args []string, out, errs *bytes.Buffer) int { return cutFile(args, out, errs) }

// TestAnalyseTool finds in a talk of the demonstration what was put there: slides that follow
// each other by hard cuts, silence before and after, and a break.
func TestAnalyseTool(t *testing.T) {
	film, err := demo.Film("tid-1")
	if err != nil {
		t.Fatal(err)
	}
	path := write(t, "talk.mp4", string(film))
	out, errs, code := tool(analyse, path)
	var a analysed
	if err := json.Unmarshal([]byte(out), &a); err != nil || code != 0 {
		t.Fatalf("%d %v %s%s", code, err, out, errs)
	}
	kinds := map[string]int{}
	for _, p := range a.Proposals {
		kinds[p.Kind]++
		if p.End <= p.Start {
			t.Errorf("%+v", p)
		}
	}
	if kinds["before"] != 1 || kinds["break"] != 1 || len(a.Speech) == 0 || len(a.Slides) < 4 || a.Slides[0] != 0 {
		t.Errorf("%s", out)
	}
	// The tool's own measurement, of the file as it is.
	said, err := exec.Command("ffmpeg", "-hide_banner", "-nostats", "-i", path, "-map", "0:a", "-af",
		"ebur128=framelog=verbose", "-f", "null", "-").CombinedOutput()
	if err != nil {
		t.Fatal(err)
	}
	_, rest, _ := strings.Cut(string(said), "Integrated loudness:")
	fields := strings.Fields(rest)
	var want float64
	if len(fields) < 2 || json.Unmarshal([]byte(fields[1]), &want) != nil || a.Loudness == nil ||
		math.Abs(*a.Loudness-want) > 0.2 {
		t.Errorf("loudness %v, not %v", a.Loudness, want)
	}
	for _, bad := range [][]string{{}, {path, path}} {
		if _, errs, code := tool(analyse, bad...); code != 2 || errs == "" {
			t.Errorf("called with %d files: %d %q", len(bad), code, errs)
		}
	}
	for name, text := range map[string]string{"a text": "Only notes", "nothing": "",
		"a playlist": "#EXTM3U\nfile:///etc/passwd\n"} {
		if _, errs, code := tool(analyse, write(t, "x.mp4", text)); code != 1 ||
			!strings.HasSuffix(strings.TrimSpace(errs), ".") {
			t.Errorf("%s: %d %q", name, code, errs)
		}
	}
}

// TestCutTool keeps what it is told to, to the picture, with the sound in its place.
func TestCutTool(t *testing.T) {
	ctx := context.Background()
	path := filepath.Join(t.TempDir(), "film.mp4")
	if err := (testfilm.Film{Length: 12 * time.Second, BFrames: 2}).Make(ctx, path); err != nil {
		t.Fatal(err)
	}
	to := filepath.Join(t.TempDir(), "cut.mp4")
	_, errs, code := tool(cutting, path, "--keep", "0:01.2-3,0:05.04-0:07.48, 0:10-1:00", to)
	if code != 0 || !strings.Contains(errs, "in 3 stretches") {
		t.Fatalf("%d %s", code, errs)
	}
	numbers, err := testfilm.Numbers(ctx, to)
	if err != nil {
		t.Fatal(err)
	}
	var want []int
	for _, x := range [][2]int{{30, 75}, {126, 187}, {250, 300}} {
		for n := x[0]; n < x[1]; n++ {
			want = append(want, n)
		}
	}
	if len(numbers) != len(want) {
		t.Fatalf("%d pictures, not %d", len(numbers), len(want))
	}
	for i := range want {
		if numbers[i] != want[i] {
			t.Errorf("picture %d is %d, not %d", i, numbers[i], want[i])
		}
	}
	clicks, err := testfilm.Clicks(ctx, to)
	if err != nil {
		t.Fatal(err)
	}
	kept := []span.Span{{Start: 1200 * time.Millisecond, End: 3 * time.Second},
		{Start: 5040 * time.Millisecond, End: 7480 * time.Millisecond},
		{Start: 10 * time.Second, End: 12 * time.Second}}
	for _, c := range clicks {
		at, source := time.Duration(0), time.Duration(-1)
		for _, k := range kept {
			if c < at+k.Len() {
				source = k.Start + c - at
				break
			}
			at += k.Len()
		}
		off := (source + 250*time.Millisecond) % (500 * time.Millisecond)
		if d := (off - 250*time.Millisecond).Abs(); d > 22*time.Millisecond {
			t.Errorf("a click at %v is %v away from its place", c, d)
		}
	}
	if len(clicks) < 10 {
		t.Errorf("%d clicks", len(clicks))
	}
	head := make([]byte, 64)
	f, err := os.Open(to)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	if _, err := f.Read(head); err != nil || !bytes.Contains(head, []byte("moov")) {
		t.Errorf("moov is not in front: %q", head)
	}
}

func TestCutToolRefuses(t *testing.T) {
	path := made(t, "a.mp4", "-c:v", "libx264", "-preset", "ultrafast", "-pix_fmt", "yuv420p", "-c:a", "aac")
	to := filepath.Join(t.TempDir(), "cut.mp4")
	for _, c := range []struct {
		args []string
		code int
		says string
	}{
		{[]string{path, to}, 2, "name what to keep"},
		{[]string{"--keep", "0:01-0:02", path}, 2, "name what to keep"},
		{[]string{"--keep", "0:01", path, to}, 2, "is no stretch"},
		{[]string{"--keep", "0:01-0:x", path, to}, 2, "is no stretch"},
		{[]string{"--keep", "1:75-2:00", path, to}, 2, "is no stretch"},
		{[]string{"--keep", "0:02-0:01", path, to}, 2, "does not come after its start"},
		{[]string{"--keep", "0:01-0:02", path, path}, 2, "over itself"},
		{[]string{"--keep", "1:00-2:00", path, to}, 1, "after the end of the file"},
		{[]string{"--keep", "0-1", write(t, "x.mp4", "notes"), to}, 1, "not a recording"},
	} {
		if _, errs, code := tool(cutting, c.args...); code != c.code || !strings.Contains(errs, c.says) {
			t.Errorf("%v: %d %q", c.args[:2], code, errs)
		}
		if _, err := os.Stat(to); err == nil {
			t.Errorf("%v wrote something", c.args[:2])
		}
	}
}

func TestMoments(t *testing.T) {
	for text, want := range map[string]time.Duration{"58": 58 * time.Second, "0:41.200": 41200 * time.Millisecond,
		"58:02.5": 58*time.Minute + 2500*time.Millisecond, "1:02:41": time.Hour + 2*time.Minute + 41*time.Second,
		"90:00": 90 * time.Minute} {
		if got, err := moment(text); err != nil || got != want {
			t.Errorf("%q: %v %v", text, got, err)
		}
		if got, err := moment(clockOf(want)); err != nil || got != want {
			t.Errorf("%v there and back: %v %v", want, got, err)
		}
	}
	for _, text := range []string{"", ":", "1:", "1:2:3:4", "-1", "1.5:00", "0:61", "1e9", "NaN"} {
		if got, err := moment(text); err == nil {
			t.Errorf("%q: %v", text, got)
		}
	}
}
