package catchup

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/catchup"
	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/span"
	"latelantern/internal/platform/postgres"
)

// Together is how the students of a recording stand with it.
type Together struct {
	catchup.Group
	sets []span.Set // what each watched since, on the clock of the recording
}

// Curve is how many of them watched at least half of each bin, on the clock of the recording up to end.
func (t Together) Curve(bin, end time.Duration) []int { return catchup.Curve(t.sets, bin, end) }

// Groups are how people stand with recordings that are published as the carriers say: of each, those who are named
// with it. A recording that holds nothing any more is left out.
func (s *Service) Groups(ctx context.Context, published map[uuid.UUID]cutlist.Carrier,
	of map[uuid.UUID][]uuid.UUID) (map[uuid.UUID]*Together, error) {
	recordings, people := make([]uuid.UUID, 0, len(published)), []uuid.UUID{}
	known := map[uuid.UUID]bool{}
	for id := range published {
		recordings = append(recordings, id)
		for _, p := range of[id] {
			if !known[p] {
				known[p] = true
				people = append(people, p)
			}
		}
	}
	x, err := s.read(ctx, people, recordings)
	if err != nil {
		return nil, err
	}
	out := make(map[uuid.UUID]*Together, len(x.whole))
	for id, length := range x.whole {
		t := &Together{}
		for _, p := range of[id] {
			at := seat{p, id}
			t.Add(published[id], length, x.attended[at], x.watched[at], x.knows[at])
			if w := x.watched[at]; !w.Empty() {
				t.sets = append(t.sets, w)
			}
		}
		out[id] = t
	}
	return out, nil
}

// held is what is known of people and recordings: how long each recording is on its own clock, what of it each followed
// live and watched since, and who says that they know it.
type held struct {
	whole             map[uuid.UUID]time.Duration
	attended, watched map[seat]span.Set
	knows             map[seat]bool
}

func (s *Service) read(ctx context.Context, people, recordings []uuid.UUID) (x held, err error) {
	if x.whole, err = s.whole(ctx, recordings); err != nil {
		return x, err
	}
	if x.watched, x.knows, err = s.watched(ctx, people, recordings); err != nil {
		return x, err
	}
	x.attended, err = s.attended(ctx, people, recordings)
	return x, err
}

// whole is how long recordings are on their own clocks, for those that hold something.
func (s *Service) whole(ctx context.Context, recordings []uuid.UUID) (map[uuid.UUID]time.Duration, error) {
	type row struct {
		RecordingID uuid.UUID
		Ms          int64
	}
	const query = `select rc.recording_id, max(rc.start_ms + least(t.packed_ms, rc.until_ms)) as ms
		from recording_capture rc join track t on t.capture_id = rc.capture_id and t.role = 'main'
		where rc.recording_id = any($1) group by rc.recording_id`
	rows, err := postgres.All[row](ctx, s.DB, query, recordings)
	if err != nil {
		return nil, fmt.Errorf("read how long recordings are: %w", err)
	}
	out := make(map[uuid.UUID]time.Duration, len(rows))
	for _, r := range rows {
		out[r.RecordingID] = time.Duration(r.Ms) * time.Millisecond
	}
	return out, nil
}

// watched is what people watched of recordings, on the clocks of the recordings, and who says that they know one.
func (s *Service) watched(ctx context.Context, people, recordings []uuid.UUID) (map[seat]span.Set, map[seat]bool,
	error) {
	type row struct {
		PersonID, RecordingID uuid.UUID
		Watched               postgres.Multirange
	}
	const query = `select w.person_id, rc.recording_id,
			range_agg(int8range(lower(r) + rc.start_ms, upper(r) + rc.start_ms)) as watched
		from recording_capture rc join track t on t.capture_id = rc.capture_id and t.role = 'main'
		join watched w on w.capture_id = rc.capture_id and w.person_id = any($1)
		cross join lateral unnest(w.ranges * ` + clips + `) r
		where rc.recording_id = any($2) group by 1, 2`
	rows, err := postgres.All[row](ctx, s.DB, query, people, recordings)
	if err != nil {
		return nil, nil, fmt.Errorf("read what people watched: %w", err)
	}
	out := make(map[seat]span.Set, len(rows))
	for _, r := range rows {
		out[seat{r.PersonID, r.RecordingID}] = postgres.Set(r.Watched)
	}
	type known struct{ PersonID, RecordingID uuid.UUID }
	all, err := postgres.All[known](ctx, s.DB, `select person_id, recording_id from known_recording
		where person_id = any($1) and recording_id = any($2)`, people, recordings)
	if err != nil {
		return nil, nil, fmt.Errorf("read who knows what is in recordings: %w", err)
	}
	knows := make(map[seat]bool, len(all))
	for _, k := range all {
		knows[seat{k.PersonID, k.RecordingID}] = true
	}
	return out, knows, nil
}

// piece is of how much it is kept that it was watched again; keepSQL says it too.
const piece = 10 * time.Second

// Again is how often each bin of a recording, of whole pieces of ten seconds, was watched again, on its clock up to
// end, by whoever had watched it before: 1.5 is one and a half times. What was hardly watched again is told as none.
func (s *Service) Again(ctx context.Context, recording uuid.UUID, bin, end time.Duration) ([]float64, error) {
	type row struct{ AtMs, Ms int64 }
	const query = `select rc.start_ms + g.piece * $2 as at_ms, g.ms
		from recording_capture rc join watched_again g on g.capture_id = rc.capture_id
		where rc.recording_id = $1 and (g.piece + 1) * $2 > coalesce(rc.from_ms, 0)
		and (rc.until_ms is null or g.piece * $2 < rc.until_ms)`
	rows, err := postgres.All[row](ctx, s.DB, query, recording, piece.Milliseconds())
	if err != nil {
		return nil, fmt.Errorf("read what was watched again: %w", err)
	}
	out := make([]float64, (end+bin-1)/bin)
	for _, r := range rows {
		// A piece of a capture can lie across two bins of a recording whose clock begins within it.
		from := time.Duration(r.AtMs) * time.Millisecond
		next := (from/bin + 1) * bin
		if from < 0 {
			next = 0
		}
		here := float64(min(piece, next-from)) / float64(piece)
		for at, share := range map[time.Duration]float64{next - bin: here, next: 1 - here} {
			if i := int(at / bin); at >= 0 && i < len(out) {
				out[i] += share * float64(time.Duration(r.Ms)*time.Millisecond) / float64(bin)
			}
		}
	}
	for i, times := range out {
		if times < hardly {
			out[i] = 0
		}
	}
	return out, nil
}

// hardly is less than how often something must have been watched again to be told.
const hardly = 1

// Missed is what each of some people still has to catch up of a recording that is published as the carrier says, on
// the clock of what is published; who has nothing to is left out. known is false when it is not known of any of them
// that they were there: then nobody can be said to have missed it.
func (s *Service) Missed(ctx context.Context, recording uuid.UUID, c cutlist.Carrier, people []uuid.UUID) (
	missed map[uuid.UUID]span.Set, known bool, err error) {
	x, err := s.read(ctx, people, []uuid.UUID{recording})
	if err != nil {
		return nil, false, err
	}
	missed = map[uuid.UUID]span.Set{}
	for _, p := range people {
		at := seat{p, recording}
		known = known || !x.attended[at].Empty()
		left := catchup.Reckon(c, x.whole[recording], x.attended[at], x.watched[at]).Missed
		if !x.knows[at] && !left.Empty() {
			missed[p] = left
		}
	}
	return missed, known, nil
}
