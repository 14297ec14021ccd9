package api

import (
	"context"
	"encoding/hex"
	"net/http"

	"github.com/google/uuid"

	"latelantern/internal/core/likeness"
	"latelantern/internal/roster"
)

// FilesHere is where a file is already.
type FilesHere struct {
	Here      []FileHere `json:"here" nullable:"false" doc:"recordings of courses that one teaches, the latest first"`
	Elsewhere int        `json:"elsewhere" doc:"recordings of other courses"`
}

// FileHere is a recording that came as the same file.
type FileHere struct {
	Recording uuid.UUID `json:"recording_id" format:"uuid"`
	Lecture   uuid.UUID `json:"lecture_id" format:"uuid"`
	Title     string    `json:"title"`
	FileName  string    `json:"file_name"`
	Deleted   bool      `json:"deleted" doc:"it was taken away, and can be brought back"`
}

func (a *API) fileRoutes() {
	type printInput struct {
		Print string `path:"print" pattern:"^[0-9a-f]{64}$" doc:"SHA-256 of the size of the file and of 16 windows of it"`
	}
	on(a, teachers, http.MethodGet, "/api/files/{print}", "file-here", "Whether a file is here already", func(ctx context.Context, p roster.Person, in *printInput) (*body[FilesHere], error) {
		print, err := hex.DecodeString(in.Print)
		if err != nil || len(print) != likeness.Length {
			return answer(FilesHere{Here: []FileHere{}}), nil
		}
		found, err := a.Capture.Find(ctx, print)
		if err != nil {
			return nil, err
		}
		out := FilesHere{Here: []FileHere{}}
		for _, k := range found {
			if a.mayStaff(ctx, p, k.CourseID) != nil {
				out.Elsewhere++
				continue
			}
			title := k.Title
			if title == "" {
				l, err := a.Schedule.OfRecording(ctx, k.LectureID, k.RecordingID)
				term, err2 := a.Schedule.TermOf(ctx, k.CourseID)
				if title = k.Code; err == nil && err2 == nil {
					title = l.SuggestedTitle(term)
				}
			}
			out.Here = append(out.Here, FileHere{k.RecordingID, k.LectureID, title, k.FileName, k.Deleted})
		}
		return answer(out), nil
	})
}
