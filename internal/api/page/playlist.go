package page

import (
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/timetable"
	"latelantern/internal/core/viewing"
	"latelantern/internal/playlists"
)

// PlaylistLine is a heading or a recording.
type PlaylistLine struct {
	ID          uuid.UUID  `json:"id" format:"uuid"`
	Heading     *string    `json:"heading,omitempty"`
	RecordingID *uuid.UUID `json:"recording_id,omitempty" format:"uuid"`
	Title       string     `json:"title"`
	From        string     `json:"from,omitempty" doc:"the code of the course of its lecture, when that is another"`
	Week        int        `json:"week"`
	StartsAt    *time.Time `json:"starts_at,omitempty"`
	LengthMs    int64      `json:"length_ms"`
	Lit         bool       `json:"lit"`
	Light       string     `json:"light" enum:"dark,part_lit,lit"`
	Can         int        `json:"can"`
	Of          int        `json:"of"`
}

// LineOf is an entry of a playlist with its week and, when it was given none, its suggested title.
func LineOf(e playlists.Entry, week func(time.Time) timetable.Week,
	suggested map[uuid.UUID]string) PlaylistLine {
	out := PlaylistLine{ID: e.ID, Heading: e.Heading, RecordingID: e.RecordingID, Title: e.Title, LengthMs: e.LengthMs,
		Lit: e.Lit, Light: string(viewing.Dark)}
	if e.StartsAt != nil {
		out.Week, out.StartsAt = week(*e.StartsAt).Number, Dated(*e.StartsAt, e.Ahead)
	}
	if e.RecordingID != nil && out.Title == "" {
		out.Title = suggested[*e.RecordingID]
	}
	if e.RecordingID != nil && out.Title == "" {
		out.Title = e.Topic
	}
	return out
}
