package watching

import (
	"cmp"
	"context"
	"net/http"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/audience"
	"latelantern/internal/core/caption"
	"latelantern/internal/core/catchup"
	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/signal"
	"latelantern/internal/core/span"
	"latelantern/internal/core/viewing"
	"latelantern/internal/door"
	"latelantern/internal/feeds"
	"latelantern/internal/playlists"
	"latelantern/internal/recordings"
	"latelantern/internal/release"
	"latelantern/internal/roster"
)

// Watch is a recording as it is watched.
type Watch struct {
	ID          uuid.UUID       `json:"id" format:"uuid"`
	Course      page.CourseName `json:"course"`
	Week        int             `json:"week"`
	StartsAt    *time.Time      `json:"starts_at,omitempty" doc:"missing for a lesson of a whole week"`
	Zone        string          `json:"zone"`
	Title       string          `json:"title"`
	Description string          `json:"description"`
	Lecturers   []string        `json:"lecturers" nullable:"false"`
	LengthMs    int64           `json:"length_ms"`
	LectureID   uuid.UUID       `json:"lecture_id" format:"uuid"`
	Live        bool            `json:"live" doc:"it is being captured now, or was until a moment ago"`
	Phase       string          `json:"phase" enum:",begins,runs,paused,broken,over" doc:"of what is followed live"`
	AskAgainMs  int64           `json:"ask_again_ms" doc:"after how long the phase changes by itself if nothing more comes; 0 for never"`
	OpensAt     *time.Time      `json:"opens_at,omitempty" doc:"of what is followed live: from when on the viewing rule opens it, when that is still to come"`
	Kept        []page.Span     `json:"kept" nullable:"false" doc:"what would be published, for those who see a recording before it is lit; empty for all of it"`
	Unlit       bool            `json:"unlit" doc:"only those who teach it can see it yet"`
	Video       bool            `json:"video"`
	SecondVideo bool            `json:"second_video" doc:"there is a second picture beside the first"`
	Media       string          `json:"media"`
	Edition     uuid.UUID       `json:"edition" format:"uuid" doc:"that is watched; the zero UUID for what was captured"`
	Takes       []TakeLine      `json:"takes" nullable:"false" doc:"what of it may be taken away"`
	ResumeMs    int64           `json:"resume_ms" doc:"published time; 0 for the beginning"`
	Cues        []page.Cue      `json:"cues" nullable:"false" doc:"captions in published time"`
	Language    string          `json:"language" doc:"of the captions, BCP 47; empty for none"`
	Languages   []string        `json:"languages" nullable:"false" doc:"in which there are captions"`
	Chapters    []page.Chapter  `json:"chapters" nullable:"false" doc:"in published time"`
	Bytes       int64           `json:"bytes"`
	SmallBytes  int64           `json:"small_bytes" doc:"of the small copy; 0 while there is none"`
	SoundBytes  int64           `json:"audio_bytes" doc:"of the sound alone; 0 when there is none"`
	Next        *uuid.UUID      `json:"next_recording,omitempty" format:"uuid" doc:"the next in the playlist that can be watched"`
	NextTitle   string          `json:"next_title,omitempty"`
	List        *LinkName       `json:"list,omitempty" doc:"the playlist whose link a guest came by"`
	AsStaff     bool            `json:"as_staff"`
	Notes       bool            `json:"notes" doc:"who asks can keep notes of their own"`
	Led         []page.Span     `json:"led" nullable:"false" doc:"where the second picture leads, in published time"`
	Gain        *page.GainText  `json:"gain,omitempty" doc:"by which its sound is made louder or quieter"`
	Account     *AccountLine    `json:"account,omitempty" doc:"what they have of it; missing for guests and for what is not published"`
	Slides      []WatchSlide    `json:"slides" nullable:"false" doc:"in published time"`
	Silences    []page.Span     `json:"silences" nullable:"false" doc:"over which who listens can go, in published time"`
}

// WatchSlide is what stands on the picture from a moment on.
type WatchSlide struct {
	At      int64  `json:"at"`
	Picture string `json:"picture" doc:"its address"`
}

type watchInput struct {
	edge.OfRecording
	Language string `query:"language" maxLength:"35" doc:"of captions; without it that of the course"`
	Edition  string `query:"edition" doc:"that was watched until now, if another was published meanwhile"`
	Uncut    bool   `query:"uncut" doc:"for those who teach it: as it was captured"`
	At       int64  `query:"at" minimum:"0" maximum:"604800000" doc:"where in it, in its published time"`
}

