package chat

import (
	"context"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/layout"
)

// ahead is by how much what a player says it shows may lie before what is captured now.
const ahead = 10 * time.Second

// moment is where on the clock of which capture something was said: where the player of who said it was, or else what
// was captured when it was written. Without either it has none.
func (s *Service) moment(ctx context.Context, tx pgx.Tx, x Saying, said time.Time) (*uuid.UUID, *int64, error) {
	running, now, err := s.Recordings.Running(ctx, tx, x.Lecture, said)
	if err != nil {
		return nil, nil, err
	}
	if x.Heard != nil {
		pieces, err := s.Recordings.Layout(ctx, tx, x.Heard.Recording)
		if err != nil {
			return nil, nil, err
		}
		capture, at, ok := heard(pieces, x.Heard.At)
		// What a page says of where it is is not believed beyond what is captured.
		if ok && (x.Later || capture == running && at <= now+ahead) {
			return &capture, ms(at), nil
		}
	}
	if running == uuid.Nil || x.Later {
		return nil, nil, nil
	}
	return &running, ms(now), nil
}

func ms(d time.Duration) *int64 {
	n := max(0, d.Milliseconds())
	return &n
}

// heard is where a moment of a recording lies on the clock of its capture: that of the piece in which it is, or for
// what was not cut into segments yet of the last that began before.
func heard(pieces []layout.Shown, at time.Duration) (capture uuid.UUID, local time.Duration, ok bool) {
	for _, p := range pieces {
		if at >= p.At.Start {
			capture, local, ok = p.Capture, at-p.Start, true
		}
	}
	return capture, local, ok
}
