package rosterfile

import (
	"archive/zip"
	"bytes"
	"fmt"
	"runtime"
	"strings"
	"testing"
	"testing/quick"

	"latelantern/internal/core/viewing"
	"latelantern/internal/format/sheetcell"
)

// zipped is an archive of one file that holds a line again and again.
func zipped(t *testing.T, head, line string, times int) []File {
	t.Helper()
	var b bytes.Buffer
	w := zip.NewWriter(&b)
	f, err := w.Create("people.csv")
	if err != nil {
		t.Fatal(err)
	}
	fmt.Fprint(f, head)
	chunk := strings.Repeat(line, 1000)
	for range times / 1000 {
		fmt.Fprint(f, chunk)
	}
	if err := w.Close(); err != nil {
		t.Fatal(err)
	}
	return []File{{"people.zip", b.Bytes()}}
}

// TestFaultsAreCounted and the first of them told, however many lines are wrong; and what a small archive holds takes
// no more room than there is.
func TestFaultsAreCounted(t *testing.T) {
	r := Files(zipped(t, "email,name,course,part\n", "x,,,y\n", 200_000), today)
	if len(r.Faults) != MostTold || r.FaultsAll != 800_000 {
		t.Errorf("%d faults are told of %d", len(r.Faults), r.FaultsAll)
	}
	r = Files(zipped(t, "email,name,course,part\n", "ann@x.example,Ann,A,student\n", 5000), today)
	if len(r.Notes) != MostTold || r.NotesAll != 4999 || r.FaultsAll > 0 {
		t.Errorf("%d notes are told of %d; faults %s", len(r.Notes), r.NotesAll, said(r.Faults))
	}
	var before, after runtime.MemStats
	runtime.ReadMemStats(&before)
	r = Files(zipped(t, "email,name,course,part\n", "x,,,y\n", 4_000_000), today)
	runtime.ReadMemStats(&after)
	if r.FaultsAll != 1 || !strings.Contains(said(r.Faults), "more than 500000 lines") || len(r.Roster.Seats) > 0 {
		t.Errorf("many lines: %d faults, %s", r.FaultsAll, said(r.Faults))
	}
	if used := after.TotalAlloc - before.TotalAlloc; used > 400<<20 {
		t.Errorf("reading them took %d MB", used>>20)
	}
	if r = Files(zipped(t, "email,name,course,part\n", strings.Repeat("x", 1000)+"\n", 40_000),
		today); !strings.Contains(said(r.Faults), "larger than 24 MB") {
		t.Errorf("many bytes: %s", said(r.Faults))
	}
}

// TestSpreadsheetsTakeItForText: no cell that is written begins as a formula does, and what is read back is what it
// was.
func TestSpreadsheetsTakeItForText(t *testing.T) {
	for _, name := range []string{"=1+1", "+44", "-2", "@home", "'=1", "''=1", "'t Hooft", "'", "''", "O'=x", "=",
		"\t=x"} {
		if back := sheetcell.AsItWas(sheetcell.Harmless(name)); back != name {
			t.Errorf("%q comes back as %q", name, back)
		}
		if got := sheetcell.Harmless(name); strings.ContainsRune("=+-@\t\r", rune(got[0])) {
			t.Errorf("%q is written as %q", name, got)
		}
	}
	if sheetcell.Harmless("'t Hooft") != "'t Hooft" {
		t.Error("a name is changed that no spreadsheet computes")
	}
	back := func(s string) bool { return sheetcell.AsItWas(sheetcell.Harmless(s)) == s }
	if err := quick.Check(back, nil); err != nil {
		t.Error(err)
	}
	var b bytes.Buffer
	entry := Entry{Email: "=cmd@x.example", Name: "=HYPERLINK(\"x\")", Course: "+A", Role: viewing.Student, Group: "-1"}
	if err := Sheet(&b, []Entry{entry}); err != nil {
		t.Fatal(err)
	}
	for line := range strings.Lines(b.String()) {
		for _, cell := range strings.Split(strings.ReplaceAll(line, "\"", ""), ",") {
			if strings.ContainsRune("=+-@\t", rune(cell[0])) {
				t.Errorf("a cell is %q", cell)
			}
		}
	}
	r := Files([]File{{"a.csv", b.Bytes()}}, today)
	if got := seats(r); got != "+A =cmd@x.example student -1==HYPERLINK(\"x\")" {
		t.Errorf("read back: %s, %s", got, said(r.Faults))
	}
}
