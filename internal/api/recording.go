package api

import (
	"context"
	"encoding/base64"
	"errors"
	"net/http"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/google/uuid"

	"latelantern/internal/capture"
	"latelantern/internal/core/caption"
	"latelantern/internal/core/signal"
	"latelantern/internal/core/span"
	"latelantern/internal/core/tally"
	"latelantern/internal/cuts"
	"latelantern/internal/library"
	"latelantern/internal/recordings"
	"latelantern/internal/roster"
	"latelantern/internal/schedule"
)

// Stretch is a stretch of media time in milliseconds, half-open.
type Stretch struct {
	Start int64 `json:"start"`
	End   int64 `json:"end"`
}

func stretches(s []span.Span) []Stretch {
	out := []Stretch{}
	for _, x := range s {
		out = append(out, Stretch{x.Start.Milliseconds(), x.End.Milliseconds()})
	}
	return out
}

// Bench is what the trim bench shows of a recording.
type Bench struct {
	ID            uuid.UUID   `json:"id" format:"uuid"`
	Course        CourseName  `json:"course"`
	Lecture       LectureCell `json:"lecture"`
	Week          int         `json:"week"`
	Zone          string      `json:"zone"`
	Title         string      `json:"title" doc:"as kept, or as suggested"`
	Titled        bool        `json:"titled"`
	Description   string      `json:"description"`
	Language      string      `json:"language" doc:"BCP 47; empty for that of the course"`
	Keywords      []string    `json:"keywords" nullable:"false"`
	State         string      `json:"state" enum:"waiting,running,ready,failed"`
	Fault         string      `json:"fault"`
	Source        string      `json:"source" enum:"desk,hall,file"`
	FileName      string      `json:"file_name"`
	Stopped       bool        `json:"stopped"`
	StoredBytes   int64       `json:"stored_bytes"`
	SizeBytes     int64       `json:"size_bytes" doc:"0 while it is not known"`
	LengthMs      int64       `json:"length_ms"`
	ExpectedMs    int64       `json:"expected_ms"`
	OwnCopy       bool        `json:"own_copy" doc:"a foreign file, of which an own copy is made"`
	LeftMs        *int64      `json:"left_ms,omitempty" doc:"until all of it can be watched; none while that is not known"`
	Original      bool        `json:"original" doc:"the file as it came is kept"`
	OriginalUntil *time.Time  `json:"original_until,omitempty" doc:"by the rule of the course; none for as long as the recording"`
	Pictures      bool        `json:"pictures"`
	Sound         bool        `json:"sound"`
	Version       uuid.UUID   `json:"version" format:"uuid" doc:"of the cut list; the zero UUID before the first change"`
	Struck        []Stretch   `json:"struck" nullable:"false"`
	Kept          []Stretch   `json:"kept" nullable:"false"`
	Holes         []Stretch   `json:"holes" nullable:"false" doc:"where nothing was captured, as between two parts"`
	SmallState    string      `json:"small_state" enum:",making,ready,failed" doc:"of the small copy for slow lines"`
	SmallShare    int         `json:"small_share" doc:"per cent of it that is made"`
	Second        bool        `json:"second" doc:"there is a second picture beside the first"`
	Markers       []Marker    `json:"markers" nullable:"false" doc:"moments that were flagged while capturing, and pauses"`
	PublishedMs   int64       `json:"published_ms" doc:"length of what is kept"`
	CanUndo       bool        `json:"can_undo"`
	CanRedo       bool        `json:"can_redo"`
	Listed        bool        `json:"listed"`
	Ruled         bool        `json:"ruled"`
	Lit           bool        `json:"lit"`
	Making        bool        `json:"making" doc:"an edition is being made"`
	MakingFault   string      `json:"making_fault"`
	Published     bool        `json:"published" doc:"something of it was published before"`
	Differs       []Differs   `json:"differs" nullable:"false" doc:"what came and cannot be watched"`
	Current       bool        `json:"current" doc:"what is published is what stands here"`
	Media         string      `json:"media" doc:"address of the recording as captured; empty when it cannot be watched"`
	Deleted       bool        `json:"deleted"`
	GoneAt        *time.Time  `json:"gone_at,omitempty" doc:"when it is removed for good, for one in the bin"`
	ByItself      bool        `json:"by_itself" doc:"the ends were trimmed by themselves, as the course says, and nobody has changed that"`
	Led           []Stretch   `json:"led" nullable:"false" doc:"where the second picture leads"`
	Arranged      *Arranged   `json:"arranged,omitempty" doc:"the last split or join, as long as it can be undone"`
}

