package page

import (
	"fmt"
	"strings"
	"unicode/utf8"

	"latelantern/internal/core/fault"
	"latelantern/internal/core/texts"
)

// LineFault is something wrong at a line of a file.
type LineFault struct {
	File   string `json:"file"`
	Line   int    `json:"line" doc:"from 1; 0 for the file as a whole"`
	Column string `json:"column" doc:"empty for the line as a whole"`
	Said
}

// Said is a sentence: its code in the catalogue, and what stands in it.
type Said struct {
	Code string         `json:"code"`
	With map[string]any `json:"with,omitempty" doc:"what stands in the sentence, by name"`
	Text string         `json:"text" doc:"the same in English, for programs that have no catalogue"`
}

// Say is a text by its code and as a sentence in English.
func Say(t fault.Text) Said { return Said{string(t.Code), t.With, texts.English.Say(t)} }

// Download is a file that is handed out.
type Download struct {
	Type        string `header:"Content-Type"`
	Disposition string `header:"Content-Disposition"`
	Body        []byte
}

// File hands out a file under a name made of words.
func File(kind string, b []byte, words ...string) *Download {
	name := strings.Map(func(r rune) rune {
		if r < ' ' || r >= utf8.RuneSelf || strings.ContainsRune(`"\/:*?<>|`, r) {
			return '-'
		}
		return r
	}, strings.Join(words, " "))
	return &Download{kind, fmt.Sprintf("attachment; filename=%q", name), b}
}

// CalendarType is the media type of a calendar (RFC 5545).
const CalendarType = "text/calendar; charset=utf-8"
