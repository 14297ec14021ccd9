// Package playlist knows the order of the entries of a playlist, and which lectures are missing among them.
package playlist

import (
	"slices"
	"time"

	"latelantern/internal/core/fault"
)

// Arranged says what a playlist is in order by.
type Arranged string

const (
	Hand Arranged = "hand" // as people put it
	Date Arranged = "date" // by the dates of the lectures, below each heading
	Week Arranged = "week" // by the dates of the lectures, below the weeks instead of headings
)

// Known says whether there is such an order.
func (a Arranged) Known() bool { return a == Hand || a == Date || a == Week }

// Item is an entry as far as its place depends on it. K names entries, and lectures.
type Item[K comparable] struct {
	ID      K
	Heading bool
	Lecture K         // of a recording; the zero value for none
	At      time.Time // when that begins; the zero value for none
	Made    time.Time // when the recording was made: the order of the parts of one lecture
}

// dated says whether it has a place by its date.
func (i Item[K]) dated() bool { return !i.Heading && !i.At.IsZero() }

// Arrange gives items, which are as people put them, in the order in which they are shown. Parts of one lecture stand
// together where the first of them stands. By date each recording goes to the place of another one below the same
// heading; what has no date stays. By week headings are left out, and what has no date comes first.
func Arrange[K comparable](items []Item[K], by Arranged) []Item[K] {
	out := together(items)
	switch by {
	case Date:
		from := 0
		for at := range out {
			if out[at].Heading {
				sortDated(out[from:at])
				from = at + 1
			}
		}
		sortDated(out[from:])
	case Week:
		out = slices.DeleteFunc(out, func(i Item[K]) bool { return i.Heading })
		slices.SortStableFunc(out, func(a, b Item[K]) int { return a.At.Compare(b.At) })
	}
	return out
}

// together puts parts of one lecture where the first of them stands.
func together[K comparable](items []Item[K]) []Item[K] {
	var none K
	parts := map[K][]Item[K]{}
	for _, i := range items {
		if i.Lecture != none {
			parts[i.Lecture] = append(parts[i.Lecture], i)
		}
	}
	out := make([]Item[K], 0, len(items))
	for _, i := range items {
		if i.Lecture == none {
			out = append(out, i)
			continue
		}
		slices.SortStableFunc(parts[i.Lecture], func(a, b Item[K]) int { return a.Made.Compare(b.Made) })
		out = append(out, parts[i.Lecture]...)
		delete(parts, i.Lecture)
	}
	return out
}

// sortDated sorts what has a date among the places of what has one.
func sortDated[K comparable](items []Item[K]) {
	var dated []Item[K]
	for _, i := range items {
		if i.dated() {
			dated = append(dated, i)
		}
	}
	slices.SortStableFunc(dated, func(a, b Item[K]) int { return a.At.Compare(b.At) })
	for at, i := range items {
		if i.dated() {
			items[at], dated = dated[0], dated[1:]
		}
	}
}

// Place is the entry before which a lecture at a time stands by its date among items as they are shown: the first of a
// later one; the zero value for the end.
func Place[K comparable](items []Item[K], at time.Time) (before K) {
	for _, i := range items {
		if i.dated() && i.At.After(at) {
			return i.ID
		}
	}
	return before
}

// Move gives the entries with some of them put before another, in the order in which they stand, or at the end when
// before is the zero value. Items are as they are shown, but for headings that are left out. Other parts of a lecture
// come along, and nothing is put between such parts. It refuses entries that are not there.
func Move[K comparable](items []Item[K], moved []K, before K) ([]K, error) {
	var none K
	along := map[K]bool{} // lectures
	for _, id := range moved {
		at := slices.IndexFunc(items, func(i Item[K]) bool { return i.ID == id })
		if at < 0 {
			return nil, fault.Say("playlist.not_in_it")
		}
		if l := items[at].Lecture; l != none {
			along[l] = true
		}
	}
	goes := func(i Item[K]) bool { return along[i.Lecture] || slices.Contains(moved, i.ID) }
	to := len(items)
	if before != none {
		if to = slices.IndexFunc(items, func(i Item[K]) bool { return i.ID == before }); to < 0 {
			return nil, fault.Say("playlist.no_place")
		}
		for to > 0 && items[to].Lecture != none && items[to-1].Lecture == items[to].Lecture {
			to--
		}
	}
	var first, block, last []K
	for at, i := range items {
		switch {
		case goes(i):
			block = append(block, i.ID)
		case at < to:
			first = append(first, i.ID)
		default:
			last = append(last, i.ID)
		}
	}
	return slices.Concat(first, block, last), nil
}

// Part is which part of its lecture an item is, and how many of them there are: 1 of 1 for what is alone.
type Part struct{ N, Of int }

// Parts numbers items as they are shown.
func Parts[K comparable](items []Item[K]) []Part {
	var none K
	out := make([]Part, len(items))
	for from := 0; from < len(items); {
		to := from + 1
		for to < len(items) && items[to].Lecture != none && items[to].Lecture == items[from].Lecture {
			to++
		}
		for at := from; at < to; at++ {
			out[at] = Part{at - from + 1, to - from}
		}
		from = to
	}
	return out
}

// Headed are lines without the headings under which nothing stands.
func Headed[L any](lines []L, heading func(L) bool) []L {
	out := make([]L, 0, len(lines))
	for _, l := range lines {
		if n := len(out); n > 0 && heading(l) && heading(out[n-1]) {
			out = out[:n-1]
		}
		out = append(out, l)
	}
	if n := len(out); n > 0 && heading(out[n-1]) {
		out = out[:n-1]
	}
	return out
}