// Differs says that less of a track can be watched than came.
type Differs struct {
	What        string `json:"what" enum:"pictures,sound,file"`
	CameMs      int64  `json:"came_ms"`
	WatchableMs int64  `json:"watchable_ms"`
}

// differs is what a page is told of what came and cannot be watched.
func differs(all []tally.Difference) []Differs {
	out := []Differs{}
	for _, d := range all {
		came, watchable := d.Lengths()
		out = append(out,
			Differs{What: string(d.What), CameMs: came.Milliseconds(), WatchableMs: watchable.Milliseconds()})
	}
	return out
}

// Marker is a moment that someone flagged while capturing, or a pause.
type Marker struct {
	AtMs    int64  `json:"at_ms" minimum:"0" maximum:"604800000"`
	PauseMs int64  `json:"pause_ms,omitempty" minimum:"0" maximum:"604800000" doc:"how long the capture was paused there"`
	Word    string `json:"word,omitempty"`
}

// StripPage is the strip page of a recording.
type StripPage struct {
	WindowMs  int64          `json:"window_ms"`
	Peaks     string         `json:"peaks" doc:"base64; a byte for each window, 255 is full scale, square-root scale"`
	Loudness  *float64       `json:"loudness,omitempty" doc:"LUFS (ITU-R BS.1770)"`
	Slides    []SlideMark    `json:"slides" nullable:"false"`
	Proposals []ProposalMark `json:"proposals" nullable:"false"`
	Cues      []StripCue     `json:"cues" nullable:"false"`
	Pauses    []Stretch      `json:"pauses" nullable:"false" doc:"in which little is heard"`
	FrameMs   float64        `json:"frame_ms" doc:"how long a picture is shown; 0 for none"`
	Gain      *GainText      `json:"gain,omitempty" doc:"of what is kept; none when it is right as it is"`
}

// StripCue is a line of captions below the sound.
type StripCue struct {
	Cue
	Words []int64 `json:"words" nullable:"false" doc:"when each word of the text begins, and when it ends, one after the other"`
}

func stripCue(c caption.Cue) StripCue {
	out := StripCue{cueOf(c), []int64{}}
	var texts []string
	for _, w := range c.Spoken() {
		texts = append(texts, w.Text)
		out.Words = append(out.Words, w.Start.Milliseconds(), w.End.Milliseconds())
	}
	out.Text = strings.Join(texts, " ")
	return out
}

// GainText is by how much a recording is made louder or quieter, and why.
type GainText struct {
	DB       float64 `json:"db"`
	Loudness float64 `json:"loudness" doc:"as it is, LUFS (ITU-R BS.1770)"`
	Peak     float64 `json:"peak" doc:"as it is, dBTP"`
	Target   float64 `json:"target" doc:"LUFS"`
	Limited  bool    `json:"limited" doc:"it stays below the target, so that its peaks do not clip"`
}

func gainText(g *signal.Gain) *GainText {
	if g == nil {
		return nil
	}
	return &GainText{g.DB, g.Loudness, g.Peak, signal.Target, g.Limited}
}

// SlideMark is a slide as it first appears.
type SlideMark struct {
	At      int64  `json:"at"`
	Picture string `json:"picture"`
	Text    string `json:"text" doc:"what stands on it, as far as it could be read"`
}

