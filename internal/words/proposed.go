package words

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/caption"
	"latelantern/internal/core/fault"
	"latelantern/internal/platform/postgres"
)

// ErrProposed says that somebody proposed as much for one recording as one person may.
var ErrProposed = fault.Code("captions.proposed_most")

// mostProposed is how many lines of one capture one person can have proposed something for.
const mostProposed = 100

// near is how far from a moment a line is looked for that was seen there.
const near = 5 * time.Second

// Proposal is what is to be said in a line instead, as someone who reads along thinks.
type Proposal struct {
	ID     uuid.UUID
	Line   uuid.UUID
	At     time.Duration // where the line begins, on the clock of the recording
	Seen   string        // what it says
	Text   string        // what it should say
	Person uuid.UUID
	Name   string // of that person
	MadeAt time.Time
}

// Propose keeps what someone thinks a line should say, in place of what they proposed for it before: the line that says
// what was seen, nearest to a moment on the clock of the recording. Its error is ErrChanged when none near says that,
// ErrProposed, or ErrInvalid.
func (s *Service) Propose(ctx context.Context, recording uuid.UUID, language string, by uuid.UUID,
	moment time.Duration, seen, text string) error {
	text = caption.Clean(text)
	switch n := len([]rune(text)); {
	case n == 0:
		return invalid("captions.proposed_empty")
	case n > MaxText:
		return invalid("captions.line_long", "most", MaxText, "n", n)
	case text == caption.Clean(seen):
		return invalid("captions.proposed_same")
	}
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		if err := s.lock(ctx, tx, recording, language); err != nil {
			return err
		}
		lines, err := s.lines(ctx, tx, recording, language)
		if err != nil {
			return err
		}
		line, ok := nearest(lines, moment, seen)
		if !ok {
			return ErrChanged
		}
		all, err := windows(ctx, tx, recording)
		if err != nil {
			return err
		}
		w, ok := at(all, line.Start)
		if !ok {
			return ErrChanged
		}
		const others = `select count(*) from caption_proposal where capture_id = $1 and person_id = $2 and cue_id <> $3`
		if n, err := postgres.Value[int](ctx, tx, others, w.CaptureID, by, line.ID); err != nil {
			return fmt.Errorf("count what someone proposed: %w", err)
		} else if n >= mostProposed {
			return ErrProposed
		}
		const keep = `insert into caption_proposal (id, capture_id, cue_id, seen, text, person_id, made_at)
			values ($1, $2, $3, $4, $5, $6, $7) on conflict (cue_id, person_id) do update
			set seen = excluded.seen, text = excluded.text, made_at = excluded.made_at, left_at = null, left_by = null`
		if _, err := tx.Exec(ctx, keep, uuid.Must(uuid.NewV7()), w.CaptureID, line.ID, line.Text, text, by,
			s.Clock.Now()); err != nil {
			return fmt.Errorf("keep what someone proposed: %w", err)
		}
		return s.tell(ctx, tx, recording)
	})
}

// nearest is the line that says something, of those near a moment the nearest.
func nearest(lines []Line, moment time.Duration, seen string) (Line, bool) {
	best := -1
	for i, l := range lines {
		if d := (l.Start - moment).Abs(); l.Text == seen && d <= near &&
			(best < 0 || d < (lines[best].Start-moment).Abs()) {
			best = i
		}
	}
	if best < 0 {
		return Line{}, false
	}
	return lines[best], true
}

// Proposals are those for the captions of a recording that stand, in order of their lines and the first made first.
func (s *Service) Proposals(ctx context.Context, recording uuid.UUID, language string) ([]Proposal, error) {
	return s.proposals(ctx, recording, language, uuid.Nil)
}

// Proposed are those of one person.
func (s *Service) Proposed(ctx context.Context, recording uuid.UUID, language string, by uuid.UUID) ([]Proposal,
	error) {
	return s.proposals(ctx, recording, language, by)
}

