package page

import (
	"latelantern/internal/core/caption"
)

// Cue is a line of captions.
type Cue struct {
	Span
	Text    string `json:"text"`
	Speaker string `json:"speaker,omitempty"`
}

// CueOf is a line of captions.
func CueOf(c caption.Cue) Cue {
	return Cue{Span{c.Start.Milliseconds(), c.End.Milliseconds()}, c.Text, c.Speaker}
}
