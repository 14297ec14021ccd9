package sharing

import (
	"cmp"
	"context"
	"slices"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/page"
	"latelantern/internal/core/playlist"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/playlists"
	"latelantern/internal/roster"
	"latelantern/internal/schedule"
)

// PlaylistPage is a playlist as those who teach a course that shows it see it.
type PlaylistPage struct {
	Course  page.CourseName     `json:"course"`
	Zone    string              `json:"zone"`
	List    ListLine            `json:"list" doc:"this one"`
	Lists   []ListLine          `json:"lists" nullable:"false" doc:"all that the course shows, its main one first"`
	ShownIn []ShowingCourse     `json:"shown_in" nullable:"false" doc:"the other courses that show it"`
	Entries []page.PlaylistLine `json:"entries" nullable:"false"`
	Took    int                 `json:"took" doc:"of the main one: lectures of the course that took place"`
	Here    int                 `json:"here" doc:"of them, those with a recording in a playlist that the course shows"`
	Gaps    []GapLine           `json:"gaps" nullable:"false" doc:"those that are missing, by the timetable"`
	Waiting []WaitingLine       `json:"waiting" nullable:"false" doc:"other recordings of its course"`
}

// ListLine is a playlist by its name.
type ListLine struct {
	ID       *uuid.UUID `json:"id,omitempty" format:"uuid" doc:"none for a main one that was never filled"`
	Main     bool       `json:"main" doc:"what is lit for its course goes into it; it has no title"`
	Mine     bool       `json:"mine" doc:"it belongs to the course that shows it"`
	Code     string     `json:"code" doc:"of the course that it belongs to"`
	Title    string     `json:"title"`
	About    string     `json:"about"`
	Arranged string     `json:"arranged" enum:"hand,date,week"`
	Filling  *FillText  `json:"filling,omitempty" doc:"by what it keeps itself filled, of its own"`
}

// ShowingCourse is a course that shows a playlist too.
type ShowingCourse struct {
	page.CourseName
	Mine bool `json:"mine" doc:"one teaches it"`
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

// playlist is a playlist of a course as p sees it, who teaches the course.
func (a *API) playlist(ctx context.Context, p roster.Person, of playlists.Of) (PlaylistPage, error) {
	course, err := a.Schedule.Course(ctx, of.Course)
	if err != nil {
		return PlaylistPage{}, err
	}
	term, err := a.Schedule.TermOf(ctx, of.Course)
	if err != nil {
		return PlaylistPage{}, err
	}
	out := PlaylistPage{Course: page.CourseName{ID: course.ID, Code: course.Code, Title: course.Title},
		Zone: term.Zone.String(), ShownIn: []ShowingCourse{},
		Entries: []page.PlaylistLine{}, Gaps: []GapLine{}, Waiting: []WaitingLine{}}
	if err := a.names(ctx, &out, course, of); err != nil {
		return out, err
	}
	entries, err := a.Playlists.Entries(ctx, of)
	if err != nil {
		return out, err
	}
	entries = page.Known(entries, func(course uuid.UUID) bool { return a.MayStaff(ctx, p, course) == nil })
	lectures, err := a.Schedule.Lectures(ctx, []uuid.UUID{of.Course})
	if err != nil {
		return out, err
	}
	if err := a.lines(ctx, &out, course, entries, lectures, term); err != nil {
		return out, err
	}
	if err := a.elsewhere(ctx, p, &out); err != nil {
		return out, err
	}
	return out, a.rest(ctx, &out, entries, lectures, term)
}

// lines adds the entries, with the light of their recordings in the course.
func (a *API) lines(ctx context.Context, out *PlaylistPage, course schedule.Course, entries []playlists.Entry,
	lectures []schedule.Lecture, term schedule.Term) error {
	counts, err := a.Audience.Counts(ctx, course.ID)
	if err != nil {
		return err
	}
	suggested := map[uuid.UUID]string{}
	for _, l := range lectures {
		if l.RecordingID != nil {
			suggested[*l.RecordingID] = l.SuggestedTitle(term)
		}
	}
	for _, e := range entries {
		line := page.LineOf(e, term.Week, suggested)
		if e.RecordingID != nil {
			count := counts[*e.RecordingID]
			line.From = e.From
			line.Can, line.Of, line.Light = count.Can, course.Students, string(page.LightOf(count.Can, course.Students))
		}
		out.Entries = append(out.Entries, line)
	}
	return nil
}

// rest adds what is not in the playlist: of the main one what is missing against the timetable, and of each what could
// be added.
func (a *API) rest(ctx context.Context, out *PlaylistPage, entries []playlists.Entry, lectures []schedule.Lecture,
	term schedule.Term) error {
	binned, err := a.Recordings.Binned(ctx, out.Course.ID)
	if err != nil {
		return err
	}
	now := a.Clock.Now()
	here := map[uuid.UUID]bool{}   // lectures
	listed := map[uuid.UUID]bool{} // recordings
	for _, e := range entries {
		here[postgres.OrZero(e.LectureID)] = true
		listed[postgres.OrZero(e.RecordingID)] = true
	}
	for _, l := range lectures {
		// In another playlist it counts once it waits for nothing: there it may have come by itself.
		elsewhere := l.Listed && !playlist.Waiting(l.Workflow().Next(now))
		if out.List.Main && out.gap(l, here[l.ID] || elsewhere, binned, term, now) {
			continue
		}
		if l.RecordingID == nil || listed[*l.RecordingID] || out.List.Main && l.Listed || l.Running || l.Failed {
			continue
		}
		out.Waiting = append(out.Waiting, waiting(l, term, now))
	}
	slices.Reverse(out.Waiting)
	return nil
}

// waiting is a lecture with a recording that could be added.
func waiting(l schedule.Lecture, term schedule.Term, now time.Time) WaitingLine {
	return WaitingLine{*l.RecordingID, cmp.Or(l.Title, l.SuggestedTitle(term)), term.Week(l.StartsAt).Number,
		l.StartsAt, string(l.Workflow().Next(now))}
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
