package notefile_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"latelantern/internal/format/notefile"
)

// TestNotesAreWritten: each with its moment, lines that belong together set in, and signs of a title as they stand.
func TestNotesAreWritten(t *testing.T) {
	s := notefile.Sheet{Title: "Ebb & [flood] *", Of: "TID 210, 4 Nov 2026", Notes: []notefile.Note{
		{At: 62 * time.Second, Text: "Twice a day.\n\nWhy?"}, {At: 3723 * time.Second, Text: "**Learn this**"}},
		Link: func(at time.Duration) string {
			return fmt.Sprintf("https://x.example/watch/1?at=%d", at.Milliseconds())
		}}
	for form, want := range map[notefile.Form]string{
		notefile.Text: "Ebb & [flood] *\nTID 210, 4 Nov 2026\n\n0:01:02  Twice a day.\n\n         Why?\n" +
			"\n1:02:03  **Learn this**\n",
		notefile.Markdown: "# Ebb \\& \\[flood\\] \\*\n\nTID 210, 4 Nov 2026\n" +
			"\n- [0:01:02](https://x.example/watch/1?at=62000) Twice a day.\n\n  Why?\n" +
			"\n- [1:02:03](https://x.example/watch/1?at=3723000) **Learn this**\n",
	} {
		var b strings.Builder
		if err := notefile.Write(&b, form, s); err != nil || b.String() != want {
			t.Errorf("%s: %v\n%s\nwant\n%s", form, err, b.String(), want)
		}
		if form.Kind() == "" {
			t.Errorf("%s has no media type", form)
		}
	}
	if notefile.Form("docx").Kind() != "" {
		t.Error("there is a form that is none")
	}
}
