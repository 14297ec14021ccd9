package words

import (
	"context"
	"fmt"
	"reflect"
	"slices"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/caption"
	"latelantern/internal/platform/postgres"
)

// Change is a change of captions: lines that go, and lines that are put, in place of those with
// the same id if there are such.
type Change struct {
	Kind string // what was done, such as correct, replace or take
	Gone []uuid.UUID
	Put  []Line

	heads []byte // of captions that become other ones: what was known of them, see headsSQL
}

// Edit makes what do says out of the lines as they are, as one change that can be undone.
func (s *Service) Edit(ctx context.Context, recording uuid.UUID, language string, by uuid.UUID,
	do func(lines []Line) (Change, error)) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		if err := s.lock(ctx, tx, recording, language); err != nil {
			return err
		}
		lines, err := s.lines(ctx, tx, recording, language)
		if err != nil {
			return err
		}
		change, err := do(lines)
		if err != nil {
			return err
		}
		return s.make(ctx, tx, recording, language, by, change)
	})
}

// lock lets no other change captions at once. Its error is ErrUnknown where there are none.
func (s *Service) lock(ctx context.Context, tx pgx.Tx, recording uuid.UUID, language string) error {
	tag, err := tx.Exec(ctx,
		`select 1 from caption
			where language = $2 and capture_id in (select capture_id from recording_capture where recording_id = $1)
			order by capture_id for no key update`, recording, language)
	if err != nil {
		return fmt.Errorf("lock captions: %w", err)
	}
	if tag.RowsAffected() == 0 {
		return ErrUnknown
	}
	return nil
}

// window is the part of a capture that a recording has, on the clock of the capture.
type window struct {
	CaptureID                uuid.UUID
	StartMs, FromMs, UntilMs int64
}

// windows lists those of a recording, the latest first.
func windows(ctx context.Context, db postgres.Querier, recording uuid.UUID) ([]window, error) {
	const query = `select capture_id, start_ms, coalesce(from_ms, 0) as from_ms,
		coalesce(until_ms, 9223372036854775807) as until_ms from recording_capture where recording_id = $1
		order by start_ms + coalesce(from_ms, 0) desc, capture_id desc`
	out, err := postgres.All[window](ctx, db, query, recording)
	if err != nil {
		return nil, fmt.Errorf("read the parts of a recording: %w", err)
	}
	return out, nil
}

// holds tells whether a moment on the clock of its capture lies in a window.
func (w window) holds(local int64) bool { return local >= w.FromMs && local < w.UntilMs }

// at is the window in which a moment of the recording lies: of the capture that has begun last then.
func at(all []window, moment time.Duration) (window, bool) {
	i := slices.IndexFunc(all, func(w window) bool { return w.holds(moment.Milliseconds() - w.StartMs) })
	if i < 0 {
		return window{}, false
	}
	return all[i], true
}

// make keeps a change, and how it was before.
func (s *Service) make(ctx context.Context, tx pgx.Tx, recording uuid.UUID, language string, by uuid.UUID,
	change Change) error {
	all, err := windows(ctx, tx, recording)
	if err != nil {
		return err
	}
	became := []row{}
	for _, l := range change.Put {
		if w, ok := at(all, l.Start); ok {
			became = append(became, rowOf(l, w.CaptureID, time.Duration(w.StartMs)*ms))
		}
	}
	ids := slices.Clone(change.Gone)
	for _, r := range became {
		ids = append(ids, r.ID)
	}
	was, err := postgres.All[row](ctx, tx,
		rowSQL+`where id = any($1) and language = $2
			and capture_id in (select capture_id from recording_capture where recording_id = $3) order by id`, ids,
		language, recording)
	if err != nil {
		return fmt.Errorf("read lines as they were: %w", err)
	}
	if len(was) == 0 && len(became) == 0 && change.heads == nil {
		return nil
	}
	if err := s.swap(ctx, tx, language, ids, became); err != nil {
		return err
	}
	if err := s.keep(ctx, tx, topic{recording, language}, by,
		record{change.Kind, was, became, change.heads}); err != nil {
		return err
	}
	return s.tell(ctx, tx, recording)
}

