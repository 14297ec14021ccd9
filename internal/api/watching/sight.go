package watching

import (
	"context"
	"net/http"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/audience"
	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/playlist"
	"latelantern/internal/core/viewing"
	"latelantern/internal/playlists"
	"latelantern/internal/roster"
	"latelantern/internal/schedule"
)

// SightEyes are whose eyes someone who teaches looks through: those of a student of the course, of any student of one
// of its groups, or of whoever has a link to one of its recordings.
type SightEyes struct {
	edge.OfCourse
	Person  uuid.UUID `query:"person" format:"uuid" doc:"a student of the course"`
	Group   string    `query:"group" maxLength:"200" doc:"any student of this group; empty for one in none"`
	Opening uuid.UUID `query:"opening" format:"uuid" doc:"whoever has this link"`
}

type sightOne struct {
	SightEyes
	Recording uuid.UUID `path:"recording" format:"uuid"`
}

// Sight is what someone sees of a course.
type Sight struct {
	Course page.CourseName `json:"course"`
	Zone   string          `json:"zone"`
	Name   string          `json:"name,omitempty" doc:"of the person, or of the link"`
	Group  string          `json:"group,omitempty"`
	Lists  []SightList     `json:"lists" nullable:"false" doc:"the playlists that the course shows"`
}

// SightList is a playlist as they see it.
type SightList struct {
	ListHead
	Entries []SightLine `json:"entries" nullable:"false"`
}

// SightLine is an entry of the playlist as they see it, or one that they do not see.
type SightLine struct {
	CatchUpLine
	Hidden bool   `json:"hidden" doc:"they do not learn that it is there"`
	Whence string `json:"whence" enum:",recording,course,college" doc:"of what the rule is that decides"`
	By     string `json:"by,omitempty" doc:"the code of the course by which it is open or comes nearest, when that is another"`
}

// SightWatch is a recording as they find it: open, or a closed door.
type SightWatch struct {
	Door  *page.Said `json:"door,omitempty" doc:"why it is closed"`
	Watch *Watch     `json:"watch,omitempty"`
	Uses  []string   `json:"uses" nullable:"false" doc:"what they may do"`
}

func (a *API) sightRoutes() {
	const path = "/api/courses/{course}/sight"
	edge.On(a.Edge, edge.Staff, http.MethodGet, path, "sight", "What someone sees of a course", a.sight)
	edge.On(a.Edge, edge.Staff, http.MethodGet, path+"/{recording}", "sight-watch",
		"A recording as someone finds it", a.sightWatch)
}

// eyes are whose decisions are shown, and how courses know them.
type eyes struct {
	name, group string
	person      uuid.UUID // uuid.Nil for no one in particular
	as          func(course uuid.UUID) viewing.Viewer
	link        uuid.UUID // the opening of whoever has a link
	list        uuid.UUID // the playlist that it opens; uuid.Nil for a recording
}

// sees reports whether those eyes see an entry of a playlist. Whoever has a link learns of nothing but what it opens.
func (e eyes) sees(x playlists.Entry, open bool) bool {
	return e.link == uuid.Nil || open || e.list == x.PlaylistID && x.RecordingID == nil && x.FileID == nil
}

// eyesOf are the eyes that someone asks for. Its error is edge.ErrNowhere for nobody of the course.
func (a *API) eyesOf(ctx context.Context, in SightEyes) (eyes, error) {
	if in.Opening != uuid.Nil {
		list, err := a.Audience.LinkedList(ctx, in.Course, in.Opening)
		return eyes{link: in.Opening, list: list, as: func(uuid.UUID) viewing.Viewer { return viewing.Viewer{} }}, err
	}
	if in.Person == uuid.Nil {
		return eyes{group: in.Group, as: func(course uuid.UUID) viewing.Viewer {
			if course == in.Course {
				return viewing.Viewer{Role: viewing.Student, Group: in.Group}
			}
			return viewing.Viewer{}
		}}, nil
	}
	parts, err := a.Roster.Memberships(ctx, in.Person)
	if err != nil {
		return eyes{}, err
	}
	known := map[uuid.UUID]viewing.Viewer{}
	for _, m := range parts {
		known[m.CourseID] = viewing.Viewer{Role: m.Role, Group: m.Group}
	}
	if known[in.Course].Role != viewing.Student {
		return eyes{}, edge.ErrNowhere
	}
	p, err := a.Roster.Person(ctx, in.Person)
	if err != nil {
		return eyes{}, err
	}
	return eyes{name: p.Name, group: known[in.Course].Group, person: p.ID,
		as: func(course uuid.UUID) viewing.Viewer { return known[course] }}, nil
}

// look is the decision for those eyes on a recording.
func (a *API) look(ctx context.Context, e eyes, recording uuid.UUID) (audience.Access, error) {
	r, err := a.Audience.Released(ctx, recording)
	if err != nil {
		return audience.Access{}, err
	}
	if e.link != uuid.Nil {
		return r.ByLink(e.link, a.Clock.Now()), nil
	}
	return r.Door(e.person, false, e.as, a.Clock.Now()), nil
}

