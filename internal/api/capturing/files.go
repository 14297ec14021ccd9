package capturing

import (
	"context"
	"encoding/hex"
	"net/http"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/core/fingerprint"
	"latelantern/internal/roster"
)

// FilesHere is where a file is already.
type FilesHere struct {
	Here      []FileHere `json:"here" nullable:"false" doc:"of courses that one teaches, or sent by oneself, the latest first"`
	Elsewhere int        `json:"elsewhere" doc:"how often it is with others"`
}

// FileHere is the same file as it came before, or as far as it has come.
type FileHere struct {
	Track     uuid.UUID  `json:"track_id" format:"uuid"`
	Recording *uuid.UUID `json:"recording_id,omitempty" format:"uuid" doc:"none while its lecture is not known"`
	Lecture   *uuid.UUID `json:"lecture_id,omitempty" format:"uuid"`
	Title     string     `json:"title" doc:"empty without a recording"`
	FileName  string     `json:"file_name"`
	By        string     `json:"by" doc:"who sent it"`
	Mine      bool       `json:"mine"`
	Percent   int        `json:"percent" doc:"that has come; 100 for all of it"`
	Deleted   bool       `json:"deleted" doc:"it was taken away, and can be brought back"`
}

func (a *API) fileRoutes() {
	type printInput struct {
		Print string `path:"print" pattern:"^[0-9a-f]{64}$" doc:"SHA-256 of the size of the file and of 16 windows of it"`
	}
	edge.On(a.Edge, edge.Teachers, http.MethodGet, "/api/files/{print}", "file-here", "Whether a file is here already",
		func(ctx context.Context, p roster.Person, in *printInput) (*edge.Body[FilesHere], error) {
			print, err := hex.DecodeString(in.Print)
			if err != nil || len(print) != fingerprint.Length {
				return edge.Answer(FilesHere{Here: []FileHere{}}), nil
			}
			found, err := a.Capture.Find(ctx, print)
			if err != nil {
				return nil, err
			}
			out := FilesHere{Here: []FileHere{}}
			for _, k := range found {
				if k.CourseID == nil && ofSender(p, k.By) != nil ||
					k.CourseID != nil && a.MayStaff(ctx, p, *k.CourseID) != nil {
					out.Elsewhere++
					continue
				}
				x := FileHere{k.TrackID, k.RecordingID, k.LectureID, k.Title, k.FileName, k.ByName,
					k.By != nil && *k.By == p.ID, 100, k.Deleted}
				if k.Sending() {
					x.Percent = share(k.Stored, k.Size)
				}
				if x.Title == "" && k.CourseID != nil {
					l, err := a.Schedule.OfRecording(ctx, *k.LectureID, *k.RecordingID)
					term, err2 := a.Schedule.TermOf(ctx, *k.CourseID)
					if x.Title = k.Code; err == nil && err2 == nil {
						x.Title = l.SuggestedTitle(term)
					}
				}
				out.Here = append(out.Here, x)
			}
			return edge.Answer(out), nil
		})
}

// share is how many per cent have come; not 100 before all of it has.
func share(stored int64, size *int64) int {
	if size == nil || *size <= 0 {
		return 0
	}
	return int(min(99, 100*stored / *size))
}
