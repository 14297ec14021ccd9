// Package captioner drafts what is said in a piece of sound: by a recogniser on this machine,
// or by a server that speaks the common form of transcription.
package captioner

import (
	"context"
	"errors"
	"time"

	"latelantern/internal/core/caption"
	"latelantern/internal/core/lattice"
	"latelantern/internal/core/span"
	"latelantern/internal/core/wording"
)

// Piece is a stretch of sound in which someone speaks, some seconds to half a minute long.
type Piece struct {
	At  span.Span
	PCM []byte // one channel, 16 kHz, 16 bits, little-endian
}

// Rate is how many samples of a piece there are in a second.
const Rate = 16000

// Own is what a captioner is told of the course.
type Own struct {
	Language string         // BCP 47; "" for not known
	Model    *wording.Model // of the course's own words; nil for none
	Terms    []string       // the words that matter most, as they are written
}

// Captioner drafts words. Its errors say in a sentence what is wrong: ErrDown and ErrNonsense
// are those of which trying again may help.
type Captioner interface {
	// Name says what drafted, for those who read the draft.
	Name() string
	// Speaks tells whether it drafts a language.
	Speaks(language string) bool
	// Begin makes ready for a course.
	Begin(ctx context.Context, own Own) (Session, error)
}

// Session drafts what is said in one course.
type Session interface {
	// Draft drafts pieces in order. It may be called twice at once.
	Draft(ctx context.Context, pieces []Piece) (Draft, error)
	// Close gives back what Begin took.
	Close() error
}

// Draft is what a captioner makes of sound.
type Draft struct {
	Words []caption.Word // in order, each at its time
	// words that carry a meaning and may have been said, those of the draft among them; none where a captioner does not
	// tell
	Heard []lattice.Heard
}

var (
	// ErrDown says that the captioner does not answer.
	ErrDown = errors.New("the captioner does not answer")
	// ErrNonsense says that what it answers cannot be read.
	ErrNonsense = errors.New("the captioner answers what cannot be read")
)

// length is how long a piece of sound lasts.
func length(pcm []byte) time.Duration {
	return time.Duration(len(pcm)/2) * time.Second / Rate
}
