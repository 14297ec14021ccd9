package timetable

import (
	"cmp"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode"
)

// Evidence is what a recording that was made elsewhere says of when and where it was made.
type Evidence struct {
	Inside   time.Time     // its own time, as written inside it; zero when there is none
	Modified time.Time     // when its file was last written; zero when not known
	Words    string        // what it is called: names, folders, a title inside it
	Length   time.Duration // 0 when not known
}

// Slot is a lecture that a recording may be of.
type Slot struct {
	ID         string
	Code       string // of its course
	Hall       string // "" for none
	Start, End time.Time
	Captured   bool // there is a recording of it
}

// Reading is by which of its times a recording was matched.
type Reading string

// The readings, the most to be trusted first. What is written inside a recording is when it
// began with some devices and when it ended with others, and some write the clock on the wall
// where UTC belongs.
const (
	InsideStart Reading = "inside"     // its own time
	NameStart   Reading = "name"       // a date and a clock in its name
	InsideEnd   Reading = "inside_end" // its own time, if that is when it ended
	InsideWall  Reading = "inside_wall"
	NameDay     Reading = "day"  // a date in its name
	FileEnd     Reading = "file" // when its file was last written
)

var readings = []Reading{InsideStart, NameStart, InsideEnd, InsideWall, NameDay, FileEnd}

// direct reports whether a reading may decide by itself.
func (r Reading) direct() bool { return r == InsideStart || r == NameStart }

// Match is a lecture that a recording may be of, and why.
type Match struct {
	Slot
	By     Reading
	Share  float64 // of the recording that lies in the lecture, 0 to 1
	Hall   bool    // its words name the hall
	Course bool    // its words name the course
	Sure   bool    // it can be taken for this lecture without asking
}

const (
	early  = 15 * time.Minute // before its start something may be recorded of a lecture
	late   = 30 * time.Minute // after its end
	little = 0.5              // less of the recording than this in a lecture is no match
	// usual is how long a recording is taken to be whose length is not known.
	usual = 10 * time.Minute
)

// Matches lists the lectures that a recording may be of, the likeliest first. Its times in
// words are those of the zone.
//
// One is sure when its own time or its name puts it into one lecture that has no recording yet,
// and nothing it says speaks for another; what only the date of the file or a date without a
// clock says must be borne out by the hall or the course in its name.
func Matches(e Evidence, zone *time.Location, slots []Slot) []Match {
	words := fold(e.Words)
	var out []Match
	for _, h := range slots {
		if m, ok := match(e, zone, h); ok {
			m.Hall, m.Course = names(words, h.Hall), names(words, h.Code)
			out = append(out, m)
		}
	}
	// the other readings are for when these fit nothing
	if slices.ContainsFunc(out, func(m Match) bool { return m.By.direct() }) {
		out = slices.DeleteFunc(out, func(m Match) bool { return !m.By.direct() && weight(m) == 0 })
	}
	named := func(of func(Match) bool) bool { return slices.ContainsFunc(out, of) }
	hall, course := named(func(m Match) bool { return m.Hall }), named(func(m Match) bool { return m.Course })
	slices.SortStableFunc(out, func(a, b Match) int {
		return cmp.Or(
			cmp.Compare(weight(b), weight(a)),
			cmp.Compare(recorded(a), recorded(b)),
			cmp.Compare(slices.Index(readings, a.By), slices.Index(readings, b.By)),
			cmp.Compare(b.Share, a.Share),
			a.Start.Compare(b.Start),
			cmp.Compare(a.ID, b.ID))
	})
	if len(out) > 0 {
		first := &out[0]
		first.Sure = !first.Captured && (!hall || first.Hall) && (!course || first.Course) &&
			(first.By.direct() || first.Hall || first.Course) && !elsewhere(words, *first, slots) &&
			!slices.ContainsFunc(out[1:], func(m Match) bool { return rivals(*first, m) })
	}
	return out
}

// recorded puts a lecture behind others of which there is a recording already.
func recorded(m Match) int {
	if m.Captured {
		return 1
	}
	return 0
}

// weight is how much the words of a recording speak for a lecture.
func weight(m Match) int {
	n := 0
	if m.Hall {
		n++
	}
	if m.Course {
		n++
	}
	return n
}

// rivals reports whether b speaks so much for itself that a is not sure.
func rivals(a, b Match) bool {
	if weight(b) < weight(a) {
		return false
	}
	return b.By.direct() || !a.By.direct()
}

