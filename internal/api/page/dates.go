package page

import (
	"time"

	"github.com/google/uuid"

	"latelantern/internal/audience"
	"latelantern/internal/schedule"
)

// LectureDate is a lecture as everyone of its course sees it.
type LectureDate struct {
	ID          uuid.UUID  `json:"id" format:"uuid"`
	CourseID    uuid.UUID  `json:"course_id" format:"uuid"`
	Course      string     `json:"course" doc:"its code"`
	CourseTitle string     `json:"course_title"`
	Week        int        `json:"week" doc:"of teaching; 0 outside"`
	StartsAt    time.Time  `json:"starts_at"`
	EndsAt      time.Time  `json:"ends_at"`
	Was         *time.Time `json:"was,omitempty" doc:"where its plan had it, when it was moved"`
	Hall        string     `json:"hall" doc:"empty for none"`
	Topic       string     `json:"topic"`
	State       string     `json:"state" enum:"planned,today,on,over,off" doc:"on: between its planned start and end, unless it was captured and stopped"`
	Running     bool       `json:"running" doc:"it is being captured now, and not by someone alone"`
	Phase       string     `json:"phase" enum:",begins,runs,paused,broken,over" doc:"of what is or was captured of it; empty for nothing, and for what somebody captures alone"`
	Unplanned   bool       `json:"unplanned" doc:"captured in the standing room, or ahead"`
	Ahead       bool       `json:"ahead" doc:"a lesson for a week, recorded at any time"`
	Doorway     string     `json:"doorway" enum:"walk_in,ask,closed"`
	OpensAt     time.Time  `json:"opens_at"`
	RecordingID *uuid.UUID `json:"recording_id,omitempty" format:"uuid" doc:"that who asks can open"`
	Light       string     `json:"light,omitempty" enum:",dark,part_lit,lit" doc:"of that recording, for those who teach it"`
	CaptureAuto bool       `json:"capture_auto"`
	PlanID      *uuid.UUID `json:"plan_id,omitempty" format:"uuid"`
}

// DateOf is l as everyone of its course sees it, but for its recording.
func DateOf(term schedule.Term, l schedule.Lecture, now time.Time) LectureDate {
	d := LectureDate{
		ID: l.ID, CourseID: l.CourseID, Course: l.Code, CourseTitle: l.CourseTitle, Week: term.Week(l.StartsAt).Number,
		StartsAt: l.StartsAt, EndsAt: l.EndsAt, Hall: l.Hall, Topic: l.Topic,
		Running: l.Running && !l.Alone, Unplanned: l.Unplanned, Ahead: l.Ahead, Doorway: string(l.Doorway),
		OpensAt: l.Door().OpensAt(), CaptureAuto: l.CaptureAuto, PlanID: l.PlanID,
	}
	if l.Moved() {
		d.Was = l.PlannedAt
	}
	if !l.Alone && !l.Apart {
		d.Phase = string(l.Phase(now))
	}
	switch {
	case l.CalledOff:
		d.State = "off"
	case l.Unplanned && l.Running:
		d.State = "on"
	case l.Over(now):
		d.State = "over"
	case !now.Before(l.StartsAt):
		d.State = "on"
	case SameDay(l.StartsAt, now, term.Zone):
		d.State = "today"
	default:
		d.State = "planned"
	}
	return d
}

// ReachOf is the reach that holds for a lecture, or for its recording once there is one.
func ReachOf(all audience.Reaches, l schedule.Lecture) audience.Reach {
	if l.RecordingID == nil {
		return all.Of(l.CourseID, uuid.Nil)
	}
	return all.Of(l.CourseID, *l.RecordingID)
}
