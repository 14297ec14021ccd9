// Package page has what the answers of several groups of routes have in common: lectures, dates, captions, files.
package page

import (
	"time"

	"github.com/google/uuid"

	"latelantern/internal/audience"
	"latelantern/internal/core/viewing"
	"latelantern/internal/core/workflow"
	"latelantern/internal/schedule"
)

// Lantern is a lecture on the board: there are thousands, so it holds what is drawn there.
type Lantern struct {
	ID       uuid.UUID `json:"id" format:"uuid"`
	Monday   string    `json:"monday" format:"date"`
	StartsAt time.Time `json:"starts_at"`
	Topic    string    `json:"topic"`
	Ahead    bool      `json:"ahead,omitempty" doc:"a lesson for the week, recorded at any time"`
	State    string    `json:"state" enum:"planned,capturing,missed,off,dark,part_lit,lit" doc:"of its lantern"`
	Next     string    `json:"next" enum:",wait,capture,stop,trim,title,rule,playlist,light,publish,words,tell,again" doc:"the one thing it waits for"`
	Can      int       `json:"can" doc:"students who can watch now"`
	HeldMs   int64     `json:"held_ms,omitempty" doc:"of a capture under way: how much is held"`
	Phase    string    `json:"phase,omitempty" enum:",begins,runs,paused,broken" doc:"of a capture under way"`
}

// LectureCell is a lecture as one lantern, wherever it stands alone.
type LectureCell struct {
	Lantern
	EndsAt      time.Time  `json:"ends_at"`
	Hall        string     `json:"hall"`
	RecordingID *uuid.UUID `json:"recording_id,omitempty" format:"uuid"`
	Of          int        `json:"of" doc:"students of the course"`
	Today       bool       `json:"today"`
}

// Day is the day of a moment as the contract writes it, RFC 3339.
func Day(t time.Time) string { return t.Format(time.DateOnly) }

// LanternOf is a lecture on the board: its state computed from facts, roster and clock.
func LanternOf(term schedule.Term, l schedule.Lecture, reach audience.Reach, now time.Time) Lantern {
	facts := l.Workflow()
	var count viewing.Count
	if l.RecordingID != nil {
		count = reach.Count(l.Viewing(), now)
		facts.Open = count.Can > 0
	}
	c := Lantern{ID: l.ID, Monday: Day(term.Week(l.StartsAt).Monday), StartsAt: l.StartsAt, Topic: l.Topic,
		Ahead: l.Ahead, Next: string(facts.Next(now))}
	switch {
	case l.Running:
		c.State, c.HeldMs, c.Phase = "capturing", l.LengthMs, string(l.Phase(now))
	case l.RecordingID != nil:
		c.State, c.Can = string(count.Light()), count.Can
	case l.CalledOff:
		c.State = "off"
	case facts.Missed(now):
		c.State = "missed"
	default:
		c.State = "planned"
	}
	if c.State == "capturing" && c.Next == string(workflow.Wait) {
		c.Next = ""
	}
	return c
}

// Cell is a lecture as a lantern that stands alone.
func Cell(term schedule.Term, l schedule.Lecture, reach audience.Reach, now time.Time) LectureCell {
	return LectureCell{
		Lantern: LanternOf(term, l, reach, now), EndsAt: l.EndsAt, Hall: l.Hall, RecordingID: l.RecordingID,
		Of:    reach.Of,
		Today: SameDay(l.StartsAt, now, term.Zone),
	}
}
