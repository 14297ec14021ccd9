package capture

import (
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"slices"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/fingerprint"
	"latelantern/internal/platform/blobs"
	"latelantern/internal/platform/postgres"
)

// keepFingerprint keeps by what a file that came whole is known again.
func (s *Service) keepFingerprint(ctx context.Context, tx pgx.Tx, track uuid.UUID) error {
	size := s.Blobs.Size(logKey(track))
	file, err := s.Blobs.Open(logKey(track))
	if errors.Is(err, blobs.ErrNotFound) {
		return nil // nothing came
	}
	if err != nil {
		return fmt.Errorf("read a file that came: %w", err)
	}
	defer file.Close()
	print, err := fingerprint.Print(size, file)
	if err != nil {
		return fmt.Errorf("read a file that came: %w", err)
	}
	if _, err := tx.Exec(ctx, `update track set fingerprint = $2 where id = $1`, track, print); err != nil {
		return fmt.Errorf("keep by what a file is known: %w", err)
	}
	return nil
}

// Known is where a file is already, or how far it has come.
type Known struct {
	TrackID     uuid.UUID
	CourseID    *uuid.UUID // this and what follows is nil of a file without a lecture
	Code        string     // of the course
	LectureID   *uuid.UUID
	RecordingID *uuid.UUID
	Title       string // "" when it has none of its own
	FileName    string
	By          *uuid.UUID // who sent it
	ByName      string
	Stored      int64
	Size        *int64 // nil while its sender has not said it
	Deleted     bool   // it was taken away, and can be brought back
}

// Sending reports whether it has not come whole yet.
func (k Known) Sending() bool { return k.Size == nil || k.Stored < *k.Size }

const knownSQL = `select t.id as track_id, l.course_id, coalesce(k.code, '') as code, l.id as lecture_id,
	r.id as recording_id, coalesce(r.title, '') as title, c.file_name,
		c.started_by as by, coalesce(p.name, '') as by_name, t.stored, t.length as size, r.deleted_at is not null
		or a.put_away_at is not null as deleted
	from track t join capture c on c.id = t.capture_id left join arrival a on a.track_id = t.id left
	join person p on p.id = c.started_by
	left join recording_capture rc on rc.capture_id = c.id and rc.from_ms is null left
	join recording r on r.id = rc.recording_id
	left join lecture l on l.id = r.lecture_id left join course k on k.id = l.course_id
	where t.fingerprint = $1 and (r.id is not null or c.lecture_id is null)
	order by r.deleted_at is not null or a.put_away_at is not null, c.started_at desc`

// Find lists what came, or is coming, as a file of this fingerprint, the latest first; what was
// taken away comes last.
func (s *Service) Find(ctx context.Context, print []byte) ([]Known, error) {
	return find(ctx, s.DB, print)
}

func find(ctx context.Context, q postgres.Querier, print []byte) ([]Known, error) {
	out, err := postgres.All[Known](ctx, q, knownSQL, print)
	if err != nil {
		return nil, fmt.Errorf("look for a file: %w", err)
	}
	return out, nil
}

// refuseTwice refuses to begin a file that is here or on its way, unless its sender says Again.
// Of two who begin at once, one is refused: they take turns.
func (s *Service) refuseTwice(ctx context.Context, tx pgx.Tx, in Start) error {
	if len(in.Print) != fingerprint.Length || in.Again {
		return nil
	}
	if _, err := tx.Exec(ctx, `select pg_advisory_xact_lock($1)`,
		int64(binary.BigEndian.Uint64(in.Print))); err != nil {
		return fmt.Errorf("wait for another who sends the same file: %w", err)
	}
	found, err := find(ctx, tx, in.Print)
	if err != nil {
		return err
	}
	if slices.ContainsFunc(found, func(k Known) bool { return !k.Deleted }) {
		return ErrHere
	}
	return nil
}
