package library

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/layout"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/recordings"
)

// Split makes two recordings of one: what comes from at on becomes a recording of its own, of the
// same lecture or of another, and is given. What of another lecture was captured after it is one
// with it, as it would be if it had been captured for that lecture. The moment is moved to the nearest picture that can
// begin a recording. Its errors are ErrSplit, ErrNotReady, ErrUnknown and ErrChanged.
func (s *Service) Split(ctx context.Context, id, by uuid.UUID, at time.Duration, lecture uuid.UUID) (uuid.UUID, error) {
	rest := uuid.Must(uuid.NewV7())
	err := postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const part = `select id from recording where id = $1 or lecture_id = $2`
		if err := holdAll(ctx, tx, part, id, lecture); err != nil {
			return err
		}
		a, err := s.arrange(ctx, tx, by, id)
		if err != nil {
			return err
		}
		if err := a.split(ctx, id, rest, lecture, at); err != nil {
			return err
		}
		into, err := s.goesOnIn(ctx, tx, rest)
		if err != nil || into == uuid.Nil {
			return err
		}
		if a, err = s.arrange(ctx, tx, by, into, rest); err != nil {
			return err
		}
		if err := a.join(ctx, into, rest); err != nil {
			return err
		}
		rest = into
		return nil
	})
	return rest, err
}

// goesOnIn is the recording of another lecture of which a part that was split off is the
// beginning: captured live soon after it, and whole. It is uuid.Nil when there is none.
func (s *Service) goesOnIn(ctx context.Context, tx pgx.Tx, rest uuid.UUID) (uuid.UUID, error) {
	const query = `select o.id from recording r join recording_source rx on rx.recording_id = r.id
		join recording o on o.lecture_id = r.lecture_id and o.id <> r.id
		join recording_source ox on ox.recording_id = o.id
		join rearrangement a on a.other_id = r.id and a.kind = 'split'
		join recording f on f.id = a.recording_id and f.lecture_id <> r.lecture_id
		where r.id = $1 and o.deleted_at is null and rx.source <> 'file' and ox.source <> 'file' and ox.state = 'ready'
		and o.origin_at between r.origin_at
		and r.origin_at + make_interval(secs => rx.length_ms / 1000.0) + $2::interval order by o.origin_at limit 1`
	id, err := postgres.Value[uuid.UUID](ctx, tx, query, rest, recordings.Together)
	if errors.Is(err, pgx.ErrNoRows) {
		return uuid.Nil, nil
	}
	if err != nil {
		return uuid.Nil, fmt.Errorf("look for the recording of the next lecture: %w", err)
	}
	return id, nil
}

func (a *arrangement) split(ctx context.Context, id, rest, lecture uuid.UUID, at time.Duration) error {
	r, err := a.s.Recordings.In(ctx, a.tx, id)
	if err != nil {
		return err
	}
	pieces, err := a.s.Recordings.Layout(ctx, a.tx, id)
	if err != nil {
		return err
	}
	for _, p := range pieces {
		if p.At.Contains(at) {
			near, err := a.s.keyNear(ctx, a.tx, p, at)
			if err != nil {
				return err
			}
			at = min(max(near, p.At.Start), p.At.End)
			break
		}
	}
	// Also what is not shown, since another part is, belongs to one side or the other.
	lengths, err := a.s.lengths(ctx, a.tx, id)
	if err != nil {
		return err
	}
	if at < time.Second || at > r.Length-time.Second {
		return ErrSplit
	}
	was := a.was[slices.IndexFunc(a.was, func(x arranged) bool { return x.ID == id })]
	before, after := partedAt(was.Parts, at.Milliseconds(), lengths)
	origin := was.OriginAt.Add(at)
	const insert = `insert into recording (id, lecture_id, created_at, origin_at)
		select $2, coalesce($3, lecture_id), $4, $5 from recording where id = $1`
	if _, err := a.tx.Exec(ctx, insert, id, rest, postgres.OrNil(lecture), a.s.Clock.Now(), origin); err != nil {
		return fmt.Errorf("make a recording of the rest: %w", err)
	}
	if err := a.s.Releases.Belong(ctx, a.tx, rest); err != nil {
		return err
	}
	if err := a.put(ctx, id, was.OriginAt, nil, before); err != nil {
		return err
	}
	if err := a.put(ctx, rest, origin, nil, after); err != nil {
		return err
	}
	return a.done(ctx, "split", id, rest)
}

// partedAt are the parts before a moment of a recording and those after it, by how long the captures are; all in
// milliseconds.
func partedAt(parts []arrangedPart, by int64, lengths map[uuid.UUID]int64) (before, after []arrangedPart) {
	for _, p := range parts {
		local := by - p.StartMs
		ends := lengths[p.CaptureID]
		if p.UntilMs != nil {
			ends = *p.UntilMs
		}
		from := int64(0)
		if p.FromMs != nil {
			from = *p.FromMs
		}
		later := p
		later.StartMs -= by
		switch {
		case local <= from:
			after = append(after, later)
		case local >= ends:
			before = append(before, p)
		default:
			earlier := p
			earlier.UntilMs, later.FromMs = &local, &local
			before, after = append(before, earlier), append(after, later)
		}
	}
	return before, after
}

// lengths is how long the captures of a recording are, in milliseconds.
func (s *Service) lengths(ctx context.Context, tx pgx.Tx, recording uuid.UUID) (map[uuid.UUID]int64, error) {
	type row struct {
		CaptureID uuid.UUID
		PackedMs  int64
	}
	rows, err := postgres.All[row](ctx, tx,
		`select distinct t.capture_id, t.packed_ms from recording_capture rc
			join track t on t.capture_id = rc.capture_id where rc.recording_id = $1 and t.role = 'main'`, recording)
	if err != nil {
		return nil, fmt.Errorf("read how long captures are: %w", err)
	}
	out := map[uuid.UUID]int64{}
	for _, x := range rows {
		out[x.CaptureID] = x.PackedMs
	}
	return out, nil
}

// keyNear is the moment nearest to at at which a picture stands that can be decoded by itself; at itself where there
// are none, since sound alone can be cut anywhere.
func (s *Service) keyNear(ctx context.Context, tx pgx.Tx, p layout.Shown, at time.Duration) (time.Duration, error) {
	pack, err := postgres.Value[string](ctx, tx, `select pack from track where id = $1 and video`, p.Track)
	if errors.Is(err, pgx.ErrNoRows) {
		return at, nil
	}
	if err != nil {
		return at, fmt.Errorf("find the video of a part: %w", err)
	}
	t, err := s.Recordings.Playable(pack + "/pictures")
	if err != nil || t == nil {
		return at, err
	}
	best := at
	for i, k := range t.Index.Keys() {
		// Whole milliseconds, and not after the picture.
		if key := p.Start + t.Index.Time(k).Truncate(time.Millisecond); i == 0 || (key-at).Abs() < (best-at).Abs() {
			best = key
		}
	}
	return best, nil
}
