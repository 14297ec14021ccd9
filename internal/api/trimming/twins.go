package trimming

import (
	"context"
	"net/http"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/recordings"
	"latelantern/internal/roster"
)

// TwinLine is a recording beside another that may be the same.
type TwinLine struct {
	ID          uuid.UUID   `json:"id" format:"uuid"`
	Why         string      `json:"why" enum:",file,sound,lecture" doc:"its bytes, its sound, or its lecture is the same; empty for the one itself"`
	SharePct    int         `json:"share" doc:"per cent of what is heard that agrees; 0 when it was not compared"`
	OffsetMs    int64       `json:"offset_ms" doc:"where it begins on the clock of the one"`
	Mine        bool        `json:"mine" doc:"who asks may put it into the bin"`
	Lecture     page.Choice `json:"lecture"`
	Title       string      `json:"title"`
	Source      string      `json:"source" enum:"desk,hall,file"`
	FileName    string      `json:"file_name"`
	StartedAt   time.Time   `json:"started_at"`
	LengthMs    int64       `json:"length_ms"`
	StoredBytes int64       `json:"stored_bytes"`
	Video       bool        `json:"video"`
	Audio       bool        `json:"audio"`
	Width       int         `json:"width" doc:"of its pictures; 0 for none"`
	Height      int         `json:"height"`
	Loudness    *float64    `json:"loudness,omitempty" doc:"LUFS"`
	Parts       int         `json:"parts"`
	Trimmed     bool        `json:"trimmed"`
	Titled      bool        `json:"titled"`
	Lit         bool        `json:"lit"`
	Slide       string      `json:"slide" doc:"address of the picture of a slide from its middle; empty for none"`
	Deleted     *time.Time  `json:"deleted_at,omitempty"`
}

// Twins is a recording and those that may be the same.
type Twins struct {
	One    TwinLine   `json:"one"`
	Others []TwinLine `json:"others" nullable:"false"`
}

// BinLine is a recording in the bin.
type BinLine struct {
	ID       uuid.UUID   `json:"id" format:"uuid"`
	Lecture  page.Choice `json:"lecture"`
	Title    string      `json:"title"`
	FileName string      `json:"file_name"`
	LengthMs int64       `json:"length_ms"`
	Bytes    int64       `json:"bytes"`
	By       string      `json:"by"`
	Deleted  time.Time   `json:"deleted_at"`
	GoneAt   time.Time   `json:"gone_at" doc:"when it is removed for good"`
}

// Bin is what was taken away.
type Bin struct {
	Zone  string    `json:"zone"`
	Days  int       `json:"days" doc:"for which it lies there"`
	Lines []BinLine `json:"lines" nullable:"false" doc:"the latest first"`
}

func (a *API) twinRoutes() {
	edge.On(a.Edge, edge.Staff, http.MethodGet, "/api/recordings/{recording}/twins", "twins",
		"A recording beside those that may be the same", a.twins)
	type bothInput struct {
		edge.OfRecording
		Other uuid.UUID `path:"other" format:"uuid"`
		Body  struct {
			Both bool `json:"both" doc:"both are wanted"`
		}
	}
	edge.On(a.Edge, edge.Staff, http.MethodPut, "/api/recordings/{recording}/twins/{other}", "want-both",
		"Say whether two recordings are both wanted",
		func(ctx context.Context, p roster.Person, in *bothInput) (*edge.Body[Twins], error) {
			if _, err := a.Recordings.Recording(ctx, in.Other); err != nil {
				return nil, err
			}
			if err := a.Measure.WantBoth(ctx, in.Recording, in.Other, in.Body.Both); err != nil {
				return nil, err
			}
			return a.twins(ctx, p, &in.OfRecording)
		})
	edge.On(a.Edge, edge.Teachers, http.MethodGet, "/api/bin", "bin", "What was taken away in the courses one teaches", a.bin)
}

