package watching

import (
	"cmp"
	"context"
	"slices"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/audience"
	"latelantern/internal/core/catchup"
	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/playlist"
	"latelantern/internal/core/viewing"
	"latelantern/internal/playlists"
	"latelantern/internal/roster"
	"latelantern/internal/schedule"
)

// CatchUp is what a student can watch.
type CatchUp struct {
	Now     time.Time       `json:"now"`
	Zone    string          `json:"zone"`
	Live    []LiveLine      `json:"live" nullable:"false" doc:"lectures that can be followed now"`
	Courses []CatchUpCourse `json:"courses" nullable:"false"`
	Opened  []CatchUpLine   `json:"opened" nullable:"false" doc:"recordings that are open to them beside their courses"`
}

// LiveLine is a lecture that is being captured.
type LiveLine struct {
	LectureID   uuid.UUID `json:"lecture_id" format:"uuid"`
	RecordingID uuid.UUID `json:"recording_id" format:"uuid"`
	Course      string    `json:"course"`
	Title       string    `json:"title"`
	HeldMs      int64     `json:"held_ms" doc:"how much of it is held"`
	Phase       string    `json:"phase" enum:"begins,runs,paused,broken,over"`
	Enter       bool      `json:"enter" doc:"the doorway is open to who asks"`
}

// CatchUpCourse is what a course shows as one student sees it.
type CatchUpCourse struct {
	Course page.CourseName `json:"course"`
	Lists  []CatchUpList   `json:"lists" nullable:"false" doc:"the playlists with something in them"`
}

// ListHead is what a playlist is called where students meet it.
type ListHead struct {
	ID     uuid.UUID `json:"id" format:"uuid"`
	Title  string    `json:"title" doc:"empty for the main one of the course"`
	About  string    `json:"about"`
	Weekly bool      `json:"weekly" doc:"in order below the weeks of its lectures"`
}

func headOf(x playlists.Shown) ListHead {
	return ListHead{ID: x.ID, Title: x.Title, About: x.About, Weekly: x.Arranged == playlist.Week}
}

// CatchUpList is a playlist as one student sees it.
type CatchUpList struct {
	ListHead
	Entries []CatchUpLine `json:"entries" nullable:"false"`
}

// CatchUpLine is a heading, a recording that is lit, a page elsewhere, or a file.
type CatchUpLine struct {
	Heading     *string           `json:"heading,omitempty"`
	About       string            `json:"about,omitempty" doc:"a sentence below a heading"`
	Address     string            `json:"address,omitempty" doc:"of a page elsewhere"`
	File        *page.HandoutLine `json:"file,omitempty"`
	Part        int               `json:"part,omitempty" doc:"which of the parts of its lecture it is, when there are several"`
	Parts       int               `json:"parts,omitempty"`
	RecordingID *uuid.UUID        `json:"recording_id,omitempty" format:"uuid"`
	Title       string            `json:"title"`
	Week        int               `json:"week"`
	StartsAt    *time.Time        `json:"starts_at,omitempty"`
	LengthMs    int64             `json:"length_ms"`
	Open        bool              `json:"open"`
	Reason      string            `json:"reason"`
	Opens       *time.Time        `json:"opens,omitempty"`
	SeenMs      int64             `json:"seen_ms" doc:"published time at which they stopped"`
	Seen        bool              `json:"seen" doc:"all of it"`
}

func (a *API) catchUp(ctx context.Context, p roster.Person, _ *edge.Empty) (*edge.Body[CatchUp], error) {
	term, err := a.Schedule.CurrentTerm(ctx)
	if err != nil {
		return nil, err
	}
	parts, err := a.Roster.Memberships(ctx, p.ID)
	if err != nil {
		return nil, err
	}
	places, err := a.CatchUp.Positions(ctx, p.ID)
	if err != nil {
		return nil, err
	}
	out := CatchUp{Now: a.Clock.Now(), Zone: term.Zone.String(), Live: []LiveLine{}, Courses: []CatchUpCourse{},
		Opened: []CatchUpLine{}}
	var courses []uuid.UUID
	for _, m := range parts {
		courses = append(courses, m.CourseID)
	}
	shelves, err := a.shelves(ctx, p.ID, courses...)
	if err != nil {
		return nil, err
	}
	open, lectures, err := a.opening(ctx, p, courses, shelves, places)
	if err != nil {
		return nil, err
	}
	if out.Live, err = a.liveNow(ctx, p, term, lectures); err != nil {
		return nil, err
	}
	var listed []uuid.UUID // what is dark in a course is not, though its playlist has it
	for _, m := range parts {
		course := CatchUpCourse{Course: page.CourseName{ID: m.CourseID, Code: m.Code, Title: m.Title},
			Lists: []CatchUpList{}}
		for _, x := range shelves {
			if x.Course != m.CourseID {
				continue
			}
			lines := a.catchUpLines(ctx, term, x.Entries, open)
			for _, l := range lines {
				if l.RecordingID != nil {
					listed = append(listed, *l.RecordingID)
				}
			}
			if len(lines) > 0 {
				course.Lists = append(course.Lists, CatchUpList{headOf(x), lines})
			}
		}
		out.Courses = append(out.Courses, course)
	}
	out.Opened, err = a.openedLines(ctx, p, term, listed, places)
	return edge.Answer(out), err
}

