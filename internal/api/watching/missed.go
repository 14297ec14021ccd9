package watching

import (
	"context"
	"math"
	"slices"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/audience"
	has "latelantern/internal/catchup"
	"latelantern/internal/core/catchup"
	"latelantern/internal/core/span"
	"latelantern/internal/roster"
	"latelantern/internal/schedule"
)

// AccountLine is what someone has of a recording, in published time.
type AccountLine struct {
	Attended []page.Span `json:"attended" nullable:"false" doc:"followed live"`
	Watched  []page.Span `json:"watched" nullable:"false" doc:"watched since"`
	Missed   []page.Span `json:"missed" nullable:"false" doc:"left to catch up"`
	MissedMs int64       `json:"missed_ms" doc:"all of that; 0 for what they say they know"`
	Known    bool        `json:"known" doc:"they said that they know what is in it"`
}

func accountOf(x has.Of) *AccountLine {
	return &AccountLine{Attended: told(x.Attended), Watched: told(x.Watched), Missed: told(x.Missed),
		MissedMs: x.Left().Len().Milliseconds(), Known: x.Known}
}

// told are stretches as people see them: those between which hardly anything lies are one, as where an edition was put
// together, and what hardly lasts is none.
func told(s span.Set) []page.Span {
	const hardly = 20
	var out []page.Span
	for _, x := range page.Spans(s.Spans()) {
		if n := len(out); n > 0 && x.Start-out[n-1].End < hardly {
			out[n-1].End = x.End
			continue
		}
		out = append(out, x)
	}
	return slices.DeleteFunc(append([]page.Span{}, out...), func(x page.Span) bool { return x.End-x.Start < hardly })
}

// having is what someone has of each recording that is open to them, and the address of a small picture of it.
type having struct {
	accounts map[uuid.UUID]has.Of
	pictures map[uuid.UUID]string
}

// editionsOf are the published ones that accesses open, by recording.
func editionsOf(accesses map[uuid.UUID]audience.Access) map[uuid.UUID]uuid.UUID {
	out := map[uuid.UUID]uuid.UUID{}
	for id, x := range accesses {
		if x.Watch() && x.Edition != nil {
			out[id] = *x.Edition
		}
	}
	return out
}

// having is what p has of the recordings that are open to them.
func (a *API) having(ctx context.Context, p roster.Person, accesses map[uuid.UUID]audience.Access) (having, error) {
	out := having{pictures: map[uuid.UUID]string{}}
	editions := editionsOf(accesses)
	published, err := a.Publication.Carriers(ctx, editions)
	if err != nil {
		return out, err
	}
	outlines, err := a.Recordings.Slides(ctx, published)
	if err != nil {
		return out, err
	}
	for id, x := range outlines {
		if len(x.Slides) > 0 {
			out.pictures[id] = edge.SlideAddress(a.Address(edge.AsPublished, id, editions[id], p.ID), x.Slides[0])
		}
	}
	out.accounts, err = a.CatchUp.Accounts(ctx, p.ID, published)
	return out, err
}

// Left is what someone still misses of all that is open to them, and with what they go on.
type Left struct {
	Lectures int       `json:"lectures" doc:"of how many recordings something is left"`
	MissedMs int64     `json:"missed_ms"`
	Speed    float64   `json:"speed" doc:"at which they usually watch"`
	NeedsMs  int64     `json:"needs_ms" doc:"how long it takes them at that speed"`
	First    *LeftStep `json:"first,omitempty" doc:"with what they go on; missing when nothing is left"`
}

// LeftStep is a stretch of a recording that someone watches to catch up.
type LeftStep struct {
	RecordingID uuid.UUID `json:"recording_id" format:"uuid"`
	Course      string    `json:"course" doc:"its code; empty for what is open beside any course"`
	Title       string    `json:"title"`
	Week        int       `json:"week"`
	StartMs     int64     `json:"start" doc:"in published time"`
	EndMs       int64     `json:"end"`
	Whole       bool      `json:"whole" doc:"all that is missed there; else its beginning"`
}

// LeftPlan is what fits into the time that someone has.
type LeftPlan struct {
	Steps   []LeftStep `json:"steps" nullable:"false"`
	Speed   float64    `json:"speed"`
	NeedsMs int64      `json:"needs_ms" doc:"how long they take at that speed"`
	AfterMs int64      `json:"after_ms" doc:"what is left to catch up after them, at no speed"`
}

