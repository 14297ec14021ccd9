package trimming

import (
	"bytes"
	"cmp"
	"context"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"
	"golang.org/x/sync/errgroup"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/audience"
	"latelantern/internal/core/listing"
	"latelantern/internal/core/viewing"
	"latelantern/internal/core/workflow"
	"latelantern/internal/recordings"
	"latelantern/internal/roster"
	"latelantern/internal/schedule"
)

// AllRecordings are the recordings that one teaches and that are wanted, in order.
type AllRecordings struct {
	Zone     string         `json:"zone"`
	Courses  []ListedCourse `json:"courses" nullable:"false" doc:"all that have a recording"`
	Weeks    int            `json:"weeks" doc:"of teaching in a term"`
	Of       int            `json:"of" doc:"recordings, wanted or not"`
	LengthMs int64          `json:"length_ms" doc:"of those that are wanted together"`
	Bytes    int64          `json:"bytes" doc:"of those that are wanted together"`
	Lines    []RecordingRow `json:"lines" nullable:"false"`
}

// ListedCourse is a course with recordings.
type ListedCourse struct {
	ID    uuid.UUID `json:"id" format:"uuid"`
	Code  string    `json:"code"`
	Title string    `json:"title"`
	Term  string    `json:"term" doc:"its name"`
}

// RecordingRow is a recording in the table of all: there are thousands, so it holds what is drawn there.
type RecordingRow struct {
	Recording uuid.UUID `json:"recording_id" format:"uuid"`
	Lecture   uuid.UUID `json:"lecture_id" format:"uuid"`
	Course    int       `json:"course" doc:"its place among the courses"`
	Week      int       `json:"week,omitempty" doc:"of teaching; none outside"`
	StartsAt  time.Time `json:"starts_at"`
	Ahead     bool      `json:"ahead,omitempty" doc:"a lesson for the week, recorded at any time"`
	Title     string    `json:"title" doc:"as it is shown"`
	Bare      bool      `json:"bare,omitempty" doc:"it has no title of its own"`
	State     string    `json:"state" enum:"capturing,dark,part_lit,lit" doc:"of its lantern in the course of its lecture"`
	Next      string    `json:"next" enum:",wait,stop,trim,title,rule,playlist,light,publish,words,tell,again"`
	Can       int       `json:"can" doc:"students who can watch now"`
	Of        int       `json:"of" doc:"students of the course"`
	Elsewhere int       `json:"elsewhere,omitempty" doc:"other courses to which it gives light"`
	LengthMs  int64     `json:"length_ms"`
	Bytes     int64     `json:"bytes" doc:"stored"`
	Captions  int       `json:"captions,omitempty" doc:"languages in which students are shown them"`
	Seen      int       `json:"seen,omitempty" doc:"people who began to watch it and do not teach it"`
}

type allInput struct {
	AllTerms    bool      `query:"all_terms" doc:"not of this term alone"`
	Words       string    `query:"words" maxLength:"200"`
	Course      uuid.UUID `query:"course" format:"uuid"`
	Week        int       `query:"week" minimum:"0" maximum:"60"`
	Waits       string    `query:"waits" enum:",hand,nothing,wait,stop,trim,title,rule,playlist,light,publish,words,tell,again"`
	Light       string    `query:"light" enum:",dark,part_lit,lit"`
	LongerMs    int64     `query:"longer_ms" minimum:"0" doc:"at least that long"`
	ShorterMs   int64     `query:"shorter_ms" minimum:"0" doc:"shorter than that; 0 for any"`
	Larger      int64     `query:"larger" minimum:"0" doc:"at least so many bytes"`
	Untitled    bool      `query:"untitled"`
	Uncaptioned bool      `query:"uncaptioned" doc:"students are shown no captions"`
	Unseen      bool      `query:"unseen" doc:"nobody began to watch it"`
	By          string    `query:"by" enum:"date,course,title,waits,light,length,size,seen" default:"date"`
	Down        bool      `query:"down" doc:"from the end"`
}

func (in *allInput) wanted() listing.Wanted {
	return listing.Wanted{Words: in.Words, Course: in.Course, Week: in.Week, Waits: in.Waits,
		Light: viewing.Light(in.Light), Longer: time.Duration(in.LongerMs) * time.Millisecond,
		Shorter: time.Duration(in.ShorterMs) * time.Millisecond, Larger: in.Larger, Untitled: in.Untitled,
		Uncaptioned: in.Uncaptioned, Unseen: in.Unseen}
}

type binInput struct {
	Body struct {
		Recordings []uuid.UUID `json:"recordings" format:"uuid" nullable:"false" minItems:"1" maxItems:"200"`
		Binned     bool        `json:"binned" doc:"false to bring them back"`
	}
}

func (a *API) allRoutes() {
	edge.On(a.Edge, edge.Teachers, http.MethodGet, "/api/recordings", "recordings",
		"All recordings that one teaches, or those of them that are wanted; for coordinators all there are", a.all)
	edge.On(a.Edge, edge.Teachers, http.MethodPut, "/api/bin", "set-binned",
		"Put recordings that one teaches into the bin, or bring them back: all, or none",
		func(ctx context.Context, p roster.Person, in *binInput) (*edge.Empty, error) {
			for _, id := range in.Body.Recordings {
				if err := a.mayChange(ctx, p, id); err != nil {
					return nil, err
				}
			}
			return nil, a.Library.SetManyDeleted(ctx, in.Body.Recordings, p.ID, in.Body.Binned)
		})
}

