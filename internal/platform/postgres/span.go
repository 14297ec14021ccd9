package postgres

import (
	"time"

	"github.com/jackc/pgx/v5/pgtype"

	"latelantern/internal/core/span"
)

// Multirange is an int8multirange of milliseconds, half-open, as a span.Set is kept.
type Multirange = pgtype.Multirange[pgtype.Range[int64]]

// Set is the stretches of time that m keeps.
func Set(m Multirange) span.Set {
	var out []span.Span
	for _, r := range m {
		out = append(out,
			span.Span{Start: time.Duration(r.Lower) * time.Millisecond, End: time.Duration(r.Upper) * time.Millisecond})
	}
	return span.Of(out...)
}

// Kept is s as a multirange; what is below a millisecond is lost.
func Kept(s span.Set) Multirange {
	out := Multirange{}
	for _, x := range s.Spans() {
		out = append(out, pgtype.Range[int64]{
			Lower: x.Start.Milliseconds(), LowerType: pgtype.Inclusive, Upper: x.End.Milliseconds(),
			UpperType: pgtype.Exclusive, Valid: true,
		})
	}
	return out
}
