package capture_test

import (
	"bytes"
	"context"
	"errors"
	"io"
	"math/rand"
	"os"
	"sync"
	"sync/atomic"
	"testing"
	"testing/iotest"

	"github.com/google/uuid"

	"latelantern/internal/assemble"
	"latelantern/internal/capture"
	"latelantern/internal/platform/blobs"
	"latelantern/internal/testdb"
	"latelantern/internal/testhouse"
)

func TestMain(m *testing.M) { testdb.Main(m) }

// begin starts a capture of unknown length; nobody packages it.
func begin(t *testing.T) (*testhouse.Stage, capture.Started) {
	t.Helper()
	s := testhouse.New(t, true)
	b, err := s.Capture.Begin(context.Background(),
		capture.Start{Lecture: s.Lecture, By: s.Lecturer, Source: capture.Desk})
	s.Must(err)
	return s, b
}

func log(t *testing.T, s *testhouse.Stage, track uuid.UUID) []byte {
	t.Helper()
	key := "log/" + track.String()
	b, err := s.Blobs.Range(key, 0, s.Blobs.Size(key))
	if errors.Is(err, blobs.ErrNotFound) { // nothing came
		return nil
	}
	if err != nil {
		t.Fatal(err)
	}
	return b
}

func noise(n int) []byte {
	b := make([]byte, n)
	rand.New(rand.NewSource(int64(n))).Read(b)
	return b
}

func TestAppendsFollowOn(t *testing.T) {
	ctx := context.Background()
	s, b := begin(t)
	all := noise(300_000)
	at := int64(0)
	for _, n := range []int{1, 70_000, 0, 100_000, 129_999} {
		stored, err := s.Capture.Append(ctx, b.Track, at, nil, bytes.NewReader(all[at:at+int64(n)]))
		if err != nil || stored != at+int64(n) {
			t.Fatalf("after %d bytes at %d: %d, %v", n, at, stored, err)
		}
		at = stored
	}
	length := int64(len(all))
	stored, err := s.Capture.Append(ctx, b.Track, at, &length, bytes.NewReader(all[at:]))
	if err != nil || stored != length {
		t.Fatalf("the last piece: %d, %v", stored, err)
	}
	if !bytes.Equal(log(t, s, b.Track), all) {
		t.Error("what is kept is not what was sent")
	}
	p, err := s.Capture.Stored(ctx, b.Track)
	if err != nil || !p.Complete() {
		t.Errorf("it is not complete: %+v %v", p, err)
	}
	r, err := s.Recordings.Recording(ctx, b.Recording)
	if err != nil || r.StoppedAt == nil {
		t.Errorf("the capture is not stopped: %v", err)
	}
	// To say the end once more, as after a lost answer, changes nothing.
	if stored, err := s.Capture.Append(ctx, b.Track, length, &length, bytes.NewReader(nil)); err != nil ||
		stored != length {
		t.Errorf("said again: %d %v", stored, err)
	}
}

func TestAppendsThatDoNotFit(t *testing.T) {
	ctx := context.Background()
	s, b := begin(t)
	if _, err := s.Capture.Append(ctx, b.Track, 0, nil, bytes.NewReader(noise(1000))); err != nil {
		t.Fatal(err)
	}
	n := func(x int64) *int64 { return &x }
	for _, c := range []struct {
		name   string
		track  uuid.UUID
		offset int64
		length *int64
		body   []byte
		want   error
	}{
		{"before the end", b.Track, 500, nil, noise(10), capture.ErrOffset},
		{"a gap", b.Track, 1001, nil, noise(10), capture.ErrOffset},
		{"a length below what is stored", b.Track, 1000, n(999), nil, capture.ErrLength},
		{"more than the length", b.Track, 1000, n(1005), noise(10), capture.ErrLength},
		{"no such track", uuid.New(), 0, nil, noise(10), capture.ErrUnknown},
	} {
		if _, err := s.Capture.Append(ctx, c.track, c.offset, c.length, bytes.NewReader(c.body)); !errors.Is(err,
			c.want) {
			t.Errorf("%s: %v", c.name, err)
		}
	}
	if got := log(t, s, b.Track); !bytes.Equal(got, noise(1000)) {
		t.Errorf("a refused append changed what is kept: %d bytes", len(got))
	}
	if _, err := s.Capture.Append(ctx, b.Track, 1000, n(1010), bytes.NewReader(noise(10))); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Capture.Append(ctx, b.Track, 1010, nil, bytes.NewReader(noise(1))); !errors.Is(err,
		capture.ErrComplete) {
		t.Errorf("after the end: %v", err)
	}
}

