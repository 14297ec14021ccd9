package live

import (
	"context"
	"net/http"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/roster"
)

// LectureSheet is what the sheet of a lecture shows.
type LectureSheet struct {
	Course     page.CourseName  `json:"course"`
	Week       int              `json:"week"`
	Cell       page.LectureCell `json:"lecture"`
	Suggested  string           `json:"suggested_title"`
	Recordings []RecordLine     `json:"recordings" nullable:"false" doc:"the furthest first"`
	Zone       string           `json:"zone"`
	OpensAt    time.Time        `json:"opens_at" doc:"when its doorway opens"`
	Notice     string           `json:"notice" doc:"what the college says to everyone who is captured"`
}

// RecordLine is one recording of a lecture.
type RecordLine struct {
	ID         uuid.UUID `json:"id" format:"uuid"`
	Title      string    `json:"title"`
	LengthMs   int64     `json:"length_ms"`
	State      string    `json:"state" enum:"waiting,running,ready,failed"`
	Fault      string    `json:"fault"`
	Source     string    `json:"source" enum:"desk,hall,file"`
	FileName   string    `json:"file_name"`
	Stopped    bool      `json:"stopped"`
	Next       string    `json:"next"`
	SmallState string    `json:"small_state" enum:",making,ready,failed"`
	SmallShare int       `json:"small_share" doc:"per cent of the small copy that is made"`
	StartsAt   time.Time `json:"started_at"`
}

func (a *API) lectureRoutes() {
	edge.On(a.Edge, edge.Staff, http.MethodGet, "/api/lectures/{lecture}", "lecture", "A lecture and its recordings",
		func(ctx context.Context, _ roster.Person, in *edge.OfLecture) (*edge.Body[LectureSheet], error) {
			rows, err := a.Schedule.Lecture(ctx, in.Lecture)
			if err != nil {
				return nil, err
			}
			term, err := a.Schedule.TermOf(ctx, rows[0].CourseID)
			if err != nil {
				return nil, err
			}
			first := rows[0]
			course, err := a.Schedule.Course(ctx, first.CourseID)
			if err != nil {
				return nil, err
			}
			reaches, err := a.Audience.Reaches(ctx, []uuid.UUID{first.CourseID})
			if err != nil {
				return nil, err
			}
			notice, err := a.Door.Notice(ctx)
			if err != nil {
				return nil, err
			}
			now := a.Clock.Now()
			out := LectureSheet{
				Notice: notice, OpensAt: first.Door().OpensAt(),
				Course:     page.CourseName{ID: course.ID, Code: course.Code, Title: course.Title},
				Week:       term.Week(first.StartsAt).Number,
				Zone:       term.Zone.String(),
				Cell:       page.Cell(term, first, page.ReachOf(reaches, first), now),
				Suggested:  first.SuggestedTitle(term),
				Recordings: []RecordLine{},
			}
			for _, l := range rows {
				if l.RecordingID == nil {
					continue
				}
				r, err := a.Recordings.Recording(ctx, *l.RecordingID)
				if err != nil {
					return nil, err
				}
				title := l.Title
				if title == "" {
					title = l.SuggestedTitle(term)
				}
				out.Recordings = append(out.Recordings, RecordLine{
					ID: r.ID, Title: title, LengthMs: r.Length.Milliseconds(), State: r.State, Fault: r.Fault,
					Source: r.Source, FileName: r.FileName,
					SmallState: r.SmallState, SmallShare: r.SmallShare, Stopped: r.StoppedAt != nil,
					Next: string(l.Workflow().Next(now)), StartsAt: r.StartedAt,
				})
			}
			return edge.Answer(out), nil
		})
}