func (a *API) watchRoutes() {
	edge.On(a.Edge, edge.SignedIn, http.MethodGet, "/api/catch-up", "catch-up",
		"What can be watched in one's courses", a.catchUp)
	edge.On(a.Edge, edge.SignedIn, http.MethodGet, "/api/catch-up/plan", "catch-up-plan",
		"What fits into the time that one has", a.leftPlan)
	edge.On(a.Edge, edge.Inside, http.MethodGet, "/api/watch/{recording}", "watch", "Open a recording to watch it",
		a.watch)
	a.wordRoutes()
	a.tellRoutes()
	a.copyRoutes()
	a.sightRoutes()
	a.caughtUpRoutes()
}

// doorProblem is a closed door: it says why, and which course it belongs to, and no more.
func doorProblem(code string, reason viewing.Reason, opens time.Time) error {
	return edge.ProblemOf(http.StatusForbidden, doorText(code, reason, opens))
}

// overProblem says to who followed a lecture that it is over, and when it can be watched: not before a moment, when
// that is still to come.
func (a *API) overProblem(ctx context.Context, course uuid.UUID, opens *time.Time) error {
	c, err := a.Schedule.Course(ctx, course)
	if err != nil {
		return err
	}
	code, with := "door.over", []any{"who", fault.Either(c.Lecturers)}
	if len(c.Lecturers) == 0 {
		code, with = "door.over_someone", nil
	}
	if opens != nil {
		code, with = code+"_from", append(with, "opens", fault.Moment{Time: *opens})
	}
	return edge.ProblemOf(http.StatusForbidden, fault.Say(fault.Code(code), with...))
}

// later is a moment that is still to come; nil for another.
func (a *API) later(at time.Time) *time.Time {
	if !at.After(a.Clock.Now()) {
		return nil
	}
	return &at
}

// opened is what is behind a door.
type opened struct {
	*recordings.Presentation
	media   string
	edition uuid.UUID    // uuid.Nil for what was captured
	uses    viewing.Uses // what one may do with it
	ruled   viewing.Uses // and what those may of whom the rule speaks
	live    door.Live    // of what is followed
	opens   *time.Time   // of what is followed: from when on the viewing rule opens it, when that is to come
	unlit   bool         // only those who teach it see it
	by      uuid.UUID    // the course by which it is open
}

// reads reports whether one may read what is said in it. What is followed live can be heard by all who follow it.
func (x opened) reads() bool { return x.uses.Has(viewing.ToRead) || x.edition == uuid.Nil }

// open decides at the door of a recording and gives what is behind it: the lecture under way, the edition that is
// published, or for those who teach the recording as captured.
func (a *API) open(ctx context.Context, p roster.Person, id uuid.UUID) (opened, error) {
	at, err := a.Audience.Decide(ctx, p.ID, id)
	if err != nil {
		return opened{}, err
	}
	r, err := a.Recordings.Recording(ctx, id)
	if err != nil {
		return opened{}, err
	}
	live, err := a.Door.Live(ctx, id)
	if err != nil {
		return opened{}, err
	}
	if live.Running || live.Open && !at.Watch() {
		if err := a.Seen.MayEnter(ctx, p, r.LectureID); err != nil {
			return opened{}, err
		}
		if err := a.Seen.NoticeProblem(ctx, p, r.LectureID, r.CourseID); err != nil {
			return opened{}, err
		}
		x, err := a.Recordings.Live(ctx, id)
		return opened{Presentation: x, media: a.Address(edge.AsItRuns, id, uuid.Nil, p.ID), live: live,
			by: r.CourseID, opens: a.later(at.Opens)}, err
	}
	if !at.Watch() {
		if at.Reason != viewing.NotEnrolled {
			if err := a.Seen.Hidden(ctx, p, r.LectureID); err != nil {
				return opened{}, err
			}
		}
		if live.Over && a.Seen.MayEnter(ctx, p, r.LectureID) == nil {
			return opened{}, a.overProblem(ctx, r.CourseID, a.later(at.Opens))
		}
		return opened{}, doorProblem(at.Code, at.Reason, at.Opens)
	}
	if at.Edition == nil {
		x, err := a.Recordings.Captured(ctx, id)
		return opened{Presentation: x, media: a.Address(edge.AsCaptured, id, uuid.Nil, p.ID), unlit: true,
				by: at.Course},
			err
	}
	x, err := a.Publication.Edition(ctx, *at.Edition)
	media := a.Address(edge.AsPublished, id, *at.Edition, p.ID)
	return opened{Presentation: x, media: media, edition: *at.Edition, by: at.Course, uses: at.Uses,
		ruled: at.Ruled}, err
}

