package e2e

import (
	"bytes"
	"context"
	"encoding/base64"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/demo"
	"latelantern/internal/platform/cluster"
	"latelantern/internal/testdb"
	"latelantern/internal/testfilm"
	"latelantern/internal/testhouse"
)

// wire sends a capture as the desk does, without a browser.
type wire struct {
	s      *stage
	cookie string
	track  uuid.UUID
	all    []byte
	acked  int64 // what the server said that it has
}

// wired signs in and begins a capture of a film of some length.
func (s *stage) wired(length time.Duration) *wire {
	s.t.Helper()
	path := filepath.Join(s.t.TempDir(), "capture.mkv")
	s.must(testfilm.Film{Length: length, Width: 320, Height: 180,
		Encoding: []string{"-c:v", "libx264", "-preset", "ultrafast", "-crf", "10", "-bf", "0", "-g", "50", "-c:a",
			"libopus", "-cluster_time_limit", "1000"}}.Make(context.Background(), path))
	film, err := os.ReadFile(path)
	s.must(err)
	w := &wire{s: s, track: uuid.New(), all: film}
	answer, err := http.Post(s.base()+"/api/sign-in", "application/json",
		strings.NewReader(fmt.Sprintf(`{"email":%q,"password":%q}`, demo.Accounts[lecturer].Email, demo.Password)))
	s.must(err)
	answer.Body.Close()
	for _, c := range answer.Cookies() {
		w.cookie += c.Name + "=" + c.Value + "; "
	}
	lecture, _ := s.underWay()
	var meta []string
	for k, v := range map[string]string{"lecture": lecture.String(), "source": "desk", "filetype": "video/x-matroska",
		"track": w.track.String(), "age_ms": "0"} {
		meta = append(meta, k+" "+base64.StdEncoding.EncodeToString([]byte(v)))
	}
	if status, _, err := w.do(http.MethodPost, "/api/append", nil, "Upload-Defer-Length", "1", "Upload-Metadata",
		strings.Join(meta, ",")); err != nil || status != http.StatusCreated {
		s.t.Fatalf("begin: %d %v", status, err)
	}
	return w
}

// do sends one request and gives its status and the offset in the answer, -1 for none.
func (w *wire) do(method, path string, body []byte, headers ...string) (int, int64, error) {
	r, err := http.NewRequest(method, w.s.base()+path, bytes.NewReader(body))
	if err != nil {
		return 0, -1, err
	}
	r.Header.Set("Cookie", w.cookie)
	r.Header.Set("Tus-Resumable", "1.0.0")
	for i := 0; i < len(headers); i += 2 {
		r.Header.Set(headers[i], headers[i+1])
	}
	answer, err := (&http.Client{Timeout: 20 * time.Second}).Do(r)
	if err != nil {
		return 0, -1, err
	}
	defer answer.Body.Close()
	_, _ = io.Copy(io.Discard, answer.Body)
	at, err := strconv.ParseInt(answer.Header.Get("Upload-Offset"), 10, 64)
	if err != nil {
		at = -1
	}
	return answer.StatusCode, at, nil
}

func (w *wire) address() string { return "/api/append/" + w.track.String() }

// send appends up to n bytes from where the server is thought to be.
func (w *wire) send(n int, more ...string) (int, error) {
	return w.put(w.acked, w.all[w.acked:min(w.acked+int64(n), int64(len(w.all)))], more...)
}

func (w *wire) put(at int64, b []byte, more ...string) (int, error) {
	status, stored, err := w.do(http.MethodPatch, w.address(), b,
		append([]string{"Content-Type", "application/offset+octet-stream", "Upload-Offset", strconv.FormatInt(at, 10)},
			more...)...)
	if err == nil && status == http.StatusNoContent {
		w.acked = stored
	}
	return status, err
}

// align asks what is stored, which must be all that was acknowledged.
func (w *wire) align() {
	w.s.t.Helper()
	status, stored, err := w.do(http.MethodHead, w.address(), nil)
	if err != nil || status != http.StatusOK {
		w.s.t.Fatalf("ask what is stored: %d %v", status, err)
	}
	if stored < w.acked {
		w.s.t.Fatalf("%d bytes are stored, and %d were acknowledged", stored, w.acked)
	}
	w.acked = stored
}

// finish sends what is left, and checks that all of it is kept as it was sent and can be watched.
func (w *wire) finish() {
	w.s.t.Helper()
	for w.acked < int64(len(w.all)) {
		if status, err := w.send(1 << 18); err != nil || status != http.StatusNoContent {
			w.s.t.Fatalf("send what is left: %d %v", status, err)
		}
	}
	if status, err := w.put(w.acked, nil, "Upload-Length", strconv.Itoa(len(w.all))); err != nil ||
		status != http.StatusNoContent {
		w.s.t.Fatalf("end: %d %v", status, err)
	}
	kept, err := os.ReadFile(testhouse.Local(w.s.t, w.s.house.Blobs, "log/"+w.track.String()))
	w.s.must(err)
	if !bytes.Equal(kept, w.all) {
		w.s.t.Fatalf("what is kept differs from what was sent: %d bytes of %d", len(kept), len(w.all))
	}
	recording := w.s.captured()
	r := w.s.ready(recording)
	if whole, err := w.s.house.Recordings.Captured(context.Background(),
		recording); err != nil || (whole.Length-r.Length).Abs() > time.Second || r.Parts != 1 {
		w.s.t.Errorf("it can be played for %v of %v: %v", whole.Length, r.Length, err)
	}
}

