// Package playlist knows the order of a course's recordings, and which lectures are missing among them.
package playlist

import (
	"slices"

	"latelantern/internal/core/fault"
)

// Move gives order with item put before the item `before`, or at the end when before is
// the zero value. It refuses an item that is not in order.
func Move[T comparable](order []T, item, before T) ([]T, error) {
	at := slices.Index(order, item)
	if at < 0 {
		return nil, fault.Say("playlist.not_in_it")
	}
	if item == before {
		return slices.Clone(order), nil
	}
	rest := slices.Delete(slices.Clone(order), at, at+1)
	to := len(rest)
	var zero T
	if before != zero {
		if to = slices.Index(rest, before); to < 0 {
			return nil, fault.Say("playlist.no_place")
		}
	}
	return slices.Insert(rest, to, item), nil
}
