package sharing

import (
	"context"
	"errors"
	"slices"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/core/playlist"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/playlists"
	"latelantern/internal/recordings"
	"latelantern/internal/roster"
	"latelantern/internal/schedule"
)

// listLine is a playlist as a course shows it.
func listLine(x playlists.List, course uuid.UUID) ListLine {
	out := ListLine{ID: postgres.OrNil(x.ID), Main: x.Main, Mine: x.CourseID == course, Code: x.Code, Title: x.Title,
		About: x.About, Arranged: string(x.Arranged)}
	if x.Filled() && out.Mine {
		out.Filling = &FillText{Course: x.FillCourse, Words: x.FillWords}
	}
	return out
}

// names adds to a page all playlists that a course shows, and which of them it is. It refuses any other.
func (a *API) names(ctx context.Context, out *PlaylistPage, course schedule.Course, of playlists.Of) error {
	lists, err := a.Playlists.Lists(ctx, of.Course)
	if err != nil {
		return err
	}
	if len(lists) == 0 || !lists[0].Main {
		main := playlists.List{CourseID: course.ID, Code: course.Code, Main: true, Arranged: playlist.Hand}
		lists = slices.Insert(lists, 0, main)
	}
	is := func(x playlists.List) bool { return x.Main && of.List == uuid.Nil || x.ID == of.List }
	at := slices.IndexFunc(lists, is)
	if at < 0 {
		return playlists.ErrUnknown
	}
	out.Lists = make([]ListLine, 0, len(lists))
	for _, x := range lists {
		out.Lists = append(out.Lists, listLine(x, course.ID))
	}
	out.List = out.Lists[at]
	return nil
}

// elsewhere adds to a page the other courses that show its playlist, and of those that p teaches the light of each
// recording there.
func (a *API) elsewhere(ctx context.Context, p roster.Person, out *PlaylistPage) error {
	if out.List.Main || out.List.ID == nil {
		return nil
	}
	courses, err := a.Playlists.Courses(ctx, *out.List.ID)
	if err != nil {
		return err
	}
	for _, id := range courses {
		if id == out.Course.ID {
			continue
		}
		c, err := a.Schedule.Course(ctx, id)
		if err != nil {
			return err
		}
		mine := a.MayStaff(ctx, p, id) == nil
		out.ShownIn = append(out.ShownIn,
			ShowingCourse{page.CourseName{ID: c.ID, Code: c.Code, Title: c.Title}, mine})
		if !mine {
			continue
		}
		counts, err := a.Audience.Counts(ctx, id)
		if err != nil {
			return err
		}
		for i, e := range out.Entries {
			if e.RecordingID != nil {
				can := counts[*e.RecordingID].Can
				out.Entries[i].Elsewhere = append(e.Elsewhere, page.CourseLight{Course: c.ID, Code: c.Code, Can: can,
					Of: c.Students, Light: string(page.LightOf(can, c.Students))})
			}
		}
	}
	return nil
}

// offered are the playlists of other courses that p teaches which a course does not show.
func (a *API) offered(ctx context.Context, p roster.Person, in *edge.OfCourse) (*edge.Body[Offered], error) {
	var courses []uuid.UUID
	if !p.Coordinator {
		parts, err := a.Roster.Memberships(ctx, p.ID)
		if err != nil {
			return nil, err
		}
		courses = []uuid.UUID{}
		for _, m := range parts {
			if m.Role.Staff() {
				courses = append(courses, m.CourseID)
			}
		}
	}
	lists, err := a.Playlists.Offered(ctx, in.Course, courses)
	if err != nil {
		return nil, err
	}
	out := Offered{Lists: make([]ListLine, 0, len(lists))}
	for _, x := range lists {
		out.Lists = append(out.Lists, listLine(x, in.Course))
	}
	return edge.Answer(out), nil
}

// addable are the recordings of a course, which p teaches too, that could be put into a playlist of another one.
func (a *API) addable(ctx context.Context, p roster.Person, in *addableInput) (*edge.Body[Addable], error) {
	if err := a.MayStaff(ctx, p, in.From); err != nil {
		return nil, playlists.ErrUnknown // what one does not teach is not there
	}
	entries, err := a.Playlists.Entries(ctx, in.of())
	if err != nil {
		return nil, err
	}
	term, err := a.Schedule.TermOf(ctx, in.From)
	if err != nil {
		return nil, err
	}
	lectures, err := a.Schedule.Lectures(ctx, []uuid.UUID{in.From})
	if err != nil {
		return nil, err
	}
	listed := map[uuid.UUID]bool{}
	for _, e := range entries {
		listed[postgres.OrZero(e.RecordingID)] = true
	}
	now := a.Clock.Now()
	out := Addable{Recordings: []WaitingLine{}}
	for _, l := range lectures {
		if l.RecordingID != nil && !listed[*l.RecordingID] && !l.Running && !l.Failed {
			out.Recordings = append(out.Recordings, waiting(l, term, now))
		}
	}
	return edge.Answer(out), nil
}

// taught are those courses of recordings that p teaches; of what is no recording none.
func (a *API) taught(ctx context.Context, p roster.Person, of []uuid.UUID) ([]uuid.UUID, error) {
	var out []uuid.UUID
	asked := map[uuid.UUID]bool{}
	for _, r := range of {
		course, err := a.Recordings.CourseOf(ctx, r)
		if errors.Is(err, recordings.ErrUnknown) {
			continue
		}
		if err != nil {
			return nil, err
		}
		if !asked[course] && a.MayStaff(ctx, p, course) == nil {
			out = append(out, course)
		}
		asked[course] = true
	}
	return out, nil
}

// show has a course show a playlist of another course, which p teaches too, or show it no more.
func (a *API) show(ctx context.Context, p roster.Person, in *showInput) (*edge.Body[PlaylistPage], error) {
	if in.Body.Shown {
		list, err := a.Playlists.List(ctx, in.List)
		if err != nil {
			return nil, err
		}
		if a.MayStaff(ctx, p, list.CourseID) != nil {
			return nil, playlists.ErrUnknown
		}
	}
	of := playlists.Of{Course: in.Course, List: in.List}
	if err := a.Playlists.Show(ctx, of, in.Body.Shown); err != nil {
		return nil, err
	}
	if !in.Body.Shown {
		of.List = uuid.Nil
	}
	out, err := a.playlist(ctx, p, of)
	return edge.Answer(out), err
}
