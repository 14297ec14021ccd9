package roster_test

import (
	"errors"
	"strings"
	"testing"

	"github.com/google/uuid"

	"latelantern/internal/core/fault"
	"latelantern/internal/core/viewing"
	"latelantern/internal/roster"
	"latelantern/internal/testhouse"
)

// field is where an error says that something is wrong.
func field(err error) string {
	var f fault.Faults
	if errors.As(err, &f) {
		return f[0].Field
	}
	return ""
}

func TestTheLastCoordinatorStays(t *testing.T) {
	s := testhouse.New(t, true)
	if err := s.Roster.SetCoordinator(t.Context(), s.Coordinator, false); !errors.Is(err, roster.ErrLast) {
		t.Errorf("nobody is left: %v", err)
	}
	// Someone who cannot sign in does not count.
	id, err := s.Roster.AddPerson(t.Context(), roster.PersonForm{Email: "new@college.example", Name: "New"})
	s.Must(err, s.Roster.SetCoordinator(t.Context(), id, true))
	if err := s.Roster.SetCoordinator(t.Context(), s.Coordinator, false); !errors.Is(err, roster.ErrLast) {
		t.Errorf("only someone without an active account is left: %v", err)
	}
	s.Must(s.Roster.SetCoordinator(t.Context(), s.Lecturer, true),
		s.Roster.SetCoordinator(t.Context(), s.Coordinator, false))
	if err := s.Roster.SetCoordinator(t.Context(), uuid.New(), true); !errors.Is(err, roster.ErrUnknown) {
		t.Errorf("nobody: %v", err)
	}
	list, all, err := s.Roster.People(t.Context(), "COLLEGE.example", true)
	s.Must(err)
	if all != 1 || list[0].ID != id || list[0].Active || !list[0].Coordinator {
		t.Errorf("not yet active: %+v of %d", list, all)
	}
}

func TestEnrollingBadInput(t *testing.T) {
	s := testhouse.New(t, true)
	for want, c := range map[string]struct {
		form  roster.PersonForm
		role  viewing.Role
		group string
	}{
		"email": {roster.PersonForm{Email: "not an address", Name: "X"}, viewing.Student, ""},
		"name":  {roster.PersonForm{Email: "x@college.example", Name: " "}, viewing.Student, ""},
		"role":  {roster.PersonForm{Email: "x@college.example", Name: "X"}, "dean", ""},
		"group": {roster.PersonForm{Email: "x@college.example", Name: "X"}, viewing.Student, strings.Repeat("g", 101)},
	} {
		if _, err := s.Roster.Enrol(t.Context(), roster.Person{Coordinator: true}, s.Course, c.form, c.role,
			c.group); field(err) != want {
			t.Errorf("want a fault at %s: %v", want, err)
		}
	}
	if err := s.Roster.TakeOff(t.Context(), roster.Person{Coordinator: true}, s.Course, s.Outsider); !errors.Is(err,
		roster.ErrUnknown) {
		t.Errorf("taken off where they are not: %v", err)
	}
}

// TestWhoTeachesIsForLecturersToSay: not for those who assist, in no way.
func TestWhoTeachesIsForLecturersToSay(t *testing.T) {
	s := testhouse.New(t, true)
	helper := person(s, s.Person("helper", s.Course, "assistant", ""))
	ctx := t.Context()
	refused := func(what string, err error) {
		t.Helper()
		if !errors.Is(err, roster.ErrRoles) {
			t.Errorf("%s: %v", what, err)
		}
	}
	refused("taking a lecturer off", s.Roster.TakeOff(ctx, helper, s.Course, s.Lecturer))
	refused("taking oneself off", s.Roster.TakeOff(ctx, helper, s.Course, helper.ID))
	for form, role := range map[roster.PersonForm]string{
		{Email: "lecturer@college.example", Name: "lecturer"}: "student",
		{Email: "helper@college.example", Name: "helper"}:     "lecturer",
		{Email: "student@college.example", Name: "student"}:   "assistant",
		{Email: "new@college.example", Name: "new"}:           "lecturer",
	} {
		_, err := s.Roster.Enrol(ctx, helper, s.Course, form, viewing.Role(role), "")
		refused(form.Name+" as "+role, err)
	}
	if n := s.Count(`select count(*)::int from person where email = 'new@college.example'`); n > 0 {
		t.Error("someone who was refused was added all the same")
	}
	if _, err := s.Roster.Enrol(ctx, helper, s.Course, roster.PersonForm{Email: "new@college.example", Name: "new"},
		"student", ""); err != nil {
		t.Errorf("a student: %v", err)
	}
	lecturer := person(s, s.Lecturer)
	s.Must(s.Roster.TakeOff(ctx, lecturer, s.Course, helper.ID))
}
