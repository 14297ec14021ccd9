package library

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/span"
	"latelantern/internal/platform/postgres"
)

// The ways in which splitting and joining can be refused.
var (
	ErrSplit     = errors.New("both recordings must hold at least a second")
	ErrJoinSame  = errors.New("a recording cannot be joined to itself")
	ErrJoinShown = errors.New("the one that is joined gives light, or stands in a playlist: darken it and take it out of the playlist first")
	ErrChanged   = errors.New("one of the recordings was split or joined again since")
)

// ArrangeError reports whether err is one that says in plain words why recordings cannot be split
// or joined.
func ArrangeError(err error) (error, bool) {
	for _, e := range []error{ErrSplit, ErrJoinSame, ErrJoinShown, ErrChanged} {
		if errors.Is(err, e) {
			return e, true
		}
	}
	return nil, false
}

// arranged is of what a recording is made, as it is kept to be undone.
type arranged struct {
	ID        uuid.UUID      `json:"id"`
	OriginAt  time.Time      `json:"origin_at"`
	DeletedAt *time.Time     `json:"deleted_at"`
	Parts     []arrangedPart `json:"parts"`
}

type arrangedPart struct {
	CaptureID uuid.UUID `json:"capture_id"`
	Position  int       `json:"position"`
	StartMs   int64     `json:"start_ms"`
	FromMs    *int64    `json:"from_ms"`
	UntilMs   *int64    `json:"until_ms"`
}

// arrangement holds recordings whose parts change places: what is struck and which picture leads
// is kept on the clocks of the captures meanwhile, and so follows.
type arrangement struct {
	s           *Service
	tx          pgx.Tx
	by          uuid.UUID
	was         []arranged
	struck, led map[uuid.UUID]span.Set // by capture, on its clock
	trimmed     bool                   // someone has looked at the cuts of one of them
}

func (s *Service) arrange(ctx context.Context, tx pgx.Tx, by uuid.UUID, recordings ...uuid.UUID) (*arrangement, error) {
	slices.SortFunc(recordings, func(a, b uuid.UUID) int { return slices.Compare(a[:], b[:]) })
	a := &arrangement{s: s, tx: tx, by: by, struck: map[uuid.UUID]span.Set{}, led: map[uuid.UUID]span.Set{}}
	for _, id := range slices.Compact(recordings) {
		if _, err := tx.Exec(ctx, `select 1 from recording where id = $1 for update`, id); err != nil {
			return nil, fmt.Errorf("hold a recording: %w", err)
		}
		r, err := s.recording(ctx, tx, id)
		if err != nil {
			return nil, err
		}
		if r.State != "ready" {
			return nil, ErrNotReady
		}
		was, err := s.arranged(ctx, tx, id)
		if err != nil {
			return nil, err
		}
		a.was = append(a.was, was)
		a.trimmed = a.trimmed || r.CutListID != nil
		pieces, err := s.layout(ctx, tx, id)
		if err != nil {
			return nil, err
		}
		for _, p := range pieces {
			a.struck[p.Capture] = a.struck[p.Capture].Union(r.Struck.Intersect(span.Of(p.At)).Shift(-p.Start))
			a.led[p.Capture] = a.led[p.Capture].Union(r.Led.Intersect(span.Of(p.At)).Shift(-p.Start))
		}
	}
	return a, nil
}

func (s *Service) arranged(ctx context.Context, tx pgx.Tx, id uuid.UUID) (arranged, error) {
	var x arranged
	type row struct {
		OriginAt  time.Time
		DeletedAt *time.Time
	}
	r, err := postgres.One[row](ctx, tx, `select origin_at, deleted_at from recording where id = $1`, id)
	if err == nil {
		x = arranged{ID: id, OriginAt: r.OriginAt, DeletedAt: r.DeletedAt}
		x.Parts, err = postgres.All[arrangedPart](ctx, tx, `select capture_id, position, start_ms, from_ms, until_ms from recording_capture where recording_id = $1 order by position`, id)
	}
	if err != nil {
		return x, fmt.Errorf("read of what a recording is made: %w", err)
	}
	return x, nil
}

