package library_test

import (
	"context"
	"encoding/binary"
	"errors"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/library"
	"latelantern/internal/testhouse"
)

// voice writes someone who speaks for two minutes, louder and quieter.
func voice(t *testing.T, seed uint64) string {
	t.Helper()
	const rate = 16000
	r := rand.New(rand.NewPCG(seed, 5))
	raw := make([]byte, 0, 2*rate*120)
	level := 0.0
	for i := range rate * 120 {
		if i%(rate/10) == 0 && r.IntN(6) == 0 {
			level = []float64{0.01, 0.05, 0.2, 0.5, 0.7}[r.IntN(5)]
		}
		raw = binary.LittleEndian.AppendUint16(raw, uint16(int16(32767*level*(2*r.Float64()-1))))
	}
	folder := t.TempDir()
	pcm, wav := filepath.Join(folder, "a.pcm"), filepath.Join(folder, "a.wav")
	if err := os.WriteFile(pcm, raw, 0o600); err != nil {
		t.Fatal(err)
	}
	tool(t, "-f", "s16le", "-ar", "16000", "-ac", "1", "-i", pcm, wav)
	return wav
}

func tool(t *testing.T, args ...string) {
	t.Helper()
	if out, err := exec.Command("ffmpeg", append([]string{"-y", "-v", "error"}, args...)...).CombinedOutput(); err != nil {
		t.Fatalf("%v\n%s", err, out)
	}
}

// TestTheSameHourTwice is found by its sound in another encoding, by its bytes, and by its
// lecture; of both one is kept, or both are wanted.
func TestTheSameHourTwice(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t)
	wav := voice(t, 1)
	again := filepath.Join(t.TempDir(), "again.ogg")
	tool(t, "-ss", "7", "-i", wav, "-c:a", "libopus", "-b:a", "32k", again)
	one, _ := s.File(s.Lecture, wav)
	s.Measured(one)
	unlike, _ := s.File(s.Elsewhere, voice(t, 2))
	s.Measured(unlike)
	two, _ := s.File(s.Later, again)
	s.Measured(two)
	twins := func(id uuid.UUID) []library.Twin {
		x, err := s.Library.Twins(ctx, id)
		s.Must(err)
		return x
	}
	s.Until(func() bool { return len(twins(one)) > 0 })
	x := twins(one)
	if len(x) != 1 || x[0].ID != two || x[0].Why != library.SameSound || x[0].Share < 0.85 || (x[0].Offset-7*time.Second).Abs() > 150*ms {
		t.Fatalf("like the first is %+v", x)
	}
	if y := twins(two); len(y) != 1 || y[0].ID != one || (y[0].Offset+7*time.Second).Abs() > 150*ms {
		t.Fatalf("like the second is %+v", y)
	}
	if len(twins(unlike)) != 0 {
		t.Errorf("another lecture is taken for the same: %+v", twins(unlike))
	}
	s.Must(s.Library.WantBoth(ctx, one, two, true))
	if len(twins(one)) != 0 || len(twins(two)) != 0 {
		t.Error("both are wanted, and are still shown as the same")
	}
	s.Must(s.Library.WantBoth(ctx, two, one, false))
	if len(twins(one)) != 1 {
		t.Error("it is forgotten that they are the same")
	}

	// Another one of the same lecture is shown whatever it sounds like.
	third, _ := s.File(s.Lecture, voice(t, 3))
	s.Measured(third)
	x = twins(third)
	if len(x) != 1 || x[0].ID != one || x[0].Why != library.SameLecture {
		t.Errorf("of the same lecture is %+v", x)
	}
	s.Must(s.Library.WantBoth(ctx, one, third, true))
	if len(twins(third)) != 0 {
		t.Error("both are wanted, and are still shown as of one lecture")
	}
	s.Must(s.Library.SetDeleted(ctx, two, s.Lecturer, true))
	if len(twins(one)) != 0 {
		t.Error("what lies in the bin is shown as the same")
	}
	// What was split apart is not twice the same.
	rest, err := s.Library.Split(ctx, unlike, s.Lecturer, time.Minute, uuid.Nil)
	s.Must(err)
	if len(twins(rest)) != 0 {
		t.Errorf("the half of a recording is taken for the other: %+v", twins(rest))
	}
}

// TestTheBinKeepsForThirtyDays and then clears, but nothing that another recording holds.
func TestTheBinKeepsForThirtyDays(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t)
	one, trackOne := s.File(s.Lecture, voice(t, 1))
	two, trackTwo := s.File(s.Lecture, voice(t, 2))
	s.Measured(one)
	s.Measured(two)
	s.Lit(one)
	rest, err := s.Library.Split(ctx, two, s.Lecturer, time.Minute, uuid.Nil)
	s.Must(err)
	for _, id := range []uuid.UUID{one, rest} {
		s.Must(s.Library.SetDeleted(ctx, id, s.Lecturer, true))
	}
	list, err := s.Library.Binned(ctx, []uuid.UUID{s.Course})
	s.Must(err)
	if len(list) != 2 || list[0].By != "lecturer" || list[0].GoneAt.Sub(list[0].DeletedAt) != 30*24*time.Hour {
		t.Fatalf("in the bin are %+v", list)
	}
	if other, err := s.Library.Binned(ctx, []uuid.UUID{s.Other}); err != nil || len(other) != 0 {
		t.Errorf("in the bin of another course are %+v (%v)", other, err)
	}
	var forgotten []uuid.UUID
	forget := func(track uuid.UUID) error { forgotten = append(forgotten, track); return nil }
	s.Do(`update recording set deleted_at = deleted_at - interval '29 days' where deleted_at is not null`)
	if n, err := s.Library.ClearBin(ctx, forget); err != nil || n != 0 {
		t.Fatalf("after 29 days %d are gone (%v)", n, err)
	}
	s.Do(`update recording set deleted_at = deleted_at - interval '1 day' where deleted_at is not null`)
	if n, err := s.Library.ClearBin(ctx, func(uuid.UUID) error { return errors.New("the disk is away") }); err == nil || n != 0 {
		t.Errorf("with the disk away %d are gone (%v)", n, err)
	}
	n, err := s.Library.ClearBin(ctx, forget)
	if err != nil || len(forgotten) != 1 || forgotten[0] != trackOne {
		t.Errorf("after 30 days %d are gone, with the tracks %v, and not %v (%v)", n, forgotten, trackTwo, err)
	}
	if n := s.Count(`select count(*) from recording`); n != 1 {
		t.Errorf("%d recordings are left", n)
	}
	if n := s.Count(`select count(*) from capture`); n != 1 {
		t.Errorf("%d captures are left", n)
	}
	if _, err := s.Library.Captured(ctx, two); err != nil {
		t.Errorf("the other half cannot be watched: %v", err)
	}
}
