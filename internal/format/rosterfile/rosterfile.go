// Package rosterfile reads and writes rosters: a plain sheet with the columns email, name,
// course, part and group, and the CSV files of the OneRoster standard (1EdTech OneRoster 1.1 and
// 1.2, CSV binding), of which users, courses, classes and enrollments are read.
package rosterfile

import (
	"archive/zip"
	"bytes"
	"cmp"
	"encoding/csv"
	"errors"
	"io"
	"net/mail"
	"path"
	"slices"
	"strings"
	"unicode/utf8"

	"latelantern/internal/core/enrol"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/viewing"
	"latelantern/internal/format/sheetcell"
)

// MaxSize is the most bytes that all files of an import can have together, unpacked.
const MaxSize = 24 << 20

// MaxLines is the most lines that they can have together, unpacked: several for each seat of a large college.
const MaxLines = 500_000

// MostTold is how many faults, and how many notes, are told; the others are counted.
const MostTold = 100

// File is a file as it came.
type File struct {
	Name string
	Data []byte
}

// Fault is something wrong in a file.
type Fault struct {
	File   string
	Line   int    // from 1; 0 for the file as a whole
	Column string // "" for the line as a whole
	Text   fault.Text
}

// Read is what files say: the roster that is wanted, what is wrong, and what was left out
// on purpose. With any fault the roster must not be applied.
type Read struct {
	Roster    enrol.Roster
	At        map[enrol.Key]Fault // where each seat was named; its text is empty
	Faults    []Fault             // the first MostTold of them
	FaultsAll int
	Notes     []Fault // the first MostTold of them
	NotesAll  int

	lines int // that were read
}

// Files reads files as they came, plain or in a zip archive. Today is a date such as
// 2026-10-06: enrolments that ended before it are left out.
func Files(files []File, today string) Read {
	r := Read{Roster: enrol.New(), At: map[enrol.Key]Fault{}}
	files = r.unpack(files)
	named := map[string]*table{}
	var plain []*table
	for _, f := range files {
		t := r.table(f)
		if t == nil {
			continue
		}
		base := strings.ToLower(path.Base(f.Name))
		switch {
		case t.has("sourcedid") || base == "manifest.csv":
			if _, twice := named[base]; twice {
				r.fault(f.Name, 0, "", "roster.two_files")
			}
			named[base] = t
		default:
			plain = append(plain, t)
		}
	}
	switch {
	case len(files) == 0 && r.FaultsAll == 0:
		r.fault("", 0, "", "roster.no_file")
	case len(named) > 0 && len(plain) > 0:
		r.fault(plain[0].file, 1, "", "roster.mixed")
	case len(named) > 0:
		r.oneRoster(named, today)
	default:
		for _, t := range plain {
			r.sheet(t)
		}
	}
	slices.SortStableFunc(r.Faults,
		func(a, b Fault) int { return cmp.Or(cmp.Compare(a.File, b.File), cmp.Compare(a.Line, b.Line)) })
	return r
}

func (r *Read) fault(file string, line int, column string, code fault.Code, with ...any) {
	if r.FaultsAll++; r.FaultsAll <= MostTold {
		r.Faults = append(r.Faults, Fault{file, line, column, fault.Say(code, with...)})
	}
}

func (r *Read) note(file string, line int, column string, code fault.Code, with ...any) {
	if r.NotesAll++; r.NotesAll <= MostTold {
		r.Notes = append(r.Notes, Fault{file, line, column, fault.Say(code, with...)})
	}
}

// unpack opens zip archives and holds all of it to MaxSize.
func (r *Read) unpack(files []File) []File {
	var out []File
	room := int64(MaxSize)
	for _, f := range files {
		if !bytes.HasPrefix(f.Data, []byte("PK\x03\x04")) {
			out = append(out, f)
			room -= int64(len(f.Data))
			continue
		}
		archive, err := zip.NewReader(bytes.NewReader(f.Data), int64(len(f.Data)))
		if err != nil {
			r.fault(f.Name, 0, "", "roster.archive")
			continue
		}
		for _, e := range archive.File {
			if e.FileInfo().IsDir() || !strings.EqualFold(path.Ext(e.Name), ".csv") ||
				strings.Contains(e.Name, "__MACOSX") {
				continue
			}
			open, err := e.Open()
			if err != nil {
				r.fault(e.Name, 0, "", "roster.entry")
				continue
			}
			data, err := io.ReadAll(io.LimitReader(open, max(0, room)+1))
			open.Close()
			if err != nil {
				r.fault(e.Name, 0, "", "roster.damaged")
				continue
			}
			room -= int64(len(data))
			out = append(out, File{e.Name, data})
		}
	}
	if room < 0 {
		r.fault("", 0, "", "roster.large", "most", MaxSize>>20)
		return nil
	}
	return out
}

