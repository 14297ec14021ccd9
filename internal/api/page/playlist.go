package page

import (
	"slices"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/timetable"
	"latelantern/internal/core/viewing"
	"latelantern/internal/playlists"
)

// PlaylistLine is a heading, a recording, or a page elsewhere.
type PlaylistLine struct {
	ID          uuid.UUID    `json:"id" format:"uuid"`
	Heading     *string      `json:"heading,omitempty"`
	About       string       `json:"about,omitempty" doc:"a sentence below a heading"`
	Address     string       `json:"address,omitempty" doc:"of a page elsewhere"`
	File        *HandoutLine `json:"file,omitempty" doc:"slides or the like, to be fetched"`
	RecordingID *uuid.UUID   `json:"recording_id,omitempty" format:"uuid"`
	Title       string       `json:"title"`
	From        string       `json:"from,omitempty" doc:"the code of the course of its lecture, when that is another"`
	Week        int          `json:"week"`
	StartsAt    *time.Time   `json:"starts_at,omitempty"`
	LengthMs    int64        `json:"length_ms"`
	Lit         bool         `json:"lit"`
	Filled      bool         `json:"filled,omitempty" doc:"the sentence of its playlist brought it"`
	Light       string       `json:"light" enum:"dark,part_lit,lit"`
	Can         int          `json:"can"`
	Of          int          `json:"of"`
	Part        int          `json:"part,omitempty" doc:"which part of its lecture it is, of several"`
	Parts       int          `json:"parts,omitempty"`

	Elsewhere []CourseLight `json:"elsewhere,omitempty" doc:"its light in other courses that show the playlist"`
}

// HandoutLine is a file that stands in a playlist.
type HandoutLine struct {
	ID    uuid.UUID `json:"id" format:"uuid"`
	Name  string    `json:"name"`
	Bytes int64     `json:"bytes"`
}

// CourseLight is the light of a recording in a course.
type CourseLight struct {
	Course uuid.UUID `json:"course_id" format:"uuid"`
	Code   string    `json:"code"`
	Light  string    `json:"light" enum:"dark,part_lit,lit"`
	Can    int       `json:"can"`
	Of     int       `json:"of"`
}

// Known are those of the entries of which someone learns who teaches the course that shows them: what that course has,
// and what is of a course they teach.
func Known(entries []playlists.Entry, teaches func(course uuid.UUID) bool) []playlists.Entry {
	taught := map[uuid.UUID]bool{}
	return slices.DeleteFunc(entries, func(e playlists.Entry) bool {
		if e.Own == nil || e.Had {
			return false
		}
		if _, asked := taught[*e.Own]; !asked {
			taught[*e.Own] = teaches(*e.Own)
		}
		return !taught[*e.Own]
	})
}

// LineOf is an entry of a playlist with its week and, when it was given none, its suggested title.
func LineOf(e playlists.Entry, week func(time.Time) timetable.Week,
	suggested map[uuid.UUID]string) PlaylistLine {
	out := PlaylistLine{ID: e.ID, Heading: e.Heading, About: e.About, RecordingID: e.RecordingID, Title: e.Title,
		LengthMs: e.LengthMs, Lit: e.Lit, Filled: e.Filled, Light: string(viewing.Dark)}
	if e.Address != nil {
		out.Address = *e.Address
	}
	if e.FileID != nil {
		out.File = &HandoutLine{*e.FileID, e.FileName, e.FileBytes}
	}
	if e.Number.Of > 1 {
		out.Part, out.Parts = e.Number.N, e.Number.Of
	}
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
