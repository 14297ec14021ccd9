package page

import (
	"latelantern/internal/core/caption"
	"latelantern/internal/words"
	"time"

	"github.com/google/uuid"
)

// Cue is a line of captions.
type Cue struct {
	Span
	Text    string `json:"text"`
	Speaker string `json:"speaker,omitempty"`
	Unsure  []int  `json:"unsure,omitempty" nullable:"false" doc:"which of its words, from 0 on, the captioner was hardly sure of"`
}

// CueOf is a line of captions.
func CueOf(c caption.Cue) Cue {
	return Cue{Span{c.Start.Milliseconds(), c.End.Milliseconds()}, c.Text, c.Speaker, UnsureOf(c)}
}

// UnsureOf are the places of the words of a line of which its captioner was hardly sure.
func UnsureOf(c caption.Cue) (out []int) {
	for n, w := range c.Words {
		if w.Unsure {
			out = append(out, n)
		}
	}
	return out
}

// ProposedLine is what a line of captions should say, as someone who reads along thinks.
type ProposedLine struct {
	ID     uuid.UUID `json:"id" format:"uuid"`
	Line   uuid.UUID `json:"line" format:"uuid"`
	At     int64     `json:"at" doc:"where the line begins, in milliseconds"`
	Seen   string    `json:"seen" doc:"what it says"`
	Text   string    `json:"text" doc:"what it should say"`
	Name   string    `json:"name" doc:"of who proposed it"`
	MadeAt time.Time `json:"made_at"`
}

// ProposedLineOf is a proposal, on the clock of the recording.
func ProposedLineOf(p words.Proposal) ProposedLine {
	return ProposedLine{p.ID, p.Line, p.At.Milliseconds(), p.Seen, p.Text, p.Name, p.MadeAt}
}
