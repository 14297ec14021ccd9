package words

import (
	"context"
	"slices"
	"strings"

	"github.com/google/uuid"

	"latelantern/internal/core/caption"
	"latelantern/internal/core/span"
)

// Where is where something was found.
type Where string

// Where something is found.
const (
	Said    Where = "said"    // in the captions
	OnSlide Where = "slide"   // on a slide, as long as it stands
	Perhaps Where = "perhaps" // in what may have been said, see Service.Perhaps
)

// Hit is where something that is looked for is found, on the clock of the recording.
type Hit struct {
	span.Span
	Where Where
	Text  string  // of the line, of the slide, or what may have been said
	Share float64 // how likely it is that it was said, from 0 to 1, where that is not known; else 0
}

// Search looks for a text in the captions that stand for a recording, on its slides, and in what may
// have been said; capitals and accents do not count. What stands in captions is not told again as
// what may have been said.
func (s *Service) Search(ctx context.Context, recording uuid.UUID, text string) ([]Hit, error) {
	f := caption.Finding{Text: strings.Join(strings.Fields(text), " ")}
	language, err := s.Main(ctx, recording)
	if err != nil {
		return nil, err
	}
	lines, err := s.Lines(ctx, recording, language)
	if err != nil {
		return nil, err
	}
	var out []Hit
	for _, l := range lines {
		for _, at := range f.Find(l.Text) {
			out = append(out, Hit{Span: l.Cue.At(at[0], at[1]), Where: Said, Text: l.Flat()})
		}
	}
	said := out
	slides, err := s.Slides(ctx, recording)
	if err != nil {
		return nil, err
	}
	for _, x := range slides {
		if len(f.Find(x.Flat())) > 0 {
			out = append(out, Hit{Span: span.Span{Start: x.At, End: x.Until}, Where: OnSlide, Text: x.Flat()})
		}
	}
	perhaps, err := s.Perhaps(ctx, recording, language, text)
	if err != nil {
		return nil, err
	}
	for _, h := range perhaps {
		if !slices.ContainsFunc(said, func(x Hit) bool { return x.Overlaps(h.Span) }) {
			out = append(out, Hit{h.Span, Perhaps, h.Word, h.Share})
		}
	}
	return out, nil
}