// table is a file of comma-separated values with a first line that names its columns.
type table struct {
	file    string
	columns map[string]int // by name in lower case
	names   []string
	rows    []row
}

type row struct {
	line   int
	fields []string
}

func (t *table) has(column string) bool {
	_, ok := t.columns[strings.ToLower(column)]
	return ok
}

// get is a field without the space around it; "" when there is no such column.
func (t *table) get(r row, column string) string {
	i, ok := t.columns[strings.ToLower(column)]
	if !ok || i >= len(r.fields) {
		return ""
	}
	return sheetcell.AsItWas(strings.TrimSpace(invisible.Replace(r.fields[i])))
}

// invisible are signs that take no room, which programs leave at the ends of what they copy.
var invisible = strings.NewReplacer("\u200b", "", "\u2060", "", "\ufeff", "", "\u00ad", "", "\u00a0", " ")

// joining are signs that take no room either, and that some names need, but no address.
var joining = strings.NewReplacer("\u200c", "", "\u200d", "", "\u200e", "", "\u200f", "")

// separator reads a first line that names what stands between the fields, as spreadsheets write it.
func separator(data []byte) (rest []byte, mark rune, ok bool) {
	line, rest, _ := bytes.Cut(data, []byte("\n"))
	text := strings.TrimRight(string(line), "\r")
	if len(text) != len("sep=;") || !strings.EqualFold(text[:4], "sep=") {
		return data, 0, false
	}
	return rest, rune(text[4]), true
}

// table reads a file (RFC 4180). Commas, semicolons and tabs are known by the first line.
func (r *Read) table(f File) *table {
	data := bytes.TrimPrefix(f.Data, []byte("\xef\xbb\xbf"))
	if line := broken(data); line > 0 {
		r.fault(f.Name, line, "", "roster.encoding")
		return nil
	}
	if !bytes.Contains(data, []byte("\n")) { // as old computers end their lines
		data = bytes.ReplaceAll(data, []byte("\r"), []byte("\n"))
	}
	data, mark, skipped := separator(data)
	head, _, _ := bytes.Cut(data, []byte("\n"))
	if len(bytes.TrimSpace(head)) == 0 {
		r.fault(f.Name, 1, "", "roster.no_head")
		return nil
	}
	c := csv.NewReader(bytes.NewReader(data))
	c.FieldsPerRecord = -1
	for _, comma := range ",;\t" {
		if strings.ContainsRune(string(head), comma) {
			c.Comma = comma
			break
		}
	}
	first := 0 // lines before those that are read
	if skipped {
		c.Comma, first = mark, 1
	}
	t := &table{file: f.Name, columns: map[string]int{}}
	for {
		fields, err := c.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		var bad *csv.ParseError
		if errors.As(err, &bad) {
			r.fault(f.Name, bad.Line+first, "", "roster.quotes")
			return t
		}
		if err != nil {
			r.fault(f.Name, 0, "", "roster.unreadable")
			return nil
		}
		line, _ := c.FieldPos(0)
		line += first
		if len(t.columns) == 0 {
			r.columns(t, line, withoutEmpty(fields, 1))
			continue
		}
		fields = withoutEmpty(fields, len(t.names))
		if len(strings.TrimSpace(strings.Join(fields, ""))) == 0 {
			continue
		}
		if r.lines++; r.lines > MaxLines {
			r.fault(f.Name, line, "", "roster.lines", "most", MaxLines)
			return nil
		}
		if len(fields) != len(t.names) {
			r.fault(f.Name, line, "", "roster.fields", "n", len(fields), "columns", len(t.names))
			continue
		}
		t.rows = append(t.rows, row{line, fields})
	}
	return t
}

