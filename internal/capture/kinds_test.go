package capture_test

import (
	"context"
	"os/exec"
	"path/filepath"
	"slices"
	"testing"
	"time"

	"latelantern/internal/assemble"
	"latelantern/internal/capture"
	"latelantern/internal/core/span"
	"latelantern/internal/platform/blobs"
	"latelantern/internal/recordings"
	"latelantern/internal/testfilm"
)

// alone packages a file as the server does.
func alone(t *testing.T, path string) (*assemble.Alone, capture.Packaged) {
	t.Helper()
	disk, err := blobs.Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	p, err := capture.Package(t.Context(), disk, path, "file")
	if err != nil {
		t.Fatal(err)
	}
	a, err := assemble.OpenAlone(disk, "file", p.Video, p.Audio)
	if err != nil {
		t.Fatal(err)
	}
	return a, p
}

// remade has the tool make another file of one.
func remade(t *testing.T, from, name string, args ...string) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	ffmpeg(t, append(append([]string{"-i", from}, args...), path)...)
	return path
}

var (
	copied = []string{"-c", "copy"}
	late   = func(from string) []string {
		return []string{"-itsoffset", "0.7", "-i", from, "-map", "0:v", "-map", "1:a", "-c", "copy"}
	}
	lateViews = func(from string) []string {
		return []string{"-itsoffset", "3", "-i", from, "-map", "1:v", "-map", "0:a", "-c", "copy"}
	}
)

// TestKindsStayTrue: of whatever kind a file is, what is cut of it holds the pictures that are kept and the sound
// that belongs to them.
func TestKindsStayTrue(t *testing.T) {
	t.Parallel()
	base := film(t, "base.mp4", testfilm.Film{Length: 20 * time.Second, Width: 320, Height: 180, BFrames: 2})
	for _, c := range []struct {
		name    string
		args    []string
		encoded bool
		off     time.Duration // how much later the sound is than its pictures
		short   int           // pictures that the kind itself does not have, or shows otherwise, at either end
	}{
		{name: "copied.mkv", args: copied},
		{name: "copied.ts", args: copied},
		{name: "cameras.ts", args: []string{"-c", "copy", "-f", "mpegts", "-mpegts_m2ts_mode", "1"}},
		{name: "copied.flv", args: copied},
		{name: "rate.mkv", args: []string{"-c:v", "copy", "-ar", "44100", "-c:a", "aac"}},
		{name: "rate.ts", args: []string{"-c:v", "copy", "-ar", "44100", "-c:a", "aac"}},
		{name: "late.mp4", args: late(base), off: 700 * time.Millisecond},
		{name: "late.mkv", args: late(base), off: 700 * time.Millisecond},
		{name: "late.ts", args: late(base), off: 700 * time.Millisecond},
		{name: "late-and-other.mkv", args: append(late(base), "-c:a", "libopus"), off: 700 * time.Millisecond,
			encoded: true},
		{name: "apart.webm",
			args: []string{"-c:v", "libvpx-vp9", "-deadline", "realtime", "-cpu-used", "8", "-g", "50", "-c:a",
				"libopus"}, encoded: true},
		{name: "views-later.mp4", args: lateViews(base), off: -3 * time.Second, encoded: true},
		{name: "time-code.mxf", args: []string{"-c:v", "mpeg2video", "-q:v", "3", "-c:a", "pcm_s16le"}, encoded: true},
		{name: "a.avi", args: []string{"-c:v", "mpeg4", "-q:v", "3", "-c:a", "pcm_s16le"}, encoded: true, short: 1},
		{name: "a.mpg", args: []string{"-c:v", "mpeg2video", "-q:v", "3", "-c:a", "mp2"}, encoded: true},
		{name: "a.wmv", args: []string{"-c:v", "wmv2", "-q:v", "3", "-c:a", "wmav2"}, encoded: true, short: 1},
	} {
		t.Run(c.name, func(t *testing.T) {
			t.Parallel()
			a, p := alone(t, remade(t, base, c.name, c.args...))
			if p.Encoded != c.encoded || len(p.Differs) > 0 {
				t.Errorf("an own copy: %v; %+v", p.Encoded, p.Differs)
			}
			out := filepath.Join(t.TempDir(), "cut.mp4")
			r, err := a.Cut(t.Context(),
				span.Of(span.Span{Start: 3 * time.Second, End: 8100 * time.Millisecond},
					span.Span{Start: 11300 * time.Millisecond, End: 20 * time.Second}), out)
			if err != nil {
				t.Fatal(err)
			}
			inStep(t, out, r, c.off, c.short)
			whole := filepath.Join(t.TempDir(), "whole.mp4")
			if r, err = a.Cut(t.Context(), span.Of(span.Span{End: time.Minute}), whole); err != nil {
				t.Fatal(err)
			}
			inStep(t, whole, r, c.off, c.short)
		})
	}
}