type catchUpInput struct {
	Order string `query:"order" enum:"date,next" default:"date" doc:"what comes first: the oldest, or what the next lecture builds on"`
}

type planInput struct {
	catchUpInput
	Minutes int `query:"minutes" minimum:"1" maximum:"1440" required:"true" doc:"that they have"`
}

// missing are the recordings of which someone still misses something.
type missing struct {
	next   map[uuid.UUID]time.Time // when each course comes together next
	listed map[uuid.UUID]bool      // recordings that stand in a course already
	of     []catchup.Missing
	as     []LeftStep // how each is called
}

// nextOf is when courses come together next after now.
func nextOf(lectures []schedule.Lecture, now time.Time) map[uuid.UUID]time.Time {
	out := map[uuid.UUID]time.Time{}
	for _, l := range lectures {
		if at := out[l.CourseID]; l.StartsAt.After(now) && !l.CalledOff && !l.Ahead &&
			(at.IsZero() || l.StartsAt.Before(at)) {
			out[l.CourseID] = l.StartsAt
		}
	}
	return out
}

// add adds what is missed of lines of a course; of a recording that stands in several places once.
func (m *missing) add(course page.CourseName, lines []CatchUpLine) {
	for _, l := range lines {
		if l.RecordingID == nil || m.listed[*l.RecordingID] {
			continue
		}
		m.listed[*l.RecordingID] = true
		if l.Account == nil || l.Account.MissedMs == 0 {
			continue
		}
		x := catchup.Missing{Next: m.next[course.ID], Missed: page.SetOf(l.Account.Missed)}
		if l.StartsAt != nil {
			x.Starts = *l.StartsAt
		}
		m.of = append(m.of, x)
		m.as = append(m.as, LeftStep{RecordingID: *l.RecordingID, Course: course.Code, Title: l.Title, Week: l.Week})
	}
}

// steps are those of a plan over what is missed, with the time that they take at no speed.
func (m *missing) steps(have time.Duration, speed float64, by catchup.Order) ([]LeftStep, time.Duration) {
	order := catchup.Sorted(m.of, by)
	sorted := make([]catchup.Missing, len(order))
	for i, n := range order {
		sorted[i] = m.of[n]
	}
	out, sum := []LeftStep{}, time.Duration(0)
	for _, s := range catchup.Plan(sorted, have, speed) {
		x := m.as[order[s.Of]]
		x.StartMs, x.EndMs, x.Whole = s.At.Start.Milliseconds(), s.At.End.Milliseconds(), s.Whole
		out, sum = append(out, x), sum+s.At.Len()
	}
	return out, sum
}

// all is what is missed in all.
func (m *missing) all() time.Duration {
	var sum time.Duration
	for _, x := range m.of {
		sum += x.Missed.Len()
	}
	return sum
}

// left says what p still misses and with what they go on.
func (a *API) left(ctx context.Context, p roster.Person, m missing, by catchup.Order) (Left, error) {
	speed, err := a.CatchUp.Speed(ctx, p.ID)
	if err != nil {
		return Left{}, err
	}
	out := Left{Lectures: len(m.of), MissedMs: m.all().Milliseconds(), Speed: rounded(speed),
		NeedsMs: at(m.all(), speed)}
	if steps, _ := m.steps(m.all()+time.Second, 1, by); len(steps) > 0 {
		out.First = &steps[0]
	}
	return out, nil
}

// at is how long something takes at a speed, in milliseconds.
func at(d time.Duration, speed float64) int64 {
	return time.Duration(float64(d) / speed).Milliseconds()
}

// rounded is a speed as people say it.
func rounded(speed float64) float64 { return math.Round(speed*20) / 20 }

func (a *API) leftPlan(ctx context.Context, p roster.Person, in *planInput) (*edge.Body[LeftPlan], error) {
	_, missing, err := a.gather(ctx, p)
	if err != nil {
		return nil, err
	}
	speed, err := a.CatchUp.Speed(ctx, p.ID)
	if err != nil {
		return nil, err
	}
	steps, sum := missing.steps(time.Duration(in.Minutes)*time.Minute, speed, catchup.Order(in.Order))
	return edge.Answer(LeftPlan{Steps: steps, Speed: rounded(speed), NeedsMs: at(sum, speed),
		AfterMs: (missing.all() - sum).Milliseconds()}), nil
}
