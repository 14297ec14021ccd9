package watching

import (
	"context"
	"slices"

	"github.com/google/uuid"

	"latelantern/internal/playlists"
)

// shelves are the playlists that courses show, as someone gets them.
func (a *API) shelves(ctx context.Context, person uuid.UUID, courses ...uuid.UUID) ([]playlists.Shown, error) {
	out, err := a.Playlists.Shelves(ctx, courses)
	if err != nil {
		return nil, err
	}
	return out, a.leaveFiles(ctx, person, out)
}

// leaveFiles leaves out of playlists the files that someone does not get: those of courses that shut them out.
func (a *API) leaveFiles(ctx context.Context, person uuid.UUID, shelves []playlists.Shown) error {
	isFile := func(e playlists.Entry) bool { return e.FileID != nil }
	if !slices.ContainsFunc(shelves, func(x playlists.Shown) bool { return slices.ContainsFunc(x.Entries, isFile) }) {
		return nil
	}
	shut, err := a.Audience.ShutFrom(ctx, person)
	if err != nil {
		return err
	}
	for n, x := range shelves {
		if slices.Contains(shut, x.Course) {
			shelves[n].Entries = slices.DeleteFunc(x.Entries, isFile)
		}
	}
	return nil
}
