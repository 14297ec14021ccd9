package page

import (
	"time"

	"github.com/google/uuid"

	"latelantern/internal/chat"
	core "latelantern/internal/core/chat"
	"latelantern/internal/format/chatfile"
)

// ChatLine is what somebody said in a lecture, or asked of its recording.
type ChatLine struct {
	ID         uuid.UUID      `json:"id" format:"uuid"`
	Person     *uuid.UUID     `json:"person,omitempty" format:"uuid" doc:"who said it; only for those who teach"`
	Name       string         `json:"name" doc:"empty for who is not to learn it"`
	Mine       bool           `json:"mine"`
	Teaches    bool           `json:"teaches" doc:"whoever said it"`
	Guest      bool           `json:"guest"`
	SaidAt     time.Time      `json:"said_at"`
	At         *int64         `json:"at,omitempty" doc:"its moment in the recording, in milliseconds"`
	Text       string         `json:"text"`
	State      core.State     `json:"state" enum:",open,taken,answered,put_off" doc:"how far it is, of a question"`
	ToTeachers bool           `json:"to_teachers" doc:"only those who teach read it, and who said it"`
	Later      bool           `json:"later" doc:"asked of the recording, after the lecture"`
	Shown      bool           `json:"shown" doc:"with its answer, to all who may watch"`
	Answer     string         `json:"answer"`
	AnsweredBy string         `json:"answered_by"`
	Gone       string         `json:"gone" enum:",withdrawn,taken_down"`
	Down       *TakenDownText `json:"down,omitempty" doc:"only for those who teach"`
}

// TakenDownText is who took a line down, and why.
type TakenDownText struct {
	By  string `json:"by"`
	Why string `json:"why"`
}

// ChatLineOf is a line as somebody reads it, at a moment in what they watch.
func ChatLineOf(l chat.Line, r chat.Reader, at *int64) ChatLine {
	out := ChatLine{ID: l.ID, Name: l.Name, Mine: l.PersonID == r.Person, Teaches: l.Teaches, Guest: l.Guest,
		SaidAt: l.SaidAt, At: at, Text: l.Text, State: l.State, ToTeachers: l.ToTeachers, Later: l.Later,
		Shown: l.Shown, Answer: l.Answer, AnsweredBy: l.AnsweredBy}
	if !r.Of && !r.Teaches && !out.Mine {
		out.Name = "" // who watches by another way than the course learns what was asked, and not by whom
	}
	switch {
	case l.TakenDown:
		out.Gone = "taken_down"
	case l.Withdrawn:
		out.Gone = "withdrawn"
	}
	if r.Teaches {
		out.Person = &l.PersonID
		if l.TakenDown {
			out.Down = &TakenDownText{l.TakenDownBy, l.TakenDownWhy}
		}
	}
	return out
}

// ChatFileLines are lines as they go out in a file: what is gone is left out.
func ChatFileLines(lines []chat.Line, zone *time.Location, at func(chat.Line) *time.Duration) []chatfile.Line {
	out := []chatfile.Line{}
	for _, l := range lines {
		if l.Gone() {
			continue
		}
		out = append(out, chatfile.Line{At: at(l), Said: l.SaidAt.In(zone), Name: l.Name, Teaches: l.Teaches,
			State: l.State, Text: l.Text, Answer: l.Answer, AnsweredBy: l.AnsweredBy})
	}
	return out
}
