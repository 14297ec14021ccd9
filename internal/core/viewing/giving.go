package viewing

// Giving is what is done at once to recordings as courses have them. Its zero value leaves all as it is.
type Giving struct {
	Lit  *bool   // lit, or darkened; nil: as it is
	Rule *Ruling // nil: as it is
}

// Ruling is which rule holds for recordings in courses from now on: one of their own, or with nil that of the course.
type Ruling struct {
	Own *Rule
}

// Same tells whether two rules say the same. Groups count in any order, and only for a rule that speaks of groups; so
// does of a window only what its kinds ask for.
func (r Rule) Same(o Rule) bool {
	return r.Audience == o.Audience && r.Uses == o.Uses && r.Window.Kept() == o.Window.Kept() &&
		(r.Audience == Everyone || sameGroups(r.Groups, o.Groups))
}

// Kept is a window without what does not count for its kinds, its moments in UTC.
func (w Window) Kept() Window {
	out := Window{From: w.From, Until: w.Until}
	switch w.From {
	case FromDate:
		out.FromAt = w.FromAt.UTC()
	case FromDays:
		out.DaysAfterLecture = w.DaysAfterLecture
	}
	switch w.Until {
	case UntilDate:
		out.UntilAt = w.UntilAt.UTC()
	case UntilTerm:
		out.DaysAfterTerm = w.DaysAfterTerm
	}
	return out
}

func sameGroups(a, b []string) bool {
	in := map[string]int{}
	for _, g := range a {
		in[g] |= 1
	}
	for _, g := range b {
		in[g] |= 2
	}
	for _, sides := range in {
		if sides != 3 {
			return false
		}
	}
	return true
}
