package page

import (
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/pace"
	"latelantern/internal/schedule"
)

// Choice is a lecture as one is chosen.
type Choice struct {
	ID          uuid.UUID `json:"id" format:"uuid"`
	CourseID    uuid.UUID `json:"course_id" format:"uuid"`
	Course      string    `json:"course" doc:"its code"`
	CourseTitle string    `json:"course_title"`
	Week        int       `json:"week"`
	StartsAt    time.Time `json:"starts_at"`
	Hall        string    `json:"hall"`
	Topic       string    `json:"topic"`
	Ahead       bool      `json:"ahead" doc:"a lesson for a week, at no time"`
}

// ChoiceOf is a lecture as one that a file can be of.
func ChoiceOf(term schedule.Term, l schedule.Lecture) Choice {
	return Choice{l.ID, l.CourseID, l.Code, l.CourseTitle, term.Week(l.StartsAt).Number, l.StartsAt, l.Hall, l.Topic,
		l.Ahead}
}

// LeftOf is how many milliseconds a copy still takes; nil while that is not known.
func LeftOf(packed, expected int64, took time.Duration) *int64 {
	left, ok := pace.Left(time.Duration(packed)*time.Millisecond, time.Duration(expected)*time.Millisecond, took)
	if !ok {
		return nil
	}
	ms := left.Milliseconds()
	return &ms
}
