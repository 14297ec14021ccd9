package rosterfile

import (
	"archive/zip"
	"encoding/csv"
	"fmt"
	"io"
	"strings"

	"latelantern/internal/core/viewing"
)

// Term is what an export says about the term.
type Term struct {
	ID, Name, First, Last string // dates as 2026-10-06
}

// Entry is one seat as it is written. IDs are those of the database, so that later exports
// name the same things alike.
type Entry struct {
	PersonID, Email, Name         string
	CourseID, Course, CourseTitle string
	Part                          viewing.Part
	Group                         string
}

// formula begins what a spreadsheet would compute instead of show.
const formula = "=+-@\t\r"

// harmless keeps a field from being taken for a formula by a spreadsheet: a quotation mark before it says that it is
// text. asItWas takes that mark away again, and no other.
func harmless(s string) string {
	if rest := strings.TrimLeft(s, "'"); rest != "" && strings.ContainsRune(formula, rune(rest[0])) {
		return "'" + s
	}
	return s
}

func asItWas(s string) string {
	if rest, marked := strings.CutPrefix(s, "'"); marked && harmless(rest) == s {
		return rest
	}
	return s
}

func lines(w io.Writer, head []string, rows [][]string) error {
	c := csv.NewWriter(w)
	c.UseCRLF = true
	if err := c.Write(head); err != nil {
		return err
	}
	if err := c.WriteAll(rows); err != nil {
		return err
	}
	return c.Error()
}

// Sheet writes a plain sheet.
func Sheet(w io.Writer, entries []Entry) error {
	rows := make([][]string, len(entries))
	for i, e := range entries {
		rows[i] = []string{harmless(e.Email), harmless(e.Name), harmless(e.Course), string(e.Part), harmless(e.Group)}
	}
	if err := lines(w, []string{"email", "name", "course", "part", "group"}, rows); err != nil {
		return fmt.Errorf("write a roster: %w", err)
	}
	return nil
}

var roleOf = map[viewing.Part]string{viewing.Student: "student", viewing.Lecturer: "teacher", viewing.Assistant: "aide"}

// OneRoster writes the files of the standard (1.1) in a zip archive. Each group of a course
// is a class; a course without groups is one class.
func OneRoster(w io.Writer, t Term, entries []Entry) error {
	const org = "college"
	var users, courses, classes, enrollments [][]string
	seen := map[string]bool{}
	once := func(id string) bool {
		if seen[id] {
			return false
		}
		seen[id] = true
		return true
	}
	groups := map[string][]string{}
	for _, e := range entries {
		if e.Group != "" && once("group "+e.CourseID+e.Group) {
			groups[e.CourseID] = append(groups[e.CourseID], e.Group)
		}
	}
	for _, e := range entries {
		if once(e.PersonID) {
			given, family, found := cutLast(e.Name)
			if !found {
				given, family = "", e.Name
			}
			role := "student"
			if e.Part != viewing.Student {
				role = "teacher"
			}
			users = append(users,
				[]string{e.PersonID, "", "", "true", org, role, e.Email, "", given, family, "", "", e.Email, "", "", "",
					"", ""})
		}
		if once(e.CourseID) {
			courses = append(courses, []string{e.CourseID, "", "", t.ID, e.CourseTitle, e.Course, "", org, "", ""})
		}
		// Those of no group are in a class of their own when others are in groups.
		class, title := e.CourseID+"-"+e.Group, e.Group
		if e.Group == "" {
			class, title = e.CourseID+"-all", e.CourseTitle
		}
		if e.Part != viewing.Student && len(groups[e.CourseID]) > 0 {
			class, title = e.CourseID+"-"+groups[e.CourseID][0], groups[e.CourseID][0]
		}
		if once(class) {
			classes = append(classes,
				[]string{class, "", "", title, "", e.CourseID, e.Course, "scheduled", "", org, t.ID, "", "", ""})
		}
		enrollments = append(enrollments,
			[]string{class + "-" + e.PersonID, "", "", class, org, e.PersonID, roleOf[e.Part], "", "", ""})
	}
	archive := zip.NewWriter(w)
	year := ""
	if len(t.Last) >= 4 {
		year = t.Last[:4]
	}
	for _, f := range []struct {
		name, head string
		rows       [][]string
	}{
		{"manifest.csv", "propertyName,value", manifest()},
		{"orgs.csv", "sourcedId,status,dateLastModified,name,type,identifier,parentSourcedId",
			[][]string{{org, "", "", "College", "school", "", ""}}},
		{"academicSessions.csv",
			"sourcedId,status,dateLastModified,title,type,startDate,endDate,parentSourcedId,schoolYear",
			[][]string{{t.ID, "", "", t.Name, "term", t.First, t.Last, "", year}}},
		{"users.csv", "sourcedId,status,dateLastModified,enabledUser,orgSourcedIds,role,username,userIds,givenName,familyName,middleName,identifier,email,sms,phone,agentSourcedIds,grades,password", users},
		{"courses.csv",
			"sourcedId,status,dateLastModified,schoolYearSourcedId,title,courseCode,grades,orgSourcedId,subjects,subjectCodes", courses},
		{"classes.csv",
			"sourcedId,status,dateLastModified,title,grades,courseSourcedId,classCode,classType,location,schoolSourcedId,termSourcedIds,subjects,subjectCodes,periods", classes},
		{"enrollments.csv",
			"sourcedId,status,dateLastModified,classSourcedId,schoolSourcedId,userSourcedId,role,primary,beginDate,endDate", enrollments},
	} {
		to, err := archive.Create(f.name)
		if err == nil {
			err = lines(to, strings.Split(f.head, ","), f.rows)
		}
		if err != nil {
			return fmt.Errorf("write %s: %w", f.name, err)
		}
	}
	if err := archive.Close(); err != nil {
		return fmt.Errorf("write a roster: %w", err)
	}
	return nil
}

// manifest says which files are in the archive (OneRoster 1.1 CSV, 2).
func manifest() [][]string {
	out := [][]string{{"manifest.version", "1.0"}, {"oneroster.version", "1.1"},
		{"source.systemName", "Late Lantern"}}
	present := map[string]bool{"academicSessions": true, "orgs": true, "users": true, "courses": true, "classes": true,
		"enrollments": true}
	for _, name := range []string{"academicSessions", "categories", "classes", "classResources", "courses",
		"courseResources", "demographics", "enrollments", "lineItems", "orgs", "resources", "results", "users"} {
		kind := "absent"
		if present[name] {
			kind = "bulk"
		}
		out = append(out, []string{"file." + name, kind})
	}
	return out
}

func cutLast(name string) (before, last string, found bool) {
	i := strings.LastIndex(name, " ")
	if i < 0 {
		return name, "", false
	}
	return name[:i], name[i+1:], true
}
