package playlists

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"

	"latelantern/internal/core/fault"
	"latelantern/internal/core/finding"
	"latelantern/internal/core/playlist"
	"latelantern/internal/platform/jobs"
	"latelantern/internal/platform/postgres"
)

// Sentence is by what a playlist keeps itself filled; the zero value for what is put there by hand alone.
type Sentence struct {
	Course uuid.UUID // every recording of that course
	Words  string    // every one, of that course or of any one teaches, whose title, keywords or captions hold them
	Leave  bool      // with neither: what an earlier sentence brought goes, and does not stay as if it was put there
}

func (x Sentence) clean() (Sentence, error) {
	var err error
	if x.Words, err = line(x.Words, 0, mostTitle, "playlist.fill_words"); err != nil {
		return x, err
	}
	if x.Words != "" && len(finding.Words(x.Words)) == 0 {
		return x, fmt.Errorf("%w: %w", ErrInvalid, fault.Code("playlist.fill_words"))
	}
	return x, nil
}

// sentence is that of a playlist.
func (l List) sentence() Sentence {
	return Sentence{Course: postgres.OrZero(l.FillCourse), Words: l.FillWords}
}

// none says that a sentence speaks of nothing.
func (x Sentence) none() bool { return x.Course == uuid.Nil && x.Words == "" }

// Come is a recording that a sentence would bring.
type Come struct {
	ID       uuid.UUID
	Title    string
	Topic    string
	Code     string
	StartsAt time.Time
}

// FillChange is what a sentence would change in a playlist.
type FillChange struct {
	Come  []Come // by the dates of their lectures
	Leave int    // recordings that an earlier sentence brought
	Here  int    // those that are there already
}

// Preview says what a sentence would change, of what a person teaches. Its errors are ErrUnknown and ErrInvalid.
func (s *Service) Preview(ctx context.Context, of Of, by uuid.UUID, x Sentence) (out FillChange, err error) {
	if x, err = x.clean(); err != nil {
		return out, err
	}
	err = postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		h, err := s.hold(ctx, tx, of)
		if err != nil {
			return err
		}
		asked, err := s.filling(ctx, tx, h.ID, by, x)
		if err != nil {
			return err
		}
		for _, r := range asked.rows {
			switch {
			case slices.Contains(asked.come, r.ID):
				out.Come = append(out.Come, r.Come)
			case slices.Contains(asked.here, r.ID):
				out.Here++
			}
		}
		out.Leave = len(asked.leave)
		return nil
	})
	return out, err
}

// SetSentence has a playlist keep itself filled, of what a person teaches, from now on; with one that speaks of nothing
// no more, and what came stays unless it is to leave. It gives the errors of Preview.
func (s *Service) SetSentence(ctx context.Context, of Of, by uuid.UUID, x Sentence) error {
	x, err := x.clean()
	if err != nil {
		return err
	}
	return s.edit(ctx, of, func(tx pgx.Tx, h held) error {
		if h.Main {
			return fmt.Errorf("%w: %w", ErrInvalid, fault.Code("playlist.main_fills"))
		}
		const set = `update playlist set fill_course = $2, fill_words = $3, filled_by = $4 where id = $1`
		if _, err := tx.Exec(ctx, set, h.ID, postgres.OrNil(x.Course), x.Words, by); err != nil {
			return fmt.Errorf("keep the sentence of a playlist: %w", err)
		}
		if x.none() && !x.Leave {
			return nil
		}
		_, err := s.fill(ctx, tx, h, by, x)
		return err
	})
}

// candidateRow is a recording that someone teaches, as a sentence asks for it.
type candidateRow struct {
	Come
	CourseID  uuid.UUID
	LectureID uuid.UUID
	CreatedAt time.Time
	Texts     []string
	Said      []string
}

func (r candidateRow) candidate() playlist.Candidate[uuid.UUID] {
	return playlist.Candidate[uuid.UUID]{ID: r.ID, Course: r.CourseID, Texts: r.Texts, Said: r.Said}
}

