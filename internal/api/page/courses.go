package page

import (
	"time"

	"latelantern/internal/core/timetable"
)

// SameDay reports whether two moments are of one day in a zone.
func SameDay(x, y time.Time, zone *time.Location) bool {
	if d := x.Sub(y); d > 25*time.Hour || d < -25*time.Hour {
		return false
	}
	return timetable.DayOf(x, zone).Equal(timetable.DayOf(y, zone))
}
