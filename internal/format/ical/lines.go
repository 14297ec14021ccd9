// Package ical reads and writes timetables as iCalendar (RFC 5545).
//
// Content lines are read here and not by a library, because whoever has to mend a file
// wants to know the line.
package ical

import (
	"bufio"
	"bytes"
	"fmt"
	"io"
	"strings"
	"unicode/utf8"

	"latelantern/internal/core/fault"
)

// MaxSize is the most bytes that a file can have.
const MaxSize = 32 << 20

// Fault is something in a file that could not be taken.
type Fault struct {
	Line int // in the file, from 1; 0 for the file as a whole
	Text fault.Text
}

// line is one content line, unfolded (RFC 5545, 3.1).
type line struct {
	n      int // where it begins in the file
	name   string
	params map[string]string
	value  string
}

// readLines unfolds and splits a file. Lines that are no content lines become faults.
func readLines(r io.Reader) ([]line, []Fault, error) {
	b, err := io.ReadAll(io.LimitReader(r, MaxSize+1))
	if err != nil {
		return nil, nil, fmt.Errorf("read a calendar: %w", err)
	}
	if len(b) > MaxSize {
		return nil, []Fault{{0, fault.Say("calendar.large", "most", MaxSize>>20)}}, nil
	}
	var out []line
	var faults []Fault
	var text []byte
	at, n := 0, 0
	flush := func() {
		if len(bytes.TrimSpace(text)) == 0 {
			return
		}
		if !utf8.Valid(text) {
			faults = append(faults, Fault{at, fault.Say("calendar.encoding")})
			return
		}
		l, ok := split(string(text))
		if !ok {
			faults = append(faults, Fault{at, fault.Say("calendar.line")})
			return
		}
		l.n = at
		out = append(out, l)
	}
	scan := bufio.NewScanner(bytes.NewReader(bytes.TrimPrefix(b, []byte("\xef\xbb\xbf"))))
	scan.Buffer(nil, MaxSize)
	for scan.Scan() {
		n++
		raw := bytes.TrimSuffix(scan.Bytes(), []byte("\r"))
		if len(raw) > 0 && (raw[0] == ' ' || raw[0] == '\t') {
			text = append(text, raw[1:]...)
			continue
		}
		flush()
		text, at = append(text[:0], raw...), n
	}
	if err := scan.Err(); err != nil {
		return nil, nil, fmt.Errorf("read a calendar: %w", err)
	}
	flush()
	return out, faults, nil
}

// split takes a content line apart. Of a parameter with several values it keeps them as they stand.
func split(s string) (line, bool) {
	l := line{params: map[string]string{}}
	quoted, from, key := false, 0, ""
	end := func(to int) {
		part := strings.Trim(s[from:to], `"`)
		switch {
		case l.name == "":
			l.name = strings.ToUpper(part)
		case key != "":
			l.params[key] = part
		}
		from, key = to+1, ""
	}
	for i := 0; i < len(s); i++ {
		switch c := s[i]; {
		case c == '"':
			quoted = !quoted
		case quoted:
		case c == '=' && l.name != "" && key == "":
			key, from = strings.ToUpper(s[from:i]), i+1
		case c == ';':
			end(i)
		case c == ':':
			end(i)
			l.value = s[i+1:]
			return l, l.name != "" && !strings.ContainsAny(l.name, " \t")
		}
	}
	return l, false
}

var (
	unescape = strings.NewReplacer(`\\`, `\`, `\n`, "\n", `\N`, "\n", `\,`, ",", `\;`, ";")
	escape   = strings.NewReplacer(`\`, `\\`, "\r\n", `\n`, "\n", `\n`, "\r", `\n`, ",", `\,`, ";", `\;`)
)

// text is a value of the type TEXT (3.3.11) on one line.
func text(value string) string { return strings.Join(strings.Fields(unescape.Replace(value)), " ") }

// fold writes a content line, folded at 75 octets and never within a character.
func fold(w *bytes.Buffer, s string) {
	const most = 75
	for room := most; len(s) > room; room = most - 1 {
		cut := room
		for !utf8.RuneStart(s[cut]) {
			cut--
		}
		w.WriteString(s[:cut] + "\r\n ")
		s = s[cut:]
	}
	w.WriteString(s + "\r\n")
}