// put makes a recording of other parts, which are brought into order and put together where one
// goes on where another ends.
func (a *arrangement) put(ctx context.Context, id uuid.UUID, origin time.Time, deleted *time.Time, parts []arrangedPart) error {
	parts = merged(parts)
	if _, err := a.tx.Exec(ctx, `delete from recording_capture where recording_id = $1`, id); err != nil {
		return fmt.Errorf("take a recording apart: %w", err)
	}
	for n, p := range parts {
		const insert = `insert into recording_capture (recording_id, capture_id, position, start_ms, from_ms, until_ms) values ($1, $2, $3, $4, $5, $6)`
		if _, err := a.tx.Exec(ctx, insert, id, p.CaptureID, n, p.StartMs, p.FromMs, p.UntilMs); err != nil {
			return fmt.Errorf("put a recording together: %w", err)
		}
	}
	const update = `update recording set origin_at = $2, deleted_at = $3, deleted_by = case when $3::timestamptz is null then null else deleted_by end where id = $1`
	if _, err := a.tx.Exec(ctx, update, id, origin, deleted); err != nil {
		return fmt.Errorf("put a recording together: %w", err)
	}
	return nil
}

// merged puts stretches of one capture together that adjoin and lie alike.
func merged(parts []arrangedPart) []arrangedPart {
	from := func(p arrangedPart) int64 {
		if p.FromMs == nil {
			return 0
		}
		return *p.FromMs
	}
	slices.SortStableFunc(parts, func(a, b arrangedPart) int {
		return int((a.StartMs + from(a)) - (b.StartMs + from(b)))
	})
	var out []arrangedPart
	for _, p := range parts {
		if n := len(out) - 1; n >= 0 && out[n].CaptureID == p.CaptureID && out[n].StartMs == p.StartMs && out[n].UntilMs != nil && *out[n].UntilMs == from(p) {
			out[n].UntilMs = p.UntilMs
			continue
		}
		out = append(out, p)
	}
	return out
}

// done carries the cuts over to the recordings as they are now, sets editions aside that no
// longer hold what they should, and keeps how it was under kind.
func (a *arrangement) done(ctx context.Context, kind string, first, second uuid.UUID) error {
	var now []arranged
	for _, id := range []uuid.UUID{first, second} {
		is, err := a.s.arranged(ctx, a.tx, id)
		if err != nil {
			return err
		}
		now = append(now, is)
		if is.DeletedAt != nil || len(is.Parts) == 0 {
			continue
		}
		if err := a.carry(ctx, id); err != nil {
			return err
		}
		if err := a.s.outdate(ctx, a.tx, id); err != nil {
			return err
		}
		if err := a.s.trimByItself(ctx, a.tx, id); err != nil {
			return err
		}
		for _, about := range []string{"recording", "cuts", "strip"} {
			if err := a.s.notify(ctx, a.tx, about, id); err != nil {
				return err
			}
		}
	}
	if kind == "" {
		return nil
	}
	was, err := json.Marshal(rearranged{a.was, now})
	if err != nil {
		return fmt.Errorf("write how recordings were: %w", err)
	}
	const insert = `insert into rearrangement (id, kind, recording_id, other_id, was, made_by, made_at) values ($1, $2, $3, $4, $5, $6, $7)`
	if _, err := a.tx.Exec(ctx, insert, uuid.Must(uuid.NewV7()), kind, first, second, was, a.by, a.s.Clock.Now()); err != nil {
		return fmt.Errorf("keep how recordings were: %w", err)
	}
	return nil
}

type rearranged struct {
	Was []arranged `json:"was"`
	Now []arranged `json:"now"`
}