// TestKilledThirtyTimes: the server is killed thirty times during a capture, at any moment. The
// same bytes come twice now and then, and offsets lie. Nothing that was acknowledged is lost.
func TestKilledThirtyTimes(t *testing.T) {
	t.Parallel()
	s := newStage(t, "none")
	w := s.wired(60 * time.Second)
	random := rand.New(rand.NewPCG(30, 4))
	sent, twice, lies := 0, 0, 0
	for range 30 {
		time.AfterFunc(time.Duration(20+random.IntN(230))*time.Millisecond, func() { _ = s.server.Process.Kill() })
		for {
			var status int
			var err error
			switch random.IntN(8) {
			case 0: // the same bytes again, as after an answer that was lost
				at := max(0, w.acked-3000)
				status, err = w.put(at, w.all[at:w.acked])
				if err == nil && status != http.StatusConflict && at < w.acked {
					t.Fatalf("the same bytes again: %d", status)
				}
				twice++
			case 1:
				if status, err = w.put(w.acked+7, []byte("lie")); err == nil && status != http.StatusConflict {
					t.Fatalf("an offset that lies: %d", status)
				}
				lies++
			default:
				if w.acked == int64(len(w.all)) {
					_, err = w.send(0)
				} else if status, err = w.send(2000 + random.IntN(9000)); err == nil && status != http.StatusNoContent {
					t.Fatalf("a piece: %d", status)
				}
				sent++
			}
			if err != nil {
				break
			}
		}
		s.server.Wait()
		s.start()
		w.align()
	}
	t.Logf("%d pieces, %d sent twice, %d with a wrong offset, up to byte %d of %d", sent, twice, lies, w.acked,
		len(w.all))
	if sent < 60 {
		t.Errorf("only %d pieces were sent between the kills, which proves little", sent)
	}
	w.finish()
}

// TestTheDatabaseGoesAway in the middle of a capture, and comes back.
func TestTheDatabaseGoesAway(t *testing.T) {
	t.Parallel()
	folder, err := os.MkdirTemp("/var/tmp", "late-lantern-away-")
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { os.RemoveAll(folder) })
	if err := os.Chmod(folder, 0o755); err != nil {
		t.Fatal(err)
	}
	db, err := cluster.Start(context.Background(), folder, false)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = db.Stop() })
	s := newStageOn(t, db.DSN, t.TempDir(), "none")
	w := s.wired(20 * time.Second)
	for range 3 {
		for range 5 {
			if status, err := w.send(20_000); err != nil || status != http.StatusNoContent {
				t.Fatalf("a piece: %d %v", status, err)
			}
		}
		s.must(db.Stop())
		for range 3 {
			if status, err := w.send(20_000); err != nil || status < 500 {
				t.Fatalf("without a database a piece is answered with %d %v", status, err)
			}
		}
		if db, err = cluster.Start(context.Background(), folder, false); err != nil {
			t.Fatal(err)
		}
		s.until("the server finds its database again", func() bool {
			status, _, err := w.do(http.MethodHead, w.address(), nil)
			return err == nil && status == http.StatusOK
		})
		w.align()
	}
	s.house.DB.Reset() // the connections of this test broke as well
	w.finish()
}

// TestTheDiskIsFull: the server says so, keeps what it has, and goes on when there is room.
func TestTheDiskIsFull(t *testing.T) {
	root := t.TempDir()
	media := filepath.Join(root, "media")
	if err := os.Mkdir(media, 0o755); err != nil {
		t.Fatal(err)
	}
	if err := syscall.Mount("tmpfs", media, "tmpfs", 0, "size=32m"); err != nil {
		t.Skipf("this machine does not let a small disk be made: %v", err)
	}
	t.Cleanup(func() { _ = syscall.Unmount(media, syscall.MNT_DETACH) })
	s := newStageOn(t, testdb.DSN(t), root, "none")
	w := s.wired(20 * time.Second)
	free, err := s.house.Blobs.Free()
	s.must(err)
	filler := filepath.Join(media, "filler")
	s.must(os.WriteFile(filler, make([]byte, free-400_000), 0o600))
	full := 0
	for full < 3 {
		status, err := w.send(50_000)
		switch {
		case err == nil && status == http.StatusInsufficientStorage:
			full++
		case err != nil || status != http.StatusNoContent || w.acked == int64(len(w.all)):
			t.Fatalf("a piece: %d %v, %d of %d", status, err, w.acked, len(w.all))
		}
	}
	w.align()
	s.must(os.Remove(filler))
	w.align()
	w.finish()
}
