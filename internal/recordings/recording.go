// Package recordings reads what recordings are: what is known of them, what they are made of, and what of them can be
// played. It writes nothing, so that whoever changes a recording, and whoever shows one, sees the same.
package recordings

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	lru "github.com/hashicorp/golang-lru/v2"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"

	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/span"
	"latelantern/internal/core/tally"
	"latelantern/internal/platform/blobs"
	"latelantern/internal/platform/postgres"
)

// Reader is the read model.
type Reader struct {
	DB    *pgxpool.Pool
	Blobs blobs.Keeper

	packs   *lru.Cache[string, cached]
	handles *blobs.Handles
}

// mostHandles is how many files of segments are kept open that nobody reads.
const mostHandles = 512

// New is a reader over the given parts. Without a database it reads packaged tracks alone.
func New(db *pgxpool.Pool, disk blobs.Keeper) *Reader {
	packs, err := lru.New[string, cached](64)
	if err != nil {
		panic(err) // the size is positive
	}
	return &Reader{DB: db, Blobs: disk, packs: packs, handles: blobs.NewHandles(disk, mostHandles)}
}

// BinDays is how many days what was taken away can be brought back.
const BinDays = 30

// ErrUnknown says that there is no such recording.
var ErrUnknown = fault.Code("recording.unknown")

// ErrNotReady says that a recording cannot be watched yet.
var ErrNotReady = fault.Code("recording.not_ready")

// Recording is what is known of a recording.
type Recording struct {
	ID             uuid.UUID
	LectureID      uuid.UUID
	CourseID       uuid.UUID
	Title          string
	Titled         bool
	Description    string
	Language       string // BCP 47; "" for that of its course
	Keywords       []string
	CutListID      *uuid.UUID
	EditionID      *uuid.UUID
	Deleted        bool
	GoneAt         time.Time // when it is removed for good, if it is deleted
	Struck         span.Set
	Led            span.Set // where the second picture leads
	ByItself       bool     // the cuts are those that were made by themselves
	Undo, Redo     bool     // whether there is a change to take back, or to make again
	Parts          int      // how many captures it is made of
	Holes          span.Set // where nothing was captured
	SecondVideo    bool     // there is a second picture
	Source         string
	FileName       string
	StartedAt      time.Time
	StoppedAt      *time.Time
	StartedBy      *uuid.UUID
	State          string // waiting, running, ready, failed
	Fault          string
	Stored         int64
	Size           *int64 // in bytes, once known
	Length         time.Duration
	Expected       time.Duration // of a file that is being packaged; 0 when not known
	PackBeganAt    *time.Time    // when that was begun; nil while it is not done
	Encoded        bool          // a foreign file, of which an own copy is made
	PackedAt       *time.Time    // when all of it could be watched
	OriginalGoneAt *time.Time    // when the original of a foreign file was removed
	Video          bool
	Audio          bool
	SmallState     string             // of its small copy: "", making, ready, failed
	SmallShare     int                // per cent of it that is made
	Making         *uuid.UUID         // the edition that is wanted, while it is being made
	MakingFault    string             // why the edition that is wanted could not be made
	Differs        []tally.Difference // what came and cannot be watched
	EditedCuts     *uuid.UUID         // the cut list of the edition that is published
	Outdated       bool               // what it is made of is other than when that was asked for
}

// Cuts is the cut list of the recording.
func (r Recording) Cuts() cutlist.List { return cutlist.New(r.Length, r.Struck) }

// Current reports whether the published edition is what stands on the trim bench.
func (r Recording) Current() bool {
	if r.EditionID == nil || r.Outdated {
		return false
	}
	a, b := r.EditedCuts, r.CutListID
	return a == nil && b == nil || a != nil && b != nil && *a == *b
}

const recordingSQL = `select r.id, r.lecture_id, o.course_id, r.title, r.titled_at is not null as titled, r.description,
	r.language, r.keywords,
	r.cut_list_id, r.edition_id, r.deleted_at is not null as deleted, coalesce(r.deleted_at, 'epoch') as deleted_at,
	coalesce(cl.struck, '{}'::int8multirange) as struck, coalesce(cl.led, '{}'::int8multirange) as led,
	cl.id is not null and cl.made_by is null as by_itself,
	r.cut_list_id is not null as undo,
	exists (select 1 from cut_list n where n.recording_id = r.id and n.parent_id is not distinct
	from r.cut_list_id) as redo,
	x.source, x.file_name, x.started_at, x.stopped_at, x.started_by, x.state, x.fault, x.stored, x.size, x.parts,
	x.length_ms, x.expected_ms, x.pack_began_at, x.encoded, x.packed_at, x.original_gone_at, x.video, x.audio,
	x.second_video, x.small_state, x.small_percent as small_share,
	case when wanted.state = 'making' then wanted.id end as making,
	case when wanted.state = 'failed' then wanted.fault else '' end as making_fault,
	(select jsonb_agg(d) from recording_capture rc
	join track t on t.capture_id = rc.capture_id, jsonb_array_elements(t.differs) d
	where rc.recording_id = r.id) as differs,
	e.cut_list_id as edited_cuts, coalesce(e.outdated, false) as outdated
	from recorded r
	join release o on o.recording_id = r.id and o.own
	join recording_source x on x.recording_id = r.id
	left join cut_list cl on cl.id = r.cut_list_id
	left join edition e on e.id = r.edition_id
	left join edition wanted on wanted.id = r.wanted_edition_id
	where r.id = $1`

