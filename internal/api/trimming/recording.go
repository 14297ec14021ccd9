package trimming

import (
	"context"
	"encoding/base64"
	"errors"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/capture"
	"latelantern/internal/core/span"
	"latelantern/internal/cuts"
	"latelantern/internal/library"
	"latelantern/internal/recordings"
	"latelantern/internal/roster"
	"latelantern/internal/schedule"
)

func (a *API) recordingRoutes() {
	onBench(a, http.MethodGet, "/api/recordings/{recording}", "recording", "A recording on the trim bench",
		func(context.Context, roster.Person, *edge.OfRecording) error { return nil })
	onBench(a, http.MethodPut, "/api/recordings/{recording}/title", "set-title", "Give a recording its title",
		func(ctx context.Context, p roster.Person, in *titleInput) error {
			return a.Library.SetTitle(ctx, in.Recording, p.ID, in.Body.Title)
		})
	onBench(a, http.MethodPut, "/api/recordings/{recording}/description", "set-description",
		"Say what a recording is about", func(ctx context.Context, _ roster.Person, in *descriptionInput) error {
			return a.Library.SetDescription(ctx, in.Recording, in.Body.Description)
		})
	onBench(a, http.MethodPost, "/api/recordings/{recording}/cuts", "cut", "Strike, restore, undo or redo",
		func(ctx context.Context, p roster.Person, in *cutInput) error {
			at := span.Span{Start: time.Duration(in.Body.Start) * time.Millisecond,
				End: time.Duration(in.Body.End) * time.Millisecond}
			return a.Cuts.ChangeFrom(ctx, in.Recording, p.ID, in.Body.From, cuts.Cut(in.Body.Cut), at)
		})
	edge.On(a.Edge, edge.Staff, http.MethodDelete, "/api/recordings/{recording}", "delete-recording",
		"Take a recording away from everyone",
		func(ctx context.Context, p roster.Person, in *edge.OfRecording) (*edge.Empty, error) {
			return nil, a.Library.SetDeleted(ctx, in.Recording, p.ID, true)
		})
	edge.On(a.Edge, edge.Staff, http.MethodPost, "/api/recordings/{recording}/bring-back", "bring-back-recording",
		"Bring a deleted recording back", func(ctx context.Context, p roster.Person,
			in *edge.OfRecording) (*edge.Empty, error) {
			return nil, a.Library.SetDeleted(ctx, in.Recording, p.ID, false)
		})
	edge.On(a.Edge, edge.Staff, http.MethodGet, "/api/recordings/{recording}/strip", "strip",
		"The strip page of a recording", a.strip)
	edge.On(a.Edge, edge.Staff, http.MethodGet, "/api/courses/{course}/recordings/{recording}/audience", "audience",
		"Who of a course can watch a recording that it has",
		a.seats)
	a.lightRoutes()
	a.runningRoutes()
}

// lightRoutes are those by which a recording gives light to its course, or no more.
func (a *API) lightRoutes() {
	type inCourse func(ctx context.Context, course, recording, by uuid.UUID) error
	change := func(to inCourse) func(context.Context, roster.Person, *edge.OfRecording) error {
		return func(ctx context.Context, p roster.Person, in *edge.OfRecording) error {
			r, err := a.Recordings.Recording(ctx, in.Recording)
			if err != nil {
				return err
			}
			return to(ctx, r.CourseID, r.ID, p.ID)
		}
	}
	onBench(a, http.MethodPost, "/api/recordings/{recording}/light", "light",
		"Light a recording for its course, as it now stands", change(a.Releases.Light), edge.Changes("light"))
	onBench(a, http.MethodPost, "/api/recordings/{recording}/darken", "darken",
		"Take a recording back from its course", change(a.Releases.Darken), edge.Changes("light"))
}

// runningRoutes are about a capture while it runs.
func (a *API) runningRoutes() {
	onBench(a, http.MethodPost, "/api/recordings/{recording}/end", "end-capture",
		"End a capture that still runs, where it stands",
		func(ctx context.Context, _ roster.Person, in *edge.OfRecording) error {
			return a.Capture.End(ctx, in.Recording)
		})
	edge.On(a.Edge, edge.Staff, http.MethodPut, "/api/tracks/{track}/markers/{marker}", "mark",
		"Flag a moment of a capture, or a pause of it",
		func(ctx context.Context, p roster.Person, in *markerInput) (*edge.Empty, error) {
			m := capture.Marker{At: time.Duration(in.Body.AtMs) * time.Millisecond,
				Pause: time.Duration(in.Body.PauseMs) * time.Millisecond, Word: in.Body.Word}
			return nil, a.Capture.Mark(ctx, in.Track, in.Marker, p.ID, m)
		})
	type pausedInput struct {
		edge.OfTrack
		Body struct {
			On bool `json:"on"`
		}
	}
	edge.On(a.Edge, edge.Staff, http.MethodPut, "/api/tracks/{track}/paused", "pause",
		"Say that a capture is paused, or goes on",
		func(ctx context.Context, _ roster.Person, in *pausedInput) (*edge.Empty, error) {
			return nil, a.Capture.SetPaused(ctx, in.Track, in.Body.On)
		})
}

