package capture

import (
	"context"
	"errors"
	"fmt"
	"io"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/platform/blobs"
	"latelantern/internal/platform/postgres"
)

// logReader reads the bytes of a track as they are acknowledged, waiting for more until
// the track is complete.
type logReader struct {
	ctx   context.Context
	s     *Service
	track uuid.UUID
	file  blobs.Blob
	at    int64
	known Progress
	wake  <-chan struct{}
	fault error // why it could not be read on, if that is so
}

// follow reads a track from its beginning. Close must be called.
func (s *Service) follow(ctx context.Context, track uuid.UUID) (*logReader, error) {
	known, err := s.Stored(ctx, track)
	if err != nil {
		return nil, err
	}
	events, cancel := s.Events.Subscribe()
	wake := make(chan struct{}, 1)
	go func() {
		defer cancel()
		for {
			select {
			case <-ctx.Done():
				return
			case n := <-events:
				if n.Track == track || n.About == postgres.Missed {
					select {
					case wake <- struct{}{}:
					default:
					}
				}
			}
		}
	}()
	return &logReader{ctx: ctx, s: s, track: track, known: known, wake: wake}, nil
}

// await returns when more than n bytes are stored or the track is complete.
func (r *logReader) await(n int64) error {
	for r.known.Stored <= n && !r.known.Complete() {
		select {
		case <-r.ctx.Done():
			return r.ctx.Err()
		case <-r.wake:
		case <-time.After(time.Second): // an event may be lost
		}
		known, err := r.s.Stored(r.ctx, r.track)
		if err != nil {
			return err
		}
		r.known = known
	}
	return nil
}

// head is the first n bytes, or all of them when the track is complete with fewer.
func (r *logReader) head(n int64) ([]byte, error) {
	if err := r.await(n - 1); err != nil {
		return nil, err
	}
	b, err := r.s.Blobs.Range(logKey(r.track), 0, min(n, r.known.Stored))
	if errors.Is(err, blobs.ErrNotFound) && r.known.Stored == 0 {
		return nil, nil
	}
	return b, err
}

// Read implements io.Reader. Who is given the bytes may take an error for the end, and so it is kept.
func (r *logReader) Read(b []byte) (int, error) {
	n, err := r.read(b)
	if err != nil && !errors.Is(err, io.EOF) {
		r.fault = err
	}
	return n, err
}

func (r *logReader) read(b []byte) (int, error) {
	if err := r.await(r.at); err != nil {
		return 0, err
	}
	left := r.known.Stored - r.at
	if left == 0 {
		return 0, io.EOF
	}
	if r.file == nil {
		f, err := r.s.Blobs.Follow(logKey(r.track))
		if err != nil {
			return 0, fmt.Errorf("read a track: %w", err)
		}
		r.file = f
	}
	n, err := r.file.ReadAt(b[:min(int64(len(b)), left)], r.at)
	r.at += int64(n)
	if n > 0 {
		return n, nil
	}
	return 0, err
}

// Close ends the reading.
func (r *logReader) Close() error {
	if r.file == nil {
		return nil
	}
	return r.file.Close()
}