// Recording is the recording with this id, deleted or not. Its error is ErrUnknown for none.
func (s *Reader) Recording(ctx context.Context, id uuid.UUID) (Recording, error) {
	return s.In(ctx, s.DB, id)
}

// In is Recording as a transaction sees it.
func (s *Reader) In(ctx context.Context, q postgres.Querier, id uuid.UUID) (Recording, error) {
	type row struct {
		ID, LectureID, CourseID               uuid.UUID
		Title                                 string
		Titled                                bool
		Description, Language                 string
		Keywords                              []string
		CutListID, EditionID                  *uuid.UUID
		Deleted                               bool
		DeletedAt                             time.Time
		Struck, Led                           postgres.Multirange
		ByItself                              bool
		Undo, Redo                            bool
		Parts                                 int
		SecondVideo                           bool
		Source, FileName                      string
		StartedAt                             time.Time
		StoppedAt                             *time.Time
		StartedBy                             *uuid.UUID
		State, Fault                          string
		Stored                                int64
		Size                                  *int64
		LengthMs, ExpectedMs                  int64
		PackBeganAt, PackedAt, OriginalGoneAt *time.Time
		Encoded                               bool
		Video, Audio                          bool
		SmallState                            string
		SmallShare                            int
		Making                                *uuid.UUID
		MakingFault                           string
		Differs                               []tally.Difference
		EditedCuts                            *uuid.UUID
		Outdated                              bool
	}
	x, err := postgres.One[row](ctx, q, recordingSQL, id)
	if errors.Is(err, pgx.ErrNoRows) {
		return Recording{}, ErrUnknown
	}
	if err != nil {
		return Recording{}, fmt.Errorf("read a recording: %w", err)
	}
	r := Recording{
		ID: x.ID, LectureID: x.LectureID, CourseID: x.CourseID,
		Title: x.Title, Titled: x.Titled, Description: x.Description, Language: x.Language, Keywords: x.Keywords,
		CutListID: x.CutListID, EditionID: x.EditionID, Deleted: x.Deleted, GoneAt: x.DeletedAt.AddDate(0, 0, BinDays),
		Struck: postgres.Set(x.Struck), Led: postgres.Set(x.Led), ByItself: x.ByItself, Undo: x.Undo, Redo: x.Redo,
		Parts: x.Parts, SecondVideo: x.SecondVideo, Source: x.Source, FileName: x.FileName,
		StartedAt: x.StartedAt, StoppedAt: x.StoppedAt, StartedBy: x.StartedBy,
		State: x.State, Fault: x.Fault, Stored: x.Stored, Size: x.Size,
		Length: time.Duration(x.LengthMs) * time.Millisecond, Expected: time.Duration(x.ExpectedMs) * time.Millisecond,
		PackBeganAt: x.PackBeganAt, Encoded: x.Encoded, PackedAt: x.PackedAt, OriginalGoneAt: x.OriginalGoneAt,
		Video: x.Video, Audio: x.Audio, SmallState: x.SmallState, SmallShare: x.SmallShare,
		Making: x.Making, MakingFault: x.MakingFault, Differs: x.Differs, EditedCuts: x.EditedCuts,
		Outdated: x.Outdated,
	}
	if r.Parts > 1 {
		if r.Holes, err = s.holes(ctx, q, id); err != nil {
			return r, err
		}
	}
	return r, nil
}

// holes is where nothing of a recording was captured.
func (s *Reader) holes(ctx context.Context, q postgres.Querier, id uuid.UUID) (span.Set, error) {
	pieces, err := s.Layout(ctx, q, id)
	if err != nil {
		return span.Set{}, err
	}
	var all []span.Span
	for _, p := range pieces {
		all = append(all, p.At)
	}
	return span.Of(span.Span{End: span.Of(all...).End()}).Subtract(span.Of(all...)), nil
}

// Kept is what of the recording is published: neither struck, nor a hole.
func (r Recording) Kept() span.Set { return r.Cuts().Kept().Subtract(r.Holes) }
