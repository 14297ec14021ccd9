package viewing

import "time"

// Next is the first moment after now at which the clock alone may make another decision of any of the ways; zero when
// there is none. Until then Decide says of them what it says now.
func Next(ways []Way, now time.Time) time.Time {
	var first time.Time
	edge := func(at time.Time) {
		if at.After(now) && (first.IsZero() || at.Before(first)) {
			first = at
		}
	}
	window := func(w Window, x Release) {
		edge(w.Opens(x))
		if end, ends := w.Closes(x); ends {
			edge(end)
		}
	}
	for _, w := range ways {
		edge(w.ShutUntil)
		if w.Rule != nil {
			window(w.Rule.Window, w.Release)
		}
		if w.Opening != nil {
			window(w.Opening.Window, w.Release)
		}
	}
	return first
}