// TestABrokenLineKeepsWhatCame: what arrived before the line broke is stored and counted.
func TestABrokenLineKeepsWhatCame(t *testing.T) {
	ctx := context.Background()
	s, b := begin(t)
	lost := errors.New("the line is gone")
	body := io.MultiReader(bytes.NewReader(noise(50_000)), iotest.ErrReader(lost))
	stored, err := s.Capture.Append(ctx, b.Track, 0, nil, body)
	if !errors.Is(err, lost) || stored != 50_000 {
		t.Fatalf("%d, %v", stored, err)
	}
	if p, err := s.Capture.Stored(ctx, b.Track); err != nil || p.Stored != 50_000 {
		t.Errorf("%+v %v", p, err)
	}
	if !bytes.Equal(log(t, s, b.Track), noise(50_000)) {
		t.Error("what came is not kept")
	}
}

// TestBytesThatWereNeverAcknowledged may lie behind what is counted after a power cut. The next append replaces them.
func TestBytesThatWereNeverAcknowledged(t *testing.T) {
	ctx := context.Background()
	s, b := begin(t)
	if _, err := s.Capture.Append(ctx, b.Track, 0, nil, bytes.NewReader([]byte("kept,"))); err != nil {
		t.Fatal(err)
	}
	f, err := os.OpenFile(testhouse.Local(t, s.Blobs, "log/"+b.Track.String()), os.O_APPEND|os.O_WRONLY, 0)
	s.Must(err)
	_, err = f.WriteString("written but never acknowledged")
	s.Must(err, f.Close())
	if _, err := s.Capture.Append(ctx, b.Track, 5, nil, bytes.NewReader([]byte("sent again"))); err != nil {
		t.Fatal(err)
	}
	if got := string(log(t, s, b.Track)); got != "kept,sent again" {
		t.Errorf("kept is %q", got)
	}
}

// TestTwoAppendsAtOnce at one offset: one is stored, the other refused, and nothing is mixed.
func TestTwoAppendsAtOnce(t *testing.T) {
	ctx := context.Background()
	s, b := begin(t)
	var all sync.WaitGroup
	errs := make([]error, 8)
	for i := range errs {
		all.Go(func() {
			_, errs[i] = s.Capture.Append(ctx, b.Track, 0, nil,
				bytes.NewReader(bytes.Repeat([]byte{byte('a' + i)}, 100_000)))
		})
	}
	all.Wait()
	won := -1
	for i, err := range errs {
		switch {
		case err == nil && won < 0:
			won = i
		case !errors.Is(err, capture.ErrOffset):
			t.Errorf("append %d: %v", i, err)
		}
	}
	if won < 0 || !bytes.Equal(log(t, s, b.Track), bytes.Repeat([]byte{byte('a' + won)}, 100_000)) {
		t.Errorf("append %d won, and something else is kept", won)
	}
}

