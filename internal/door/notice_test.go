package door_test

import (
	"errors"
	"strings"
	"testing"

	"latelantern/internal/core/fault"
	"latelantern/internal/door"
	"latelantern/internal/testhouse"
)

func TestWhatTheCollegeSays(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	if text, err := s.Door.Notice(ctx); err != nil || text != "" {
		t.Errorf("at first: %q %v", text, err)
	}
	s.Must(s.Door.SetNotice(ctx, "  You may be\nseen and  heard. "))
	var wrong fault.Faults
	if err := s.Door.SetNotice(ctx, strings.Repeat("é", door.MaxNotice+1)); !errors.As(err, &wrong) ||
		wrong[0].Field != "capture_notice" {
		t.Errorf("too long: %v", err)
	}
	if text, err := s.Door.Notice(ctx); err != nil || text != "You may be seen and heard." {
		t.Errorf("kept: %q %v", text, err)
	}
}