// ProposalMark is a stretch that might be struck.
type ProposalMark struct {
	Stretch
	Why    string `json:"why" enum:"before,false_start,silence,break,tail,after"`
	Struck bool   `json:"struck"`
}

type titleInput struct {
	OfRecording
	Body struct {
		Title string `json:"title"`
	}
}

type descriptionInput struct {
	OfRecording
	Body struct {
		Description string `json:"description"`
	}
}

type cutInput struct {
	OfRecording
	Body struct {
		Cut   string     `json:"cut" enum:"strike,restore,move,silence,lead,follow,as_is,undo,redo"`
		Start int64      `json:"start,omitempty" doc:"milliseconds of source time, for strike and restore; the edge, for move and silence"`
		End   int64      `json:"end,omitempty"`
		From  *uuid.UUID `json:"from,omitempty" format:"uuid" doc:"the version that it is a change of, as the bench says it; when another has changed that meanwhile it is refused"`
	}
}

// Audience is who of a course can watch a recording, and why not.
type Audience struct {
	Can   int    `json:"can"`
	Of    int    `json:"of"`
	Light string `json:"light" enum:"dark,part_lit,lit"`
	Seats []Seat `json:"seats" nullable:"false"`
}

// Seat is one student of a course.
type Seat struct {
	Name   string `json:"name"`
	Group  string `json:"group"`
	Can    bool   `json:"can"`
	Reason string `json:"reason" enum:"rule,not_lit,no_rule,other_group,not_yet,no_longer"`
}

type markerInput struct {
	OfTrack
	Marker uuid.UUID `path:"marker" format:"uuid"`
	Body   Marker
}

func (a *API) recordingRoutes() {
	onBench(a, http.MethodGet, "/api/recordings/{recording}", "recording", "A recording on the trim bench",
		func(context.Context, roster.Person, *OfRecording) error { return nil })
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
	on(a, staff, http.MethodDelete, "/api/recordings/{recording}", "delete-recording",
		"Take a recording away from everyone",
		func(ctx context.Context, p roster.Person, in *OfRecording) (*empty, error) {
			return nil, a.Library.SetDeleted(ctx, in.Recording, p.ID, true)
		})
	on(a, staff, http.MethodPost, "/api/recordings/{recording}/bring-back", "bring-back-recording",
		"Bring a deleted recording back", func(ctx context.Context, p roster.Person, in *OfRecording) (*empty, error) {
			return nil, a.Library.SetDeleted(ctx, in.Recording, p.ID, false)
		})
	on(a, staff, http.MethodGet, "/api/recordings/{recording}/strip", "strip", "The strip page of a recording", a.strip)
	on(a, staff, http.MethodGet, "/api/recordings/{recording}/audience", "audience", "Who can watch a recording",
		a.seats)
	a.lightRoutes()
	a.runningRoutes()
}

// lightRoutes are those by which a recording gives light to its course, or no more.
func (a *API) lightRoutes() {
	type inCourse func(ctx context.Context, course, recording, by uuid.UUID) error
	change := func(to inCourse) func(context.Context, roster.Person, *OfRecording) error {
		return func(ctx context.Context, p roster.Person, in *OfRecording) error {
			r, err := a.Recordings.Recording(ctx, in.Recording)
			if err != nil {
				return err
			}
			return to(ctx, r.CourseID, r.ID, p.ID)
		}
	}
	onBench(a, http.MethodPost, "/api/recordings/{recording}/light", "light",
		"Light a recording for its course, as it now stands", change(a.Releases.Light), changes("light"))
	onBench(a, http.MethodPost, "/api/recordings/{recording}/darken", "darken",
		"Take a recording back from its course", change(a.Releases.Darken), changes("light"))
}

