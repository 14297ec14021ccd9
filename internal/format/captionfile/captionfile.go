// Package captionfile reads and writes captions as WebVTT (W3C) and as SubRip (SRT), in the shapes
// in which other programs write them.
package captionfile

import (
	"bytes"
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
	"golang.org/x/text/transform"

	"latelantern/internal/core/caption"
)

// Form is the form of a file.
type Form string

const (
	WebVTT Form = "vtt"
	SubRip Form = "srt"
)

// The most that is read of one file.
const (
	MaxBytes = 16 << 20
	MaxCues  = 100_000
	maxSaid  = 50 // faults and notes that are listed
)

// Said is something about a line of a file.
type Said struct {
	Line int // from 1; 0 for the whole file
	Text string
}

// File is what was read of a file.
type File struct {
	caption.Sheet
	Form     Form
	Language string // BCP 47, where the file says it
	Faults   []Said // with any of them it cannot be taken; the first of them
	AllFault int    // how many there are in all
	Notes    []Said // what someone should know who takes it
}

// ErrNot says that a file is none of captions; the error that wraps it can be shown.
var ErrNot = errors.New("this is no file of captions")

func not(format string, args ...any) error {
	return fmt.Errorf("%w: %w", ErrNot, fmt.Errorf(format, args...))
}

// Read reads a file, whatever its name: its form and its encoding are found by looking at it. The
// cues are in order. Its error wraps ErrNot.
func Read(b []byte) (File, error) {
	var f File
	if len(b) > MaxBytes {
		return f, not("The file has %d MB; captions of a whole day have less than %d.", len(b)>>20, MaxBytes>>20)
	}
	text, note, err := decode(b)
	if err != nil {
		return f, err
	}
	if note != "" {
		f.Notes = append(f.Notes, Said{0, note})
	}
	text = strings.ReplaceAll(strings.NewReplacer("\r\n", "\n", "\r", "\n").Replace(text), "\x00", "\ufffd")
	lines := strings.Split(text, "\n")
	r := reader{lines: lines, file: &f}
	switch first := strings.TrimSpace(lines[0]); {
	case first == "WEBVTT" || strings.HasPrefix(first, "WEBVTT ") || strings.HasPrefix(first, "WEBVTT\t"):
		f.Form = WebVTT
		err = r.vtt()
	case slices.ContainsFunc(lines[:min(len(lines), 40)], func(l string) bool { return strings.Contains(l, "-->") }):
		f.Form = SubRip
		err = r.srt()
	default:
		return f, not("This is neither WebVTT nor SubRip: it begins with “%s”.", short(first))
	}
	if err != nil {
		return f, err
	}
	if len(f.Cues) == 0 && f.AllFault == 0 {
		return f, not("There is no line of captions in this file.")
	}
	f.order()
	return f, nil
}

// Within leaves out what does not fit a recording of a length, and notes it.
func (f *File) Within(length time.Duration) {
	all := len(f.Cues)
	f.Cues = slices.DeleteFunc(f.Cues, func(c caption.Cue) bool { return c.Start >= length })
	if over := all - len(f.Cues); over > 0 {
		f.Notes = append(f.Notes, Said{0, fmt.Sprintf("%d of its %d lines begin after the end of this recording at %s, and are left out. Is the file of another lecture?", over, all, clock(length))})
	}
	if len(f.Cues) == 0 && all > 0 && f.AllFault == 0 {
		f.AllFault++
		f.Faults = append(f.Faults, Said{0, "None of its lines lies within this recording."})
	}
}

// decode is a file as text: UTF-8, UTF-16 with its mark, or else the encoding of older programs
// of the west.
func decode(b []byte) (text, note string, err error) {
	switch {
	case bytes.HasPrefix(b, []byte{0xff, 0xfe}), bytes.HasPrefix(b, []byte{0xfe, 0xff}):
		out, _, err := transform.Bytes(unicode.UTF16(unicode.LittleEndian, unicode.ExpectBOM).NewDecoder(), b)
		if err != nil {
			return "", "", not("The file cannot be read as text.")
		}
		b = out
	case !utf8.Valid(b):
		if bytes.IndexByte(b, 0) >= 0 {
			return "", "", not("This is no text: it holds bytes that no text has.")
		}
		if b, err = charmap.Windows1252.NewDecoder().Bytes(b); err != nil {
			return "", "", not("The file cannot be read as text.")
		}
		note = "The file is not in UTF-8. It was read as Latin-1 (Windows-1252): look whether accents and quotation marks are right."
	}
	return strings.TrimPrefix(string(b), "\ufeff"), note, nil
}

// order sorts the cues, and notes those that were not in order, or that overlap.
func (f *File) order() {
	byStart := func(a, b caption.Cue) int { return cmp.Compare(a.Start, b.Start) }
	if !slices.IsSortedFunc(f.Cues, byStart) {
		slices.SortStableFunc(f.Cues, byStart)
		f.Notes = append(f.Notes, Said{0, "Its lines are not in order of time; they were put in order."})
	}
	over, first := 0, time.Duration(0)
	for i := 1; i < len(f.Cues); i++ {
		if f.Cues[i].Start < f.Cues[i-1].End {
			if over++; over == 1 {
				first = f.Cues[i].Start
			}
		}
	}
	if over > 0 {
		f.Notes = append(f.Notes, Said{0, fmt.Sprintf("%d of its lines begin before the line before has ended, the first at %s. They stand on the picture together.", over, clock(first))})
	}
}

// reader reads lines into a file.
type reader struct {
	lines []string
	file  *File
}

func (r *reader) fault(line int, format string, args ...any) {
	if r.file.AllFault++; len(r.file.Faults) < maxSaid {
		r.file.Faults = append(r.file.Faults, Said{line, fmt.Sprintf(format, args...)})
	}
}

// timing reads a line of times into a cue; ok is false when there is a fault in it.
func (r *reader) timing(line int, text string) (c caption.Cue, ok bool) {
	from, to, _ := strings.Cut(text, "-->")
	from, to = strings.TrimSpace(from), strings.TrimSpace(to)
	to, settings, _ := strings.Cut(strings.ReplaceAll(to, "\t", " "), " ")
	start, err := parseTime(from)
	end, err2 := parseTime(to)
	switch err := errors.Join(err, err2); {
	case errors.Is(err, errNegative):
		r.fault(line, "A line begins before the recording does: %s.", short(text))
	case err != nil:
		r.fault(line, "These are no times: %s.", short(text))
	case end < start:
		r.fault(line, "A line ends at %s, before it begins at %s.", clock(end), clock(start))
	case end == start:
		r.fault(line, "A line begins and ends at %s, so that nobody could read it.", clock(start))
	default:
		c.Start, c.End, c.As.Settings = start, end, strings.TrimSpace(settings)
		return c, true
	}
	return c, false
}

func (r *reader) add(c caption.Cue) error {
	if len(r.file.Cues) == MaxCues {
		return not("The file has more than %d lines of captions; a lecture of ten hours has about 10,000.", MaxCues)
	}
	r.file.Cues = append(r.file.Cues, c)
	return nil
}

// short is the beginning of a text.
func short(text string) string {
	if r := []rune(text); len(r) > 60 {
		return string(r[:60]) + "…"
	}
	return text
}