// onBench adds an operation for those who teach that does something to a recording and answers with its bench.
func onBench[I any, P interface {
	*I
	Subject() uuid.UUID
}](a *API, method, path, id, summary string, do func(context.Context, roster.Person, *I) error,
	more ...func(*huma.Operation),
) {
	edge.On(a.Edge, edge.Staff, method, path, id, summary, func(ctx context.Context, p roster.Person,
		in *I) (*edge.Body[Bench], error) {
		if err := do(ctx, p, in); err != nil {
			return nil, err
		}
		b, err := a.bench(ctx, p, P(in).Subject())
		return edge.Answer(b), err
	}, more...)
}

func (a *API) bench(ctx context.Context, p roster.Person, id uuid.UUID) (Bench, error) {
	r, err := a.Recordings.Recording(ctx, id)
	if err != nil {
		return Bench{}, err
	}
	b := benchOf(r)
	if err := a.benchLecture(ctx, &b, r); err != nil {
		return Bench{}, err
	}
	if b.Arranged, err = a.arranged(ctx, id); err != nil {
		return Bench{}, err
	}
	if err := a.benchFile(ctx, &b, r); err != nil {
		return Bench{}, err
	}
	markers, err := a.Capture.Markers(ctx, id)
	if err != nil {
		return Bench{}, err
	}
	b.Markers = []Marker{}
	for _, m := range markers {
		b.Markers = append(b.Markers, Marker{m.At.Milliseconds(), m.Pause.Milliseconds(), m.Word})
	}
	if r.State == "ready" || r.State == "running" && r.Length > 0 {
		b.Media = a.Address(edge.AsCaptured, r.ID, uuid.Nil, p.ID)
	}
	return b, nil
}

// benchOf is what a recording says of itself.
func benchOf(r recordings.Recording) Bench {
	b := Bench{
		ID: r.ID, Title: r.Title, Titled: r.Titled, Description: r.Description, Language: r.Language,
		Keywords: r.Keywords,
		State:    r.State, Fault: r.Fault, Source: r.Source, FileName: r.FileName, Stopped: r.StoppedAt != nil,
		StoredBytes: r.Stored, LengthMs: r.Length.Milliseconds(), ExpectedMs: r.Expected.Milliseconds(),
		Video: r.Video, Audio: r.Audio, SecondVideo: r.SecondVideo, Holes: page.Spans(r.Holes.Spans()),
		Differs: differs(r.Differs), SmallState: r.SmallState, SmallShare: r.SmallShare,
		Struck: page.Spans(r.Cuts().Struck().Spans()), Kept: page.Spans(r.Kept().Spans()),
		Led: page.Spans(r.Led.Spans()), PublishedMs: r.Kept().Len().Milliseconds(),
		CanUndo: r.Undo, CanRedo: r.Redo, ByItself: r.ByItself,
		Making: r.Making != nil, MakingFault: r.MakingFault, Published: r.EditionID != nil, Current: r.Current(),
		Deleted: r.Deleted,
	}
	if r.CutListID != nil {
		b.Version = *r.CutListID
	}
	if r.Deleted {
		gone := r.GoneAt
		b.GoneAt = &gone
	}
	if r.Size != nil {
		b.SizeBytes = *r.Size
	}
	return b
}

