package chatfile

import (
	"bytes"
	"encoding/csv"
	"strings"
	"testing"
	"time"

	"latelantern/internal/core/chat"
	"latelantern/internal/format/captionfile"
)

func lines() []Line {
	at := func(s float64) *time.Duration { d := time.Duration(s * float64(time.Second)); return &d }
	said := time.Date(2026, 10, 14, 10, 15, 7, 0, time.FixedZone("", 7200))
	return []Line{
		{At: nil, Said: said, Name: "Ines Marr", Text: "Can you hear us?"},
		{At: at(3), Said: said, Name: "=Ole", State: chat.Answered, Text: "When is ebb, \"today\"?\n\nAnd tomorrow --> ?",
			Answer: "At six.", AnsweredBy: "Dr Vael"},
		{At: at(3725), Said: said, Name: "Dr Vael", Teaches: true, Text: "<b>See</b> & read the table"},
		{At: at(3727), Said: said, Name: "Ines Marr", Text: "Thank you"},
	}
}

func written(t *testing.T, f Form) string {
	t.Helper()
	var b bytes.Buffer
	if err := Write(&b, f, lines()); err != nil {
		t.Fatal(err)
	}
	return b.String()
}

func TestAsText(t *testing.T) {
	want := "10:15:07 Ines Marr: Can you hear us?\n0:00:03 =Ole: When is ebb, \"today\"?\n    \n    And tomorrow --> ?\n" +
		"    Dr Vael: At six.\n1:02:05 Dr Vael: <b>See</b> & read the table\n1:02:07 Ines Marr: Thank you\n"
	if got := written(t, Text); got != want {
		t.Errorf("%q", got)
	}
}

// TestAsASheet: read by any reader of CSV it is what was said, and no cell is a formula.
func TestAsASheet(t *testing.T) {
	rows, err := csv.NewReader(strings.NewReader(written(t, Sheet))).ReadAll()
	if err != nil || len(rows) != 5 {
		t.Fatalf("%v %v", rows, err)
	}
	for _, row := range rows {
		for _, cell := range row {
			if strings.IndexAny(cell, "=+-@") == 0 {
				t.Errorf("%q is a formula", cell)
			}
		}
	}
	q := rows[2]
	if q[0] != "0:00:03" || q[1] != "2026-10-14T10:15:07+02:00" || q[3] != "follows" || q[4] != "answered" ||
		!strings.HasPrefix(q[5], "When is ebb, \"today\"?\n\nAnd") || q[6] != "At six." || q[7] != "Dr Vael" {
		t.Errorf("%q", q)
	}
	if rows[1][0] != "" || rows[3][3] != "teaches" {
		t.Errorf("%q %q", rows[1], rows[3])
	}
}

// TestAsWebVTT: read back, each line stands from its moment until the next, said by whoever said it.
func TestAsWebVTT(t *testing.T) {
	f, err := captionfile.Read([]byte(written(t, WebVTT)))
	if err != nil || f.AllFault != 0 || len(f.Cues) != 3 {
		t.Fatalf("%+v %v", f, err)
	}
	for i, want := range []struct {
		start, end time.Duration
		who, text  string
	}{
		{3 * time.Second, 11 * time.Second, "=Ole", "When is ebb, \"today\"?\nAnd tomorrow --> ?"},
		{3725 * time.Second, 3727 * time.Second, "Dr Vael", "<b>See</b> & read the table"},
		{3727 * time.Second, 3735 * time.Second, "Ines Marr", "Thank you"},
	} {
		c := f.Cues[i]
		if c.Start != want.start || c.End != want.end || c.Speaker != want.who || c.Text != want.text {
			t.Errorf("%d: %v to %v %q: %q", i, c.Start, c.End, c.Speaker, c.Text)
		}
	}
}

func TestFormsHaveTheirKinds(t *testing.T) {
	if !strings.HasPrefix(Text.Kind(), "text/plain") || !strings.HasPrefix(WebVTT.Kind(), "text/vtt") ||
		Form("html").Kind() != "" {
		t.Error("the media types are wrong")
	}
}
