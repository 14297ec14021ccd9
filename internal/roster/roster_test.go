package roster_test

import (
	"context"
	"errors"
	"testing"

	"github.com/google/uuid"

	"latelantern/internal/core/viewing"
	"latelantern/internal/roster"
	"latelantern/internal/testdb"
	"latelantern/internal/testhouse"
)

func TestMain(m *testing.M) { testdb.Main(m) }

func TestParts(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t, true)
	for who, want := range map[uuid.UUID]viewing.Viewer{
		s.Student: {Role: viewing.Student, Group: "A"}, s.Third: {Role: viewing.Student, Group: "B"},
		s.Lecturer:    {Role: viewing.Lecturer},
		s.Coordinator: {Coordinator: true}, s.Outsider: {},
	} {
		if v, err := s.Roster.Viewer(ctx, who, s.Course); err != nil || v != want {
			t.Errorf("%+v, want %+v (%v)", v, want, err)
		}
	}
	if _, err := s.Roster.Viewer(ctx, uuid.New(), s.Course); !errors.Is(err, roster.ErrUnknown) {
		t.Errorf("nobody: %v", err)
	}
	if _, err := s.Roster.Person(ctx, uuid.New()); !errors.Is(err, roster.ErrUnknown) {
		t.Errorf("nobody: %v", err)
	}
	if m, err := s.Roster.Memberships(ctx, s.Student); err != nil || len(m) != 1 || m[0].Code != "COU 1" ||
		m[0].Role != viewing.Student {
		t.Errorf("%+v %v", m, err)
	}
	if g, err := s.Roster.Groups(ctx, s.Course); err != nil || len(g) != 2 || g[0] != "A" {
		t.Errorf("%v %v", g, err)
	}
}
