package sharing

import (
	"context"
	"net/http"
	"slices"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/core/playlist"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/playlists"
	"latelantern/internal/roster"
	"latelantern/internal/schedule"
)

// PlaylistPage is the playlist of a course as its teachers see it.
type PlaylistPage struct {
	Course  page.CourseName     `json:"course"`
	Zone    string              `json:"zone"`
	Entries []page.PlaylistLine `json:"entries" nullable:"false"`
	Took    int                 `json:"took" doc:"lectures of the course that took place"`
	Here    int                 `json:"here" doc:"of them, those with a recording in the playlist"`
	Gaps    []GapLine           `json:"gaps" nullable:"false" doc:"those that are missing, in the order of the timetable"`
	Waiting []WaitingLine       `json:"waiting" nullable:"false" doc:"other recordings of the course that are not in the playlist"`
}

// GapLine is a lecture that took place and has no recording in the playlist.
type GapLine struct {
	Lecture   uuid.UUID  `json:"lecture_id" format:"uuid"`
	Week      int        `json:"week"`
	StartsAt  time.Time  `json:"starts_at"`
	Topic     string     `json:"topic"`
	Why       string     `json:"why" enum:"not_captured,empty,waits,bin"`
	Next      string     `json:"next,omitempty" enum:"trim,title,rule" doc:"of what waits: its next step"`
	Recording *uuid.UUID `json:"recording_id,omitempty" format:"uuid" doc:"that waits, or is in the bin"`
}

// WaitingLine is a recording that could be added.
type WaitingLine struct {
	RecordingID uuid.UUID `json:"recording_id" format:"uuid"`
	Title       string    `json:"title"`
	Week        int       `json:"week"`
	StartsAt    time.Time `json:"starts_at"`
	Next        string    `json:"next"`
}

type headingInput struct {
	edge.OfCourse
	Body struct {
		Heading string `json:"heading"`
	}
}

type entryInput struct {
	edge.OfCourse
	Entry uuid.UUID `path:"entry" format:"uuid"`
}

type renameInput struct {
	edge.OfCourse
	Entry uuid.UUID `path:"entry" format:"uuid"`
	Body  struct {
		Heading string `json:"heading"`
	}
}

type moveInput struct {
	edge.OfCourse
	Entry uuid.UUID `path:"entry" format:"uuid"`
	Body  struct {
		Before *uuid.UUID `json:"before,omitempty" format:"uuid" doc:"the entry it comes before; none for the end"`
	}
}

type addInput struct {
	edge.OfCourse
	Body struct {
		Recording uuid.UUID `json:"recording" format:"uuid"`
	}
}

func (a *API) playlistRoutes() {
	type done = edge.Body[PlaylistPage]
	page := func(ctx context.Context, course uuid.UUID, err error) (*done, error) {
		if err != nil {
			return nil, err
		}
		out, err := a.playlist(ctx, course)
		if err != nil {
			return nil, err
		}
		return edge.Answer(out), nil
	}
	const path = "/api/courses/{course}/playlist"
	edge.On(a.Edge, edge.Staff, http.MethodGet, path, "playlist", "The playlist of a course",
		func(ctx context.Context, _ roster.Person, in *edge.OfCourse) (*done, error) {
			return page(ctx, in.Course, nil)
		})
	edge.On(a.Edge, edge.Staff, http.MethodPost, path+"/recordings", "add-to-playlist",
		"Put a recording into the playlist",
		func(ctx context.Context, _ roster.Person, in *addInput) (*done, error) {
			return page(ctx, in.Course, a.Playlists.Add(ctx, in.Course, in.Body.Recording))
		})
	edge.On(a.Edge, edge.Staff, http.MethodPost, path+"/headings", "add-heading", "Add a topic heading",
		func(ctx context.Context, _ roster.Person, in *headingInput) (*done, error) {
			_, err := a.Playlists.AddHeading(ctx, in.Course, in.Body.Heading)
			return page(ctx, in.Course, err)
		})
	edge.On(a.Edge, edge.Staff, http.MethodPut, path+"/entries/{entry}/heading", "rename-heading",
		"Rename a topic heading",
		func(ctx context.Context, _ roster.Person, in *renameInput) (*done, error) {
			return page(ctx, in.Course, a.Playlists.Rename(ctx, in.Course, in.Entry, in.Body.Heading))
		})
	edge.On(a.Edge, edge.Staff, http.MethodPut, path+"/entries/{entry}/place", "move-entry", "Move an entry",
		func(ctx context.Context, _ roster.Person, in *moveInput) (*done, error) {
			before := uuid.Nil
			if in.Body.Before != nil {
				before = *in.Body.Before
			}
			return page(ctx, in.Course, a.Playlists.Move(ctx, in.Course, in.Entry, before))
		})
	edge.On(a.Edge, edge.Staff, http.MethodDelete, path+"/entries/{entry}", "remove-entry",
		"Take an entry out of the playlist",
		func(ctx context.Context, _ roster.Person, in *entryInput) (*done, error) {
			return page(ctx, in.Course, a.Playlists.Remove(ctx, in.Course, in.Entry))
		})
}