// folded is a sentence with its words as texts are compared.
func (s *Service) folded(ctx context.Context, tx pgx.Tx, x Sentence) (playlist.Filling[uuid.UUID], error) {
	words, err := postgres.Value[string](ctx, tx, `select folded($1)`, x.Words)
	if err != nil {
		return playlist.Filling[uuid.UUID]{}, fmt.Errorf("fold the words of a playlist: %w", err)
	}
	return playlist.Filling[uuid.UUID]{Course: x.Course, Words: finding.Words(words)}, nil
}

// asked is what a sentence asks among, and what it changes in a playlist.
type asked struct {
	rows        []candidateRow
	come, leave []uuid.UUID
	here        []uuid.UUID // recordings it speaks of that are there
}

func (s *Service) filling(ctx context.Context, tx pgx.Tx, list, by uuid.UUID, x Sentence) (out asked, err error) {
	f, err := s.folded(ctx, tx, x)
	if err != nil {
		return out, err
	}
	const candidates = `
		with mine as materialized (
			select r.id, r.title, r.keywords, r.created_at, l.topic, k.code, l.starts_at, l.course_id,
				l.id as lecture_id
			from recording r join lecture l on l.id = r.lecture_id join course k on k.id = l.course_id
			where r.deleted_at is null and ($2::uuid is null or l.course_id = $2)
			and exists (select 1 from person p where p.id = $1 and (p.coordinator and k.term_id =
				(select o.term_id from playlist q join course o on o.id = q.course_id where q.id = $4)
				or exists (select 1 from membership m where m.person_id = p.id and m.course_id = l.course_id
				and m.role in ('lecturer', 'assistant'))))
		)
		select r.id, r.title, r.topic, r.code, r.starts_at, r.course_id, r.lecture_id, r.created_at,
			array_prepend(folded(r.title), array(select folded(w) from unnest(r.keywords) w)) as texts,
			array(select w from unnest($3::text[]) w where exists (select 1 from recording_capture rc
				join cue u on u.capture_id = rc.capture_id
				where rc.recording_id = r.id and folded(u.text) like '%' || w || '%')) as said
		from mine r join recording_source x on x.recording_id = r.id
			and x.recording_id = any(array(select id from mine))
		where not x.running and x.state <> 'failed' order by r.starts_at, r.created_at, r.id`
	out.rows, err = postgres.All[candidateRow](ctx, tx, candidates, by, postgres.OrNil(x.Course), f.Words, list)
	if err != nil {
		return out, fmt.Errorf("look for what fills a playlist: %w", err)
	}
	all := make([]playlist.Candidate[uuid.UUID], 0, len(out.rows))
	for _, r := range out.rows {
		all = append(all, r.candidate())
	}
	there, err := postgres.All[struct {
		ID     uuid.UUID
		ByHand bool
	}](ctx, tx, `select recording_id as id, not filled as by_hand from playlist_entry
		where playlist_id = $1 and recording_id is not null`, list)
	if err != nil {
		return out, fmt.Errorf("read what fills a playlist: %w", err)
	}
	here := make([]playlist.Filled[uuid.UUID], 0, len(there))
	for _, e := range there {
		here = append(here, playlist.Filled[uuid.UUID](e))
	}
	const heldOut = `select recording_id from playlist_held_out where playlist_id = $1`
	held, err := postgres.Values[uuid.UUID](ctx, tx, heldOut, list)
	if err != nil {
		return out, fmt.Errorf("read what is held out of a playlist: %w", err)
	}
	out.come, out.leave = f.Fill(all, here, held)
	for _, c := range all {
		if f.Takes(c) && slices.ContainsFunc(here, func(x playlist.Filled[uuid.UUID]) bool { return x.ID == c.ID }) {
			out.here = append(out.here, c.ID)
		}
	}
	return out, nil
}

