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
	Left    Left            `json:"left" doc:"what they still miss of all that is open to them"`
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
	Picture     string            `json:"picture,omitempty" doc:"the address of a small picture of it"`
	Account     *AccountLine      `json:"account,omitempty" doc:"what they have of it; missing for what is not open to them"`
}

func (a *API) catchUp(ctx context.Context, p roster.Person, in *catchUpInput) (*edge.Body[CatchUp], error) {
	out, missing, err := a.gather(ctx, p)
	if err != nil {
		return nil, err
	}
	out.Left, err = a.left(ctx, p, missing, catchup.Order(in.Order))
	return edge.Answer(out), err
}

// gather is what a student can watch, and what they miss of it.
func (a *API) gather(ctx context.Context, p roster.Person) (CatchUp, missing, error) {
	term, err := a.Schedule.CurrentTerm(ctx)
	if err != nil {
		return CatchUp{}, missing{}, err
	}
	parts, err := a.Roster.Memberships(ctx, p.ID)
	if err != nil {
		return CatchUp{}, missing{}, err
	}
	out := CatchUp{Now: a.Clock.Now(), Zone: term.Zone.String(), Live: []LiveLine{}, Courses: []CatchUpCourse{},
		Opened: []CatchUpLine{}}
	var courses []uuid.UUID
	for _, m := range parts {
		courses = append(courses, m.CourseID)
	}
	shelves, err := a.shelves(ctx, p.ID, courses...)
	if err != nil {
		return out, missing{}, err
	}
	open, err := a.opening(ctx, p, courses, shelves)
	if err != nil {
		return out, missing{}, err
	}
	if out.Live, err = a.liveNow(ctx, p, term, open.lectures); err != nil {
		return out, missing{}, err
	}
	missed := missing{next: nextOf(open.lectures, out.Now), listed: map[uuid.UUID]bool{}}
	for _, m := range parts {
		course := CatchUpCourse{Course: page.CourseName{ID: m.CourseID, Code: m.Code, Title: m.Title},
			Lists: []CatchUpList{}}
		for _, x := range shelves {
			if x.Course != m.CourseID {
				continue
			}
			if lines := a.catchUpLines(term, x.Entries, open); len(lines) > 0 {
				course.Lists = append(course.Lists, CatchUpList{headOf(x), lines})
				missed.add(course.Course, lines)
			}
		}
		out.Courses = append(out.Courses, course)
	}
	if out.Opened, err = a.openedLines(ctx, p, term, missed.listed); err == nil {
		missed.add(page.CourseName{}, out.Opened)
	}
	return out, missed, err
}

// openedLines are the recordings that are open to someone beside any course, but for those that are listed.
func (a *API) openedLines(ctx context.Context, p roster.Person, term schedule.Term, listed map[uuid.UUID]bool,
) ([]CatchUpLine, error) {
	ids, err := a.Audience.Opened(ctx, p.ID)
	if err != nil {
		return nil, err
	}
	ids = slices.DeleteFunc(ids, func(id uuid.UUID) bool { return listed[id] })
	accesses, err := a.Audience.DecideAll(ctx, p.ID, ids)
	if err != nil {
		return nil, err
	}
	having, err := a.having(ctx, p, accesses)
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
		openLine(&x, access, having)
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

// opening is what of all recordings opens for one person, what they have of each, and of which lectures they learn.
type opening struct {
	accesses map[uuid.UUID]audience.Access
	having   having
	lectures []schedule.Lecture
	learnt   map[uuid.UUID]bool
}

// opening is what of playlists of courses opens for p, and of which lectures of the courses they learn.
func (a *API) opening(ctx context.Context, p roster.Person, courses []uuid.UUID, shelves []playlists.Shown,
) (opening, error) {
	out := opening{learnt: map[uuid.UUID]bool{}}
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
		out.lectures, err = a.Seen.Known(ctx, p, lectures)
	}
	if err != nil {
		return out, err
	}
	for _, l := range out.lectures {
		out.learnt[l.ID] = true
	}
	if out.accesses, err = a.Audience.DecideAll(ctx, p.ID, recordings); err != nil {
		return out, err
	}
	out.having, err = a.having(ctx, p, out.accesses)
	return out, err
}

// catchUpLines are the entries of a playlist as one person sees them.
func (a *API) catchUpLines(term schedule.Term, list []playlists.Entry, open opening) []CatchUpLine {
	out := []CatchUpLine{}
	for _, e := range list {
		if e.RecordingID != nil &&
			(!e.Lit || e.LectureID != nil && !open.learnt[*e.LectureID] && !open.accesses[*e.RecordingID].Watch()) {
			continue // what is dark is nobody's business yet, nor what nobody was invited to
		}
		line := page.LineOf(e, term.Week, nil)
		x := lineOf(line)
		if e.RecordingID != nil {
			openLine(&x, open.accesses[*e.RecordingID], open.having)
		}
		out = append(out, x)
	}
	return playlist.Headed(out, func(x CatchUpLine) bool { return x.Heading != nil })
}

// lineOf is a line of a playlist as students see it.
func lineOf(x page.PlaylistLine) CatchUpLine {
	return CatchUpLine{Heading: x.Heading, About: x.About, Address: x.Address, File: x.File,
		Part: x.Part, Parts: x.Parts, RecordingID: x.RecordingID,
		Title: x.Title, Week: x.Week, StartsAt: x.StartsAt, LengthMs: x.LengthMs}
}

// openLine adds to a line whether it is open to someone, and what they have of it.
func openLine(x *CatchUpLine, access audience.Access, all having) {
	x.Open, x.Reason = access.Watch(), string(access.Reason)
	if access.Reason == viewing.NotYet {
		x.Opens = &access.Opens
	}
	if of, ok := all.accounts[*x.RecordingID]; ok {
		x.Account = accountOf(of)
	}
	x.Picture = all.pictures[*x.RecordingID]
}
