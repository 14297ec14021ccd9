package fmp4

import (
	"bytes"
	"errors"
	"os/exec"
	"slices"
	"strconv"
	"testing"
	"time"
)

// made runs ffmpeg to make a fragmented file of 5 s with the given arguments.
func made(t *testing.T, args ...string) []byte {
	t.Helper()
	all := append([]string{"-v", "error", "-f", "lavfi", "-i", "testsrc2=s=320x180:r=30", "-f", "lavfi", "-i",
		"sine=r=48000", "-t", "5"}, args...)
	out, err := exec.Command("ffmpeg", append(all, "-f", "mp4", "pipe:1")...).Output()
	if err != nil {
		t.Fatalf("ffmpeg: %v", err)
	}
	return out
}

var (
	pictures = []string{"-map", "0:v", "-c:v", "libx264", "-preset", "veryfast", "-g", "30", "-bf", "2", "-movflags",
		"+frag_keyframe+delay_moov+default_base_moof+negative_cts_offsets"}
	sound = []string{"-map", "1:a", "-c:a", "aac", "-frag_duration", "2000000", "-movflags",
		"+delay_moov+default_base_moof"}
)

// packed packages a stream as a capture is packaged.
func packed(t *testing.T, stream []byte) (*Packed, []byte) {
	t.Helper()
	var side, body bytes.Buffer
	err := Read(bytes.NewReader(stream), func(x Init) error { return AppendInit(&side, x) }, func(f Fragment) error {
		defer body.Write(f.Raw)
		return AppendSegment(&side, int64(body.Len()), f)
	})
	if err != nil {
		t.Fatal(err)
	}
	p, err := ReadSidecar(&side)
	if err != nil {
		t.Fatal(err)
	}
	return p, body.Bytes()
}

func TestAPackagedTrackIsIndexedToTheFrame(t *testing.T) {
	p, body := packed(t, made(t, pictures...))
	if n := len(p.Index.Samples); n != 150 {
		t.Fatalf("%d pictures, want 150", n)
	}
	if len(p.Index.Segments) != 5 || p.Init.Width != 320 || p.Init.Height != 180 || p.Init.Codec[:5] != "avc1." {
		t.Errorf("%d segments, %+v", len(p.Index.Segments), p.Init.Codec)
	}
	if d := p.Index.Duration(); d < 4990*time.Millisecond || d > 5100*time.Millisecond {
		t.Errorf("length %v", d)
	}
	for i, s := range p.Index.Samples {
		if nal := body[s.Off : s.Off+int64(s.Size)]; len(nal) < 5 {
			t.Fatalf("sample %d has %d bytes", i, len(nal))
		}
	}
	if bytes.Contains(p.Init.Raw, []byte("edts")) {
		t.Error("the edit list still stands in the head")
	}
	p, _ = packed(t, made(t, sound...))
	if p.Init.Codec != "mp4a.40.2" || p.Index.Samples[0].PTS != -1024 {
		t.Errorf("sound: %s begins at %d, want its priming before zero", p.Init.Codec, p.Index.Samples[0].PTS)
	}
}

func TestAStreamMayEndAnywhere(t *testing.T) {
	whole := made(t, pictures...)
	for _, cut := range []int{0, 7, 500, 2000, len(whole) / 2, len(whole) - 3} {
		n := 0
		if err := Read(bytes.NewReader(whole[:cut]), func(Init) error { return nil },
			func(Fragment) error { n++; return nil }); err != nil {
			t.Errorf("cut at %d: %v", cut, err)
		}
		if n > 5 {
			t.Errorf("cut at %d: %d fragments", cut, n)
		}
	}
}

func TestWhatIsNoMediaIsAnError(t *testing.T) {
	for name, b := range map[string][]byte{
		"a box of no length":  {0, 0, 0, 0, 'm', 'o', 'o', 'v', 1, 2, 3, 4},
		"a box too large":     {0xff, 0xff, 0xff, 0xff, 'm', 'd', 'a', 't', 0},
		"media before a head": {0, 0, 0, 9, 'm', 'd', 'a', 't', 0},
		"a head of nothing":   {0, 0, 0, 8, 'm', 'o', 'o', 'v'},
	} {
		if err := Read(bytes.NewReader(b), func(Init) error { return nil },
			func(Fragment) error { return nil }); err == nil {
			t.Errorf("%s: no error", name)
		}
	}
	stop := errors.New("enough")
	if err := Read(bytes.NewReader(made(t, sound...)), func(Init) error { return stop }, nil); !errors.Is(err, stop) {
		t.Errorf("the error of a reader is lost: %v", err)
	}
}

