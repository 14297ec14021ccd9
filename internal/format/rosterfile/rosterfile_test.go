package rosterfile

import (
	"archive/zip"
	"bytes"
	"fmt"
	"reflect"
	"slices"
	"strings"
	"testing"

	"latelantern/internal/core/enrol"
	"latelantern/internal/core/texts"
	"latelantern/internal/core/viewing"
)

const today = "2026-10-06"

func sheet(lines ...string) []File {
	return []File{{"people.csv", []byte("email,name,course,part,group\n" + strings.Join(lines, "\n") + "\n")}}
}

func seats(r Read) string {
	var out []string
	for _, s := range r.Roster.Seats {
		out = append(out, fmt.Sprintf("%s %s %s %s=%s", s.Course, s.Email, s.Role, s.Group, r.Roster.People[s.Email]))
	}
	slices.Sort(out)
	return strings.Join(out, "\n")
}

func said(faults []Fault) string {
	var out []string
	for _, f := range faults {
		out = append(out, fmt.Sprintf("%s:%d:%s: %s", f.File, f.Line, f.Column, texts.English.Say(f.Text)))
	}
	return strings.Join(out, "\n")
}

func TestAPlainSheet(t *testing.T) {
	want := "TID 210 ann@x.example lecturer =Ann Ardal\nTID 210 bo@x.example student Bench 1=Bo, the younger"
	for name, text := range map[string]string{
		"as the standard has it": "email,name,course,part,group\r\nAnn@X.example,Ann  Ardal,TID 210,Lecturer,\r\nbo@x.example,\"Bo, the younger\",TID 210,student,Bench 1\r\n",
		"semicolons and a mark":  "\xef\xbb\xbfEmail;Name;Course;Part;Group\nann@x.example;Ann Ardal;TID 210;lecturer;\nbo@x.example;Bo, the younger;TID 210;student;Bench 1\n\n;;;;\n",
		"tabs in another order":  "group\tpart\tcourse\tname\temail\n\tlecturer\tTID 210\tAnn Ardal\tann@x.example\nBench 1\tstudent\tTID 210\tBo, the younger\tbo@x.example",
	} {
		r := Files([]File{{"people.csv", []byte(text)}}, today)
		if seats(r) != want || len(r.Faults)+len(r.Notes) > 0 {
			t.Errorf("%s:\n%s\nfaults %s", name, seats(r), said(r.Faults))
		}
	}
	r := Files([]File{{"a.csv", []byte("email,name,course,part\nann@x.example,Ann,A,student\n")}}, today)
	if len(r.Roster.Seats) != 1 || len(r.Faults) > 0 {
		t.Errorf("without groups: %s", said(r.Faults))
	}
}

// TestAsSpreadsheetsWriteIt: empty columns at the end, a first line that names the separator, lines that end as on old
// computers, and signs that take no room change nothing.
func TestAsSpreadsheetsWriteIt(t *testing.T) {
	want := Files([]File{{"a.csv",
		[]byte("email,name,course,part\nann@x.example,Ann,A 1,student\nbo@x.example,Bo,A 1,lecturer\n")}}, "2026-10-06")
	for name, text := range map[string]string{
		"empty columns":       "email,name,course,part,,\nann@x.example,Ann,A 1,student,,\nbo@x.example,Bo,A 1,lecturer,,\n",
		"empty fields":        "email,name,course,part\nann@x.example,Ann,A 1,student,,,\nbo@x.example,Bo,A 1,lecturer\n",
		"sep":                 "sep=;\r\nemail;name;course;part\r\nann@x.example;Ann;A 1;student\r\nbo@x.example;Bo;A 1;lecturer\r\n",
		"carriage returns":    "email,name,course,part\rann@x.example,Ann,A 1,student\rbo@x.example,Bo,A 1,lecturer\r",
		"signs without room":  "email,name,course,part\n\u200bann@x.example\u200d,Ann\ufeff,A 1,student\n\u200ebo@x.example,\u2060Bo,A\u00a01,lecturer\n",
		"a mark at the begin": "\ufeffemail,name,course,part\nann@x.example,Ann,A 1,student\nbo@x.example,Bo,A 1,lecturer\n",
	} {
		got := Files([]File{{"a.csv", []byte(text)}}, "2026-10-06")
		if got.FaultsAll > 0 || !reflect.DeepEqual(got.Roster, want.Roster) {
			t.Errorf("%s: %v\n%+v", name, got.Faults, got.Roster)
		}
	}
	got := Files([]File{{"a.csv", []byte("sep=;\nemail;name;course;part\nann;Ann;A;student\n")}}, "2026-10-06")
	if len(got.Faults) != 1 || got.Faults[0].Line != 3 ||
		!strings.Contains(texts.English.Say(got.Faults[0].Text), "Write it as") {
		t.Errorf("a fault below it: %+v", got.Faults)
	}
	if got := Files([]File{{"a.csv", []byte("email,name,course,part\nann@x.example,A\x00nn,A,student\n")}},
		"2026-10-06"); len(got.Faults) != 1 || got.Faults[0].Line != 2 {
		t.Errorf("a sign that no text has: %+v", got.Faults)
	}
}