// elsewhere reports whether the words name a hall or a course, and not those of the match.
func elsewhere(words string, m Match, slots []Slot) bool {
	return slices.ContainsFunc(slots, func(h Slot) bool {
		return !m.Hall && names(words, h.Hall) || !m.Course && names(words, h.Code)
	})
}

// match says by which time a recording may be of a lecture.
func match(e Evidence, zone *time.Location, h Slot) (Match, bool) {
	length := e.Length
	if length <= 0 {
		length = usual
	}
	named, clock, dated := NamedTime(e.Words, zone)
	for _, r := range readings {
		var start time.Time
		switch r {
		case InsideStart:
			start = e.Inside
		case NameStart:
			if clock {
				start = named
			}
		case InsideEnd:
			if !e.Inside.IsZero() {
				start = e.Inside.Add(-length)
			}
		case InsideWall:
			if !e.Inside.IsZero() {
				u := e.Inside.UTC()
				start = time.Date(u.Year(), u.Month(), u.Day(), u.Hour(), u.Minute(), u.Second(), 0, zone)
			}
		case NameDay:
			if dated && !clock && DayOf(h.Start, zone).Equal(DayOf(named, zone)) {
				return Match{Slot: h, By: r, Share: 1}, true
			}
			continue
		case FileEnd:
			if !e.Modified.IsZero() {
				start = e.Modified.Add(-length)
			}
		}
		if start.IsZero() {
			continue
		}
		if share := share(start, start.Add(length), h); share >= little {
			return Match{Slot: h, By: r, Share: share}, true
		}
	}
	return Match{}, false
}

// share is how much of [start, end) lies in the time in which a lecture may be recorded; a
// recording that is longer than that counts as if it were as long.
func share(start, end time.Time, h Slot) float64 {
	from, until := h.Start.Add(-early), h.End.Add(late)
	in := minTime(end, until).Sub(maxTime(start, from))
	whole := min(end.Sub(start), h.End.Sub(h.Start))
	if in <= 0 || whole <= 0 {
		return 0
	}
	// What is said in the breaks between lectures belongs to the one that it is nearer to.
	if mid := start.Add(end.Sub(start) / 2); end.Sub(start) <= h.End.Sub(h.Start) &&
		(mid.Before(from) || !mid.Before(until)) {
		return 0
	}
	core := max(0, minTime(end, h.End).Sub(maxTime(start, h.Start)))
	return min(1, (float64(in)+float64(core))/2/float64(whole))
}

func minTime(a, b time.Time) time.Time {
	if a.Before(b) {
		return a
	}
	return b
}

func maxTime(a, b time.Time) time.Time {
	if a.After(b) {
		return a
	}
	return b
}

// named is a date code in a name (ISO 8601, with or without its marks), and a clock after it.
var named = regexp.MustCompile(`(?:^|\D)(20\d\d)([-_.]?)(\d\d)[-_.]?(\d\d)(?:(?:[T _.-]{1,3}|\D{0,4}[ _])?([0-2]\d)[-_.:h]?([0-5]\d)(?:[-_.:]?([0-5]\d))?)?(?:\D|$)`)

// NamedTime reads a date from a name such as "2026-10-12 10.03" or "20261012_100312", and
// whether there is a clock with it. A name that holds none, or no possible one, is not ok.
func NamedTime(words string, zone *time.Location) (t time.Time, clock, ok bool) {
	m := named.FindStringSubmatch(words)
	if m == nil {
		return t, false, false
	}
	n := func(i int) int { v, _ := strconv.Atoi(m[i]); return v }
	year, month, day := n(1), n(3), n(4)
	if month < 1 || month > 12 || day < 1 || day > 31 || n(5) > 23 {
		return t, false, false
	}
	t = time.Date(year, time.Month(month), day, n(5), n(6), n(7), 0, zone)
	return t, m[5] != "", t.Day() == day
}

// fold keeps the letters and figures of a text, in small letters.
func fold(text string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsLetter(r) || unicode.IsDigit(r) {
			return unicode.ToLower(r)
		}
		return -1
	}, text)
}

// names reports whether folded words hold a name, however it is written apart. A name of one
// or two letters is in too many words to tell anything.
func names(words, name string) bool {
	name = fold(name)
	return len([]rune(name)) > 2 && strings.Contains(words, name)
}