func TestBeginRefuses(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t, true)
	if _, err := s.Capture.Begin(ctx,
		capture.Start{Lecture: uuid.New(), By: s.Lecturer, Source: capture.Desk}); !errors.Is(err, capture.ErrLecture) {
		t.Errorf("no such lecture: %v", err)
	}
	large := int64(capture.MaxLength + 1)
	if _, err := s.Capture.Begin(ctx,
		capture.Start{Lecture: s.Lecture, By: s.Lecturer, Source: capture.File, Length: &large}); !errors.Is(err,
		capture.ErrTooLarge) {
		t.Errorf("too large: %v", err)
	}
	if n := s.Count(`select count(*) from recording`); n != 0 {
		t.Errorf("%d recordings were made", n)
	}
}

// TestEndingFromElsewhere ends a capture where it stands; whoever still sends is told.
func TestEndingFromElsewhere(t *testing.T) {
	ctx := context.Background()
	s, b := begin(t)
	_, err := s.Capture.Append(ctx, b.Track, 0, nil, bytes.NewReader(noise(1000)))
	s.Must(err, s.Capture.End(ctx, b.Recording), s.Capture.End(ctx, b.Recording))
	if p, err := s.Capture.Stored(ctx, b.Track); err != nil || !p.Complete() || p.Stored != 1000 {
		t.Errorf("%+v %v", p, err)
	}
	if _, err := s.Capture.Append(ctx, b.Track, 1000, nil, bytes.NewReader(noise(10))); !errors.Is(err,
		capture.ErrComplete) {
		t.Errorf("after it was ended: %v", err)
	}
}

// TestDiscardTakesBackOnlyWhatIsNotComplete: a recording that is whole is not lost to a late cancellation.
func TestDiscardTakesBackOnlyWhatIsNotComplete(t *testing.T) {
	ctx := context.Background()
	s, b := begin(t)
	gone := func() bool {
		r, err := s.Recordings.Recording(ctx, b.Recording)
		s.Must(err)
		return r.Deleted
	}
	length := int64(4)
	_, err := s.Capture.Append(ctx, b.Track, 0, &length, bytes.NewReader([]byte("done")))
	s.Must(err, s.Capture.Discard(ctx, b.Track))
	if gone() {
		t.Error("a complete capture was taken back")
	}
	other, err := s.Capture.Begin(ctx,
		capture.Start{Lecture: s.Lecture, By: s.Lecturer, Source: capture.File, Length: &length})
	s.Must(err, s.Capture.Discard(ctx, other.Track))
	if b = other; !gone() {
		t.Error("a capture that was given up is still there")
	}
}

// TestAStoreThatFails: what the store did not take is not said to be stored, and comes again.
func TestAStoreThatFails(t *testing.T) {
	ctx := context.Background()
	var broken atomic.Bool
	store := &blobs.Memory{Fault: func(operation, key string) error {
		if broken.Load() && (operation == "append" || operation == "grow") {
			return errors.New("the disk is gone")
		}
		return nil
	}}
	s := testhouse.NewWith(t, assemble.Settings{Store: store})
	b, err := s.Capture.Begin(ctx, capture.Start{Lecture: s.Lecture, By: s.Lecturer, Source: capture.Desk})
	s.Must(err)
	all := noise(200_000)
	stored, err := s.Capture.Append(ctx, b.Track, 0, nil, bytes.NewReader(all[:120_000]))
	if err != nil || stored != 120_000 {
		t.Fatalf("%d, %v", stored, err)
	}
	broken.Store(true)
	if stored, err := s.Capture.Append(ctx, b.Track, 120_000, nil, bytes.NewReader(all[120_000:])); err == nil {
		t.Errorf("a store that takes nothing has %d bytes", stored)
	}
	at, err := s.Capture.Stored(ctx, b.Track)
	if err != nil || at.Stored != 120_000 {
		t.Errorf("it says that %d bytes are stored (%v)", at.Stored, err)
	}
	broken.Store(false)
	if stored, err = s.Capture.Append(ctx, b.Track, 120_000, nil, bytes.NewReader(all[120_000:])); err != nil ||
		stored != int64(len(all)) || !bytes.Equal(log(t, s, b.Track), all) {
		t.Errorf("when it is there again: %d, %v", stored, err)
	}
}