// carry gives a recording the cuts that are kept on the clocks of its captures.
func (a *arrangement) carry(ctx context.Context, id uuid.UUID) error {
	if !a.trimmed {
		return nil
	}
	r, err := a.s.recording(ctx, a.tx, id)
	if err != nil {
		return err
	}
	pieces, err := a.s.layout(ctx, a.tx, id)
	if err != nil {
		return err
	}
	var struck, led span.Set
	for _, p := range pieces {
		struck = struck.Union(a.struck[p.Capture].Shift(p.Start).Intersect(span.Of(p.At)))
		led = led.Union(a.led[p.Capture].Shift(p.Start).Intersect(span.Of(p.At)))
	}
	list := cutlist.New(r.Length, struck)
	if list.Published() < cutlist.Least { // all of it was struck in the whole
		list = cutlist.New(r.Length, span.Set{})
	}
	version, err := a.s.insertVersion(ctx, a.tx, r, a.by, edit{list, led})
	if err != nil {
		return err
	}
	if _, err := a.tx.Exec(ctx, `update recording set cut_list_id = $2 where id = $1`, id, version); err != nil {
		return fmt.Errorf("carry the cuts of a recording: %w", err)
	}
	return nil
}

// Split makes two recordings of one: what comes from at on becomes a recording of its own, of the
// same lecture or of another, and is given. What of another lecture was captured after it is one
// with it, as it would be if it had been captured for that lecture. The moment is moved to the nearest picture that can
// begin a recording. Its errors are ErrSplit, ErrNotReady and ErrUnknown.
func (s *Service) Split(ctx context.Context, id, by uuid.UUID, at time.Duration, lecture uuid.UUID) (uuid.UUID, error) {
	rest := uuid.Must(uuid.NewV7())
	err := postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
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
		join recording o on o.lecture_id = r.lecture_id and o.id <> r.id join recording_source ox on ox.recording_id = o.id
		join rearrangement a on a.other_id = r.id and a.kind = 'split' join recording f on f.id = a.recording_id and f.lecture_id <> r.lecture_id
		where r.id = $1 and o.deleted_at is null and rx.source <> 'file' and ox.source <> 'file' and ox.state = 'ready'
		and o.origin_at between r.origin_at and r.origin_at + make_interval(secs => rx.length_ms / 1000.0) + $2::interval order by o.origin_at limit 1`
	id, err := postgres.Value[uuid.UUID](ctx, tx, query, rest, together)
	if errors.Is(err, pgx.ErrNoRows) {
		return uuid.Nil, nil
	}
	if err != nil {
		return uuid.Nil, fmt.Errorf("look for the recording of the next lecture: %w", err)
	}
	return id, nil
}

func (a *arrangement) split(ctx context.Context, id, rest, lecture uuid.UUID, at time.Duration) error {
	r, err := a.s.recording(ctx, a.tx, id)
	if err != nil {
		return err
	}
	pieces, err := a.s.layout(ctx, a.tx, id)
	if err != nil {
		return err
	}
	for _, p := range pieces {
		if p.At.Contains(at) {
			at = min(max(a.s.keyNear(ctx, a.tx, p, at), p.At.Start), p.At.End)
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
	by := at.Milliseconds()
	var before, after []arrangedPart
	for _, p := range was.Parts {
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
	origin := was.OriginAt.Add(at)
	const insert = `insert into recording (id, lecture_id, created_at, origin_at) select $2, coalesce($3, lecture_id), $4, $5 from recording where id = $1`
	if _, err := a.tx.Exec(ctx, insert, id, rest, postgres.OrNil(lecture), a.s.Clock.Now(), origin); err != nil {
		return fmt.Errorf("make a recording of the rest: %w", err)
	}
	if err := a.put(ctx, id, was.OriginAt, nil, before); err != nil {
		return err
	}
	if err := a.put(ctx, rest, origin, nil, after); err != nil {
		return err
	}
	return a.done(ctx, "split", id, rest)
}

// lengths is how long the captures of a recording are, in milliseconds.
func (s *Service) lengths(ctx context.Context, tx pgx.Tx, recording uuid.UUID) (map[uuid.UUID]int64, error) {
	type row struct {
		CaptureID uuid.UUID
		PackedMs  int64
	}
	rows, err := postgres.All[row](ctx, tx, `select distinct t.capture_id, t.packed_ms from recording_capture rc join track t on t.capture_id = rc.capture_id where rc.recording_id = $1 and t.role = 'main'`, recording)
	if err != nil {
		return nil, fmt.Errorf("read how long captures are: %w", err)
	}
	out := map[uuid.UUID]int64{}
	for _, x := range rows {
		out[x.CaptureID] = x.PackedMs
	}
	return out, nil
}

// keyNear is the moment nearest to at at which a picture stands that can be decoded by itself.
func (s *Service) keyNear(ctx context.Context, tx pgx.Tx, p laid, at time.Duration) time.Duration {
	pack, err := postgres.Value[string](ctx, tx, `select pack from track where id = $1 and pictures`, p.Track)
	if err != nil {
		return at // sound alone can be cut anywhere
	}
	t, err := s.playable(pack + "/pictures")
	if err != nil || t == nil {
		return at
	}
	best := at
	for i, k := range t.Index.Keys() {
		// Whole milliseconds, and not after the picture.
		if key := p.Start + t.Index.Time(k).Truncate(time.Millisecond); i == 0 || (key-at).Abs() < (best-at).Abs() {
			best = key
		}
	}
	return best
}

// Join adds the parts of another recording to one: by the clock when both were captured as they
// happened and belong together, else after its end. The other is gone then; undoing brings it
// back. Its errors are ErrJoinSame, ErrJoinShown, ErrNotReady and ErrUnknown.
func (s *Service) Join(ctx context.Context, id, other, by uuid.UUID) error {
	if id == other {
		return ErrJoinSame
	}
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		a, err := s.arrange(ctx, tx, by, id, other)
		if err != nil {
			return err
		}
		return a.join(ctx, id, other)
	})
}

func (a *arrangement) join(ctx context.Context, id, other uuid.UUID) error {
	shown, err := a.s.shown(ctx, a.tx, other)
	if err != nil {
		return err
	}
	if shown {
		return ErrJoinShown
	}
	one, err := a.s.recording(ctx, a.tx, id)
	if err != nil {
		return err
	}
	two, err := a.s.recording(ctx, a.tx, other)
	if err != nil {
		return err
	}
	var here, there arranged
	for _, x := range a.was {
		if x.ID == id {
			here = x
		} else {
			there = x
		}
	}
	// On the clock of the one: where the other begins.
	begins := there.OriginAt.Sub(here.OriginAt).Round(time.Millisecond)
	byClock := one.Source != "file" && two.Source != "file" && begins < one.Length+together && begins > -two.Length-together
	if !byClock {
		begins = one.Length.Truncate(time.Millisecond) + time.Millisecond
	}
	parts := slices.Clone(here.Parts)
	for _, p := range there.Parts {
		p.StartMs += begins.Milliseconds()
		parts = append(parts, p)
	}
	origin := here.OriginAt
	if begins < 0 {
		if err := a.s.beginEarlier(ctx, a.tx, id, there.OriginAt, -begins); err != nil {
			return err
		}
		origin = there.OriginAt
		for i := range parts {
			parts[i].StartMs -= begins.Milliseconds()
		}
	}
	if err := a.put(ctx, id, origin, nil, parts); err != nil {
		return err
	}
	now := a.s.Clock.Now()
	if err := a.put(ctx, other, there.OriginAt, &now, nil); err != nil {
		return err
	}
	return a.done(ctx, "join", id, other)
}

// Rearrangement is the last split or join of a recording, which can be undone.
type Rearrangement struct {
	ID     uuid.UUID
	Kind   string // split, join
	First  uuid.UUID
	Second uuid.UUID // what was split off, or joined
	By     string
	MadeAt time.Time
}

// Rearranged is the last split or join that a recording took part in and that can be undone; nil
// for none.
func (s *Service) Rearranged(ctx context.Context, id uuid.UUID) (*Rearrangement, error) {
	const query = `select a.id, a.kind, a.recording_id as first, coalesce(j.recording_id, a.other_id) as second, coalesce(p.name, '') as by, a.made_at
		from rearrangement a left join person p on p.id = a.made_by left join rearrangement j on j.kind = 'join' and j.other_id = a.other_id and j.id > a.id and j.undone_at is null
		where (a.recording_id = $1 or a.other_id = $1) and a.undone_at is null
		and not exists (select 1 from rearrangement n where n.id > a.id and n.id is distinct from j.id and n.undone_at is null and (n.recording_id in (a.recording_id, a.other_id) or n.other_id in (a.recording_id, a.other_id)))
		order by a.id desc limit 1`
	x, err := postgres.One[Rearrangement](ctx, s.DB, query, id)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, nil
	}
	if err != nil {
		return nil, fmt.Errorf("read what was split or joined: %w", err)
	}
	return &x, nil
}

// UndoArrangement makes recordings again what they were before they were split or joined; their
// cuts are those of now. Its error is ErrChanged when they were split or joined again since.
func (s *Service) UndoArrangement(ctx context.Context, recording, id, by uuid.UUID) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		// What was split off and joined to another comes back from there first.
		const later = `select j.id from rearrangement a join rearrangement j on j.kind = 'join' and j.other_id = a.other_id and j.id > a.id and j.undone_at is null
			where a.id = $1 and a.kind = 'split' and a.recording_id = $2`
		joined, err := postgres.Value[uuid.UUID](ctx, tx, later, id, recording)
		if err == nil {
			err = s.undoOne(ctx, tx, joined, by)
		}
		if err != nil && !errors.Is(err, pgx.ErrNoRows) {
			return err
		}
		const of = `select exists (select 1 from rearrangement where id = $1 and (recording_id = $2 or other_id = $2))`
		if ok, err := postgres.Value[bool](ctx, tx, of, id, recording); err != nil || !ok {
			return errors.Join(err, ErrUnknown)
		}
		return s.undoOne(ctx, tx, id, by)
	})
}

func (s *Service) undoOne(ctx context.Context, tx pgx.Tx, id, by uuid.UUID) error {
	const query = `update rearrangement set undone_at = $2 where id = $1 and undone_at is null returning recording_id as first, other_id as second, was`
	x, err := postgres.One[struct {
		First, Second uuid.UUID
		Was           []byte
	}](ctx, tx, query, id, s.Clock.Now())
	if errors.Is(err, pgx.ErrNoRows) {
		return ErrChanged
	}
	if err != nil {
		return fmt.Errorf("undo what was split or joined: %w", err)
	}
	var then rearranged
	if err := json.Unmarshal(x.Was, &then); err != nil {
		return fmt.Errorf("read how recordings were: %w", err)
	}
	return s.undo(ctx, tx, by, x.First, x.Second, then)
}

func (s *Service) undo(ctx context.Context, tx pgx.Tx, by, first, second uuid.UUID, then rearranged) error {
	var whole []uuid.UUID // those that hold something now
	for _, x := range then.Now {
		is, err := s.arranged(ctx, tx, x.ID)
		if err != nil {
			return err
		}
		if !slices.EqualFunc(is.Parts, x.Parts, samePart) || (is.DeletedAt == nil) != (x.DeletedAt == nil) {
			return ErrChanged
		}
		if len(is.Parts) > 0 {
			whole = append(whole, x.ID)
		}
	}
	a, err := s.arrange(ctx, tx, by, whole...)
	if err != nil {
		return err
	}
	now := s.Clock.Now()
	for _, x := range then.Now {
		i := slices.IndexFunc(then.Was, func(w arranged) bool { return w.ID == x.ID })
		if i < 0 { // it was made by splitting
			if shown, err := s.shown(ctx, tx, x.ID); err != nil || shown {
				return errors.Join(err, ErrJoinShown)
			}
			if err := a.put(ctx, x.ID, x.OriginAt, &now, nil); err != nil {
				return err
			}
			continue
		}
		was := then.Was[i]
		if d := was.OriginAt.Sub(x.OriginAt); d != 0 {
			if err := s.beginEarlier(ctx, tx, x.ID, was.OriginAt, -d); err != nil {
				return err
			}
		}
		if err := a.put(ctx, x.ID, was.OriginAt, was.DeletedAt, was.Parts); err != nil {
			return err
		}
	}
	return a.done(ctx, "", first, second)
}

func samePart(a, b arrangedPart) bool {
	same := func(x, y *int64) bool { return x == nil && y == nil || x != nil && y != nil && *x == *y }
	return a.CaptureID == b.CaptureID && a.StartMs == b.StartMs && same(a.FromMs, b.FromMs) && same(a.UntilMs, b.UntilMs)
}
