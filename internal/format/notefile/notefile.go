// Package notefile writes what somebody noted of a recording: as plain text, or as Markdown (CommonMark 0.31), in which
// each moment leads to where it plays.
package notefile

import (
	"fmt"
	"io"
	"strings"
	"time"
)

// Form is one of the forms in which it is written.
type Form string

const (
	Text     Form = "txt"
	Markdown Form = "md"
)

// Kind is the media type of a form (of Markdown RFC 7763); "" for none.
func (f Form) Kind() string {
	return map[Form]string{Text: "text/plain; charset=utf-8", Markdown: "text/markdown; charset=utf-8"}[f]
}

// Note is what was noted at a moment.
type Note struct {
	At   time.Duration
	Text string
}

// Sheet is what was noted of a recording, in order.
type Sheet struct {
	Title string
	Of    string // its course and day
	Notes []Note
	Link  func(at time.Duration) string // the address at which a moment plays
}

// Write writes a sheet in a form.
func Write(w io.Writer, f Form, s Sheet) error {
	var b strings.Builder
	if f == Markdown {
		fmt.Fprintf(&b, "# %s\n\n%s\n", marked.Replace(s.Title), marked.Replace(s.Of))
	} else {
		fmt.Fprintf(&b, "%s\n%s\n", s.Title, s.Of)
	}
	for _, n := range s.Notes {
		if f == Markdown {
			// What follows a moment on lines of its own belongs to it while it is set in.
			fmt.Fprintf(&b, "\n- [%s](%s) %s\n", moment(n.At), s.Link(n.At), setIn(n.Text, "  "))
		} else {
			fmt.Fprintf(&b, "\n%s  %s\n", moment(n.At), setIn(n.Text, "         "))
		}
	}
	if _, err := io.WriteString(w, b.String()); err != nil {
		return fmt.Errorf("write notes: %w", err)
	}
	return nil
}

// marked keeps the signs of a title from meaning something in Markdown.
var marked = strings.NewReplacer(`\`, `\\`, "`", "\\`", "*", `\*`, "_", `\_`, "[", `\[`, "]", `\]`, "<", `\<`, "#", `\#`,
	"&", `\&`)

// moment is a place in a recording as 1:02:03.
func moment(at time.Duration) string {
	s := int(at / time.Second)
	return fmt.Sprintf("%d:%02d:%02d", s/3600, s/60%60, s%60)
}

// setIn sets all lines but the first in.
func setIn(text, by string) string {
	lines := strings.Split(text, "\n")
	for i := range lines[1:] {
		if lines[i+1] != "" {
			lines[i+1] = by + lines[i+1]
		}
	}
	return strings.Join(lines, "\n")
}
