package capture

import (
	"context"
	"errors"
	"fmt"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/likeness"
	"latelantern/internal/platform/blobs"
	"latelantern/internal/platform/postgres"
)

// keepLikeness keeps by what a file that came whole is known again.
func (s *Service) keepLikeness(ctx context.Context, tx pgx.Tx, track uuid.UUID) error {
	size := s.Blobs.Size(logKey(track))
	file, err := s.Blobs.Open(logKey(track))
	if errors.Is(err, blobs.ErrNotFound) {
		return nil // nothing came
	}
	if err != nil {
		return fmt.Errorf("read a file that came: %w", err)
	}
	defer file.Close()
	print, err := likeness.Print(size, file)
	if err != nil {
		return fmt.Errorf("read a file that came: %w", err)
	}
	if _, err := tx.Exec(ctx, `update track set likeness = $2 where id = $1`, track, print); err != nil {
		return fmt.Errorf("keep by what a file is known: %w", err)
	}
	return nil
}

// Known is where a file is already.
type Known struct {
	CourseID    uuid.UUID
	Code        string // of the course
	LectureID   uuid.UUID
	RecordingID uuid.UUID
	Title       string // "" when it has none of its own
	FileName    string
	Deleted     bool // it was taken away, and can be brought back
}

// Find lists the recordings that came as a file of this likeness, the latest first; what was
// taken away comes last.
func (s *Service) Find(ctx context.Context, print []byte) ([]Known, error) {
	const query = `select l.course_id, k.code, l.id as lecture_id, r.id as recording_id, r.title, c.file_name, r.deleted_at is not null as deleted
		from track t join capture c on c.id = t.capture_id join recording_capture rc on rc.capture_id = c.id join recording r on r.id = rc.recording_id
		join lecture l on l.id = r.lecture_id join course k on k.id = l.course_id
		where t.likeness = $1 order by r.deleted_at is not null, r.created_at desc`
	out, err := postgres.All[Known](ctx, s.DB, query, print)
	if err != nil {
		return nil, fmt.Errorf("look for a file: %w", err)
	}
	return out, nil
}
