package captionfile

import (
	"bufio"
	"fmt"
	"io"
	"regexp"
	"strings"

	"latelantern/internal/core/caption"
)

var digits = regexp.MustCompile(`^\d{1,9}$`)

// srt reads SubRip: a number, a line of times, then the text up to the number of the next. The
// numbers may be wrong or missing, and empty lines may stand within the text.
func (r *reader) srt() error {
	var at []int // lines of times
	for i, l := range r.lines {
		if strings.Contains(l, "-->") {
			at = append(at, i)
		}
	}
	begins := func(n int) int { // the line with which the cue at that line of times begins
		if n > 0 && digits.MatchString(strings.TrimSpace(r.lines[n-1])) {
			return n - 1
		}
		return n
	}
	for i, n := range at {
		until := len(r.lines)
		if i+1 < len(at) {
			until = max(n+1, begins(at[i+1]))
		}
		if i == 0 {
			for k, l := range r.lines[:begins(n)] {
				if strings.TrimSpace(l) != "" {
					r.fault(k+1, "captions.no_times", "words", short(l))
					break
				}
			}
		}
		c, ok := r.timing(n+1, r.lines[n])
		if !ok {
			continue
		}
		readSubRip(&c, strings.Join(r.lines[n+1:until], "\n"))
		if err := r.add(c); err != nil {
			return err
		}
	}
	return nil
}

// place is where on the picture a line stands, as some programs write it.
var place = regexp.MustCompile(`^[XY][12]:\d+$`)

// WriteSubRip writes captions as SubRip. What that form cannot say is left out: notes, styles,
// settings and all marks but bold, italics, underlining and colour.
func WriteSubRip(w io.Writer, s caption.Sheet) error {
	out := bufio.NewWriter(w)
	for i, c := range s.Cues {
		if i > 0 {
			fmt.Fprintln(out)
		}
		fmt.Fprintf(out, "%d\n%s --> %s", i+1, stamp(c.Start, ','), stamp(c.End, ','))
		for x := range strings.FieldsSeq(c.As.Settings) {
			if place.MatchString(x) {
				fmt.Fprintf(out, " %s", x)
			}
		}
		fmt.Fprintf(out, "\n%s\n", markedSubRip(c))
	}
	return out.Flush()
}
