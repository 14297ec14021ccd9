package cutlist

import (
	"time"

	"latelantern/internal/core/span"
)

// Stretch is one kept stretch of the source, and when it is published.
type Stretch struct {
	Source span.Span
	At     time.Duration // published time of its beginning
}

// Carrier carries what is kept on the clock of the source to the clock of what is published, and
// back: captions, words, chapters, markers, messages, slides, and what of a recording was seen.
// Its stretches are in order on both clocks and do not overlap.
type Carrier []Stretch

// Carrier carries by the list as it stands.
func (l List) Carrier() Carrier { return CarrierOf(l.Kept()) }

// CarrierOf carries what of the source is kept.
func CarrierOf(kept span.Set) Carrier {
	var c Carrier
	var at time.Duration
	for _, k := range kept.Spans() {
		c = append(c, Stretch{k, at})
		at += k.Len()
	}
	return c
}

// Length is that of what is published.
func (c Carrier) Length() time.Duration {
	if len(c) == 0 {
		return 0
	}
	last := c[len(c)-1]
	return last.At + last.Source.Len()
}

// Moment carries a moment of the source, as a marker or a message. What is struck is carried to
// its cut, and ok is false.
func (c Carrier) Moment(t time.Duration) (published time.Duration, ok bool) {
	var at time.Duration
	for _, s := range c {
		if t < s.Source.Start {
			return at, false
		}
		if s.Source.Contains(t) {
			return s.At + t - s.Source.Start, true
		}
		at = s.At + s.Source.Len()
	}
	return at, false
}

// Source is the source moment of a published one; at a cut it is the one after the cut. What lies
// outside of what is published is brought to its edge.
func (c Carrier) Source(p time.Duration) time.Duration {
	for i, s := range c {
		if p < s.At+s.Source.Len() || i == len(c)-1 {
			return s.Source.Start + min(max(0, p-s.At), s.Source.Len())
		}
	}
	return 0
}

// Span carries a stretch of the source, as a caption or a chapter: from the first of it that is
// published to the last; a cut within it closes. ok is false when all of it is struck.
func (c Carrier) Span(s span.Span) (published span.Span, ok bool) {
	for _, k := range c {
		in := k.Source.Intersect(s)
		if in.Empty() {
			continue
		}
		at := k.At + in.Start - k.Source.Start
		if !ok {
			published.Start = at
		}
		published.End, ok = at+in.Len(), true
	}
	return published, ok
}

// Set carries what is marked of the source, as where someone speaks.
func (c Carrier) Set(s span.Set) span.Set {
	var out []span.Span
	for _, k := range c {
		for _, in := range s.Intersect(span.Of(k.Source)).Spans() {
			at := k.At + in.Start - k.Source.Start
			out = append(out, span.Span{Start: at, End: at + in.Len()})
		}
	}
	return span.Of(out...)
}

// SourceSet carries what is marked of what is published, as what someone saw of it, back to the
// source, so that it holds when the cuts change.
func (c Carrier) SourceSet(p span.Set) span.Set {
	var out []span.Span
	for _, k := range c {
		for _, in := range p.Intersect(span.Of(span.Span{Start: k.At, End: k.At + k.Source.Len()})).Spans() {
			at := k.Source.Start + in.Start - k.At
			out = append(out, span.Span{Start: at, End: at + in.Len()})
		}
	}
	return span.Of(out...)
}

// Standing is what stands in a published stretch: number Of of the moments given.
type Standing struct {
	Of int
	At span.Span
}

// Standing carries moments at each of which something begins that stands until the next, as
// slides and chapters do: one whose beginning is struck begins at the cut, and one of which
// nothing is published is left out. The moments are in order.
func (c Carrier) Standing(moments []time.Duration) []Standing {
	var out []Standing
	for i, from := range moments {
		to := time.Duration(1<<63 - 1)
		if i+1 < len(moments) {
			to = moments[i+1]
		}
		if at, ok := c.Span(span.Span{Start: from, End: to}); ok {
			out = append(out, Standing{i, at})
		}
	}
	return out
}
