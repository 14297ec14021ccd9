package timetable

import (
	"cmp"
	"slices"
	"time"
)

// Lane is the place of a booking among those that overlap it, side by side.
type Lane struct {
	At int // from 0
	Of int // how many stand side by side
}

// Lanes gives each of the bookings, which share a hall, its lane: those that overlap get
// lanes of their own, and all that hang together by overlaps are told the same number of lanes.
func Lanes(list []Booking) []Lane {
	order := make([]int, len(list))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(x, y int) int {
		return cmp.Or(list[x].Start.Compare(list[y].Start), list[y].End.Compare(list[x].End))
	})
	out := make([]Lane, len(list))
	var group []int      // those that hang together
	var free []time.Time // when each lane is free again
	var end time.Time    // of the group
	settle := func() {
		for _, i := range group {
			out[i].Of = len(free)
		}
		group, free = nil, nil
	}
	for _, i := range order {
		b := list[i]
		if len(group) > 0 && !b.Start.Before(end) {
			settle()
		}
		lane := slices.IndexFunc(free, func(t time.Time) bool { return !b.Start.Before(t) })
		if lane < 0 {
			lane = len(free)
			free = append(free, time.Time{})
		}
		free[lane] = b.End
		out[i].At = lane
		if len(group) == 0 || b.End.After(end) {
			end = b.End
		}
		group = append(group, i)
	}
	settle()
	return out
}
