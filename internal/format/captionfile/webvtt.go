package captionfile

import (
	"bufio"
	"fmt"
	"io"
	"regexp"
	"strings"

	"latelantern/internal/core/caption"
)

// vtt reads WebVTT: blocks apart by empty lines, of which those with times are cues (WebVTT, section 6.1).
func (r *reader) vtt() error {
	f := r.file
	lines := r.lines
	head := []string{strings.TrimPrefix(lines[0], "WEBVTT")}
	at := 1
	for ; at < len(lines) && lines[at] != "" && !strings.Contains(lines[at], "-->"); at++ {
		head = append(head, lines[at])
		if name, value, ok := strings.Cut(lines[at], ":"); ok &&
			strings.EqualFold(strings.TrimSpace(name), "language") {
			f.Language = strings.TrimSpace(value)
		}
	}
	f.Head = strings.TrimSpace(strings.Join(head, "\n"))
	var before []string
	for at < len(lines) {
		if strings.TrimSpace(lines[at]) == "" {
			at++
			continue
		}
		from := at
		var timed = -1
		for ; at < len(lines) && lines[at] != ""; at++ {
			if strings.Contains(lines[at], "-->") {
				if timed >= 0 || at > from+1 {
					break // the next cue begins without an empty line before it
				}
				timed = at
			}
		}
		if timed < 0 {
			block := lines[from:at]
			if head := block[0]; strings.HasPrefix(head, "NOTE") || strings.HasPrefix(head, "STYLE") ||
				strings.HasPrefix(head, "REGION") {
				before = append(before, strings.Join(block, "\n"))
				continue
			}
			if at < len(lines) && strings.Contains(lines[at], "-->") {
				continue
			}
			r.fault(from+1, "captions.no_times", "words", short(block[0]))
			continue
		}
		c, ok := r.timing(timed+1, lines[timed])
		if !ok {
			continue
		}
		if timed > from {
			c.As.Name = strings.TrimSpace(lines[from])
		}
		c.As.Before = strings.Join(before, "\n\n")
		before = nil
		read(&c, strings.Join(lines[timed+1:at], "\n"))
		if err := r.add(c); err != nil {
			return err
		}
	}
	f.Tail = strings.Join(before, "\n\n")
	return nil
}

// settings are those that WebVTT knows.
var settings = regexp.MustCompile(`^(vertical|line|position|size|align|region):\S+$`)

// WriteWebVTT writes captions as WebVTT, with what a file that they came from said besides.
func WriteWebVTT(w io.Writer, s caption.Sheet) error {
	out := bufio.NewWriter(w)
	head := strings.TrimRight(s.Head, "\n")
	switch {
	case head == "" || strings.HasPrefix(head, "\n"):
		fmt.Fprintf(out, "WEBVTT%s\n", head)
	case strings.Contains(strings.SplitN(head, "\n", 2)[0], ":"): // it stood below
		fmt.Fprintf(out, "WEBVTT\n%s\n", head)
	default:
		fmt.Fprintf(out, "WEBVTT %s\n", head)
	}
	for _, c := range s.Cues {
		if c.As.Before != "" {
			fmt.Fprintf(out, "\n%s\n", c.As.Before)
		}
		fmt.Fprintln(out)
		if c.As.Name != "" && !strings.Contains(c.As.Name, "-->") {
			fmt.Fprintln(out, c.As.Name)
		}
		fmt.Fprintf(out, "%s --> %s", stamp(c.Start, '.'), stamp(c.End, '.'))
		for x := range strings.FieldsSeq(c.As.Settings) {
			if settings.MatchString(x) {
				fmt.Fprintf(out, " %s", x)
			}
		}
		fmt.Fprintf(out, "\n%s\n", marked(c))
	}
	if s.Tail != "" {
		fmt.Fprintf(out, "\n%s\n", s.Tail)
	}
	return out.Flush()
}