// mayChange is nil for who teaches the course of a recording.
func (a *API) mayChange(ctx context.Context, p roster.Person, recording uuid.UUID) error {
	course, err := edge.OfRecording{Recording: recording}.Belongs(ctx, a.Edge)
	if err != nil {
		return err
	}
	return a.MayStaff(ctx, p, course)
}

// taughtIn are the terms of which someone teaches a course, the newest first, and those courses; for coordinators all.
func (a *API) taughtIn(ctx context.Context, p roster.Person, all bool) ([]schedule.Term, [][]uuid.UUID, error) {
	current, err := a.Schedule.CurrentTerm(ctx)
	if err != nil {
		return nil, nil, err
	}
	terms := []schedule.Term{current}
	if all {
		if terms, err = a.Schedule.Terms(ctx); err != nil {
			return nil, nil, err
		}
	}
	courses := make([][]uuid.UUID, len(terms))
	for i, t := range terms {
		if courses[i], err = a.Schedule.CourseIDs(ctx, t.ID, p.Teaches()); err != nil {
			return nil, nil, err
		}
	}
	return terms, courses, nil
}

func (a *API) all(ctx context.Context, p roster.Person, in *allInput) (*edge.Body[AllRecordings], error) {
	terms, courses, err := a.taughtIn(ctx, p, in.AllTerms)
	if err != nil {
		return nil, err
	}
	out := AllRecordings{Zone: terms[0].Zone.String(), Courses: []ListedCourse{}, Lines: []RecordingRow{}}
	var shelf shelf
	for i, term := range terms {
		for _, w := range term.Weeks {
			out.Weeks = max(out.Weeks, w.Number)
		}
		if err := a.shelve(ctx, &shelf, &out, term, courses[i]); err != nil {
			return nil, err
		}
	}
	out.Of = len(shelf.rows)
	by := listing.Column(cmp.Or(in.By, string(listing.ByDate)))
	for _, i := range listing.Choose(shelf.lines, in.wanted(), by, in.Down, p.Language) {
		out.Lines = append(out.Lines, shelf.rows[i])
		out.LengthMs += shelf.rows[i].LengthMs
		out.Bytes += shelf.rows[i].Bytes
	}
	return edge.Answer(out), nil
}

// shelf has each recording as it is shown and, in the same place, as it is chosen.
type shelf struct {
	rows  []RecordingRow
	lines []listing.Line
}

// shelve adds the recordings of courses of a term, and the courses that have some.
func (a *API) shelve(ctx context.Context, s *shelf, out *AllRecordings, term schedule.Term, courses []uuid.UUID) error {
	var all []schedule.Lecture
	var reaches audience.Reaches
	var facts recordings.Facts
	read, within := errgroup.WithContext(ctx)
	read.Go(func() (err error) {
		all, err = a.Schedule.Recorded(within, courses)
		return err
	})
	read.Go(func() (err error) {
		reaches, err = a.Audience.Reaches(within, courses)
		return err
	})
	read.Go(func() (err error) {
		facts, err = a.Recordings.Facts(within, courses)
		return err
	})
	if err := read.Wait(); err != nil {
		return err
	}
	slices.SortStableFunc(all, func(x, y schedule.Lecture) int {
		return cmp.Or(strings.Compare(x.Code, y.Code), bytes.Compare(x.CourseID[:], y.CourseID[:]))
	})
	now := a.Clock.Now()
	for _, l := range all {
		if n := len(out.Courses); n == 0 || out.Courses[n-1].ID != l.CourseID {
			out.Courses = append(out.Courses, ListedCourse{l.CourseID, l.Code, l.CourseTitle, term.Name})
		}
		row := rowOf(term, l, reaches, facts, now)
		row.Course = len(out.Courses) - 1
		s.rows = append(s.rows, row)
		s.lines = append(s.lines, row.line(l))
	}
	return nil
}

func rowOf(term schedule.Term, l schedule.Lecture, reaches audience.Reaches, facts recordings.Facts,
	now time.Time) RecordingRow {
	id, reach := *l.RecordingID, page.ReachOf(reaches, l)
	lantern := page.LanternOf(term, l, reach, now)
	return RecordingRow{
		Recording: id, Lecture: l.ID, Week: term.Week(l.StartsAt).Number, StartsAt: l.StartsAt, Ahead: l.Ahead,
		Title: cmp.Or(l.Title, l.SuggestedTitle(term)), Bare: l.Title == "", State: lantern.State, Next: lantern.Next,
		Can: lantern.Can, Of: reach.Of, Elsewhere: facts.Elsewhere[id], LengthMs: l.LengthMs, Bytes: l.Bytes,
		Captions: facts.Captioned[id], Seen: facts.Seen[id],
	}
}

// line is a row as it is chosen and ordered by.
func (r RecordingRow) line(l schedule.Lecture) listing.Line {
	return listing.Line{Course: l.CourseID, Code: l.Code, Title: r.Title, Titled: !r.Bare, Week: r.Week,
		At: l.StartsAt, Next: workflow.Step(r.Next), Running: l.Running, Light: viewing.Light(r.State), Can: r.Can,
		Of: r.Of, Length: time.Duration(r.LengthMs) * time.Millisecond, Bytes: r.Bytes, Captioned: r.Captions > 0,
		Seen: r.Seen}
}
