package page

import (
	"time"
)

// Dated is when something is held, and nil for what is for a whole week.
func Dated(at time.Time, ahead bool) *time.Time {
	if ahead {
		return nil
	}
	return &at
}