// fill brings into a held playlist what its sentence asks for, and says whether that changed anything.
func (s *Service) fill(ctx context.Context, tx pgx.Tx, h held, by uuid.UUID, x Sentence) (bool, error) {
	asked, err := s.filling(ctx, tx, h.ID, by, x)
	if err != nil {
		return false, err
	}
	if len(asked.leave) > 0 {
		const gone = `delete from playlist_entry where playlist_id = $1 and filled and recording_id = any($2)`
		if _, err := tx.Exec(ctx, gone, h.ID, asked.leave); err != nil {
			return false, fmt.Errorf("empty a playlist: %w", err)
		}
	}
	if err := s.bringIn(ctx, tx, h, asked); err != nil {
		return false, err
	}
	const now = `update playlist set filled_at = $2 where id = $1`
	if _, err := tx.Exec(ctx, now, h.ID, s.Clock.Now()); err != nil {
		return false, fmt.Errorf("note that a playlist was filled: %w", err)
	}
	return len(asked.come)+len(asked.leave) > 0, nil
}

// bringIn puts what comes into a held playlist by the dates of its lectures, as far as there is room.
func (s *Service) bringIn(ctx context.Context, tx pgx.Tx, h held, asked asked) error {
	order := h.shown()
	for _, r := range asked.rows {
		if !slices.Contains(asked.come, r.ID) || len(h.items) >= mostEntries {
			continue
		}
		id, err := s.insert(ctx, tx, h, Entry{RecordingID: &r.ID, Filled: true})
		if err != nil {
			return err
		}
		before := playlist.Place(order, r.StartsAt)
		at := slices.IndexFunc(order, func(i playlist.Item[uuid.UUID]) bool { return i.ID == before })
		if at < 0 {
			at = len(order)
		}
		item := playlist.Item[uuid.UUID]{ID: id, Lecture: r.LectureID, At: r.StartsAt, Made: r.CreatedAt}
		order, h.items = slices.Insert(order, at, item), append(h.items, item)
	}
	ids := make([]uuid.UUID, 0, len(order))
	for _, i := range order {
		ids = append(ids, i.ID)
	}
	return keepOrder(ctx, tx, ids)
}

// FillLists fills the playlists that have a sentence, and forgets files that stand in none, again and again.
type FillLists struct{}

// Kind names the job.
func (FillLists) Kind() string { return "fill_playlists" }

// InsertOpts says how it is queued.
func (FillLists) InsertOpts() river.InsertOpts { return jobs.Looking }

// Register adds the jobs of this package to kinds.
func (s *Service) Register(kinds *river.Workers) {
	again := func(ctx context.Context, _ FillLists, _ bool) error {
		return errors.Join(s.FillAll(ctx), s.ForgetFiles(ctx))
	}
	jobs.Register(kinds, jobs.Kind[FillLists]{Limit: 5 * time.Minute, Do: again})
}

// How long after it was filled a playlist is filled again: one by words later, for all that is said is read for it.
const (
	againSoon  = 30 * time.Second
	againWords = 10 * time.Minute
)

// FillAll fills the playlists that have a sentence and were not filled for a while.
func (s *Service) FillAll(ctx context.Context) error {
	const due = `select id, course_id, filled_by from playlist where deleted_at is null and filled_by is not null
		and (fill_words <> '' and coalesce(filled_at, '-infinity') < $2
			or fill_words = '' and fill_course is not null and coalesce(filled_at, '-infinity') < $1)
		order by filled_at nulls first limit 500`
	now := s.Clock.Now()
	lists, err := postgres.All[struct{ ID, CourseID, FilledBy uuid.UUID }](ctx, s.DB, due, now.Add(-againSoon),
		now.Add(-againWords))
	if err != nil {
		return fmt.Errorf("look for playlists to fill: %w", err)
	}
	var faults []error
	for _, l := range lists {
		faults = append(faults, s.refill(ctx, Of{Course: l.CourseID, List: l.ID}, l.FilledBy))
	}
	return errors.Join(faults...)
}

// refill fills a playlist by the sentence that it has, and tells of it where something changed.
func (s *Service) refill(ctx context.Context, of Of, by uuid.UUID) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		h, err := s.hold(ctx, tx, of)
		if errors.Is(err, ErrUnknown) { // it was taken away meanwhile
			return nil
		}
		if err != nil {
			return err
		}
		changed, err := s.fill(ctx, tx, h, by, h.sentence())
		if err != nil || !changed {
			return err
		}
		return said(ctx, tx, h.ID)
	})
}
