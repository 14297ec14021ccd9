package recordings

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/layout"
	"latelantern/internal/core/span"
	"latelantern/internal/platform/postgres"
)

// Outline is what of a recording its viewers are shown besides what plays: what stands on its pictures, and when
// someone speaks.
type Outline struct {
	Slides []Slide
	Speech span.Set
}

// Outlines are those of recordings as they are published, on that clock. One that is not measured yet is left out.
func (s *Reader) Outlines(ctx context.Context, published map[uuid.UUID]cutlist.Carrier) (
	map[uuid.UUID]Outline, error) {
	return s.outlines(ctx, published, true)
}

// Slides are their outlines without when someone speaks, which is much to read.
func (s *Reader) Slides(ctx context.Context, published map[uuid.UUID]cutlist.Carrier) (
	map[uuid.UUID]Outline, error) {
	return s.outlines(ctx, published, false)
}

func (s *Reader) outlines(ctx context.Context, published map[uuid.UUID]cutlist.Carrier, speech bool) (
	map[uuid.UUID]Outline, error) {
	ids := make([]uuid.UUID, 0, len(published))
	for id := range published {
		ids = append(ids, id)
	}
	pieces, err := s.Layouts(ctx, s.DB, ids)
	if err != nil {
		return nil, err
	}
	type row struct {
		TrackID uuid.UUID
		Speech  postgres.Multirange
		Slides  []byte
	}
	var tracks []uuid.UUID
	for _, all := range pieces {
		for _, p := range all {
			tracks = append(tracks, p.Track)
		}
	}
	const query = `select track_id, case when $2 then speech else '{}' end as speech, slides from strip
		where done and track_id = any($1)`
	rows, err := postgres.All[row](ctx, s.DB, query, tracks, speech)
	if err != nil {
		return nil, fmt.Errorf("read what is shown and said: %w", err)
	}
	measured := map[uuid.UUID]row{}
	for _, r := range rows {
		measured[r.TrackID] = r
	}
	out := map[uuid.UUID]Outline{}
	for id, all := range pieces {
		var x Outline
		for _, p := range all {
			r, ok := measured[p.Track]
			if !ok {
				break
			}
			if err := x.lay(p, r.Speech, r.Slides); err != nil {
				return nil, err
			}
		}
		if _, ok := measured[all[len(all)-1].Track]; ok {
			out[id] = x.carried(published[id])
		}
	}
	return out, nil
}

// lay puts what was measured of a track where a piece shows it.
func (x *Outline) lay(p layout.Shown, speech postgres.Multirange, list []byte) error {
	x.Speech = x.Speech.Union(postgres.Set(speech).Shift(p.Start).Intersect(span.Of(p.At)))
	var slides []Slide
	if err := json.Unmarshal(list, &slides); err != nil {
		return fmt.Errorf("read the slides of a strip page: %w", err)
	}
	x.Slides = append(x.Slides, standing(slides, p)...)
	return nil
}

// carried is x on the clock of what is published.
func (x Outline) carried(c cutlist.Carrier) Outline {
	moments := make([]time.Duration, len(x.Slides))
	for i, s := range x.Slides {
		moments[i] = time.Duration(s.AtMs) * time.Millisecond
	}
	out := Outline{Speech: c.Set(x.Speech)}
	for _, s := range c.Standing(moments) {
		slide := x.Slides[s.Of]
		slide.AtMs = s.At.Start.Milliseconds()
		out.Slides = append(out.Slides, slide)
	}
	return out
}

// Shows reports whether the slide of a track that begins at, on the clock of that track, is one of x.
func (x Outline) Shows(track uuid.UUID, at int64) bool {
	return slices.ContainsFunc(x.Slides, func(s Slide) bool { return s.Track == track && s.Picture == at })
}
