package page

import (
	"github.com/google/uuid"
)

// CourseName names a course.
type CourseName struct {
	ID    uuid.UUID `json:"id" format:"uuid"`
	Code  string    `json:"code"`
	Title string    `json:"title"`
}
