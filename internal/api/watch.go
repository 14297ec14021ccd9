package api

import (
	"context"
	"fmt"
	"net/http"
	"strings"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/caption"
	"latelantern/internal/core/catchup"
	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/timetable"
	"latelantern/internal/core/viewing"
	"latelantern/internal/door"
	"latelantern/internal/library"
	"latelantern/internal/publish"
	"latelantern/internal/roster"
)

// Watch is a recording as it is watched.
type Watch struct {
	ID          uuid.UUID  `json:"id" format:"uuid"`
	Course      CourseName `json:"course"`
	Week        int        `json:"week"`
	StartsAt    *time.Time `json:"starts_at,omitempty" doc:"missing for a lesson of a whole week"`
	Zone        string     `json:"zone"`
	Title       string     `json:"title"`
	Description string     `json:"description"`
	Lecturers   []string   `json:"lecturers" nullable:"false"`
	LengthMs    int64      `json:"length_ms"`
	LectureID   uuid.UUID  `json:"lecture_id" format:"uuid"`
	Live        bool       `json:"live" doc:"it is being captured now, or was until a moment ago"`
	Phase       string     `json:"phase" enum:",begins,runs,paused,broken,over" doc:"of what is followed live"`
	AskAgainMs  int64      `json:"ask_again_ms" doc:"after how long the phase changes by itself if nothing more comes; 0 for never"`
	Kept        []Stretch  `json:"kept" nullable:"false" doc:"what would be published, for those who see a recording before it is lit; empty for all of it"`
	Unlit       bool       `json:"unlit" doc:"only those who teach it can see it yet"`
	Pictures    bool       `json:"pictures"`
	Second      bool       `json:"second" doc:"there is a second picture beside the first"`
	Media       string     `json:"media"`
	Edition     uuid.UUID  `json:"edition" format:"uuid" doc:"that is watched; the zero UUID for what was captured"`
	Takeaway    bool       `json:"takeaway" doc:"it may be taken away as one file"`
	StaffAlone  bool       `json:"takeaway_staff_alone" doc:"by those who teach it alone: the viewing rule lets nobody else"`
	ResumeMs    int64      `json:"resume_ms" doc:"published time; 0 for the beginning"`
	Cues        []Cue      `json:"cues" nullable:"false" doc:"captions in published time"`
	Language    string     `json:"language" doc:"of the captions, BCP 47; empty for none"`
	Languages   []string   `json:"languages" nullable:"false" doc:"in which there are captions"`
	Chapters    []Chapter  `json:"chapters" nullable:"false" doc:"in published time"`
	Bytes       int64      `json:"bytes"`
	SmallBytes  int64      `json:"small_bytes" doc:"of the small copy; 0 while there is none"`
	SoundBytes  int64      `json:"sound_bytes" doc:"of the sound alone; 0 when there is none"`
	Next        *uuid.UUID `json:"next_recording,omitempty" format:"uuid" doc:"the next in the playlist that can be watched"`
	AsStaff     bool       `json:"as_staff"`
	Led         []Stretch  `json:"led" nullable:"false" doc:"where the second picture leads, in published time"`
	Gain        *GainText  `json:"gain,omitempty" doc:"by which its sound is made louder or quieter"`
}

type watchInput struct {
	OfRecording
	Language string `query:"language" maxLength:"35" doc:"of captions; without it that of the course"`
	Edition  string `query:"edition" doc:"that was watched until now, if another was published meanwhile"`
	Uncut    bool   `query:"uncut" doc:"for those who teach it: as it was captured"`
	At       int64  `query:"at" minimum:"0" maximum:"604800000" doc:"where in it, in its published time"`
}

type placeInput struct {
	OfRecording
	Body struct {
		Edition uuid.UUID `json:"edition" format:"uuid" doc:"that is watched"`
		At      int64     `json:"at" minimum:"0" maximum:"604800000" doc:"published time in milliseconds"`
	}
}

func (a *API) watchRoutes() {
	on(a, signedIn, http.MethodGet, "/api/catch-up", "catch-up", "What can be watched in one's courses", a.catchUp)
	on(a, inside, http.MethodGet, "/api/watch/{recording}", "watch", "Open a recording to watch it", a.watch)
	on(a, inside, http.MethodPut, "/api/watch/{recording}/place", "keep-place", "Remember where one stopped", func(ctx context.Context, p roster.Person, in *placeInput) (*empty, error) {
		x, err := a.open(ctx, p, in.Recording)
		if err != nil {
			return nil, err
		}
		carrier := cutlist.Carrier(x.Stretches)
		if in.Body.Edition != x.edition { // another was published since that page looked
			if carrier, err = a.Library.Carrier(ctx, in.Recording, in.Body.Edition); err != nil {
				return nil, err
			}
		}
		at := time.Duration(in.Body.At) * time.Millisecond
		return nil, a.CatchUp.KeepPlace(ctx, p.ID, in.Recording, carrier.Source(at))
	})
	a.copyRoutes()
}

