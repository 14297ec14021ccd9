package measure_test

import (
	"context"
	"path/filepath"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/measure"
	"latelantern/internal/testfilm"
	"latelantern/internal/testhouse"
)

// TestTheSameHourTwice is found by its sound in another encoding, by its bytes, and by its
// lecture; of both one is kept, or both are wanted.
func TestTheSameHourTwice(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t)
	wav := testfilm.Noise(t, 1)
	again := filepath.Join(t.TempDir(), "again.ogg")
	testfilm.Tool(t, "-ss", "7", "-i", wav, "-c:a", "libopus", "-b:a", "32k", again)
	one, _ := s.File(s.Lecture, wav)
	s.Measured(one)
	unlike, _ := s.File(s.Elsewhere, testfilm.Noise(t, 2))
	s.Measured(unlike)
	two, _ := s.File(s.Later, again)
	s.Measured(two)
	twins := func(id uuid.UUID) []measure.Twin {
		x, err := s.Measure.Twins(ctx, id)
		s.Must(err)
		return x
	}
	s.Until(func() bool { return len(twins(one)) > 0 })
	x := twins(one)
	if len(x) != 1 || x[0].ID != two || x[0].Why != measure.SameSound || x[0].Share < 0.85 ||
		(x[0].Offset-7*time.Second).Abs() > 150*ms {
		t.Fatalf("like the first is %+v", x)
	}
	if y := twins(two); len(y) != 1 || y[0].ID != one || (y[0].Offset+7*time.Second).Abs() > 150*ms {
		t.Fatalf("like the second is %+v", y)
	}
	if len(twins(unlike)) != 0 {
		t.Errorf("another lecture is taken for the same: %+v", twins(unlike))
	}
	s.Must(s.Measure.WantBoth(ctx, one, two, true))
	if len(twins(one)) != 0 || len(twins(two)) != 0 {
		t.Error("both are wanted, and are still shown as the same")
	}
	s.Must(s.Measure.WantBoth(ctx, two, one, false))
	if len(twins(one)) != 1 {
		t.Error("it is forgotten that they are the same")
	}

	// Another one of the same lecture is shown whatever it sounds like.
	third, _ := s.File(s.Lecture, testfilm.Noise(t, 3))
	s.Measured(third)
	x = twins(third)
	if len(x) != 1 || x[0].ID != one || x[0].Why != measure.SameLecture {
		t.Errorf("of the same lecture is %+v", x)
	}
	s.Must(s.Measure.WantBoth(ctx, one, third, true))
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