// swap puts lines in place of others.
func (s *Service) swap(ctx context.Context, tx pgx.Tx, language string, gone []uuid.UUID, put []row) error {
	if _, err := tx.Exec(ctx, `delete from cue where id = any($1)`, gone); err != nil {
		return fmt.Errorf("take lines away: %w", err)
	}
	columns := []string{"id", "capture_id", "language", "start_ms", "end_ms", "text", "speaker", "words", "name",
		"settings", "markup", "before", "corrected"}
	_, err := tx.CopyFrom(ctx, pgx.Identifier{"cue"}, columns, pgx.CopyFromSlice(len(put), func(i int) ([]any, error) {
		r := put[i]
		return []any{r.ID, r.CaptureID, language, r.StartMs, r.EndMs, r.Text, r.Speaker, r.Words, r.Name, r.Settings,
			r.Markup, r.Before, r.Corrected}, nil
	}))
	if err != nil {
		return fmt.Errorf("put lines: %w", err)
	}
	return nil
}

// Undo takes the last change back. Its errors are ErrNothing, and ErrChanged when its lines are
// no longer what it made of them.
func (s *Service) Undo(ctx context.Context, recording uuid.UUID, language string) error {
	return s.turnLines(ctx, recording, language, back)
}

// Redo makes the change again that was taken back last.
func (s *Service) Redo(ctx context.Context, recording uuid.UUID, language string) error {
	return s.turnLines(ctx, recording, language, again)
}

func (s *Service) turnLines(ctx context.Context, recording uuid.UUID, language string, to way) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		if err := s.lock(ctx, tx, recording, language); err != nil {
			return err
		}
		var is, other []row
		c, err := s.turn(ctx, tx, topic{recording, language}, to, &is, &other)
		if err != nil {
			return err
		}
		ids := []uuid.UUID{}
		for _, r := range append(slices.Clone(is), other...) {
			ids = append(ids, r.ID)
		}
		now, err := postgres.All[row](ctx, tx, rowSQL+`where id = any($1) and language = $2`, ids, language)
		if err != nil {
			return fmt.Errorf("read lines as they are: %w", err)
		}
		if !same(now, is) {
			return ErrChanged
		}
		if err := s.swap(ctx, tx, language, ids, other); err != nil {
			return err
		}
		if c.Heads != nil {
			if err := turnHeads(ctx, tx, recording, language, c); err != nil {
				return err
			}
		}
		return s.tell(ctx, tx, recording)
	})
}

// headsSQL is all that is known of the captions of a recording in a language, besides their lines.
const headsSQL = `select coalesce(jsonb_agg(to_jsonb(p)), '[]') from caption p
	where p.language = $2 and p.capture_id in (select capture_id from recording_capture where recording_id = $1)`

// turnHeads makes captions what they were before a change, or after it, and keeps what they are now
// with the change. Captions that were not there before go.
func turnHeads(ctx context.Context, tx pgx.Tx, recording uuid.UUID, language string, c turned) error {
	now, err := postgres.Value[[]byte](ctx, tx, headsSQL, recording, language)
	if err != nil {
		return fmt.Errorf("read what captions are: %w", err)
	}
	for _, sql := range []string{
		`delete from caption p
			where p.language = $2 and p.capture_id in (select capture_id from recording_capture where recording_id = $1)
			and not exists (select 1 from jsonb_populate_recordset(null::caption, $3) x
			where x.capture_id = p.capture_id and x.language = p.language)`,
		`update caption p
			set state = x.state, fault = x.fault, drafted_by = x.drafted_by, drafted_ms = x.drafted_ms,
			spoken_ms = x.spoken_ms, head = x.head, tail = x.tail,
			looked_at = x.looked_at, looked_by = x.looked_by, shown_at = x.shown_at, shown_by = x.shown_by
			from jsonb_populate_recordset(null::caption, $3) x
			where x.capture_id = p.capture_id and x.language = p.language and p.language = $2
			and p.capture_id in (select capture_id from recording_capture where recording_id = $1)`,
	} {
		if _, err := tx.Exec(ctx, sql, recording, language, c.Heads); err != nil {
			return fmt.Errorf("make captions what they were: %w", err)
		}
	}
	if _, err := tx.Exec(ctx, `update word_change set heads = $2 where id = $1`, c.ID, now); err != nil {
		return fmt.Errorf("keep what captions were: %w", err)
	}
	return nil
}

// who is the person who does something; nil for no one.
func who(by uuid.UUID) *uuid.UUID {
	if by == uuid.Nil {
		return nil
	}
	return &by
}

