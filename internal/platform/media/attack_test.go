package media

import (
	"bytes"
	"context"
	"encoding/binary"
	"os"
	"os/exec"
	"path/filepath"
	"testing"
	"time"
)

// boxes that hold others, on the way to where a track says in which file its bytes are.
var holders = map[string]bool{"moov": true, "trak": true, "mdia": true, "minf": true, "dinf": true}

// redirect gives the boxes of b with every data reference (dref, ISO/IEC 14496-12, 8.7.2) replaced.
func redirect(b, dref []byte) []byte {
	var out []byte
	for len(b) >= 8 {
		size := int(binary.BigEndian.Uint32(b))
		kind := string(b[4:8])
		if size < 8 || size > len(b) {
			return append(out, b...)
		}
		inner := b[8:size]
		switch {
		case kind == "dref":
			inner = dref
		case holders[kind]:
			inner = redirect(inner, dref)
		}
		out = binary.BigEndian.AppendUint32(out, uint32(8+len(inner)))
		out = append(append(out, kind...), inner...)
		b = b[size:]
	}
	return out
}

// alias is a reference to a file that lies beside, by its path, as QuickTime files have it.
func alias(path string) []byte {
	body := make([]byte, 130) // volume, name and dates, of which nothing matters here
	body = append(body, 0, 1, 0, 1)
	body = append(body, make([]byte, 16)...)
	body = append(body, 0, 2) // what follows is the path
	body = binary.BigEndian.AppendUint16(body, uint16(len(path)))
	body = append(append(body, path...), make([]byte, len(path)%2)...)
	body = append(body, 0xff, 0xff, 0, 0)
	entry := binary.BigEndian.AppendUint32(nil, uint32(12+len(body)))
	entry = append(append(append(entry, "alis"...), 0, 0, 0, 0), body...)
	return append([]byte{0, 0, 0, 0, 0, 0, 0, 1}, entry...)
}

// TestAFilmThatPointsToAnotherFile shows nothing of it.
func TestAFilmThatPointsToAnotherFile(t *testing.T) {
	secret := make5s(t, "secret.mp4", "-c:v", "libx264", "-preset", "ultrafast", "-pix_fmt", "yuv420p")
	b, err := os.ReadFile(secret)
	if err != nil {
		t.Fatal(err)
	}
	// Everything but the bytes of the pictures, which are said to lie in the other file.
	i := bytes.Index(b, []byte("mdat"))
	size := int(binary.BigEndian.Uint32(b[i-4:]))
	for n := i + 4; n < i-4+size; n++ {
		b[n] = 0
	}
	path := filepath.Join(filepath.Dir(secret), "lecture.mp4")
	if err := os.WriteFile(path, redirect(b, alias(secret)), 0o600); err != nil {
		t.Fatal(err)
	}
	pictures := func(in Input) int {
		var out bytes.Buffer
		_, _ = FFmpeg(context.Background(),
			Run{Input: in, Limit: 20 * time.Second, Stdout: &out,
				Output: []string{"-map", "0:v", "-f", "rawvideo", "-pix_fmt", "gray", "pipe:1"}})
		return out.Len()
	}
	if n := pictures(Input{MOV, path}); n != 0 {
		t.Errorf("%d bytes of pictures came out of a film that has none", n)
	}
	// The attack is a real one: off the leash the other file is read.
	out, _ := exec.Command("ffmpeg", "-v", "error", "-enable_drefs", "1", "-i", path, "-map", "0:v", "-f", "rawvideo",
		"-pix_fmt", "gray", "pipe:1").Output()
	if len(out) != 50*320*180 {
		t.Errorf("off the leash %d bytes came", len(out))
	}
}

// TestPicturesLargerThanAnyScreen are refused before they are decoded.
func TestPicturesLargerThanAnyScreen(t *testing.T) {
	path := filepath.Join(t.TempDir(), "large.mkv")
	if out, err := exec.Command("ffmpeg", "-v", "error", "-f", "lavfi", "-i", "color=s=12000x12000:r=1:d=1", "-c:v",
		"mjpeg", "-pix_fmt", "yuvj420p", path).CombinedOutput(); err != nil {
		t.Fatalf("%v %s", err, out)
	}
	began := time.Now()
	var out bytes.Buffer
	_, err := FFmpeg(context.Background(),
		Run{Input: Input{Matroska, path}, Limit: 20 * time.Second, Stdout: &out,
			Output: []string{"-vf", "scale=16:16", "-f", "rawvideo", "pipe:1"}})
	if err == nil || out.Len() > 0 || time.Since(began) > 10*time.Second {
		t.Errorf("%v, %d bytes after %v", err, out.Len(), time.Since(began))
	}
}

// TestAToolHasNoNetwork, nor more room than it is given.
func TestAToolHasNoNetwork(t *testing.T) {
	cmd, cancel := command(context.Background(), 5*time.Second, 0, 0, "sh", "-c",
		"ulimit -v; cat /proc/net/route | wc -l")
	defer cancel()
	out, err := cmd.Output()
	if err != nil {
		t.Fatal(err)
	}
	if want := "6291456\n"; !bytes.HasPrefix(out, []byte(want)) {
		t.Errorf("a tool may take %q", out)
	}
	// at most the head of the list
	if sandbox() != nil && !bytes.HasSuffix(out, []byte("\n0\n")) && !bytes.HasSuffix(out, []byte("\n1\n")) {
		t.Errorf("a tool sees routes: %q", out)
	}
}