// inStep checks that the clicks of a film, twice a second, lie where its pictures say, and that none is missing.
func inStep(t *testing.T, path string, r *recordings.Presentation, off time.Duration, short int) {
	t.Helper()
	const frame = 40 * time.Millisecond
	numbers, err := testfilm.Numbers(t.Context(), path)
	if err != nil {
		t.Fatal(err)
	}
	clicks, err := testfilm.Clicks(t.Context(), path)
	if err != nil {
		t.Fatal(err)
	}
	want := int(r.Length / frame)
	if len(numbers) < want-short || len(numbers) > want+1 {
		t.Errorf("%d pictures in %v", len(numbers), r.Length)
	}
	for i, x := range r.Stretches {
		first, last := int(x.At/frame), int((x.At+x.Source.Len())/frame)-1
		for n := first + 1; n <= min(last, len(numbers)-1); n++ {
			if step := numbers[n] - numbers[n-1]; step != 1 && (off >= 0 || step != 0) && n < len(numbers)-1 {
				t.Errorf("stretch %d: after picture %d comes %d", i, numbers[n-1], numbers[n])
			}
		}
	}
	heard, least := 0, time.Duration(-1)
	for _, at := range clicks {
		n := int(at / frame)
		if n >= len(numbers) {
			continue
		}
		source := time.Duration(numbers[n])*frame + at%frame - off
		if numbers[n] == 0 && off < 0 { // the first picture stands
			heard++
			continue
		}
		if d := (source+250*time.Millisecond)%(500*time.Millisecond) - 250*time.Millisecond; d > 20*time.Millisecond ||
			d < -20*time.Millisecond {
			t.Errorf("a click at %v is %v from its place", at, d)
		}
		if least < 0 {
			least = source
		}
		heard++
	}
	silent := 0
	if off < 0 {
		silent = int(-off / (500 * time.Millisecond))
	}
	if off > 0 && slices.Index(numbers, 1) >= 0 {
		silent = int(off/(500*time.Millisecond)) + 1
	}
	if wanted := int(r.Length/(500*time.Millisecond)) - silent - 2*len(r.Stretches); heard < wanted {
		t.Errorf("%d clicks in %v", heard, r.Length)
	}
}

// TestSoundOfAllKinds: a file of sound alone is as long as it was, and clicks as often.
func TestSoundOfAllKinds(t *testing.T) {
	t.Parallel()
	base := film(t, "base.wav",
		testfilm.Film{Length: 10 * time.Second, NoView: true, Encoding: []string{"-c:a", "pcm_s16le"}})
	for _, c := range []struct {
		name    string
		args    []string
		encoded bool
	}{
		{"a.aiff", nil, true}, {"a.w64", nil, true}, {"large.wav", []string{"-rf64", "always"}, true},
		{"a.ac3", nil, true}, {"a.eac3", nil, true},
		{"a.aac", nil, false}, {"a.mp2", nil, true}, {"a.mp3", nil, true}, {"a.wma", nil, true}, {"a.flac", nil, true},
		{"a.mka", []string{"-c:a", "aac", "-ar", "44100"}, false},
	} {
		t.Run(c.name, func(t *testing.T) {
			t.Parallel()
			a, p := alone(t, remade(t, base, c.name, c.args...))
			if p.Encoded != c.encoded || len(p.Differs) > 0 ||
				(a.Length()-10*time.Second).Abs() > 120*time.Millisecond {
				t.Errorf("it is %v long, an own copy: %v, %+v", a.Length(), p.Encoded, p.Differs)
			}
			out := filepath.Join(t.TempDir(), "cut.mp4")
			if _, err := a.Cut(context.Background(), span.Of(span.Span{Start: 2 * time.Second, End: 10 * time.Second}),
				out); err != nil {
				t.Fatal(err)
			}
			clicks, err := testfilm.Clicks(t.Context(), out)
			if err != nil || len(clicks) < 15 || len(clicks) > 17 {
				t.Errorf("%d clicks, %v", len(clicks), err)
			}
		})
	}
}

// TestWhatIsNoRecordingIsSaid names what a file is, where that is known.
func TestWhatIsNoRecordingIsSaid(t *testing.T) {
	for begin, want := range map[string]capture.Fault{
		"%PDF-1.7\n": "document", "PK\x03\x04rest of an archive": "archive", "\x89PNG\r\n\x1a\n": "picture",
		"#EXTM3U\n":             "list",
		"<!DOCTYPE html><html>": "page", "MThd\x00\x00\x00\x06": "notes", ".RMF\x00\x00\x00\x12": "locked_format",
		"just words of someone": capture.NoMedia, "": capture.Empty,
	} {
		f, err := capture.Examine(t.Context(), write(t, "x.mp4", []byte(begin)))
		if err != nil || f.Fault != want || f.Watchable != capture.Never {
			t.Errorf("%q is %q, %v", begin, f.Fault, err)
		}
	}
}

// TestMoreSoundThanPictures: the last picture stands until the sound ends.
func TestMoreSoundThanPictures(t *testing.T) {
	base := film(t, "base.mp4", testfilm.Film{Length: 10 * time.Second, Width: 320, Height: 180})
	path := filepath.Join(t.TempDir(), "short.mp4")
	if out, err := exec.Command("ffmpeg", "-v", "error", "-y", "-t", "4", "-i", base, "-i", base, "-map", "0:v", "-map",
		"1:a", "-c", "copy", path).CombinedOutput(); err != nil {
		t.Fatalf("%v %s", err, out)
	}
	a, p := alone(t, path)
	if (a.Length()-10*time.Second).Abs() > 100*time.Millisecond || !p.Encoded {
		t.Errorf("it is %v long, an own copy: %v", a.Length(), p.Encoded)
	}
	if _, err := a.Cut(t.Context(), span.Of(span.Span{Start: 6 * time.Second, End: 9 * time.Second}),
		filepath.Join(t.TempDir(), "cut.mp4")); err != nil {
		t.Error(err)
	}
}
