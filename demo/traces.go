package demo

import (
	"context"
	"fmt"
	"math/rand/v2"
	"slices"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/catchup"
	"latelantern/internal/core/span"
	"latelantern/internal/platform/clock"
)

// followed are the talks that were captured at a desk, and that students followed live.
var followed = []string{"tid-1", "tid-2"}

// talkLasts is about as long as a talk is.
const talkLasts = 110 * time.Second

// traces are what students left of themselves: who followed a lecture live, and what was watched since.
func (l *loader) traces(ctx context.Context, of map[string]uuid.UUID) error {
	for i, t := range Talks {
		c := courseOf(t)
		if c.stages[t.Week] != lit || c.rule == nil {
			continue
		}
		if slices.Contains(followed, t.File) {
			if err := l.atDesk(ctx, t, of[t.File]); err != nil {
				return err
			}
		}
		r := rand.New(rand.NewPCG(uint64(i), 210))
		for n := c.students[0]; n < c.students[1]; n++ {
			if slices.Contains(followed, t.File) {
				if err := l.follows(ctx, t, n, r); err != nil {
					return err
				}
			}
			// The course whose rule leaves some out has traces of those alone whom it lets in.
			if len(c.rule.Groups) == 0 || slices.Contains(c.rule.Groups, c.groups[n%len(c.groups)]) {
				if err := l.watches(ctx, t, n, of[t.File], r); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

// atDesk has a talk have been captured at a desk, from the beginning of its lecture on: its film came as a file.
func (l *loader) atDesk(ctx context.Context, t Talk, recording uuid.UUID) error {
	from := l.lectures[t.Course][t.Week].starts
	const keep = `update capture set source = 'desk', file_name = '', started_at = $2, stopped_at = $3
		where id in (select capture_id from recording_capture where recording_id = $1)`
	if _, err := l.h.DB.Exec(ctx, keep, recording, from, from.Add(talkLasts)); err != nil {
		return fmt.Errorf("have a talk be captured at a desk: %w", err)
	}
	return nil
}

// follows has a student be there live: most all the time, some late, some not at all. Who is signed in as the first
// comes late to the first lecture and misses the second.
func (l *loader) follows(ctx context.Context, t Talk, n int, r *rand.Rand) error {
	where := l.lectures[t.Course][t.Week]
	late, there := time.Duration(0), r.IntN(10)
	switch {
	case n == 0 && t.Week == 1:
		late = time.Minute
	case n > 0 && there < 3:
		late = time.Duration(30+r.IntN(30)) * time.Second
	case n == 0 || there > 7:
		return nil
	}
	const keep = `with seen as (insert into notice_seen (lecture_id, person_id, seen_at) values ($1, $2, $3))
		insert into presence (lecture_id, person_id, from_at, until_at) values ($1, $2, $3, $4)`
	if _, err := l.h.DB.Exec(ctx, keep, where.id, l.people[student(n)], where.starts.Add(late),
		where.starts.Add(talkLasts)); err != nil {
		return fmt.Errorf("have a student follow a lecture: %w", err)
	}
	return nil
}

// watches has a student watch some of a recording in the days after its lecture, or none of it. Who is signed in as the
// first watched a little of the lecture that they missed.
func (l *loader) watches(ctx context.Context, t Talk, n int, recording uuid.UUID, r *rand.Rand) error {
	much := [...]time.Duration{0, 0, 0, talkLasts, talkLasts, 25 * time.Second, 50 * time.Second}[r.IntN(7)]
	from := time.Duration(0)
	if n == 0 {
		much = map[int]time.Duration{2: 30 * time.Second}[t.Week]
	} else if much < talkLasts {
		from = time.Duration(r.IntN(40)) * time.Second
	}
	if much == 0 {
		return nil
	}
	then := l.h.At(clock.Standing(l.lectures[t.Course][t.Week].ends.Add(time.Duration(1+r.IntN(90)) * time.Hour)))
	keep := func(from, until time.Duration) error {
		return then.CatchUp.Keep(ctx, l.people[student(n)], recording, catchup.Word{At: until,
			Played: span.Of(span.Span{Start: from, End: until}), Took: (until - from) * 2 / 3})
	}
	if err := keep(from, from+much); err != nil || much < talkLasts {
		return err
	}
	for range n % 3 { // what is hard to follow, again and again
		if err := keep(55*time.Second, 100*time.Second); err != nil {
			return err
		}
	}
	return nil
}
