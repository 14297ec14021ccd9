// Package enrol compares the rosters of courses as they are with how a file wants them.
package enrol

import (
	"cmp"
	"slices"

	"latelantern/internal/core/viewing"
)

// Person is someone as a file names them. An address is in lower case.
type Person struct {
	Email, Name string
}

// Course is a course as a file names it. Title is "" where the file has none.
type Course struct {
	Code, Title string
}

// Seat is the role that a person has in a course.
type Seat struct {
	Course string // code
	Email  string
	Role   viewing.Role
	Group  string // "" for none
}

// Roster is who is in which course.
type Roster struct {
	People  map[string]string // name by address
	Courses map[string]string // title by code
	Seats   map[Key]Seat
}

// Key tells seats apart: a person has one in a course.
type Key struct {
	Course, Email string
}

// New is an empty roster.
func New() Roster {
	return Roster{map[string]string{}, map[string]string{}, map[Key]Seat{}}
}

// Renaming is a person whose name changes.
type Renaming struct {
	Email, From, To string
}

// Changed is a seat whose role or group changes.
type Changed struct {
	From, To Seat
}

// Changes is what an import does. Every list is in the order of its courses and addresses.
type Changes struct {
	AddPeople    []Person
	Rename       []Renaming
	AddCourses   []Course
	AddSeats     []Seat
	ChangeSeats  []Changed
	RemoveSeats  []Seat
	Unchanged    int // seats
	NamedCourses []string
}

// Empty reports whether nothing would change.
func (c Changes) Empty() bool {
	return len(c.AddPeople)+len(c.Rename)+len(c.AddCourses)+len(c.AddSeats)+len(c.ChangeSeats)+len(c.RemoveSeats) == 0
}

// Compare says what makes the roster as it is into the one that is wanted. What is wanted
// speaks only of the courses it names, and in each only of the roles it names: a list of students
// takes no lecturer off.
func Compare(is, wanted Roster) Changes {
	var c Changes
	type spoken struct {
		course string
		role   viewing.Role
	}
	speaks := map[spoken]bool{}
	for key, seat := range wanted.Seats {
		speaks[spoken{seat.Course, seat.Role}] = true
		switch old, ok := is.Seats[key]; {
		case !ok:
			c.AddSeats = append(c.AddSeats, seat)
		case old != seat:
			c.ChangeSeats = append(c.ChangeSeats, Changed{old, seat})
		default:
			c.Unchanged++
		}
	}
	for key, seat := range is.Seats {
		if _, ok := wanted.Seats[key]; !ok && speaks[spoken{seat.Course, seat.Role}] {
			c.RemoveSeats = append(c.RemoveSeats, seat)
		}
	}
	for email, name := range wanted.People {
		switch old, ok := is.People[email]; {
		case !ok:
			c.AddPeople = append(c.AddPeople, Person{email, name})
		case old != name && name != "":
			c.Rename = append(c.Rename, Renaming{email, old, name})
		}
	}
	for code, title := range wanted.Courses {
		c.NamedCourses = append(c.NamedCourses, code)
		if _, ok := is.Courses[code]; !ok {
			c.AddCourses = append(c.AddCourses, Course{code, title})
		}
	}
	slices.Sort(c.NamedCourses)
	slices.SortFunc(c.AddPeople, func(a, b Person) int { return cmp.Compare(a.Email, b.Email) })
	slices.SortFunc(c.Rename, func(a, b Renaming) int { return cmp.Compare(a.Email, b.Email) })
	slices.SortFunc(c.AddCourses, func(a, b Course) int { return cmp.Compare(a.Code, b.Code) })
	slices.SortFunc(c.AddSeats, bySeat)
	slices.SortFunc(c.RemoveSeats, bySeat)
	slices.SortFunc(c.ChangeSeats, func(a, b Changed) int { return bySeat(a.To, b.To) })
	return c
}

func bySeat(a, b Seat) int {
	return cmp.Or(cmp.Compare(a.Course, b.Course), cmp.Compare(a.Email, b.Email))
}

// May reports whether someone with a role in a course says who else has a role in it, or had: those who assist say
// so of students alone.
func May(own, other viewing.Role) bool {
	return own == viewing.Lecturer || own == viewing.Assistant && !other.Staff()
}
