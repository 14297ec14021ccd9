package page

import (
	"github.com/google/uuid"
)

// GuestPass is where a guest's link leads.
type GuestPass struct {
	Lecture uuid.UUID `json:"lecture_id" format:"uuid"`
}