// openedLines are the recordings that are open to someone beside any course, but for those that are listed.
func (a *API) openedLines(ctx context.Context, p roster.Person, term schedule.Term, listed []uuid.UUID,
	places map[uuid.UUID]time.Duration) ([]CatchUpLine, error) {
	ids, err := a.Audience.Opened(ctx, p.ID)
	if err != nil {
		return nil, err
	}
	ids = slices.DeleteFunc(ids, func(id uuid.UUID) bool { return slices.Contains(listed, id) })
	accesses, err := a.Audience.DecideAll(ctx, p.ID, ids)
	if err != nil {
		return nil, err
	}
	out := []CatchUpLine{}
	for _, id := range ids {
		access := accesses[id]
		if !access.Watch() || access.Edition == nil {
			continue
		}
		r, err := a.Recordings.Recording(ctx, id)
		if err != nil {
			return nil, err
		}
		lecture, err := a.Schedule.OfRecording(ctx, r.LectureID, id)
		if err != nil {
			return nil, err
		}
		edition, err := a.Publication.Edition(ctx, *access.Edition)
		if err != nil {
			return nil, err
		}
		x := CatchUpLine{RecordingID: &id, Title: cmp.Or(r.Title, lecture.SuggestedTitle(term)),
			StartsAt: page.Dated(lecture.StartsAt, lecture.Ahead), LengthMs: edition.Length.Milliseconds()}
		at, begun := places[id]
		a.openLine(ctx, &x, playlists.Entry{EditionID: access.Edition}, access, at, begun)
		out = append(out, x)
	}
	return out, nil
}

// liveNow are those of the lectures that can be followed now, as p finds their doors.
func (a *API) liveNow(ctx context.Context, p roster.Person, term schedule.Term,
	lectures []schedule.Lecture) ([]LiveLine, error) {
	now, out := a.Clock.Now(), []LiveLine{}
	for _, l := range lectures {
		if !l.Running || l.Alone {
			continue
		}
		at, err := a.Door.Stands(ctx, p.ID, l.ID)
		if err != nil {
			return nil, err
		}
		out = append(out, LiveLine{
			LectureID: l.ID, RecordingID: *l.RecordingID, Course: l.Code, Title: l.SuggestedTitle(term),
			HeldMs: l.LengthMs, Phase: string(l.Phase(now)), Enter: at.Enter,
		})
	}
	return out, nil
}

// opening is what of all recordings opens for one person, where they stopped, and of which lectures they learn.
type opening struct {
	accesses map[uuid.UUID]audience.Access
	places   map[uuid.UUID]time.Duration
	learnt   map[uuid.UUID]bool
}

// opening is what of playlists of courses opens for p, who stopped at places, and of which lectures of the courses they
// learn.
func (a *API) opening(ctx context.Context, p roster.Person, courses []uuid.UUID, shelves []playlists.Shown,
	places map[uuid.UUID]time.Duration) (opening, []schedule.Lecture, error) {
	out := opening{places: places, learnt: map[uuid.UUID]bool{}}
	var recordings []uuid.UUID
	for _, x := range shelves {
		for _, e := range x.Entries {
			if e.RecordingID != nil {
				recordings = append(recordings, *e.RecordingID)
			}
		}
	}
	lectures, err := a.Schedule.Lectures(ctx, courses)
	if err == nil {
		lectures, err = a.Seen.Known(ctx, p, lectures)
	}
	if err != nil {
		return out, nil, err
	}
	for _, l := range lectures {
		out.learnt[l.ID] = true
	}
	out.accesses, err = a.Audience.DecideAll(ctx, p.ID, recordings)
	return out, lectures, err
}

// catchUpLines are the entries of a playlist as one person sees them.
func (a *API) catchUpLines(ctx context.Context, term schedule.Term, list []playlists.Entry,
	open opening) []CatchUpLine {
	out := []CatchUpLine{}
	for _, e := range list {
		if e.RecordingID != nil &&
			(!e.Lit || e.LectureID != nil && !open.learnt[*e.LectureID] && !open.accesses[*e.RecordingID].Watch()) {
			continue // what is dark is nobody's business yet, nor what nobody was invited to
		}
		// A heading with nothing under it yet makes way for the next.
		if n := len(out); n > 0 && e.Heading != nil && out[n-1].Heading != nil {
			out = out[:n-1]
		}
		line := page.LineOf(e, term.Week, nil)
		x := lineOf(line)
		if e.RecordingID != nil {
			at, begun := open.places[*e.RecordingID]
			a.openLine(ctx, &x, e, open.accesses[*e.RecordingID], at, begun)
		}
		out = append(out, x)
	}
	if n := len(out); n > 0 && out[n-1].Heading != nil {
		out = out[:n-1]
	}
	return out
}

// lineOf is a line of a playlist as students see it.
func lineOf(x page.PlaylistLine) CatchUpLine {
	return CatchUpLine{Heading: x.Heading, About: x.About, Address: x.Address, File: x.File,
		Part: x.Part, Parts: x.Parts, RecordingID: x.RecordingID,
		Title: x.Title, Week: x.Week, StartsAt: x.StartsAt, LengthMs: x.LengthMs}
}

// openLine adds to a line whether it is open to someone, and how far they have watched it.
func (a *API) openLine(ctx context.Context, x *CatchUpLine, e playlists.Entry, access audience.Access, at time.Duration,
	begun bool) {
	x.Open, x.Reason = access.Watch(), string(access.Reason)
	if access.Reason == viewing.NotYet {
		x.Opens = &access.Opens
	}
	if !begun || !access.Watch() || e.EditionID == nil {
		return
	}
	edition, err := a.Publication.Edition(ctx, *e.EditionID)
	if err != nil {
		return // without it the line only does not say how far
	}
	stopped, _ := cutlist.Carrier(edition.Stretches).Moment(at)
	x.SeenMs, x.Seen = stopped.Milliseconds(), catchup.Seen(stopped, edition.Length)
}
