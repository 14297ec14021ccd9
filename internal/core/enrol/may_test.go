package enrol

import (
	"testing"

	"latelantern/internal/core/viewing"
)

func TestWhoMayChangeWhose(t *testing.T) {
	roles := []viewing.Role{viewing.Lecturer, viewing.Assistant, viewing.Student, viewing.Nobody}
	for _, own := range roles {
		for _, other := range roles {
			want := own == viewing.Lecturer ||
				own == viewing.Assistant && (other == viewing.Student || other == viewing.Nobody)
			if got := May(own, other); got != want {
				t.Errorf("%q of %q: %v", own, other, got)
			}
		}
	}
}

// TestAChangeIsEmpty only when there is nothing of any kind in it.
func TestAChangeIsEmpty(t *testing.T) {
	if !(Changes{}).Empty() {
		t.Error("nothing is something")
	}
	for name, c := range map[string]Changes{
		"people": {AddPeople: make([]Person, 1)}, "names": {Rename: make([]Renaming, 1)},
		"courses": {AddCourses: make([]Course, 1)},
		"seats":   {AddSeats: make([]Seat, 1)}, "other seats": {ChangeSeats: make([]Changed, 1)},
		"fewer seats":        {RemoveSeats: make([]Seat, 1)},
		"one of each of two": {AddPeople: make([]Person, 1), Rename: make([]Renaming, 1)},
	} {
		if c.Empty() {
			t.Errorf("%s: it is empty", name)
		}
		c.AddPeople = make([]Person, 1)
		if c.Empty() {
			t.Errorf("%s, and a person: it is empty", name)
		}
	}
	full := Changes{AddPeople: make([]Person, 1), Rename: make([]Renaming, 1), AddCourses: make([]Course, 1),
		AddSeats:    make([]Seat, 1),
		ChangeSeats: make([]Changed, 1), RemoveSeats: make([]Seat, 1)}
	if full.Empty() {
		t.Error("with some of everything it is empty")
	}
}
