// Package chatfile writes what was said in a chat: as plain text, as a sheet (CSV, RFC 4180), and as WebVTT, in which
// each line stands until the next.
package chatfile

import (
	"encoding/csv"
	"fmt"
	"io"
	"strings"
	"time"

	"latelantern/internal/core/caption"
	"latelantern/internal/core/chat"
	"latelantern/internal/core/span"
	"latelantern/internal/format/captionfile"
	"latelantern/internal/format/sheetcell"
)

// Form is one of the forms in which it is written.
type Form string

const (
	Text   Form = "txt"
	Sheet  Form = "csv"
	WebVTT Form = "vtt"
)

// Kind is the media type of a form; "" for none.
func (f Form) Kind() string {
	return map[Form]string{Text: "text/plain; charset=utf-8", Sheet: "text/csv; charset=utf-8",
		WebVTT: "text/vtt; charset=utf-8"}[f]
}

// Line is what somebody said.
type Line struct {
	At         *time.Duration // in the recording; nil for a moment at which none was made
	Said       time.Time      // in the zone of the college
	Name       string
	Teaches    bool
	State      chat.State
	Text       string
	Answer     string
	AnsweredBy string
}

// Write writes lines in a form. WebVTT has those that have a moment, which are in order.
func Write(w io.Writer, f Form, lines []Line) error {
	var err error
	switch f {
	case WebVTT:
		err = captionfile.WriteWebVTT(w, caption.Sheet{Cues: cues(lines)})
	case Sheet:
		err = sheet(w, lines)
	default:
		err = text(w, lines)
	}
	if err != nil {
		return fmt.Errorf("write a chat: %w", err)
	}
	return nil
}

// stands is how long a line stands after which nothing is said.
const stands = 8 * time.Second

func cues(lines []Line) []caption.Cue {
	var out []caption.Cue
	for _, l := range lines {
		if l.At == nil {
			continue
		}
		if n := len(out); n > 0 {
			out[n-1].End = max(out[n-1].Start+time.Millisecond, min(out[n-1].End, *l.At))
		}
		out = append(out, caption.Cue{Span: span.Span{Start: *l.At, End: *l.At + stands}, Text: oneCue(l.Text),
			Speaker: l.Name})
	}
	return out
}

// oneCue is a text without empty lines, which would end its cue.
func oneCue(text string) string {
	return strings.ReplaceAll(text, "\n\n", "\n")
}

func sheet(w io.Writer, lines []Line) error {
	c := csv.NewWriter(w)
	c.UseCRLF = true
	rows := [][]string{{"moment", "said_at", "name", "part", "question", "text", "answer", "answered_by"}}
	for _, l := range lines {
		part := "follows"
		if l.Teaches {
			part = "teaches"
		}
		rows = append(rows, []string{moment(l.At), l.Said.Format(time.RFC3339), sheetcell.Harmless(l.Name), part,
			string(l.State), sheetcell.Harmless(l.Text), sheetcell.Harmless(l.Answer),
			sheetcell.Harmless(l.AnsweredBy)})
	}
	return c.WriteAll(rows)
}

// moment is a place in a recording as 1:02:03; "" for none.
func moment(at *time.Duration) string {
	if at == nil {
		return ""
	}
	s := int(*at / time.Second)
	return fmt.Sprintf("%d:%02d:%02d", s/3600, s/60%60, s%60)
}

// text writes a line each; where a text has several, the others are set in, and so is an answer.
func text(w io.Writer, lines []Line) error {
	for _, l := range lines {
		at := moment(l.At)
		if at == "" {
			at = l.Said.Format("15:04:05")
		}
		if _, err := fmt.Fprintf(w, "%s %s: %s\n", at, l.Name, setIn(l.Text)); err != nil {
			return err
		}
		if l.Answer == "" {
			continue
		}
		if _, err := fmt.Fprintf(w, "    %s: %s\n", l.AnsweredBy, setIn(l.Answer)); err != nil {
			return err
		}
	}
	return nil
}

func setIn(text string) string { return strings.ReplaceAll(text, "\n", "\n    ") }