func (s *Service) proposals(ctx context.Context, recording uuid.UUID, language string, by uuid.UUID) ([]Proposal,
	error) {
	const query = `select p.id, p.cue_id as line, p.seen, p.text, p.person_id as person, w.name, p.made_at
		from caption_proposal p join cue c on c.id = p.cue_id and c.text = p.seen join person w on w.id = p.person_id
		where p.capture_id in (select capture_id from recording_capture where recording_id = $1) and c.language = $2
		and p.left_at is null and ($3::uuid is null or p.person_id = $3) order by p.made_at, p.id`
	rows, err := postgres.All[struct {
		ID, Line, Person uuid.UUID
		Seen, Text, Name string
		MadeAt           time.Time
	}](ctx, s.DB, query, recording, language, postgres.OrNil(by))
	if err != nil {
		return nil, fmt.Errorf("list what was proposed: %w", err)
	}
	if len(rows) == 0 {
		return nil, nil
	}
	lines, err := s.Lines(ctx, recording, language)
	if err != nil {
		return nil, err
	}
	starts := map[uuid.UUID]time.Duration{}
	for _, l := range lines {
		starts[l.ID] = l.Start
	}
	var out []Proposal
	for _, r := range rows {
		if at, here := starts[r.Line]; here { // else the line is in another recording of its capture
			out = append(out, Proposal{ID: r.ID, Line: r.Line, At: at, Seen: r.Seen, Text: r.Text, Person: r.Person,
				Name: r.Name, MadeAt: r.MadeAt})
		}
	}
	slices.SortStableFunc(out, func(a, b Proposal) int { return int(a.At - b.At) })
	return out, nil
}

// proposal is one that stands. Its error is ErrUnknown.
func (s *Service) proposal(ctx context.Context, recording uuid.UUID, language string, id uuid.UUID) (Proposal, error) {
	all, err := s.Proposals(ctx, recording, language)
	if err != nil {
		return Proposal{}, err
	}
	i := slices.IndexFunc(all, func(p Proposal) bool { return p.ID == id })
	if i < 0 {
		return Proposal{}, ErrUnknown
	}
	return all[i], nil
}

// TakeProposal has a line say what was proposed: a change like any other, that can be undone. Its error is ErrUnknown
// for one that does not stand.
func (s *Service) TakeProposal(ctx context.Context, recording uuid.UUID, language string, id, by uuid.UUID) error {
	p, err := s.proposal(ctx, recording, language, id)
	if err != nil {
		return err
	}
	return s.Correct(ctx, recording, language, p.Line, by, Correction{Seen: p.Seen, Text: &p.Text})
}

// LeaveLine leaves a line as it is, whatever was proposed; with again what was proposed stands again. Its error is
// ErrUnknown.
func (s *Service) LeaveLine(ctx context.Context, recording uuid.UUID, id, by uuid.UUID, again bool) error {
	const leave = `update caption_proposal set left_at = case when $3 then null else $4::timestamptz end,
			left_by = case when $3 then null else $5::uuid end
		where id = $2 and (left_at is null) <> $3
		and capture_id in (select capture_id from recording_capture where recording_id = $1) returning id`
	return s.settle(ctx, recording, leave, recording, id, again, s.Clock.Now(), by)
}

// Withdraw takes back what someone proposed. Its error is ErrUnknown for what is not theirs.
func (s *Service) Withdraw(ctx context.Context, recording uuid.UUID, id, by uuid.UUID) error {
	const gone = `delete from caption_proposal where id = $2 and person_id = $3
		and capture_id in (select capture_id from recording_capture where recording_id = $1) returning id`
	return s.settle(ctx, recording, gone, recording, id, by)
}

// settle does a statement that gives the proposal that it found, and tells of it.
func (s *Service) settle(ctx context.Context, recording uuid.UUID, sql string, args ...any) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		_, err := postgres.Value[uuid.UUID](ctx, tx, sql, args...)
		if errors.Is(err, pgx.ErrNoRows) {
			return ErrUnknown
		}
		if err != nil {
			return fmt.Errorf("settle what was proposed: %w", err)
		}
		return s.tell(ctx, tx, recording)
	})
}