// runningRoutes are about a capture while it runs.
func (a *API) runningRoutes() {
	onBench(a, http.MethodPost, "/api/recordings/{recording}/end", "end-capture",
		"End a capture that still runs, where it stands",
		func(ctx context.Context, _ roster.Person, in *OfRecording) error {
			return a.Capture.End(ctx, in.Recording)
		})
	on(a, staff, http.MethodPut, "/api/tracks/{track}/markers/{marker}", "mark",
		"Flag a moment of a capture, or a pause of it",
		func(ctx context.Context, p roster.Person, in *markerInput) (*empty, error) {
			m := capture.Marker{At: time.Duration(in.Body.AtMs) * time.Millisecond,
				Pause: time.Duration(in.Body.PauseMs) * time.Millisecond, Word: in.Body.Word}
			return nil, a.Capture.Mark(ctx, in.Track, in.Marker, p.ID, m)
		})
	type pausedInput struct {
		OfTrack
		Body struct {
			On bool `json:"on"`
		}
	}
	on(a, staff, http.MethodPut, "/api/tracks/{track}/paused", "pause", "Say that a capture is paused, or goes on",
		func(ctx context.Context, _ roster.Person, in *pausedInput) (*empty, error) {
			return nil, a.Capture.SetPaused(ctx, in.Track, in.Body.On)
		})
}

// onBench adds an operation for those who teach that does something to a recording and answers with its bench.
func onBench[I any, P interface {
	*I
	about() uuid.UUID
}](a *API, method, path, id, summary string, do func(context.Context, roster.Person, *I) error,
	more ...func(*huma.Operation),
) {
	on(a, staff, method, path, id, summary, func(ctx context.Context, p roster.Person, in *I) (*body[Bench], error) {
		if err := do(ctx, p, in); err != nil {
			return nil, err
		}
		b, err := a.bench(ctx, p, P(in).about())
		return answer(b), err
	}, more...)
}

// about is the recording that an operation is about.
func (in *OfRecording) about() uuid.UUID { return in.Recording }

