package watching

import (
	"cmp"
	"context"
	"net/http"
	"slices"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/core/playlist"
	"latelantern/internal/playlists"
	"latelantern/internal/roster"
)

// LinkedList is a playlist as whoever came by its link sees it: what is open to them of it, and nothing else.
type LinkedList struct {
	Title   string       `json:"title" doc:"of the course, for its main playlist"`
	About   string       `json:"about"`
	Zone    string       `json:"zone"`
	Entries []LinkedLine `json:"entries" nullable:"false"`
}

// LinkedLine is a heading, a recording, or a page elsewhere.
type LinkedLine struct {
	Heading     *string    `json:"heading,omitempty"`
	About       string     `json:"about,omitempty" doc:"a sentence below a heading"`
	Address     string     `json:"address,omitempty" doc:"of a page elsewhere"`
	RecordingID *uuid.UUID `json:"recording_id,omitempty" format:"uuid"`
	Title       string     `json:"title"`
	Part        int        `json:"part,omitempty" doc:"which of the parts of its lecture it is, when there are several"`
	Parts       int        `json:"parts,omitempty"`
	StartsAt    *time.Time `json:"starts_at,omitempty"`
	LengthMs    int64      `json:"length_ms"`
	Picture     string     `json:"picture,omitempty" doc:"the address of a small picture of it"`
}

// LinkName is the playlist of a link.
type LinkName struct {
	Opening uuid.UUID `json:"opening_id" format:"uuid"`
	Title   string    `json:"title"`
}

type linkedInput struct {
	Opening uuid.UUID `path:"opening" format:"uuid" doc:"by which they came"`
}

func (a *API) linkedRoutes() {
	edge.On(a.Edge, edge.Inside, http.MethodGet, "/api/linked/{opening}", "linked-list",
		"A playlist whose link one came by", a.linked)
}

// linked is for who came by the link as it is now.
func (a *API) linked(ctx context.Context, p roster.Person, in *linkedInput) (*edge.Body[LinkedList], error) {
	course, id, err := a.Audience.ListOf(ctx, p.ID, in.Opening)
	if err != nil {
		return nil, err
	}
	out, err := a.linkedList(ctx, p, course, id)
	return edge.Answer(out), err
}

func (a *API) linkedList(ctx context.Context, p roster.Person, course, id uuid.UUID) (LinkedList, error) {
	list, err := a.Playlists.List(ctx, id)
	if err != nil {
		return LinkedList{}, err
	}
	of, err := a.Schedule.Course(ctx, course)
	if err != nil {
		return LinkedList{}, err
	}
	term, err := a.Schedule.TermOf(ctx, course)
	if err != nil {
		return LinkedList{}, err
	}
	entries, err := a.Playlists.Entries(ctx, playlists.Of{Course: course, List: id})
	if err != nil {
		return LinkedList{}, err
	}
	var recordings []uuid.UUID
	for _, e := range entries {
		if e.RecordingID != nil && e.Lit {
			recordings = append(recordings, *e.RecordingID)
		}
	}
	accesses, err := a.Audience.DecideAll(ctx, p.ID, recordings)
	if err != nil {
		return LinkedList{}, err
	}
	having, err := a.having(ctx, p, accesses)
	if err != nil {
		return LinkedList{}, err
	}
	out := LinkedList{Title: cmp.Or(list.Title, of.Title), About: list.About, Zone: term.Zone.String(),
		Entries: []LinkedLine{}}
	for _, e := range entries {
		if e.FileID != nil || e.RecordingID != nil && (!e.Lit || !accesses[*e.RecordingID].Watch()) {
			continue
		}
		line := page.LineOf(e, term.Week, nil)
		x := LinkedLine{Heading: line.Heading, About: line.About, Address: line.Address, RecordingID: line.RecordingID,
			Title: line.Title, Part: line.Part, Parts: line.Parts, StartsAt: line.StartsAt, LengthMs: line.LengthMs}
		if e.RecordingID != nil {
			x.Picture = having.pictures[*e.RecordingID]
		}
		out.Entries = append(out.Entries, x)
	}
	out.Entries = playlist.Headed(out.Entries, func(x LinkedLine) bool { return x.Heading != nil })
	return out, nil
}

// linkedNext adds to a recording that a guest watches the playlist whose link they came by, and what comes next in it.
func (a *API) linkedNext(ctx context.Context, p roster.Person, out *Watch) error {
	to, _ := edge.GuestOf(ctx)
	if to.Opening == uuid.Nil {
		return nil
	}
	course, id, err := a.Audience.ListOf(ctx, p.ID, to.Opening)
	if err != nil {
		return err
	}
	list, err := a.linkedList(ctx, p, course, id)
	if err != nil {
		return err
	}
	is := func(x LinkedLine) bool { return x.RecordingID != nil && *x.RecordingID == out.ID }
	at := slices.IndexFunc(list.Entries, is)
	if at < 0 {
		return nil // it is open to them by another link
	}
	out.List = &LinkName{to.Opening, list.Title}
	for _, x := range list.Entries[at+1:] {
		if x.RecordingID != nil {
			out.Next, out.NextTitle = x.RecordingID, x.Title
			break
		}
	}
	return nil
}