// benchLecture adds of which lecture and course it is, and how far that has come.
func (a *API) benchLecture(ctx context.Context, b *Bench, r recordings.Recording) error {
	term, err := a.Schedule.TermOf(ctx, r.CourseID)
	if err != nil {
		return err
	}
	course, err := a.Schedule.Course(ctx, r.CourseID)
	if err != nil {
		return err
	}
	lecture, err := a.Schedule.OfRecording(ctx, r.LectureID, r.ID)
	if errors.Is(err, schedule.ErrUnknown) && r.Deleted { // it lies in the bin, and its lecture is without it
		var rows []schedule.Lecture
		if rows, err = a.Schedule.Lecture(ctx, r.LectureID); err == nil {
			lecture = schedule.Lecture{Dated: rows[0].Dated}
		}
	}
	if err != nil {
		return err
	}
	reaches, err := a.Audience.Reaches(ctx, []uuid.UUID{r.CourseID})
	if err != nil {
		return err
	}
	b.Course = page.CourseName{ID: course.ID, Code: course.Code, Title: course.Title}
	b.Lecture = page.Cell(term, lecture, reaches.Of(r.CourseID, r.ID), a.Clock.Now())
	b.Week, b.Zone = term.Week(lecture.StartsAt).Number, term.Zone.String()
	b.Listed, b.Ruled, b.Lit = lecture.Listed, lecture.Ruled, lecture.Lit
	if b.Title == "" {
		b.Title = lecture.SuggestedTitle(term)
	}
	return nil
}

func (a *API) strip(ctx context.Context, p roster.Person, in *edge.OfRecording) (*edge.Body[StripPage], error) {
	r, err := a.Recordings.Recording(ctx, in.Recording)
	if err != nil {
		return nil, err
	}
	s, err := a.Recordings.Strip(ctx, r.ID, r.Length)
	if errors.Is(err, recordings.ErrNotReady) {
		return nil, edge.Plainly(http.StatusConflict, "measuring")
	}
	if err != nil {
		return nil, err
	}
	language, err := a.Words.Main(ctx, r.ID)
	if err != nil {
		return nil, err
	}
	cues, err := a.Words.Lines(ctx, r.ID, language)
	if err != nil {
		return nil, err
	}
	out := StripPage{WindowMs: 100, Peaks: base64.StdEncoding.EncodeToString(s.Peaks), Loudness: s.Loudness,
		Slides: []SlideMark{}, Proposals: []ProposalMark{}, Cues: []StripCue{}, Pauses: page.Spans(s.Pauses),
		Gain: page.GainOf(s.Gain(r.Kept()))}
	frame, err := a.Recordings.Frame(ctx, r.ID)
	if err != nil {
		return nil, err
	}
	out.FrameMs = float64(frame.Microseconds()) / 1000
	pictures := a.Address(edge.AsCaptured, r.ID, uuid.Nil, p.ID)
	texts, err := a.Words.Slides(ctx, r.ID)
	if err != nil {
		return nil, err
	}
	text := map[int64]string{}
	for _, x := range texts {
		text[x.At.Milliseconds()] = x.Flat()
	}
	for _, x := range s.Slides {
		out.Slides = append(out.Slides, SlideMark{x.AtMs, edge.SlideAddress(pictures, x), text[x.AtMs]})
	}
	for _, x := range s.Proposals {
		struck := span.Of(x.Span).Subtract(r.Struck).Empty()
		out.Proposals = append(out.Proposals,
			ProposalMark{page.Span{Start: x.Start.Milliseconds(), End: x.End.Milliseconds()}, string(x.Why), struck})
	}
	for _, c := range cues {
		out.Cues = append(out.Cues, stripCue(c.Cue))
	}
	return edge.Answer(out), nil
}

// inCourseInput is a recording as a course has it.
type inCourseInput struct {
	edge.OfCourse
	Recording uuid.UUID `path:"recording" format:"uuid"`
}

func (a *API) seats(ctx context.Context, _ roster.Person, in *inCourseInput) (*edge.Body[Audience], error) {
	seats, err := a.Audience.Seats(ctx, in.Course, in.Recording)
	if err != nil {
		return nil, err
	}
	c, err := a.Schedule.Course(ctx, in.Course)
	if err != nil {
		return nil, err
	}
	term, err := a.Schedule.TermOf(ctx, in.Course)
	if err != nil {
		return nil, err
	}
	out := Audience{Course: page.CourseName{ID: c.ID, Code: c.Code, Title: c.Title}, Zone: term.Zone.String(),
		Of: len(seats), Seats: []Seat{}}
	for _, s := range seats {
		can := s.Reason == "rule"
		if can {
			out.Can++
		}
		out.Seats = append(out.Seats, Seat{s.PersonID, s.Name, s.Group, can, string(s.Reason)})
	}
	out.Light = string(page.LightOf(out.Can, out.Of))
	return edge.Answer(out), nil
}

var recordingProblems = edge.Problems{
	recordings.ErrUnknown:  http.StatusNotFound,
	recordings.ErrNotReady: http.StatusConflict,
	library.ErrInvalid:     http.StatusUnprocessableEntity,
}
