// Package webvtt reads and writes captions as WebVTT (W3C).
package webvtt

import (
	"bufio"
	"fmt"
	"io"
	"strconv"
	"strings"
	"time"

	"latelantern/internal/core/span"
)

// Cue is a line of captions and when it is said.
type Cue struct {
	span.Span
	Text string
}

// Read reads the cues of a WebVTT file. Identifiers, settings, notes and styles are left
// out. It fails, naming the line, where the file is not WebVTT.
func Read(r io.Reader) ([]Cue, error) {
	in := bufio.NewScanner(r)
	var cues []Cue
	var open *Cue
	for n := 1; in.Scan(); n++ {
		text := strings.TrimRight(in.Text(), "\r")
		switch {
		case n == 1:
			if !strings.HasPrefix(strings.TrimPrefix(text, "\ufeff"), "WEBVTT") {
				return nil, fmt.Errorf("line 1: captions begin with WEBVTT")
			}
		case strings.TrimSpace(text) == "":
			open = nil
		case open == nil && strings.Contains(text, "-->"):
			from, to, _ := strings.Cut(text, "-->")
			start, err := parseTime(strings.TrimSpace(from))
			if err != nil {
				return nil, fmt.Errorf("line %d: %w", n, err)
			}
			fields := strings.Fields(to)
			if len(fields) == 0 {
				return nil, fmt.Errorf("line %d: a cue without an end", n)
			}
			end, err := parseTime(fields[0])
			if err != nil {
				return nil, fmt.Errorf("line %d: %w", n, err)
			}
			if end <= start {
				return nil, fmt.Errorf("line %d: a cue ends before it starts", n)
			}
			cues = append(cues, Cue{Span: span.Span{Start: start, End: end}})
			open = &cues[len(cues)-1]
		case open != nil:
			open.Text = strings.TrimSpace(open.Text + " " + plain(text))
		}
	}
	return cues, in.Err()
}

// plain is text without tags and with its entities resolved.
func plain(text string) string {
	var w strings.Builder
	depth := 0
	for _, r := range text {
		switch {
		case r == '<':
			depth++
		case r == '>' && depth > 0:
			depth--
		case depth == 0:
			w.WriteRune(r)
		}
	}
	return strings.NewReplacer("&lt;", "<", "&gt;", ">", "&nbsp;", " ", "&amp;", "&").Replace(w.String())
}

func parseTime(text string) (time.Duration, error) {
	parts := strings.Split(text, ":")
	if len(parts) < 2 || len(parts) > 3 {
		return 0, fmt.Errorf("%q is not a time", text)
	}
	whole, fraction, ok := strings.Cut(parts[len(parts)-1], ".")
	if !ok || len(fraction) != 3 {
		return 0, fmt.Errorf("%q is not a time", text)
	}
	numbers := append(parts[:len(parts)-1], whole, fraction)
	total := time.Duration(0)
	for i, unit := range []time.Duration{time.Hour, time.Minute, time.Second, time.Millisecond}[4-len(numbers):] {
		n, err := strconv.ParseUint(numbers[i], 10, 31)
		if err != nil {
			return 0, fmt.Errorf("%q is not a time", text)
		}
		total += time.Duration(n) * unit
	}
	return total, nil
}

// Write writes cues as a WebVTT file.
func Write(w io.Writer, cues []Cue) error {
	out := bufio.NewWriter(w)
	fmt.Fprint(out, "WEBVTT\n")
	for _, c := range cues {
		text := strings.NewReplacer("&", "&amp;", "<", "&lt;", ">", "&gt;", "\n", " ").Replace(c.Text)
		fmt.Fprintf(out, "\n%s --> %s\n%s\n", stamp(c.Start), stamp(c.End), text)
	}
	return out.Flush()
}

func stamp(t time.Duration) string {
	t = t.Round(time.Millisecond)
	return fmt.Sprintf("%02d:%02d:%02d.%03d", int(t.Hours()), int(t.Minutes())%60, int(t.Seconds())%60, t.Milliseconds()%1000)
}