// carrierOf carries moments of a recording to what plays; kept is what is left of it, where that is not all: of what is
// not lit, as it would be published.
func carrierOf(r recordings.Recording, shown opened, uncut bool) (kept []span.Span, _ cutlist.Carrier) {
	if shown.unlit && !uncut && r.Kept().Len() < r.Length {
		return r.Kept().Spans(), cutlist.CarrierOf(r.Kept())
	}
	return nil, cutlist.Carrier(shown.Stretches)
}

func (a *API) watch(ctx context.Context, p roster.Person, in *watchInput) (*edge.Body[Watch], error) {
	shown, err := a.open(ctx, p, in.Recording)
	if err != nil {
		return nil, err
	}
	r, err := a.Recordings.Recording(ctx, in.Recording)
	if err != nil {
		return nil, err
	}
	out, err := a.watchNames(ctx, p, r, shown)
	if err != nil {
		return nil, err
	}
	out.Unlit, out.Notes = shown.unlit, !p.Guest
	kept, carrier := carrierOf(r, shown, in.Uncut)
	out.Kept = page.Spans(kept)
	if shown.live.Open {
		now, pulse := a.Clock.Now(), shown.live.Pulse()
		out.Live, out.Phase, out.OpensAt = true, string(pulse.Phase(now)), shown.opens
		if until := pulse.Until(now); !until.IsZero() {
			out.AskAgainMs = max(1, until.Sub(now).Milliseconds())
		}
	}
	place, err := a.placeIn(ctx, p, in, out.Edition)
	if err != nil {
		return nil, err
	}
	if at, _ := carrier.Moment(place); !out.Live && !catchup.Seen(at, shown.Length) {
		out.ResumeMs = at.Milliseconds()
	}
	a.watchSizes(ctx, &out, shown)
	if err := a.watchWords(ctx, &out, shown, in.Language, carrier); err != nil {
		return nil, err
	}
	if !out.Live {
		chapters, err := a.Words.Carried(ctx, r, carrier)
		if err != nil {
			return nil, err
		}
		for _, c := range chapters {
			out.Chapters = append(out.Chapters, page.Chapter{At: c.Start.Milliseconds(), Title: c.Title})
		}
	}
	gain, err := a.Recordings.GainOf(ctx, r.ID, shown.Presentation)
	if err != nil {
		return nil, err
	}
	out.Led, out.Gain = page.Spans(shown.Led), page.GainOf(gain)
	if err := a.watchOutline(ctx, &out, p, shown); err != nil {
		return nil, err
	}
	if p.Guest && !out.Live { // who came by a link learns of this recording and of nothing else
		out.Course, out.Week = page.CourseName{}, 0
		err := a.linkedNext(ctx, p, &out)
		return edge.Answer(out), err
	}
	next, err := a.nextIn(ctx, p, shown.by, r.ID)
	if err == nil && next != nil {
		out.Next, out.NextTitle = next.RecordingID, cmp.Or(next.Title, next.Topic)
	}
	return edge.Answer(out), err
}

// watchWords adds the captions, for who may read them.
func (a *API) watchWords(ctx context.Context, out *Watch, shown opened, asked string, carrier cutlist.Carrier) error {
	cues, language, languages, err := a.Words.Shown(ctx, out.ID, asked)
	if err != nil {
		return err
	}
	if shown.reads() {
		for _, c := range caption.Carry(cues, carrier) {
			out.Cues = append(out.Cues, page.CueOf(c))
		}
		out.Language, out.Languages = language, append([]string{}, languages...)
	} else if shown.uses.Has(viewing.TakeText) {
		out.Languages = append([]string{}, languages...)
	}
	out.Takes = takeLines(*out, shown)
	return nil
}

// watchOutline adds what stands on the pictures of an edition, where nobody speaks, and what of it p has.
func (a *API) watchOutline(ctx context.Context, out *Watch, p roster.Person, shown opened) error {
	if shown.edition == uuid.Nil {
		return nil
	}
	published := map[uuid.UUID]cutlist.Carrier{out.ID: shown.Stretches}
	all, err := a.Recordings.Outlines(ctx, published)
	if err != nil {
		return err
	}
	for _, s := range all[out.ID].Slides {
		out.Slides = append(out.Slides, WatchSlide{s.AtMs, edge.SlideAddress(shown.media, s)})
	}
	out.Silences = page.Spans(signal.Silences(all[out.ID].Speech, shown.Length))
	if p.Guest {
		return nil
	}
	has, err := a.CatchUp.Accounts(ctx, p.ID, published)
	if of, ok := has[out.ID]; ok {
		out.Account = accountOf(of)
	}
	return err
}

