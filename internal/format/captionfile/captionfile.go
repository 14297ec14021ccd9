// Package captionfile reads and writes captions as WebVTT (W3C) and as SubRip (SRT), in the shapes
// in which other programs write them.
package captionfile

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"latelantern/internal/core/caption"
	"latelantern/internal/core/fault"
	"latelantern/internal/format/encoded"
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
	Text fault.Text
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
var ErrNot = fault.Code("captions.no_file")

func not(code fault.Code, with ...any) error {
	return fmt.Errorf("%w: %w", ErrNot, fault.Say(code, with...))
}

// Read reads a file, whatever its name: its form and its encoding are found by looking at it. The
// cues are in order. Its error wraps ErrNot.
func Read(b []byte) (File, error) {
	var f File
	if len(b) > MaxBytes {
		return f, not("captions.large", "mb", len(b)>>20, "most", MaxBytes>>20)
	}
	text, note, err := decode(b)
	if err != nil {
		return f, err
	}
	if !note.None() {
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
		return f, not("captions.form", "begins", short(first))
	}
	if err != nil {
		return f, err
	}
	if len(f.Cues) == 0 && f.AllFault == 0 {
		return f, not("captions.empty")
	}
	f.order()
	return f, nil
}

// Within leaves out what does not fit a recording of a length, and notes it.
func (f *File) Within(length time.Duration) {
	all := len(f.Cues)
	f.Cues = slices.DeleteFunc(f.Cues, func(c caption.Cue) bool { return c.Start >= length })
	if over := all - len(f.Cues); over > 0 {
		f.Notes = append(f.Notes,
			Said{0, fault.Say("captions.after_end", "n", over, "of", all, "at", fault.Clock(length))})
	}
	if len(f.Cues) == 0 && all > 0 && f.AllFault == 0 {
		f.AllFault++
		f.Faults = append(f.Faults, Said{0, fault.Say("captions.outside")})
	}
}

// decode is a file as text, with a note when its encoding was guessed.
func decode(b []byte) (text string, note fault.Text, err error) {
	text, western, err := encoded.Text(b)
	switch {
	case errors.Is(err, encoded.ErrBytes):
		return "", note, not("captions.bytes")
	case err != nil:
		return "", note, not("captions.encoding")
	case western:
		note = fault.Say("captions.latin")
	}
	return text, note, nil
}

// order sorts the cues, and notes those that were not in order, or that overlap.
func (f *File) order() {
	byStart := func(a, b caption.Cue) int { return cmp.Compare(a.Start, b.Start) }
	if !slices.IsSortedFunc(f.Cues, byStart) {
		slices.SortStableFunc(f.Cues, byStart)
		f.Notes = append(f.Notes, Said{0, fault.Say("captions.order")})
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
		f.Notes = append(f.Notes, Said{0, fault.Say("captions.over", "n", over, "at", fault.Clock(first))})
	}
}

// reader reads lines into a file.
type reader struct {
	lines []string
	file  *File
}

func (r *reader) fault(line int, code fault.Code, with ...any) {
	if r.file.AllFault++; len(r.file.Faults) < maxSaid {
		r.file.Faults = append(r.file.Faults, Said{line, fault.Say(code, with...)})
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
		r.fault(line, "captions.early", "line", short(text))
	case err != nil:
		r.fault(line, "captions.times", "line", short(text))
	case end < start:
		r.fault(line, "captions.turned", "end", fault.Clock(end), "start", fault.Clock(start))
	case end == start:
		r.fault(line, "captions.nothing", "at", fault.Clock(start))
	default:
		c.Start, c.End, c.As.Settings = start, end, strings.TrimSpace(settings)
		return c, true
	}
	return c, false
}

func (r *reader) add(c caption.Cue) error {
	if len(r.file.Cues) == MaxCues {
		return not("captions.many", "most", MaxCues)
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
