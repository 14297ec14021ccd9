package playlists

import (
	"context"
	"errors"
	"fmt"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/platform/postgres"
)

// NewEntry is a line of a playlist that is brought from elsewhere: a heading, or a recording, or else a page.
type NewEntry struct {
	Heading   string
	Recording uuid.UUID
	Title     string
	Address   string
}

// Bring makes a playlist of a course with entries in their order, and gives it. Unknown are the places of entries that
// are left out: no recording that the course has or that is of one that is taught, none that is there already, and no
// page that can be kept.
func (s *Service) Bring(ctx context.Context, course, by uuid.UUID, k Kept, entries []NewEntry,
	taught []uuid.UUID) (id uuid.UUID, unknown []int, err error) {
	if k, err = k.clean(false); err != nil {
		return id, nil, err
	}
	err = postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		if id, err = s.addList(ctx, tx, course, by, k); err != nil {
			return err
		}
		h, err := s.hold(ctx, tx, Of{Course: course, List: id})
		if err != nil {
			return err
		}
		for at, e := range entries {
			there, err := s.bringOne(ctx, tx, h, e, taught)
			if err != nil {
				return err
			}
			if !there {
				unknown = append(unknown, at)
			}
		}
		return said(ctx, tx, id)
	})
	return id, unknown, err
}

func (s *Service) bringOne(ctx context.Context, tx pgx.Tx, h held, e NewEntry, taught []uuid.UUID) (bool, error) {
	new := Entry{}
	switch {
	case e.Heading != "":
		t, err := Text{Title: e.Heading}.clean(false)
		if err != nil {
			return false, left(err)
		}
		new.Heading = &t.Title
	case e.Recording != uuid.Nil:
		if _, err := recordingFor(ctx, tx, h.CourseID, e.Recording, taught); err != nil {
			return false, left(err)
		}
		new.RecordingID = &e.Recording
	default:
		t, err := Text{Title: e.Title, Address: e.Address}.clean(true)
		if err != nil {
			return false, left(err)
		}
		new.Title, new.Address = t.Title, &t.Address
	}
	id, err := s.insert(ctx, tx, h, new)
	return id != uuid.Nil, err
}

// left is the error of an entry, nil where it is only left out.
func left(err error) error {
	if errors.Is(err, ErrUnknown) || errors.Is(err, ErrInvalid) {
		return nil
	}
	return fmt.Errorf("bring an entry of a playlist: %w", err)
}
