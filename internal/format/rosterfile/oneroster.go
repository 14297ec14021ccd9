package rosterfile

import (
	"cmp"
	"strings"

	"latelantern/internal/core/enrol"
	"latelantern/internal/core/viewing"
)

// roles are the roles of an enrollment. A teacher lectures; an aide or a proctor assists.
var roles = map[string]viewing.Role{"student": viewing.Student, "teacher": viewing.Lecturer, "aide": viewing.Assistant,
	"proctor": viewing.Assistant}

// gone reports whether a row is only there to say that it is no more.
func gone(t *table, x row) bool { return strings.EqualFold(t.get(x, "status"), "tobedeleted") }

// class is one class: a course, or a group of one that has several.
type class struct {
	course string // code
	name   string
	code   string
}

// oneRoster reads the four files that say who is in which course. A course is a course; where
// a course has several classes, those are its groups.
func (r *Read) oneRoster(files map[string]*table, today string) {
	for _, name := range []string{"users.csv", "courses.csv", "classes.csv", "enrollments.csv"} {
		if files[name] == nil {
			r.fault(name, 0, "", "roster.missing")
		}
	}
	if r.FaultsAll > 0 {
		return
	}
	users, courses, classes, enrollments := files["users.csv"], files["courses.csv"], files["classes.csv"],
		files["enrollments.csv"]
	if !r.need(users, "sourcedId", "givenName", "familyName", "email") || !r.need(courses, "sourcedId", "title") ||
		!r.need(classes, "sourcedId", "title", "courseSourcedId") ||
		!r.need(enrollments, "classSourcedId", "userSourcedId", "role") {
		return
	}
	people, disabled := r.users(users)
	in := r.classes(classes, r.courses(courses))
	for _, x := range enrollments.rows {
		if gone(enrollments, x) {
			continue
		}
		who, where := enrollments.get(x, "userSourcedId"), enrollments.get(x, "classSourcedId")
		email, ok := people[who]
		if !ok && disabled[who] {
			r.note(enrollments.file, x.line, "userSourcedId", "roster.not_enabled")
			continue
		}
		if !ok {
			r.fault(enrollments.file, x.line, "userSourcedId", "roster.no_user", "user", who)
		}
		c, found := in[where]
		if !found {
			r.fault(enrollments.file, x.line, "classSourcedId", "roster.no_class", "class", where)
		}
		role := strings.ToLower(enrollments.get(x, "role"))
		part, known := roles[role]
		if !known && role == "administrator" {
			r.note(enrollments.file, x.line, "role", "roster.administrator")
			continue
		}
		if !known {
			r.fault(enrollments.file, x.line, "role", "roster.role", "role", enrollments.get(x, "role"))
		}
		if !ok || !found || !known || email == "" {
			continue
		}
		if end := enrollments.get(x, "endDate"); end != "" && end <= today {
			r.note(enrollments.file, x.line, "endDate", "roster.ended", "day", end)
			continue
		}
		s := enrol.Seat{Course: c.course, Email: email, Role: part}
		if part == viewing.Student {
			s.Group = c.name
		}
		// Someone in several classes of one course has one seat in it, in the first of them.
		if old, twice := r.Roster.Seats[enrol.Key{Course: s.Course, Email: s.Email}]; twice && old.Role == s.Role &&
			old.Group != s.Group {
			r.note(enrollments.file, x.line, "classSourcedId", "roster.in_group", "group", old.Group, "course",
				s.Course)
			continue
		}
		r.seat(s, Fault{File: enrollments.file, Line: x.line})
	}
}

// users gives the address of each user by its sourcedId, and those that are not enabled.
func (r *Read) users(t *table) (people map[string]string, disabled map[string]bool) {
	people, disabled = map[string]string{}, map[string]bool{}
	for _, x := range t.rows {
		if gone(t, x) {
			continue
		}
		id := t.get(x, "sourcedId")
		if id == "" {
			r.fault(t.file, x.line, "sourcedId", "roster.no_id")
			continue
		}
		if strings.EqualFold(t.get(x, "enabledUser"), "false") {
			disabled[id] = true
			continue
		}
		email, ok := address(t.get(x, "email"))
		if !ok {
			if email, ok = address(t.get(x, "username")); !ok {
				r.fault(t.file, x.line, "email", "roster.email", "email", t.get(x, "email"))
				people[id] = "" // enrollments of this user are not at fault
				continue
			}
		}
		name := strings.Join(strings.Fields(t.get(x, "givenName")+" "+t.get(x, "middleName")+" "+
			t.get(x, "familyName")), " ")
		switch known, twice := r.Roster.People[email]; {
		case name == "":
			r.fault(t.file, x.line, "familyName", "roster.no_name")
			people[id] = email
			continue
		case twice && known != name:
			r.fault(t.file, x.line, "email", "roster.email_taken", "email", email, "name", known)
			people[id] = ""
			continue
		}
		people[id], r.Roster.People[email] = email, name
	}
	return people, disabled
}

// courses gives each course by its sourcedId.
func (r *Read) courses(t *table) map[string]enrol.Course {
	out := map[string]enrol.Course{}
	for _, x := range t.rows {
		if gone(t, x) {
			continue
		}
		c := enrol.Course{Code: cmp.Or(t.get(x, "courseCode"), t.get(x, "title")), Title: t.get(x, "title")}
		if c.Code == "" {
			r.fault(t.file, x.line, "courseCode", "roster.no_code")
			continue
		}
		out[t.get(x, "sourcedId")] = c
	}
	return out
}

// classes gives each class by its sourcedId. Only a class of a course with several has a name.
func (r *Read) classes(t *table, courses map[string]enrol.Course) map[string]class {
	out, many := map[string]class{}, map[string]int{}
	for _, x := range t.rows {
		if gone(t, x) {
			continue
		}
		c, ok := courses[t.get(x, "courseSourcedId")]
		if !ok {
			r.fault(t.file, x.line, "courseSourcedId", "roster.no_course", "course", t.get(x, "courseSourcedId"))
			continue
		}
		r.Roster.Courses[c.Code] = c.Title
		many[c.Code]++
		out[t.get(x, "sourcedId")] = class{c.Code, cmp.Or(t.get(x, "title"), t.get(x, "classCode")),
			t.get(x, "classCode")}
	}
	same := map[[2]string]int{}
	for _, c := range out {
		same[[2]string{c.course, c.name}]++
	}
	for id, c := range out {
		switch {
		case many[c.course] == 1:
			c.name = ""
		case same[[2]string{c.course, c.name}] > 1 && c.code != "":
			c.name = c.code
		}
		out[id] = c
	}
	return out
}