func (a *API) sight(ctx context.Context, p roster.Person, in *SightEyes) (*edge.Body[Sight], error) {
	e, err := a.eyesOf(ctx, *in)
	if err != nil {
		return nil, err
	}
	a.Note(ctx, "sight_check", "course", in.Course, "person", in.Person, "opening", in.Opening)
	c, err := a.Schedule.Course(ctx, in.Course)
	if err != nil {
		return nil, err
	}
	term, err := a.Schedule.TermOf(ctx, in.Course)
	if err != nil {
		return nil, err
	}
	shelves, err := a.shelves(ctx, e.person, in.Course)
	if err != nil {
		return nil, err
	}
	out := Sight{Course: page.CourseName{ID: c.ID, Code: c.Code, Title: c.Title}, Zone: term.Zone.String(),
		Name: e.name, Group: e.group, Lists: []SightList{}}
	for _, x := range shelves {
		if e.list != uuid.Nil && e.list != x.ID {
			continue
		}
		known := page.Known(x.Entries, func(course uuid.UUID) bool { return a.MayStaff(ctx, p, course) == nil })
		lines, err := a.sightLines(ctx, e, in.Course, known, term)
		if err != nil {
			return nil, err
		}
		if len(lines) > 0 {
			out.Lists = append(out.Lists, SightList{headOf(x), lines})
		}
	}
	return edge.Answer(out), nil
}

// sightLines are the entries of a playlist of a course as those eyes see them.
func (a *API) sightLines(ctx context.Context, e eyes, course uuid.UUID, entries []playlists.Entry,
	term schedule.Term) ([]SightLine, error) {
	private, err := a.privateOf(ctx, entries)
	if err != nil {
		return nil, err
	}
	out := []SightLine{}
	for _, x := range entries {
		line, err := a.sightLine(ctx, e, course, x, term)
		if err != nil {
			return nil, err
		}
		learns := x.LectureID == nil || viewing.Learns(e.as(course), private[*x.LectureID], line.Open)
		line.Hidden = x.RecordingID != nil && !line.Open && (!x.Lit || !learns)
		if e.sees(x, line.Open) {
			out = append(out, line)
		}
	}
	if e.link != uuid.Nil {
		out = playlist.Headed(out, func(x SightLine) bool { return x.Heading != nil })
	}
	return out, nil
}

func (a *API) sightLine(ctx context.Context, e eyes, course uuid.UUID, x playlists.Entry,
	term schedule.Term) (SightLine, error) {
	out := SightLine{CatchUpLine: lineOf(page.LineOf(x, term.Week, nil))}
	if x.RecordingID == nil {
		return out, nil
	}
	at, err := a.look(ctx, e, *x.RecordingID)
	if err != nil {
		return out, err
	}
	if at.Reason == viewing.NotEnrolled && !x.Lit { // another course has it, of which they are not; this one could
		at = audience.Access{Decision: viewing.Decision{Reason: viewing.NotLit}}
	}
	out.Open, out.Reason, out.Whence = at.Watch(), string(at.Reason), at.Whence
	if at.Reason == viewing.NotYet {
		out.Opens = &at.Opens
	}
	if at.Course != course && at.Code != "" {
		out.By = at.Code
	}
	return out, nil
}

// privateOf are the lectures of entries to which nobody was invited.
func (a *API) privateOf(ctx context.Context, entries []playlists.Entry) (map[uuid.UUID]bool, error) {
	var ids []uuid.UUID
	for _, x := range entries {
		if x.LectureID != nil {
			ids = append(ids, *x.LectureID)
		}
	}
	lectures, err := a.Schedule.LecturesNamed(ctx, ids)
	out := map[uuid.UUID]bool{}
	for _, l := range lectures {
		out[l.ID] = l.Private
	}
	return out, err
}

func (a *API) sightWatch(ctx context.Context, p roster.Person, in *sightOne) (*edge.Body[SightWatch], error) {
	e, err := a.eyesOf(ctx, in.SightEyes)
	if err != nil {
		return nil, err
	}
	if _, err := a.Audience.Title(ctx, audience.Scope{Course: in.Course, Recording: in.Recording}); err != nil {
		return nil, err
	}
	a.Note(ctx, "sight_check", "course", in.Course, "person", in.Person, "opening", in.Opening, "recording",
		in.Recording)
	at, err := a.look(ctx, e, in.Recording)
	if err != nil {
		return nil, err
	}
	out := SightWatch{Uses: at.Uses.Names()}
	if !at.Watch() || at.Edition == nil {
		door := page.Say(doorText(at.Code, at.Reason, at.Opens))
		out.Door = &door
		return edge.Answer(out), nil
	}
	w, err := a.sightOpen(ctx, p, in.Recording, at)
	if err == nil && e.link != uuid.Nil {
		w.Course, w.Week = page.CourseName{}, 0
	}
	out.Watch = &w
	return edge.Answer(out), err
}

// sightOpen is a published recording as someone else finds it, with an address that plays for p.
func (a *API) sightOpen(ctx context.Context, p roster.Person, recording uuid.UUID, at audience.Access) (Watch, error) {
	x, err := a.Publication.Edition(ctx, *at.Edition)
	if err != nil {
		return Watch{}, err
	}
	r, err := a.Recordings.Recording(ctx, recording)
	if err != nil {
		return Watch{}, err
	}
	shown := opened{Presentation: x, media: a.Address(edge.AsPublished, recording, *at.Edition, p.ID),
		edition: *at.Edition, uses: at.Uses, ruled: at.Ruled, by: at.Course}
	out, err := a.watchNames(ctx, p, r, shown)
	if err != nil {
		return out, err
	}
	out.AsStaff, out.Led = false, page.Spans(x.Led)
	a.watchSizes(ctx, &out, shown)
	return out, a.watchWords(ctx, &out, shown, "", cutlist.Carrier(x.Stretches))
}

// doorText is what a closed door says: why, and to which course it belongs.
func doorText(code string, reason viewing.Reason, opens time.Time) fault.Text {
	if reason == viewing.NotYet {
		return fault.Say("door.not_yet", "course", code, "opens", fault.Moment{Time: opens})
	}
	return fault.Say(fault.Code("door."+string(reason)), "course", code)
}