func (a *API) playlist(ctx context.Context, id uuid.UUID) (PlaylistPage, error) {
	course, err := a.Schedule.Course(ctx, id)
	if err != nil {
		return PlaylistPage{}, err
	}
	term, err := a.Schedule.TermOf(ctx, id)
	if err != nil {
		return PlaylistPage{}, err
	}
	entries, err := a.Playlists.Entries(ctx, id)
	if err != nil {
		return PlaylistPage{}, err
	}
	counts, err := a.Audience.Counts(ctx, id)
	if err != nil {
		return PlaylistPage{}, err
	}
	lectures, err := a.Schedule.Lectures(ctx, []uuid.UUID{id})
	if err != nil {
		return PlaylistPage{}, err
	}
	suggested := map[uuid.UUID]string{}
	for _, l := range lectures {
		if l.RecordingID != nil {
			suggested[*l.RecordingID] = l.SuggestedTitle(term)
		}
	}
	now := a.Clock.Now()
	out := PlaylistPage{Course: page.CourseName{ID: course.ID, Code: course.Code, Title: course.Title},
		Zone:    term.Zone.String(),
		Entries: []page.PlaylistLine{}, Gaps: []GapLine{}, Waiting: []WaitingLine{}}
	listed := map[uuid.UUID]bool{} // lectures
	for _, e := range entries {
		line := page.LineOf(e, term.Week, suggested)
		if e.RecordingID != nil {
			count := counts[*e.RecordingID]
			line.From = e.From
			line.Can, line.Of, line.Light = count.Can, course.Students, string(page.LightOf(count.Can, course.Students))
			listed[postgres.OrZero(e.LectureID)] = true
		}
		out.Entries = append(out.Entries, line)
	}
	binned, err := a.Recordings.Binned(ctx, id)
	if err != nil {
		return PlaylistPage{}, err
	}
	missing := map[uuid.UUID]bool{} // lectures
	for _, l := range lectures {
		if missing[l.ID] = out.gap(l, listed[l.ID], binned, term, now); missing[l.ID] {
			continue
		}
		if l.RecordingID != nil && !l.Listed && !l.Running && !l.Failed {
			title := l.Title
			if title == "" {
				title = l.SuggestedTitle(term)
			}
			out.Waiting = append(out.Waiting,
				WaitingLine{*l.RecordingID, title, term.Week(l.StartsAt).Number, l.StartsAt,
					string(l.Workflow().Next(now))})
		}
	}
	slices.Reverse(out.Waiting)
	return out, nil
}

// gap adds a lecture of a term to those that took place, and to those that are missing if it is, which it says.
func (p *PlaylistPage) gap(l schedule.Lecture, listed bool, binned map[uuid.UUID]uuid.UUID, term schedule.Term,
	now time.Time) bool {
	bin, inBin := binned[l.ID]
	next := l.Workflow().Next(now)
	x := playlist.Lecture{Listed: listed, Over: l.EndsAt.Before(now), CalledOff: l.CalledOff, Private: l.Private,
		Recorded: l.RecordingID != nil, Running: l.Running, Failed: l.Failed, Binned: inBin, Next: next}
	if x.Took() {
		p.Took++
	}
	if x.Took() && listed {
		p.Here++
	}
	why, missing := x.Gap()
	if !missing {
		return false
	}
	line := GapLine{Lecture: l.ID, Week: term.Week(l.StartsAt).Number, StartsAt: l.StartsAt, Topic: l.Topic,
		Why: string(why), Recording: l.RecordingID}
	switch why {
	case playlist.Waits:
		line.Next = string(next)
	case playlist.Binned:
		line.Recording = &bin
	}
	p.Gaps = append(p.Gaps, line)
	return true
}

var playlistProblems = edge.Problems{
	playlists.ErrUnknown: http.StatusNotFound,
	playlists.ErrInvalid: http.StatusUnprocessableEntity,
}
