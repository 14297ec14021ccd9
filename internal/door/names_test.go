package door_test

import (
	"testing"

	"latelantern/internal/testhouse"
)

// TestNamesAreSeenWhereACourseSaysSo: not before, not in another course, and not after it was taken back; said twice it
// is said once.
func TestNamesAreSeenWhereACourseSaysSo(t *testing.T) {
	s := testhouse.New(t, true)
	ctx := t.Context()
	for _, want := range []bool{false, true, true, false, false} {
		s.Must(s.Door.SetNamesSeen(ctx, s.Course, want))
		here, err := s.Door.NamesSeen(ctx, s.Course)
		s.Must(err)
		other, err := s.Door.NamesSeen(ctx, s.Other)
		s.Must(err)
		if here != want || other {
			t.Errorf("said %v: %v there, %v in another course", want, here, other)
		}
	}
}