func TestBadLinesAreNamed(t *testing.T) {
	good := "ann@x.example,Ann,A,student,"
	for _, c := range []struct{ line, want string }{
		{"nobody,Bo,A,student,", `people.csv:3:email: “nobody” is no mail address.`},
		{"Bo <bo@x.example>,Bo,A,student,", `people.csv:3:email: “Bo <bo@x.example>” is no mail address.`},
		{"bo@x.example,,A,student,", "people.csv:3:name: A person needs a name"},
		{"bo@x.example,Bo,,student,", "people.csv:3:course: Enter the code"},
		{"bo@x.example,Bo,A,dean,", `people.csv:3:part: “dean” is no part.`},
		{"bo@x.example,Bo,A,student," + strings.Repeat("g", 101), "people.csv:3:group: The name of a group"},
		{"bo@x.example,Bo,A,student", "people.csv:3:: This line has 4 fields"},
		{"ann@x.example,Anna,B,student,", "people.csv:3:name: ann@x.example was called Ann before"},
		{"ann@x.example,Ann,A,lecturer,", "people.csv:3:part: ann@x.example is student of A in line 2 already."},
		{"ann@x.example,Ann,A,student,2",
			`people.csv:3:group: ann@x.example is in the group “” of A in line 2 already.`},
		{"caf\xe9@x.example,Bo,A,student,", "people.csv:3:: This line is not text in UTF-8"},
		{`"bo@x.example,Bo,A,student,`, "people.csv:3:: The quotation marks"},
	} {
		r := Files(sheet(good, c.line), today)
		if len(r.Faults) != 1 || !strings.HasPrefix(said(r.Faults), c.want) {
			t.Errorf("%s: %s, want %s", c.line, said(r.Faults), c.want)
		}
	}
	// All faults of a line, and of all lines.
	if r := Files(sheet("a,,,x,", "b,,,y,"), today); len(r.Faults) != 8 {
		t.Errorf("%d faults: %s", len(r.Faults), said(r.Faults))
	}
	if r := Files(sheet(good, good), today); len(r.Faults) > 0 || len(r.Notes) != 1 {
		t.Errorf("the same twice: %s", said(r.Faults))
	}
	for text, want := range map[string]string{
		"":                            "x.csv:1:: The first line must name the columns.",
		"email,name\nann@x.e,Ann":     "x.csv:1:course: The column course is missing.",
		"email,name,course,part,part": "x.csv:1:part: This column is there twice.",
		"PK\x03\x04rubbish":           "x.csv:0:: This archive cannot be opened.",
	} {
		if r := Files([]File{{"x.csv", []byte(text)}}, today); !strings.HasPrefix(said(r.Faults), want) {
			t.Errorf("%q: %s", text, said(r.Faults))
		}
	}
	if r := Files(nil, today); len(r.Faults) != 1 {
		t.Error("no file is taken")
	}
}