// same tells whether two sets of lines are the same, in any order.
func same(a, b []row) bool {
	if len(a) != len(b) {
		return false
	}
	of := map[uuid.UUID]row{}
	for _, r := range a {
		of[r.ID] = r
	}
	for _, r := range b {
		x, ok := of[r.ID]
		if len(x.Words) == 0 && len(r.Words) == 0 {
			x.Words, r.Words = nil, nil
		}
		if !ok || !reflect.DeepEqual(x, r) {
			return false
		}
	}
	return true
}

// Correction is what is to be said in a line instead.
type Correction struct {
	Seen    string  // the text as it was seen, so that nobody's words are lost
	Text    *string // nil to leave it
	Speaker *string
	All     bool // the speaker of all lines that had the same one, if there was one
}

// MaxText is how many characters a line may have.
const MaxText = 600

// Correct changes a line. A line left without text goes. Its error is ErrChanged when it is no
// longer what was seen.
func (s *Service) Correct(ctx context.Context, recording uuid.UUID, language string, line, by uuid.UUID,
	c Correction) error {
	return s.Edit(ctx, recording, language, by, func(lines []Line) (Change, error) {
		i := slices.IndexFunc(lines, func(l Line) bool { return l.ID == line })
		if i < 0 {
			return Change{}, ErrUnknown
		}
		l := lines[i]
		if c.Seen != l.Text {
			return Change{}, ErrChanged
		}
		out := Change{Kind: "correct"}
		if c.Text != nil {
			if n := len([]rune(*c.Text)); n > MaxText {
				return out, invalid("captions.line_long", "most", MaxText, "n", n)
			}
			if caption.Clean(*c.Text) == "" {
				out.Gone = append(out.Gone, l.ID)
				return out, nil
			}
			l.Cue = l.Retext(*c.Text)
		}
		if c.Speaker != nil {
			name := caption.Clean(*c.Speaker)
			if len([]rune(name)) > 80 {
				return out, invalid("captions.speaker")
			}
			for _, x := range lines {
				if c.All && l.Speaker != "" && x.ID != l.ID && x.Speaker == l.Speaker {
					x.Speaker, x.Corrected, x.As.Markup = name, true, ""
					out.Put = append(out.Put, x)
				}
			}
			l.Speaker, l.As.Markup = name, ""
		}
		l.Corrected = true
		out.Put = append(out.Put, l)
		return out, nil
	})
}

// Replace puts one text for another in all lines, and tells in how many places.
func (s *Service) Replace(ctx context.Context, recording uuid.UUID, language string, by uuid.UUID, f caption.Finding,
	with string) (places int, err error) {
	err = s.Edit(ctx, recording, language, by, func(lines []Line) (Change, error) {
		out := Change{Kind: "replace"}
		for _, l := range lines {
			text, n := f.Replace(l.Text, with)
			if n == 0 {
				continue
			}
			places += n
			if caption.Clean(text) == "" {
				out.Gone = append(out.Gone, l.ID)
				continue
			}
			l.Cue, l.Corrected = l.Retext(text), true
			out.Put = append(out.Put, l)
		}
		return out, nil
	})
	return places, err
}

// Split parts a line before a place in its text, counted in characters.
func (s *Service) Split(ctx context.Context, recording uuid.UUID, language string, line, by uuid.UUID, at int) error {
	return s.Edit(ctx, recording, language, by, func(lines []Line) (Change, error) {
		i := slices.IndexFunc(lines, func(l Line) bool { return l.ID == line })
		if i < 0 {
			return Change{}, ErrUnknown
		}
		a, b, ok := lines[i].Cue.Split(at)
		if !ok {
			return Change{}, invalid("captions.split")
		}
		return Change{Kind: "split", Put: []Line{{a, line, true}, {b, uuid.Must(uuid.NewV7()), true}}}, nil
	})
}

// Join makes one line of a line and the next.
func (s *Service) Join(ctx context.Context, recording uuid.UUID, language string, line, by uuid.UUID) error {
	return s.Edit(ctx, recording, language, by, func(lines []Line) (Change, error) {
		i := slices.IndexFunc(lines, func(l Line) bool { return l.ID == line })
		if i < 0 {
			return Change{}, ErrUnknown
		}
		if i+1 == len(lines) {
			return Change{}, invalid("captions.last")
		}
		next := lines[i+1]
		return Change{Kind: "join", Gone: []uuid.UUID{next.ID},
			Put: []Line{{caption.Join(lines[i].Cue, next.Cue), line, true}}}, nil
	})
}
