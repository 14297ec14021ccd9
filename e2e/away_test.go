package e2e

import (
	"bytes"
	"context"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/e2e/hand"
	"latelantern/internal/testfilm"
	"latelantern/internal/testhouse"
)

// leave puts what a capture left on a computer where the desk keeps it: 1200 pieces of a second.
// It gives when that capture began.
const leave = `(async (id, lecture) => {
	const bytes = await document.getElementById('left').files[0].arrayBuffer(),
		each = Math.ceil(bytes.byteLength / 1200);
	const db = await new Promise((done, fail) => { const q = indexedDB.open('late-lantern');
		q.onsuccess = () => done(q.result); q.onerror = fail });
	const tx = db.transaction(['captures', 'pieces'], 'readwrite'), began = Date.now() - 1200e3;
	tx.objectStore('captures').put({id, lecture, mediaType: 'video/x-matroska', began});
	for (let n = 0; n < 1200; n++)
		tx.objectStore('pieces').put({capture: id, offset: n * each, bytes: bytes.slice(n * each, (n + 1) * each),
			until: (n + 1) * 1000});
	await new Promise((done, fail) => { tx.oncomplete = done; tx.onerror = fail });
	db.close();
	return began;
})`

// TestTwentyMinutesWithoutAServer: a computer captured for twenty minutes and reached no server,
// and then its browser ended. On the next visit all of it is stored, at the time at which it was
// captured, and the lecture goes on.
func TestTwentyMinutesWithoutAServer(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s := newStage(t, "none")
	short, long := filepath.Join(t.TempDir(), "short.mkv"), filepath.Join(t.TempDir(), "long.mkv")
	s.must(testfilm.Film{Length: 20 * time.Second, Width: 320, Height: 180, NoSound: true}.Make(ctx, short))
	if out, err := exec.Command("ffmpeg", "-v", "error", "-stream_loop", "59", "-i", short, "-c", "copy",
		"-cluster_time_limit", "1000", "-t", "1200", long).CombinedOutput(); err != nil {
		t.Fatalf("%v\n%s", err, out)
	}
	film, err := os.ReadFile(long)
	s.must(err)
	b := chromium(t)
	p := s.person(b, lecturer)
	lecture, _ := s.underWay()
	track := uuid.New()
	desk := "/lectures/" + lecture.String() + "/capture"
	s.must(p.Go(desk), p.Click("Camera"), p.See("The camera sees something"))
	_, err = hand.Ask[bool](p,
		`document.body.append(Object.assign(document.createElement('input'), {type: 'file', id: 'left'})), true`)
	s.must(err, p.Upload("#left", long))
	began, err := hand.Ask[int64](p, fmt.Sprintf(`%s(%q, %q)`, leave, track, lecture))
	s.must(err)
	// the college has another day than this computer
	then, real := s.house.Clock.Now().Add(-time.Since(time.UnixMilli(began))), time.Now()
	s.must(p.Go(desk), p.See("broke off"), p.See("What was left on this computer is saved"))
	t.Logf("%d MB were stored within %v", len(film)>>20, time.Since(real).Round(time.Second))
	s.must(p.See("The camera sees something"), p.Click("Start capture"), p.Wait(safe+" >= 3"), p.Click("Stop capture"),
		p.See("it can be watched now"))
	kept, err := os.ReadFile(testhouse.Local(s.t, s.house.Blobs, "log/"+track.String()))
	s.must(err)
	if !bytes.Equal(kept, film) {
		t.Fatalf("what is kept differs from what was captured: %d bytes of %d", len(kept), len(film))
	}
	r, err := s.house.Recordings.Recording(ctx, s.captured())
	s.must(err)
	if off := r.StartedAt.Sub(then).Abs(); off > 3*time.Second || r.Parts != 2 || r.Length < 20*time.Minute {
		t.Errorf("it began %v from when it began, and has %d parts and %v", off, r.Parts, r.Length)
	}
}