func (a *API) bench(ctx context.Context, p roster.Person, id uuid.UUID) (Bench, error) {
	r, err := a.Recordings.Recording(ctx, id)
	if err != nil {
		return Bench{}, err
	}
	term, err := a.Schedule.TermOf(ctx, r.CourseID)
	if err != nil {
		return Bench{}, err
	}
	course, err := a.Schedule.Course(ctx, r.CourseID)
	if err != nil {
		return Bench{}, err
	}
	lecture, err := a.Schedule.OfRecording(ctx, r.LectureID, id)
	if errors.Is(err, schedule.ErrUnknown) && r.Deleted { // it lies in the bin, and its lecture is without it
		var rows []schedule.Lecture
		if rows, err = a.Schedule.Lecture(ctx, r.LectureID); err == nil {
			lecture = schedule.Lecture{Dated: rows[0].Dated}
		}
	}
	if err != nil {
		return Bench{}, err
	}
	reaches, err := a.Audience.Reaches(ctx, []uuid.UUID{r.CourseID})
	if err != nil {
		return Bench{}, err
	}
	cuts := r.Cuts()
	b := Bench{
		ID: r.ID, Course: CourseName{course.ID, course.Code, course.Title},
		Lecture: cell(term, lecture, reaches.Of(r.CourseID, r.ID), a.Clock.Now()),
		Week:    term.Week(lecture.StartsAt).Number, Zone: term.Zone.String(), Title: r.Title, Titled: r.Titled,
		Description: r.Description,
		State:       r.State, Fault: r.Fault, Source: r.Source, FileName: r.FileName, Stopped: r.StoppedAt != nil,
		StoredBytes: r.Stored,
		LengthMs:    r.Length.Milliseconds(), ExpectedMs: r.Expected.Milliseconds(), Pictures: r.Pictures,
		Sound:  r.Sound,
		Struck: stretches(cuts.Struck().Spans()), Kept: stretches(r.Kept().Spans()),
		PublishedMs: r.Kept().Len().Milliseconds(), Holes: stretches(r.Holes.Spans()), Second: r.Second,
		SmallState: r.SmallState, SmallShare: r.SmallShare,
		CanUndo: r.Undo, CanRedo: r.Redo, Listed: lecture.Listed, Ruled: lecture.Ruled, Lit: lecture.Lit,
		Making: r.Making != nil, MakingFault: r.MakingFault, Published: r.EditionID != nil, Differs: differs(r.Differs),
		Current: r.Current(), Deleted: r.Deleted,
	}
	if r.CutListID != nil {
		b.Version = *r.CutListID
	}
	b.Language, b.Keywords = r.Language, r.Keywords
	b.ByItself, b.Led = r.ByItself, stretches(r.Led.Spans())
	if r.Deleted {
		gone := r.GoneAt
		b.GoneAt = &gone
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
	if r.Size != nil {
		b.SizeBytes = *r.Size
	}
	if b.Title == "" {
		b.Title = lecture.SuggestedTitle(term)
	}
	if r.State == "ready" || r.State == "running" && r.Length > 0 {
		b.Media = a.address(asCaptured, r.ID, uuid.Nil, p.ID)
	}
	return b, nil
}

func (a *API) strip(ctx context.Context, p roster.Person, in *OfRecording) (*body[StripPage], error) {
	r, err := a.Recordings.Recording(ctx, in.Recording)
	if err != nil {
		return nil, err
	}
	s, err := a.Recordings.Strip(ctx, r.ID, r.Length)
	if errors.Is(err, recordings.ErrNotReady) {
		return nil, plainly(http.StatusConflict, "measuring")
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
		Slides: []SlideMark{}, Proposals: []ProposalMark{}, Cues: []StripCue{}, Pauses: stretches(s.Pauses),
		Gain: gainText(s.Gain(r.Kept()))}
	frame, err := a.Recordings.Frame(ctx, r.ID)
	if err != nil {
		return nil, err
	}
	out.FrameMs = float64(frame.Microseconds()) / 1000
	pictures := a.address(asCaptured, r.ID, uuid.Nil, p.ID)
	texts, err := a.Words.Slides(ctx, r.ID)
	if err != nil {
		return nil, err
	}
	text := map[int64]string{}
	for _, x := range texts {
		text[x.At.Milliseconds()] = x.Flat()
	}
	for _, x := range s.Slides {
		out.Slides = append(out.Slides, SlideMark{x.AtMs, slideAddress(pictures, x), text[x.AtMs]})
	}
	for _, x := range s.Proposals {
		struck := span.Of(x.Span).Subtract(r.Struck).Empty()
		out.Proposals = append(out.Proposals,
			ProposalMark{Stretch{x.Start.Milliseconds(), x.End.Milliseconds()}, string(x.Why), struck})
	}
	for _, c := range cues {
		out.Cues = append(out.Cues, stripCue(c.Cue))
	}
	return answer(out), nil
}

func (a *API) seats(ctx context.Context, _ roster.Person, in *OfRecording) (*body[Audience], error) {
	r, err := a.Recordings.Recording(ctx, in.Recording)
	if err != nil {
		return nil, err
	}
	seats, err := a.Audience.Seats(ctx, r.CourseID, r.ID)
	if err != nil {
		return nil, err
	}
	out := Audience{Of: len(seats), Seats: []Seat{}}
	for _, s := range seats {
		can := s.Reason == "rule"
		if can {
			out.Can++
		}
		out.Seats = append(out.Seats, Seat{s.Name, s.Group, can, string(s.Reason)})
	}
	out.Light = string(lightOf(out.Can, out.Of))
	return answer(out), nil
}

var recordingProblems = problems{
	recordings.ErrUnknown:  http.StatusNotFound,
	recordings.ErrNotReady: http.StatusConflict,
	library.ErrInvalid:     http.StatusUnprocessableEntity,
}