func TestASidecarMayStillGrow(t *testing.T) {
	var side bytes.Buffer
	off := int64(0)
	err := Read(bytes.NewReader(made(t, pictures...)), func(x Init) error { return AppendInit(&side, x) },
		func(f Fragment) error {
			err := AppendSegment(&side, off, f)
			off += int64(len(f.Raw))
			return err
		})
	if err != nil {
		t.Fatal(err)
	}
	b := side.Bytes()
	p, err := ReadSidecar(bytes.NewReader(b[:len(b)-20]))
	if err != nil || len(p.Index.Segments) != 4 {
		t.Errorf("%v segments of a cut sidecar, %v", p, err)
	}
	if _, err := ReadSidecar(bytes.NewReader(nil)); !errors.Is(err, ErrNoInit) {
		t.Errorf("an empty sidecar: %v", err)
	}
}

func TestWrittenFragmentsAreRead(t *testing.T) {
	p, body := packed(t, made(t, sound...))
	id, err := TrackID(p.Init.Raw)
	if err != nil {
		t.Fatal(err)
	}
	var in []Payload
	for _, s := range p.Index.Samples[3:9] {
		in = append(in, Payload{body[s.Off : s.Off+int64(s.Size)], s.Dur, true})
	}
	const number = 0x74666474 // which reads "tfdt"
	raw, at, err := Write(number, id, in)
	if err != nil {
		t.Fatal(err)
	}
	if err := SetTime(raw, at, 1<<33); err != nil {
		t.Fatal(err)
	}
	again, body2 := packed(t, append(bytes.Clone(p.Init.Raw), raw...))
	if len(again.Index.Samples) != 6 || again.Index.Samples[0].DTS != 1<<33 {
		t.Fatalf("%d samples from %d", len(again.Index.Samples), again.Index.Samples[0].DTS)
	}
	for i, s := range again.Index.Samples {
		if !bytes.Equal(body2[s.Off:s.Off+int64(s.Size)], in[i].Data) {
			t.Errorf("sample %d changed", i)
		}
	}
	if SetTime(raw, at, -1) == nil || SetTime(raw, int64(len(raw)), 0) == nil {
		t.Error("a time before zero, or outside the fragment, was set")
	}
}

func TestBothParameterSetsStandInOneHead(t *testing.T) {
	a, _ := packed(t, made(t, pictures...))
	b, _ := packed(t, made(t, append([]string{"-x264-params", "sps-id=1"}, pictures...)...))
	pa, err := ParametersOf(a.Init.Raw)
	if err != nil {
		t.Fatal(err)
	}
	pb, _ := ParametersOf(b.Init.Raw)
	if id, err := pa.FreeID(); id != 1 || err != nil {
		t.Errorf("free number %d %v", id, err)
	}
	if id, _ := pb.FreeID(); id != 2 {
		t.Errorf("free number beside 1 is %d", id)
	}
	both, err := WithParameters(a.Init.Raw, pb)
	if err != nil {
		t.Fatal(err)
	}
	if p, _ := ParametersOf(both); len(p.SPS) != 2 || len(p.PPS) != 2 || !(Parameters{p.SPS[1:], p.PPS[1:]}).Equal(pb) {
		t.Errorf("%d and %d parameter sets", len(p.SPS), len(p.PPS))
	}
}

// TestOneChannelIsOne, though the box of the sample entry says 2 for it.
func TestOneChannelIsOne(t *testing.T) {
	for want, layout := range map[int]string{1: "mono", 2: "stereo"} {
		p, _ := packed(t, made(t, append(slices.Clone(sound), "-ac", strconv.Itoa(want))...))
		if p.Init.Channels != want {
			t.Errorf("%s has %d channels", layout, p.Init.Channels)
		}
	}
}