// watchNames is what a recording is, to whom it is shown, by the course that shows it.
func (a *API) watchNames(ctx context.Context, p roster.Person, r recordings.Recording, shown opened) (Watch, error) {
	lecture, err := a.Schedule.OfRecording(ctx, r.LectureID, r.ID)
	if err != nil {
		return Watch{}, err
	}
	term, err := a.Schedule.TermOf(ctx, shown.by)
	if err != nil {
		return Watch{}, err
	}
	course, err := a.Schedule.Course(ctx, shown.by)
	if err != nil {
		return Watch{}, err
	}
	viewer, err := a.Roster.Viewer(ctx, p.ID, shown.by)
	if err != nil {
		return Watch{}, err
	}
	out := Watch{
		LectureID: r.LectureID, SecondVideo: shown.SecondVideo != nil, ID: r.ID,
		Course:   page.CourseName{ID: course.ID, Code: course.Code, Title: course.Title},
		Week:     term.Week(lecture.StartsAt).Number,
		StartsAt: page.Dated(lecture.StartsAt, lecture.Ahead), Zone: term.Zone.String(),
		Title: r.Title, Description: r.Description, Lecturers: course.Lecturers, LengthMs: shown.Length.Milliseconds(),
		Live: !shown.Ended, Video: shown.Video != nil, Media: shown.media, Edition: shown.edition,
		AsStaff: viewer.Coordinator || viewer.Role.Staff(),
		Kept:    []page.Span{}, Languages: []string{}, Takes: []TakeLine{},
		Cues: []page.Cue{}, Chapters: []page.Chapter{}, Slides: []WatchSlide{}, Silences: []page.Span{},
	}
	if out.Title == "" {
		out.Title = lecture.SuggestedTitle(term)
	}
	return out, nil
}

// placeIn is where someone goes on, in source time. Whoever watched the edition before goes on at the same moment.
func (a *API) placeIn(ctx context.Context, p roster.Person, in *watchInput, edition uuid.UUID) (time.Duration, error) {
	if was, err := uuid.Parse(in.Edition); err == nil && was != edition {
		if old, err := a.Publication.Carrier(ctx, in.Recording, was); err == nil {
			return old.Source(time.Duration(in.At) * time.Millisecond), nil
		}
	}
	return a.CatchUp.Position(ctx, p.ID, in.Recording)
}

// watchSizes says how much comes over the line, by what is chosen.
func (a *API) watchSizes(ctx context.Context, out *Watch, shown opened) {
	for _, x := range shown.Renditions() {
		out.Bytes += x.Bytes()
	}
	if shown.Audio != nil {
		out.SoundBytes = shown.Audio.Bytes()
	}
	if out.Edition == uuid.Nil {
		return
	}
	if small, err := a.Publication.Small(ctx, out.Edition); err == nil && small.Video != nil {
		out.SmallBytes = small.Video.Bytes()
		if small.Audio != nil {
			out.SoundBytes = small.Audio.Bytes()
			out.SmallBytes += out.SoundBytes
		}
	}
}

// nextIn is the recording that comes next where a course shows it, in its main playlist before others, and that someone
// may watch; nil for none.
func (a *API) nextIn(ctx context.Context, p roster.Person, course, recording uuid.UUID) (*playlists.Entry, error) {
	shelves, err := a.Playlists.Shelves(ctx, []uuid.UUID{course})
	if err != nil {
		return nil, err
	}
	for _, x := range shelves {
		here := false
		for _, e := range x.Entries {
			switch {
			case e.RecordingID == nil:
			case *e.RecordingID == recording:
				here = true
			case here && e.Lit:
				if d, err := a.Audience.Decide(ctx, p.ID, *e.RecordingID); err == nil && d.Watch() {
					return &e, nil
				}
			}
		}
	}
	return nil, nil
}

var watchProblems = edge.Problems{
	release.ErrUnknown: http.StatusNotFound,
	errTakeaway:        http.StatusForbidden,
	feeds.ErrUnknown:   http.StatusNotFound,
	audience.ErrOpen:   http.StatusConflict,
	audience.ErrMeant:  http.StatusConflict,
}
