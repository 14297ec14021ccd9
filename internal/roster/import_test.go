package roster_test

import (
	"bytes"
	"errors"
	"fmt"
	"strings"
	"testing"

	"github.com/google/uuid"

	"latelantern/internal/core/viewing"
	"latelantern/internal/format/rosterfile"
	"latelantern/internal/roster"
	"latelantern/internal/testhouse"
)

func sheet(lines ...string) []rosterfile.File {
	return []rosterfile.File{{Name: "roster.csv",
		Data: []byte("email,name,course,part,group\n" + strings.Join(lines, "\n") + "\n")}}
}

func termOf(s *testhouse.Stage) uuid.UUID {
	s.T.Helper()
	term, err := s.Schedule.CurrentTerm(s.T.Context())
	s.Must(err)
	return term.ID
}

func person(s *testhouse.Stage, id uuid.UUID) roster.Person {
	s.T.Helper()
	p, err := s.Roster.Person(s.T.Context(), id)
	s.Must(err)
	return p
}

// TestAnImportIsLookedAtAndThenApplied, and does just what the look said.
func TestAnImportIsLookedAtAndThenApplied(t *testing.T) {
	s := testhouse.New(t, true)
	term, by := termOf(s), person(s, s.Coordinator)
	files := sheet("student@college.example,Student,COU 1,student,B", "second@college.example,second,cou 1,student,A",
		"New.One@college.example,New One,COU 1,student,C", "new.one@college.example,New One,NEW 9,lecturer,")
	look, err := s.Roster.PreviewImport(t.Context(), term, by, files)
	s.Must(err)
	if len(look.Faults) > 0 || len(look.AddPeople) != 1 || len(look.Rename) != 1 || len(look.AddCourses) != 1 ||
		len(look.AddSeats) != 2 || len(look.ChangeSeats) != 1 || len(look.RemoveSeats) != 1 || look.Unchanged != 1 {
		t.Fatalf("a look says %+v", look)
	}
	if look.RemoveSeats[0].Email != "third@college.example" {
		t.Errorf("taken off would be %+v", look.RemoveSeats)
	}
	if _, err := s.Roster.ApplyImport(t.Context(), term, by, files, "something else"); !errors.Is(err,
		roster.ErrStale) {
		t.Errorf("with another digest: %v", err)
	}
	if m, err := s.Roster.Members(t.Context(), s.Course); err != nil || len(m) != 4 {
		t.Errorf("refused, and yet there are %d (%v)", len(m), err)
	}
	_, err = s.Roster.ApplyImport(t.Context(), term, by, files, look.Digest)
	s.Must(err)
	list, err := s.Roster.Members(t.Context(), s.Course)
	s.Must(err)
	var said []string
	for _, m := range list {
		said = append(said, fmt.Sprint(m.Email, " ", m.Role, " ", m.Group, " ", m.Active))
	}
	want := "lecturer@college.example lecturer  true|new.one@college.example student C false|student@college.example student B true|second@college.example student A true"
	if got := strings.Join(said, "|"); got != want {
		t.Errorf("the roster is\n%s, want\n%s", got, want)
	}
	if v, err := s.Roster.Viewer(t.Context(), s.Third, s.Course); err != nil || v != (viewing.Viewer{}) {
		t.Errorf("who was taken off is still %+v (%v)", v, err)
	}
	if again, err := s.Roster.PreviewImport(t.Context(), term, by, files); err != nil || !again.Empty() {
		t.Errorf("applied once more it would change %+v (%v)", again.Changes, err)
	}
}

// TestALookGoesStale when the roster changes in between.
func TestALookGoesStale(t *testing.T) {
	s := testhouse.New(t, true)
	term, by := termOf(s), person(s, s.Coordinator)
	files := sheet("student@college.example,student,COU 1,student,A")
	look, err := s.Roster.PreviewImport(t.Context(), term, by, files)
	s.Must(err)
	_, err = s.Roster.Enrol(t.Context(), roster.Person{Coordinator: true}, s.Course,
		roster.PersonForm{Email: "late@college.example", Name: "Late"}, viewing.Student, "")
	s.Must(err)
	if _, err := s.Roster.ApplyImport(t.Context(), term, by, files, look.Digest); !errors.Is(err, roster.ErrStale) {
		t.Errorf("applied: %v", err)
	}
}

// TestOneBadLineAppliesNothing, and is named by number and column.
func TestOneBadLineAppliesNothing(t *testing.T) {
	s := testhouse.New(t, true)
	files := sheet("new@college.example,New,COU 1,student,A", "nobody,No Address,COU 1,student,A",
		"other@college.example,Other,COU 1,dean,")
	look, err := s.Roster.PreviewImport(t.Context(), termOf(s), person(s, s.Coordinator), files)
	s.Must(err)
	if len(look.Faults) != 2 || look.Faults[0].Line != 3 || look.Faults[0].Column != "email" ||
		look.Faults[1].Line != 4 || look.Faults[1].Column != "part" {
		t.Errorf("%+v", look.Faults)
	}
	if _, err := s.Roster.ApplyImport(t.Context(), termOf(s), person(s, s.Coordinator), files,
		look.Digest); !errors.Is(err, roster.ErrFaulty) {
		t.Errorf("applied: %v", err)
	}
	if m, err := s.Roster.Members(t.Context(), s.Course); err != nil || len(m) != 4 {
		t.Errorf("%d members (%v)", len(m), err)
	}
}

// TestWhoTeachesImportsIntoTheirCoursesAlone, and renames nobody.
func TestWhoTeachesImportsIntoTheirCoursesAlone(t *testing.T) {
	s := testhouse.New(t, true)
	term, by := termOf(s), person(s, s.Lecturer)
	look, err := s.Roster.PreviewImport(t.Context(), term, by,
		sheet("student@college.example,Another Name,COU 1,student,A",
			"outsider@college.example,outsider,OTH 2,student,", "lecturer@college.example,lecturer,NEW 1,lecturer,"))
	s.Must(err)
	if len(look.Faults) != 2 || len(look.Rename) != 0 {
		t.Errorf("%+v, %+v", look.Faults, look.Rename)
	}
	look, err = s.Roster.PreviewImport(t.Context(), term, by,
		sheet("student@college.example,Another Name,COU 1,student,B"))
	s.Must(err)
	if len(look.Faults) != 0 || len(look.ChangeSeats) != 1 {
		t.Errorf("their own course: %+v", look)
	}
}

// TestWhatIsWrittenIsReadBack in both forms as no change at all.
func TestWhatIsWrittenIsReadBack(t *testing.T) {
	s := testhouse.New(t, true)
	entries, err := s.Roster.Entries(t.Context(), termOf(s), nil)
	s.Must(err)
	if len(entries) != 6 {
		t.Fatalf("%d entries", len(entries))
	}
	var plain, zipped bytes.Buffer
	s.Must(rosterfile.Sheet(&plain, entries),
		rosterfile.OneRoster(&zipped, rosterfile.Term{ID: "t", Name: "Term", First: "2026-09-21", Last: "2026-12-18"},
			entries))
	for name, data := range map[string][]byte{"roster.csv": plain.Bytes(), "roster.zip": zipped.Bytes()} {
		look, err := s.Roster.PreviewImport(t.Context(), termOf(s), person(s, s.Coordinator),
			[]rosterfile.File{{Name: name, Data: data}})
		s.Must(err)
		if len(look.Faults) > 0 || !look.Empty() || look.Unchanged != 6 {
			t.Errorf("%s: %+v", name, look)
		}
	}
}