func (a *API) twins(ctx context.Context, p roster.Person, in *edge.OfRecording) (*edge.Body[Twins], error) {
	r, err := a.Recordings.Recording(ctx, in.Recording)
	if err != nil {
		return nil, err
	}
	others, err := a.Measure.Twins(ctx, r.ID)
	if err != nil {
		return nil, err
	}
	out := Twins{Others: []TwinLine{}}
	if len(others) > 0 {
		if out.One, err = a.twin(ctx, p, r.ID); err != nil {
			return nil, err
		}
	}
	for _, x := range others {
		line, err := a.twin(ctx, p, x.ID)
		if err != nil {
			return nil, err
		}
		line.Why, line.SharePct, line.OffsetMs = x.Why, int(100*x.Share), x.Offset.Milliseconds()
		out.Others = append(out.Others, line)
	}
	return edge.Answer(out), nil
}

// twin is one recording as it is shown beside others.
func (a *API) twin(ctx context.Context, p roster.Person, id uuid.UUID) (TwinLine, error) {
	r, err := a.Recordings.Recording(ctx, id)
	if err != nil {
		return TwinLine{}, err
	}
	l, err := a.Schedule.OfRecording(ctx, r.LectureID, r.ID)
	if err != nil {
		return TwinLine{}, err
	}
	term, err := a.Schedule.TermOf(ctx, r.CourseID)
	if err != nil {
		return TwinLine{}, err
	}
	out := TwinLine{
		ID: r.ID, Mine: a.MayStaff(ctx, p, r.CourseID) == nil, Lecture: page.ChoiceOf(term, l), Title: r.Title,
		Source: r.Source, FileName: r.FileName, StartedAt: r.StartedAt, LengthMs: r.Length.Milliseconds(),
		StoredBytes: r.Stored, Video: r.Video, Audio: r.Audio, Parts: r.Parts, Trimmed: r.CutListID != nil,
		Titled: r.Titled, Lit: l.Lit,
	}
	if !out.Mine {
		out.Title, out.FileName, out.Lecture.Topic = "", "", ""
		return out, nil // of a course of others, no more than that it is there
	}
	if out.Title == "" {
		out.Title = l.SuggestedTitle(term)
	}
	if x, err := a.Recordings.Captured(ctx, r.ID); err == nil && x.Video != nil {
		out.Width, out.Height = x.Video.Shown().Width, x.Video.Shown().Height
	}
	strip, err := a.Recordings.Strip(ctx, r.ID, r.Length)
	if err != nil {
		return out, nil // it is still being measured
	}
	out.Loudness = strip.Loudness
	for _, s := range strip.Slides {
		if out.Slide == "" || s.AtMs <= r.Length.Milliseconds()/2 {
			out.Slide = edge.SlideAddress(a.Address(edge.AsCaptured, r.ID, uuid.Nil, p.ID), s)
		}
	}
	return out, nil
}

func (a *API) bin(ctx context.Context, p roster.Person, _ *edge.Empty) (*edge.Body[Bin], error) {
	term, err := a.Schedule.CurrentTerm(ctx)
	if err != nil {
		return nil, err
	}
	parts, err := a.Roster.Memberships(ctx, p.ID)
	if err != nil {
		return nil, err
	}
	teaches := map[uuid.UUID]bool{}
	for _, m := range parts {
		teaches[m.CourseID] = m.Role.Staff()
	}
	courses, err := a.Schedule.Courses(ctx, term.ID, nil)
	if err != nil {
		return nil, err
	}
	var ids []uuid.UUID
	for _, c := range courses {
		if p.Coordinator || teaches[c.ID] {
			ids = append(ids, c.ID)
		}
	}
	list, err := a.Library.Binned(ctx, ids)
	if err != nil {
		return nil, err
	}
	var lectures []uuid.UUID
	for _, x := range list {
		lectures = append(lectures, x.LectureID)
	}
	named, err := a.Schedule.LecturesNamed(ctx, lectures)
	if err != nil {
		return nil, err
	}
	out := Bin{Zone: term.Zone.String(), Days: recordings.BinDays, Lines: []BinLine{}}
	for _, x := range list {
		line := BinLine{ID: x.ID, Title: x.Title, FileName: x.FileName, LengthMs: x.LengthMs, Bytes: x.Bytes, By: x.By,
			Deleted: x.DeletedAt, GoneAt: x.GoneAt}
		for _, l := range named {
			if l.ID != x.LectureID {
				continue
			}
			if line.Lecture = page.ChoiceOf(term, l); line.Title == "" {
				line.Title = l.SuggestedTitle(term)
			}
			break
		}
		out.Lines = append(out.Lines, line)
	}
	return edge.Answer(out), nil
}