// doorProblem is a closed door: it says why, and which course it belongs to, and no more.
func doorProblem(code string, reason viewing.Reason, opens time.Time) error {
	detail := map[viewing.Reason]string{
		viewing.NotEnrolled: fmt.Sprintf("This belongs to %s, and you are not on its roster.", code),
		viewing.NotLit:      fmt.Sprintf("This recording of %s is not lit yet. You will find it in the playlist of the course when it is.", code),
		viewing.NoRule:      fmt.Sprintf("Nobody has said yet who may watch the recordings of %s.", code),
		viewing.OtherGroup:  fmt.Sprintf("The viewing rule of %s is for other groups than yours.", code),
		viewing.NotYet:      fmt.Sprintf("This recording of %s opens on %s UTC.", code, opens.Format("2 January at 15:04")),
		viewing.NoLonger:    fmt.Sprintf("The time in which recordings of %s could be watched is over.", code),
	}[reason]
	return problemOf(http.StatusForbidden, "door:"+string(reason), detail)
}

// overProblem says to who followed a lecture that it is over, and when it can be watched.
func (a *API) overProblem(ctx context.Context, course uuid.UUID) error {
	c, err := a.Schedule.Course(ctx, course)
	if err != nil {
		return err
	}
	who := "someone who teaches it"
	if len(c.Lecturers) > 0 {
		who = strings.Join(c.Lecturers, " or ")
	}
	return problemOf(http.StatusForbidden, "door:over", fmt.Sprintf("The lecture is over. It can be watched here when %s has lit it.", who))
}

// opened is what is behind a door.
type opened struct {
	*library.Rendition
	media    string
	edition  uuid.UUID // uuid.Nil for what was captured
	takeaway bool
	alone    bool      // it may be taken away by those who teach it alone
	live     door.Live // of what is followed
	unlit    bool      // only those who teach it see it
}

// open decides at the door of a recording and gives what is behind it: the lecture under way, the edition that is
// published, or for those who teach the recording as captured.
func (a *API) open(ctx context.Context, p roster.Person, id uuid.UUID) (opened, error) {
	at, err := a.Audience.Decide(ctx, p.ID, id)
	if err != nil {
		return opened{}, err
	}
	r, err := a.Library.Recording(ctx, id)
	if err != nil {
		return opened{}, err
	}
	live, err := a.Door.Live(ctx, id)
	if err != nil {
		return opened{}, err
	}
	if live.Running || live.Open && !at.Watch {
		if err := a.mayEnter(ctx, p, r.LectureID); err != nil {
			return opened{}, err
		}
		if err := a.noticeProblem(ctx, p, r.LectureID, r.CourseID); err != nil {
			return opened{}, err
		}
		x, err := a.Library.Live(ctx, id)
		return opened{Rendition: x, media: a.address(asItRuns, id, uuid.Nil, p.ID), live: live}, err
	}
	if !at.Watch {
		if at.Reason != viewing.NotEnrolled {
			if err := a.hidden(ctx, p, r.LectureID); err != nil {
				return opened{}, err
			}
		}
		if live.Over && a.mayEnter(ctx, p, r.LectureID) == nil {
			return opened{}, a.overProblem(ctx, r.CourseID)
		}
		return opened{}, doorProblem(at.Code, at.Reason, at.Opens)
	}
	if at.Edition == nil {
		x, err := a.Library.Captured(ctx, id)
		return opened{Rendition: x, media: a.address(asCaptured, id, uuid.Nil, p.ID), unlit: true}, err
	}
	x, err := a.Library.Edition(ctx, *at.Edition)
	media := a.address(asPublished, id, *at.Edition, p.ID)
	return opened{Rendition: x, media: media, edition: *at.Edition, takeaway: at.Download, alone: at.Download && !at.Takeaway}, err
}

