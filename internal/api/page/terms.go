package page

import (
	"github.com/google/uuid"
)

// OfTerm is the input of operations about a term.
type OfTerm struct {
	Term uuid.UUID `path:"term" format:"uuid"`
}

// OfHall is the input of operations about a hall.
type OfHall struct {
	Hall uuid.UUID `path:"hall" format:"uuid"`
}
