package enrol

import (
	"fmt"
	"maps"
	"math/rand/v2"
	"testing"

	"latelantern/internal/core/viewing"
)

func roster(seats ...Seat) Roster {
	r := New()
	for _, s := range seats {
		r.People[s.Email], r.Courses[s.Course] = s.Email, s.Course
		r.Seats[Key{s.Course, s.Email}] = s
	}
	return r
}

func TestCompare(t *testing.T) {
	is := roster(Seat{"A", "ann", viewing.Lecturer, ""}, Seat{"A", "bo", viewing.Student, "1"},
		Seat{"A", "cy", viewing.Student, ""}, Seat{"B", "bo", viewing.Student, ""})
	wanted := roster(Seat{"A", "bo", viewing.Student, "2"}, Seat{"A", "di", viewing.Student, ""},
		Seat{"C", "bo", viewing.Student, ""})
	wanted.People["bo"] = "Bo, renamed"
	c := Compare(is, wanted)
	switch {
	case len(c.AddSeats) != 2 || c.AddSeats[0].Email != "di" || c.AddSeats[1].Course != "C":
		t.Errorf("added %+v", c.AddSeats)
	case len(c.ChangeSeats) != 1 || c.ChangeSeats[0].From.Group != "1" || c.ChangeSeats[0].To.Group != "2":
		t.Errorf("changed %+v", c.ChangeSeats)
	case len(c.RemoveSeats) != 1 || c.RemoveSeats[0].Email != "cy":
		t.Errorf("removed %+v: neither the lecturer nor other courses are spoken of", c.RemoveSeats)
	case len(c.AddPeople) != 1 || c.AddPeople[0].Email != "di" || len(c.Rename) != 1 || c.Rename[0].From != "bo":
		t.Errorf("people %+v, renamed %+v", c.AddPeople, c.Rename)
	case len(c.AddCourses) != 1 || c.AddCourses[0].Code != "C":
		t.Errorf("courses %+v", c.AddCourses)
	}
	// A file that names a lecturer speaks of lecturers.
	c = Compare(is, roster(Seat{"A", "bo", viewing.Lecturer, ""}))
	if len(c.RemoveSeats) != 1 || c.RemoveSeats[0].Email != "ann" || len(c.ChangeSeats) != 1 {
		t.Errorf("%+v", c)
	}
	if !Compare(is, is).Empty() || Compare(is, is).Unchanged != 4 {
		t.Error("nothing changes and something does")
	}
}

// TestApplyingGivesWhatIsWanted: after an import the roles that it spoke of are as wanted, and it then changes nothing.
func TestApplyingGivesWhatIsWanted(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	random := func() Roster {
		x := New()
		for range r.IntN(30) {
			s := Seat{fmt.Sprint(r.IntN(4)), fmt.Sprint(r.IntN(12)),
				[]viewing.Role{viewing.Student, viewing.Assistant, viewing.Lecturer}[r.IntN(3)], fmt.Sprint(r.IntN(2))}
			x.Seats[Key{s.Course, s.Email}] = s
			x.People[s.Email], x.Courses[s.Course] = fmt.Sprint(r.IntN(2)), s.Course
		}
		return x
	}
	for range 300 {
		is, wanted := random(), random()
		c := Compare(is, wanted)
		after := Roster{maps.Clone(is.People), maps.Clone(is.Courses), maps.Clone(is.Seats)}
		for _, p := range c.AddPeople {
			after.People[p.Email] = p.Name
		}
		for _, p := range c.Rename {
			after.People[p.Email] = p.To
		}
		for _, x := range c.AddCourses {
			after.Courses[x.Code] = x.Title
		}
		for _, s := range c.RemoveSeats {
			delete(after.Seats, Key{s.Course, s.Email})
		}
		for _, s := range c.AddSeats {
			after.Seats[Key{s.Course, s.Email}] = s
		}
		for _, s := range c.ChangeSeats {
			after.Seats[Key{s.To.Course, s.To.Email}] = s.To
		}
		if again := Compare(after, wanted); !again.Empty() {
			t.Fatalf("after it was applied it still changes %+v", again)
		}
	}
}
