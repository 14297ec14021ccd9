package rosterfile

import (
	"archive/zip"
	"encoding/csv"
	"fmt"
	"io"
	"slices"
	"strings"

	"latelantern/internal/core/viewing"
	"latelantern/internal/format/sheetcell"
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
	Role                          viewing.Role
	Group                         string
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
		rows[i] = []string{sheetcell.Harmless(e.Email), sheetcell.Harmless(e.Name), sheetcell.Harmless(e.Course),
			string(e.Role), sheetcell.Harmless(e.Group)}
	}
	if err := lines(w, []string{"email", "name", "course", "part", "group"}, rows); err != nil {
		return fmt.Errorf("write a roster: %w", err)
	}
	return nil
}

var roleOf = map[viewing.Role]string{viewing.Student: "student", viewing.Lecturer: "teacher", viewing.Assistant: "aide"}

// OneRoster writes the files of the standard (1.1) in a zip archive. Each group of a course
// is a class; a course without groups is one class.
func OneRoster(w io.Writer, t Term, entries []Entry) error {
	rows := oneRosterRows(t, entries)
	archive := zip.NewWriter(w)
	for _, f := range oneRosterFiles {
		to, err := archive.Create(f.name + ".csv")
		if err == nil {
			err = lines(to, strings.Split(f.head, ","), rows[f.name])
		}
		if err != nil {
			return fmt.Errorf("write %s.csv: %w", f.name, err)
		}
	}
	if err := archive.Close(); err != nil {
		return fmt.Errorf("write a roster: %w", err)
	}
	return nil
}

// oneRosterFiles are the files that are written, and their columns in the order of the standard.
var oneRosterFiles = []struct{ name, head string }{
	{"manifest", "propertyName,value"},
	{"orgs", "sourcedId,status,dateLastModified,name,type,identifier,parentSourcedId"},
	{"academicSessions",
		"sourcedId,status,dateLastModified,title,type,startDate,endDate,parentSourcedId,schoolYear"},
	{"users", "sourcedId,status,dateLastModified,enabledUser,orgSourcedIds,role,username,userIds,givenName,familyName," +
		"middleName,identifier,email,sms,phone,agentSourcedIds,grades,password"},
	{"courses", "sourcedId,status,dateLastModified,schoolYearSourcedId,title,courseCode,grades,orgSourcedId,subjects," +
		"subjectCodes"},
	{"classes", "sourcedId,status,dateLastModified,title,grades,courseSourcedId,classCode,classType,location," +
		"schoolSourcedId,termSourcedIds,subjects,subjectCodes,periods"},
	{"enrollments", "sourcedId,status,dateLastModified,classSourcedId,schoolSourcedId,userSourcedId,role,primary," +
		"beginDate,endDate"},
}

// oneRosterRows are the lines of each file, by its name.
func oneRosterRows(t Term, entries []Entry) map[string][][]string {
	const org = "college"
	rows := map[string][][]string{"manifest": manifest(), "orgs": {{org, "", "", "College", "school", "", ""}}}
	add := func(file string, fields ...string) { rows[file] = append(rows[file], fields) }
	year := ""
	if len(t.Last) >= 4 {
		year = t.Last[:4]
	}
	add("academicSessions", t.ID, "", "", t.Name, "term", t.First, t.Last, "", year)
	once := firstTime()
	groups := groupsOf(entries)
	for _, e := range entries {
		if once(e.PersonID) {
			given, family, found := cutLast(e.Name)
			if !found {
				given, family = "", e.Name
			}
			role := "student"
			if e.Role != viewing.Student {
				role = "teacher"
			}
			add("users", e.PersonID, "", "", "true", org, role, e.Email, "", given, family, "", "", e.Email, "", "", "", "", "")
		}
		if once(e.CourseID) {
			add("courses", e.CourseID, "", "", t.ID, e.CourseTitle, e.Course, "", org, "", "")
		}
		class, title := e.class(groups[e.CourseID])
		if once(class) {
			add("classes", class, "", "", title, "", e.CourseID, e.Course, "scheduled", "", org, t.ID, "", "", "")
		}
		add("enrollments", class+"-"+e.PersonID, "", "", class, org, e.PersonID, roleOf[e.Role], "", "", "")
	}
	return rows
}

// class is the class of a seat in a course with these groups: that of its group, or one of those who are in none;
// those who teach are in that of the first group.
func (e Entry) class(groups []string) (id, title string) {
	switch {
	case e.Role != viewing.Student && len(groups) > 0:
		return e.CourseID + "-" + groups[0], groups[0]
	case e.Group == "":
		return e.CourseID + "-all", e.CourseTitle
	}
	return e.CourseID + "-" + e.Group, e.Group
}

// groupsOf are the groups of each course, in the order in which they are first named.
func groupsOf(entries []Entry) map[string][]string {
	out := map[string][]string{}
	for _, e := range entries {
		if e.Group != "" && !slices.Contains(out[e.CourseID], e.Group) {
			out[e.CourseID] = append(out[e.CourseID], e.Group)
		}
	}
	return out
}

// firstTime reports of each word whether it is asked about for the first time.
func firstTime() func(string) bool {
	seen := map[string]bool{}
	return func(word string) bool {
		was := seen[word]
		seen[word] = true
		return !was
	}
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