// one is the files of a small college by the standard, with lines put in place of others.
func one(change ...string) []File {
	files := map[string]string{
		"users.csv":       "sourcedId,status,dateLastModified,enabledUser,orgSourcedIds,role,username,userIds,givenName,familyName,middleName,identifier,email,sms,phone,agentSourcedIds,grades,password\nu1,,,true,o,teacher,ann,,Ann,Ardal,,,ann@x.example,,,,,\nu2,,,true,o,student,bo@x.example,,Bo,Berg,,,,,,,,\nu3,,,false,o,student,cy,,Cy,Carr,,,cy@x.example,,,,,\nu4,tobedeleted,,true,o,student,di,,Di,Dorn,,,di@x.example,,,,,\n",
		"courses.csv":     "sourcedId,status,dateLastModified,schoolYearSourcedId,title,courseCode,grades,orgSourcedId,subjects,subjectCodes\nc1,,,y,Reading the Tides,TID 210,,o,,\nc2,,,y,Small Boat Repair,BOA 140,,o,,\n",
		"classes.csv":     "sourcedId,status,dateLastModified,title,grades,courseSourcedId,classCode,classType,location,schoolSourcedId,termSourcedIds,subjects,subjectCodes,periods\nk1,,,Tides,,c1,TID,scheduled,,o,t,,,\nk2,,,Bench 1,,c2,B1,scheduled,,o,t,,,\nk3,,,Bench 2,,c2,B2,scheduled,,o,t,,,\n",
		"enrollments.csv": "sourcedId,status,dateLastModified,classSourcedId,schoolSourcedId,userSourcedId,role,primary,beginDate,endDate\ne1,,,k1,o,u1,teacher,true,,\ne2,,,k1,o,u2,student,,,\ne3,,,k2,o,u2,student,,,\ne4,,,k2,o,u1,proctor,,,\ne5,,,k1,o,u3,student,,,\ne6,tobedeleted,,k1,o,u9,student,,,\n",
		"orgs.csv":        "sourcedId,status,dateLastModified,name,type,identifier,parentSourcedId\no,,,x,school,,\n",
		"manifest.csv":    "propertyName,value\noneroster.version,1.1\n",
	}
	for i := 0; i+1 < len(change); i += 2 {
		for name, text := range files {
			files[name] = strings.ReplaceAll(text, change[i], change[i+1])
		}
	}
	var out []File
	for name, text := range files {
		if text != "" {
			out = append(out, File{name, []byte(text)})
		}
	}
	return out
}