func (a *API) watch(ctx context.Context, p roster.Person, in *watchInput) (*body[Watch], error) {
	rendition, err := a.open(ctx, p, in.Recording)
	if err != nil {
		return nil, err
	}
	r, err := a.Library.Recording(ctx, in.Recording)
	if err != nil {
		return nil, err
	}
	lecture, err := a.Schedule.OfRecording(ctx, r.LectureID, r.ID)
	if err != nil {
		return nil, err
	}
	term, err := a.Schedule.TermOf(ctx, r.CourseID)
	if err != nil {
		return nil, err
	}
	course, err := a.Schedule.Course(ctx, r.CourseID)
	if err != nil {
		return nil, err
	}
	cues, language, languages, err := a.Words.Shown(ctx, r.ID, in.Language)
	if err != nil {
		return nil, err
	}
	place, err := a.CatchUp.Place(ctx, p.ID, r.ID)
	if err != nil {
		return nil, err
	}
	viewer, err := a.Roster.Viewer(ctx, p.ID, r.CourseID)
	if err != nil {
		return nil, err
	}
	out := Watch{
		LectureID: r.LectureID, Second: rendition.Second != nil,
		ID: r.ID, Course: CourseName{course.ID, course.Code, course.Title}, Week: term.Week(lecture.StartsAt).Number, StartsAt: dated(lecture.StartsAt, lecture.Ahead), Zone: term.Zone.String(),
		Title: r.Title, Description: r.Description, Lecturers: course.Lecturers, LengthMs: rendition.Length.Milliseconds(), Live: !rendition.Ended,
		Pictures: rendition.Pictures != nil, Media: rendition.media, Edition: rendition.edition, Takeaway: rendition.takeaway, StaffAlone: rendition.alone, Cues: []Cue{},
		AsStaff: viewer.Coordinator || viewer.Part.Staff(),
	}
	carrier := cutlist.Carrier(rendition.Stretches)
	out.Kept = []Stretch{}
	if rendition.unlit {
		out.Unlit = true
		if !in.Uncut && r.Kept().Len() < r.Length {
			out.Kept, carrier = stretches(r.Kept().Spans()), cutlist.CarrierOf(r.Kept())
		}
	}
	if rendition.live.Open {
		now, pulse := a.Clock.Now(), rendition.live.Pulse()
		out.Live, out.Phase = true, string(pulse.Phase(now))
		if until := pulse.Until(now); !until.IsZero() {
			out.AskAgainMs = max(1, until.Sub(now).Milliseconds())
		}
	}
	if was, err := uuid.Parse(in.Edition); err == nil && was != out.Edition {
		// Whoever watched the edition before goes on at the same moment of the lecture.
		if old, err := a.Library.Carrier(ctx, r.ID, was); err == nil {
			place = old.Source(time.Duration(in.At) * time.Millisecond)
		}
	}
	if at, _ := carrier.Moment(place); !out.Live && !catchup.Seen(at, rendition.Length) {
		out.ResumeMs = at.Milliseconds()
	}
	if out.Title == "" {
		out.Title = lecture.SuggestedTitle(term)
	}
	for _, rail := range rendition.Rails() {
		out.Bytes += rail.Bytes()
	}
	if rendition.Sound != nil {
		out.SoundBytes = rendition.Sound.Bytes()
	}
	if out.Edition != uuid.Nil {
		if small, err := a.Library.Small(ctx, out.Edition); err == nil && small.Pictures != nil {
			out.SmallBytes = small.Pictures.Bytes()
			if small.Sound != nil {
				out.SoundBytes = small.Sound.Bytes()
				out.SmallBytes += out.SoundBytes
			}
		}
	}
	for _, c := range caption.Carry(cues, carrier) {
		out.Cues = append(out.Cues, cueOf(c))
	}
	out.Language, out.Languages = language, append([]string{}, languages...)
	out.Chapters = []Chapter{}
	if !out.Live {
		chapters, err := a.carriedChapters(ctx, r, carrier)
		if err != nil {
			return nil, err
		}
		for _, c := range chapters {
			out.Chapters = append(out.Chapters, Chapter{c.Start.Milliseconds(), c.Title})
		}
	}
	out.Led = stretches(rendition.Led)
	gain, err := a.Library.GainOf(ctx, r.ID, rendition.Rendition)
	if err != nil {
		return nil, err
	}
	out.Gain = gainText(gain)
	entries, err := a.Publish.Entries(ctx, r.CourseID)
	if err != nil {
		return nil, err
	}
	here := false
	for _, e := range entries {
		switch {
		case e.RecordingID == nil:
		case *e.RecordingID == r.ID:
			here = true
		case here && e.Lit && out.Next == nil:
			if d, err := a.Audience.Decide(ctx, p.ID, *e.RecordingID); err == nil && d.Watch {
				out.Next = e.RecordingID
			}
		}
	}
	return answer(out), nil
}

// line is an entry of a playlist with its week and, when it was given none, its suggested title.
func (a *API) line(e publish.Entry, week func(time.Time) timetable.Week, suggested map[uuid.UUID]string) PlaylistLine {
	out := PlaylistLine{ID: e.ID, Heading: e.Heading, RecordingID: e.RecordingID, Title: e.Title, LengthMs: e.LengthMs, Lit: e.Lit, Light: string(viewing.Dark)}
	if e.StartsAt != nil {
		out.Week, out.StartsAt = week(*e.StartsAt).Number, dated(*e.StartsAt, e.Ahead)
	}
	if e.RecordingID != nil && out.Title == "" {
		out.Title = suggested[*e.RecordingID]
	}
	if e.RecordingID != nil && out.Title == "" {
		out.Title = e.Topic
	}
	return out
}

// dated is when something is held, and nil for what is for a whole week.
func dated(at time.Time, ahead bool) *time.Time {
	if ahead {
		return nil
	}
	return &at
}
