package page

import (
	"latelantern/internal/core/signal"
	"latelantern/internal/core/span"
	"time"
)

// Span is a stretch of media time in milliseconds, half-open.
type Span struct {
	Start int64 `json:"start"`
	End   int64 `json:"end"`
}

// SetOf is what spans say.
func SetOf(spans []Span) span.Set {
	out := make([]span.Span, len(spans))
	for i, s := range spans {
		out[i] = span.Span{Start: time.Duration(s.Start) * time.Millisecond,
			End: time.Duration(s.End) * time.Millisecond}
	}
	return span.Of(out...)
}

// Spans are spans in milliseconds.
func Spans(s []span.Span) []Span {
	out := []Span{}
	for _, x := range s {
		out = append(out, Span{x.Start.Milliseconds(), x.End.Milliseconds()})
	}
	return out
}

// GainText is by how much a recording is made louder or quieter, and why.
type GainText struct {
	DB       float64 `json:"db"`
	Loudness float64 `json:"loudness" doc:"as it is, LUFS (ITU-R BS.1770)"`
	Peak     float64 `json:"peak" doc:"as it is, dBTP"`
	Target   float64 `json:"target" doc:"LUFS"`
	Limited  bool    `json:"limited" doc:"it stays below the target, so that its peaks do not clip"`
}

// GainOf is how much louder a recording is made; nil for nil.
func GainOf(g *signal.Gain) *GainText {
	if g == nil {
		return nil
	}
	return &GainText{g.DB, g.Loudness, g.Peak, signal.Target, g.Limited}
}