// broken is the first line that is no text (UTF-8, without zeros), from 1; 0 when all of it is.
func broken(data []byte) int {
	bad := func(b []byte) bool { return !utf8.Valid(b) || bytes.IndexByte(b, 0) >= 0 }
	if !bad(data) {
		return 0
	}
	line := 1
	for l := range bytes.Lines(data) {
		if bad(l) {
			break
		}
		line++
	}
	return line
}

// withoutEmpty are fields without the empty ones at the end, as spreadsheets write them; so many are left in any case.
func withoutEmpty(fields []string, left int) []string {
	for len(fields) > left && strings.TrimSpace(invisible.Replace(fields[len(fields)-1])) == "" {
		fields = fields[:len(fields)-1]
	}
	return fields
}

// columns takes the names of the columns from the first line.
func (r *Read) columns(t *table, line int, fields []string) {
	for i, name := range fields {
		name = strings.TrimSpace(invisible.Replace(name))
		t.names = append(t.names, name)
		if _, twice := t.columns[strings.ToLower(name)]; twice {
			r.fault(t.file, line, name, "roster.column_twice")
		}
		t.columns[strings.ToLower(name)] = i
	}
}

// need reports whether all columns are there, and says which are not.
func (r *Read) need(t *table, columns ...string) bool {
	good := true
	for _, c := range columns {
		if !t.has(c) {
			r.fault(t.file, 1, c, "roster.column", "column", c, "names", strings.Join(t.names, ", "))
			good = false
		}
	}
	return good
}

var parts = map[string]viewing.Role{"lecturer": viewing.Lecturer, "assistant": viewing.Assistant,
	"student": viewing.Student}

// address reads a mail address and gives it in lower case.
func address(s string) (string, bool) {
	s = joining.Replace(s)
	a, err := mail.ParseAddress(s)
	if err != nil || a.Name != "" || !strings.EqualFold(a.Address, s) || len(s) > 254 {
		return "", false
	}
	return strings.ToLower(s), true
}

// sheet reads a plain sheet.
func (r *Read) sheet(t *table) {
	if !r.need(t, "email", "name", "course", "part") {
		return
	}
	for _, x := range t.rows {
		before := r.FaultsAll
		email, ok := address(t.get(x, "email"))
		if !ok {
			r.fault(t.file, x.line, "email", "roster.plain_email", "email", t.get(x, "email"))
		}
		name := strings.Join(strings.Fields(t.get(x, "name")), " ")
		if name == "" || len(name) > 200 {
			r.fault(t.file, x.line, "name", "roster.name")
		}
		course := strings.Join(strings.Fields(t.get(x, "course")), " ")
		if course == "" || len(course) > 60 {
			r.fault(t.file, x.line, "course", "course.code")
		}
		part, ok := parts[strings.ToLower(t.get(x, "part"))]
		if !ok {
			r.fault(t.file, x.line, "part", "roster.part", "part", t.get(x, "part"))
		}
		group := strings.Join(strings.Fields(t.get(x, "group")), " ")
		if len(group) > 100 {
			r.fault(t.file, x.line, "group", "group.long")
		}
		if r.FaultsAll > before {
			continue
		}
		if known, ok := r.Roster.People[email]; ok && known != name {
			r.fault(t.file, x.line, "name", "roster.called", "email", email, "name", known)
			continue
		}
		r.Roster.People[email] = name
		if _, ok := r.Roster.Courses[course]; !ok {
			r.Roster.Courses[course] = ""
		}
		r.seat(enrol.Seat{Course: course, Email: email, Role: part, Group: group}, Fault{File: t.file, Line: x.line})
	}
}

// seat takes a seat in. A second one of a person in a course is a fault unless it says the same.
func (r *Read) seat(s enrol.Seat, at Fault) {
	key := enrol.Key{Course: s.Course, Email: s.Email}
	old, twice := r.Roster.Seats[key]
	switch first := r.At[key]; {
	case twice && old == s:
		r.note(at.File, at.Line, "", "roster.again", "line", first.Line)
	case twice && old.Role != s.Role:
		r.fault(at.File, at.Line, "part", "roster.other_part", "email", s.Email, "part", old.Role, "course", s.Course,
			"line", first.Line)
	case twice:
		r.fault(at.File, at.Line, "group", "roster.other_group", "email", s.Email, "group", old.Group, "course",
			s.Course, "line", first.Line)
	default:
		r.Roster.Seats[key], r.At[key] = s, at
	}
}