func TestOneRoster(t *testing.T) {
	want := "BOA 140 ann@x.example assistant =Ann Ardal\nBOA 140 bo@x.example student Bench 1=Bo Berg\nTID 210 ann@x.example lecturer =Ann Ardal\nTID 210 bo@x.example student =Bo Berg"
	r := Files(one(), today)
	if seats(r) != want || len(r.Faults) > 0 || len(r.Notes) != 1 ||
		r.Roster.Courses["BOA 140"] != "Small Boat Repair" {
		t.Errorf("%s\nfaults %s\nnotes %s", seats(r), said(r.Faults), said(r.Notes))
	}
	if _, there := r.Roster.People["cy@x.example"]; there {
		t.Error("someone who is not enabled is taken")
	}
	for _, c := range []struct{ from, to, faults, notes string }{
		{"k1,o,u2,student", "k7,o,u2,student", `enrollments.csv:3:classSourcedId: There is no class “k7”`, ""},
		{"k1,o,u2,student", "k1,o,u7,student", `enrollments.csv:3:userSourcedId: There is no user “u7”`, ""},
		{"k1,o,u2,student", "k1,o,u2,wizard", `enrollments.csv:3:role: “wizard” is no role`, ""},
		{"k1,o,u2,student", "k1,o,u2,administrator", "", "enrollments.csv:3:role: An administrator"},
		{"e2,,,k1,o,u2,student,,,", "e2,,,k1,o,u2,student,,,2026-10-06", "",
			"enrollments.csv:3:endDate: This enrollment ended"},
		{"k2,o,u1,proctor", "k3,o,u2,student", "",
			"enrollments.csv:5:classSourcedId: This person is in the group Bench 1"},
		{"ann@x.example", "ann", `users.csv:2:email: “ann” is no mail address`, ""},
		{"bo@x.example", "ann@x.example", "users.csv:3:email: ann@x.example is the address of Ann Ardal", ""},
		{"Bench 1,,c2", "Bench 1,,c9", `classes.csv:3:courseSourcedId: There is no course “c9”`, ""},
		{"familyName", "lastName", "users.csv:1:familyName: The column familyName is missing", ""},
	} {
		r := Files(one(c.from, c.to), today)
		if !strings.HasPrefix(said(r.Faults), c.faults) || c.faults == "" && len(r.Faults) > 0 ||
			!strings.Contains(said(r.Notes), c.notes) {
			t.Errorf("%s: faults %s\nnotes %s", c.to, said(r.Faults), said(r.Notes))
		}
	}
	missing := slices.DeleteFunc(one(), func(f File) bool { return f.Name == "classes.csv" })
	if r := Files(missing, today); !strings.Contains(said(r.Faults), "classes.csv:0:: This file is missing") {
		t.Errorf("%s", said(r.Faults))
	}
	if r := Files(append(one(), sheet("ann@x.example,Ann,A,student,")...), today); !strings.Contains(said(r.Faults),
		"apart from OneRoster files") {
		t.Errorf("%s", said(r.Faults))
	}
	// The same in an archive.
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, f := range one() {
		w, err := z.Create("export/" + f.Name)
		if err != nil {
			t.Fatal(err)
		}
		w.Write(f.Data)
	}
	z.Close()
	if r := Files([]File{{"export.zip", b.Bytes()}}, today); seats(r) != want {
		t.Errorf("from an archive: %s\n%s", seats(r), said(r.Faults))
	}
}

// TestBothFormsRoundTrip: what is written is read the same.
func TestBothFormsRoundTrip(t *testing.T) {
	entries := []Entry{
		{"p1", "ann@x.example", "Ann Maria Ardal", "c1", "TID 210", "Reading the Tides", viewing.Lecturer, ""},
		{"p2", "bo@x.example", "=Bo", "c1", "TID 210", "Reading the Tides", viewing.Student, ""},
		{"p2", "bo@x.example", "=Bo", "c2", "BOA 140", "Small Boat Repair", viewing.Student, "Bench, 1"},
		{"p3", "cy@x.example", "Cy 'Q' Carr", "c2", "BOA 140", "Small Boat Repair", viewing.Student, "Bench 2"},
		{"p1", "ann@x.example", "Ann Maria Ardal", "c2", "BOA 140", "Small Boat Repair", viewing.Assistant, ""},
	}
	wanted := enrol.New()
	for _, e := range entries {
		wanted.People[e.Email], wanted.Courses[e.Course] = e.Name, e.CourseTitle
		wanted.Seats[enrol.Key{Course: e.Course, Email: e.Email}] = enrol.Seat{Course: e.Course, Email: e.Email,
			Role: e.Role, Group: e.Group}
	}
	var plain, archive bytes.Buffer
	if err := Sheet(&plain, entries); err != nil {
		t.Fatal(err)
	}
	if err := OneRoster(&archive, Term{"t", "Autumn", "2026-09-07", "2026-12-18"}, entries); err != nil {
		t.Fatal(err)
	}
	for name, data := range map[string][]byte{"people.csv": plain.Bytes(), "people.zip": archive.Bytes()} {
		r := Files([]File{{name, data}}, today)
		if c := enrol.Compare(wanted, r.Roster); len(r.Faults) > 0 || !c.Empty() || c.Unchanged != len(entries) {
			t.Errorf("%s: %s\n%+v", name, said(r.Faults), c)
		}
	}
	if !strings.Contains(plain.String(), "'=Bo") {
		t.Error("a name that a spreadsheet would compute is written as it is")
	}
}
