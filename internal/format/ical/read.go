package ical

import (
	"cmp"
	"context"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"
	"time"

	"latelantern/internal/core/fault"
	"latelantern/internal/core/timetable"
)

// Lecture is one date of a timetable.
type Lecture struct {
	UID        string // the same for all of a series
	Series     string // what it belongs to: the UID it is related to, or else its own
	Start, End time.Time
	Title      string
	Hall       string
	CalledOff  bool
	Line       int // where the event that gives it begins
}

// Options is what a file does not say itself.
type Options struct {
	Zone  *time.Location // of times without one; that of the file, or else UTC, when nil
	Until time.Time      // end of series that have none; zero refuses them
}

// MostLectures is the most lectures that are taken from a file, and MostTold the most faults that are told.
const (
	MostLectures = 2000
	MostTold     = 100
)

// Calendar is what could be read, in order of time, and what could not.
type Calendar struct {
	Name     string
	Lectures []Lecture // at most MostLectures
	Faults   []Fault   // the first MostTold of them

	FaultsAll int
}

// component is what stands between a BEGIN and its END.
type component struct {
	n     int
	kind  string
	lines []line
	parts []component
}

func (c component) get(name string) (line, bool) {
	i := slices.IndexFunc(c.lines, func(l line) bool { return l.name == name })
	if i < 0 {
		return line{}, false
	}
	return c.lines[i], true
}

func (c component) value(name string) string {
	l, _ := c.get(name)
	return l.value
}

// tree puts lines into components. What is not closed is closed at the end, with a fault.
func tree(lines []line) (component, []Fault) {
	var faults []Fault
	stack := []component{{kind: "FILE"}}
	closeLast := func() {
		last := stack[len(stack)-1]
		stack = stack[:len(stack)-1]
		stack[len(stack)-1].parts = append(stack[len(stack)-1].parts, last)
	}
	for _, l := range lines {
		kind := strings.ToUpper(strings.TrimSpace(l.value))
		switch l.name {
		case "BEGIN":
			stack = append(stack, component{n: l.n, kind: kind})
		case "END":
			if len(stack) == 1 || stack[len(stack)-1].kind != kind {
				faults = append(faults, Fault{l.n, fault.Say("calendar.end", "kind", kind)})
				continue
			}
			closeLast()
		default:
			top := &stack[len(stack)-1]
			top.lines = append(top.lines, l)
		}
	}
	for len(stack) > 1 {
		faults = append(faults,
			Fault{stack[len(stack)-1].n, fault.Say("calendar.open", "kind", stack[len(stack)-1].kind)})
		closeLast()
	}
	return stack[0], faults
}

// Read reads a timetable. What cannot be taken is named in Faults, and the rest is read. Its
// error is only that of the reader, or of a context that ended.
func Read(ctx context.Context, r io.Reader, o Options) (Calendar, error) {
	lines, faults, err := readLines(r)
	if err != nil {
		return Calendar{}, err
	}
	out := Calendar{Faults: faults}
	file, faults := tree(lines)
	out.Faults = append(out.Faults, faults...)
	found := false
	for _, c := range file.parts {
		if c.kind != "VCALENDAR" {
			out.Faults = append(out.Faults, Fault{c.n, fault.Say("calendar.stray", "kind", c.kind)})
			continue
		}
		found = true
		out.calendar(ctx, c, o)
		if err := ctx.Err(); err != nil {
			return Calendar{}, fmt.Errorf("read a calendar: %w", err)
		}
	}
	if !found && len(out.Faults) == 0 {
		out.Faults = append(out.Faults, Fault{1, fault.Say("calendar.no_calendar")})
	}
	slices.SortStableFunc(out.Lectures, func(a, b Lecture) int {
		return cmp.Or(a.Start.Compare(b.Start), a.End.Compare(b.End), cmp.Compare(a.Title, b.Title))
	})
	slices.SortStableFunc(out.Faults, func(a, b Fault) int { return cmp.Compare(a.Line, b.Line) })
	if out.FaultsAll = len(out.Faults); out.FaultsAll > MostTold {
		out.Faults = out.Faults[:MostTold]
	}
	return out, nil
}

func (out *Calendar) calendar(ctx context.Context, c component, o Options) {
	described := out.zones(ctx, c)
	floating := inUTC
	if l, ok := c.get("X-WR-TIMEZONE"); ok {
		if z, err := described.find(l.value); err == nil {
			floating = z
		}
	}
	if o.Zone != nil {
		floating = zone{place: o.Zone}
	}
	if out.Name == "" {
		out.Name = text(c.value("X-WR-CALNAME"))
	}
	var order []string
	masters, changed := map[string][]event{}, map[string][]event{}
	for _, p := range c.parts {
		if ctx.Err() != nil {
			return
		}
		switch p.kind {
		case "VTIMEZONE":
		case "VEVENT":
			e, fault := readEvent(p, described, floating)
			if fault != nil {
				out.Faults = append(out.Faults, *fault)
				continue
			}
			if masters[e.uid] == nil && changed[e.uid] == nil {
				order = append(order, e.uid)
			}
			if e.recurrence != nil {
				changed[e.uid] = append(changed[e.uid], e)
			} else {
				masters[e.uid] = append(masters[e.uid], e)
			}
		default:
			out.Faults = append(out.Faults, Fault{p.n, fault.Say("calendar.no_event", "kind", p.kind)})
		}
	}
	barren := 0
	for _, uid := range order {
		if ctx.Err() != nil {
			return
		}
		lectures, faults := series(newest(masters[uid]), changed[uid], o)
		out.Lectures = append(out.Lectures, lectures...)
		out.Faults = append(out.Faults, faults...)
		for _, f := range faults {
			if f.Text.Code == noDate {
				barren++
			}
		}
		if barren > mostBarren {
			out.Faults = append(out.Faults, Fault{faults[0].Line, fault.Say("calendar.barren")})
			return
		}
		if len(out.Lectures) > MostLectures {
			out.Lectures = out.Lectures[:MostLectures]
			out.Faults = append(out.Faults,
				Fault{slices.Concat(masters[uid], changed[uid])[0].n,
					fault.Say("calendar.lectures", "most", MostLectures)})
			return
		}
	}
}

// mostBarren is after how many rules without a date the rest is not read: each is looked for through centuries.
const mostBarren = 100

// zones reads the zones that a calendar describes.
func (out *Calendar) zones(ctx context.Context, c component) zones {
	described, onsets := zones{}, 0
	for _, p := range c.parts {
		if p.kind != "VTIMEZONE" {
			continue
		}
		if onsets > mostZones {
			out.Faults = append(out.Faults, Fault{p.n, fault.Say("calendar.zones")})
			break
		}
		name, z, faults := readZone(ctx, p)
		onsets += len(z.onsets)
		out.Faults = append(out.Faults, faults...)
		if len(z.onsets) > 0 && len(faults) == 0 {
			described[name] = z
		}
	}
	return described
}

// newest keeps of events with one UID those of the highest revision.
func newest(events []event) []event {
	most := 0
	for _, e := range events {
		most = max(most, e.sequence)
	}
	return slices.DeleteFunc(events, func(e event) bool { return e.sequence < most })
}

// event is a VEVENT (RFC 5545, 3.6.1). Times are on the wall of its zone.
type event struct {
	component
	uid, related string
	sequence     int
	zone         zone
	start        time.Time
	lasts        time.Duration
	title, hall  string
	off          bool
	recurrence   *time.Time // the instant at which the date it changes was planned
	recurrenceOn bool       // only its day is given
	later        bool       // it changes all later ones too
	described    zones
	floating     zone
}

func readEvent(c component, described zones, floating zone) (event, *Fault) {
	e := event{component: c, described: described, floating: floating, uid: c.value("UID"),
		title: text(c.value("SUMMARY")), hall: text(c.value("LOCATION")),
		off: strings.EqualFold(c.value("STATUS"), "CANCELLED")}
	if e.uid == "" {
		e.uid = fmt.Sprintf("line %d", c.n)
	}
	for _, l := range c.lines {
		if l.name == "RELATED-TO" && (l.params["RELTYPE"] == "" || strings.EqualFold(l.params["RELTYPE"], "PARENT")) {
			e.related = l.value
		}
	}
	e.sequence, _ = strconv.Atoi(c.value("SEQUENCE"))
	start, ok := c.get("DTSTART")
	if !ok {
		return e, &Fault{c.n, fault.Say("calendar.no_start")}
	}
	wall, z, day, err := e.when(start, start.value)
	if err == nil && day {
		err = fault.Say("calendar.all_day")
	}
	if err != nil {
		return e, &Fault{start.n, fault.Of(err)}
	}
	e.start, e.zone = wall, z
	at, err := e.length()
	if err != nil {
		return e, &Fault{cmp.Or(at, c.n), fault.Of(err)}
	}
	if l, ok := c.get("RECURRENCE-ID"); ok {
		wall, z, day, err := e.when(l, l.value)
		if err != nil {
			return e, &Fault{l.n, fault.Of(err)}
		}
		t := z.utc(wall)
		if day {
			t = wall
		}
		e.recurrence, e.recurrenceOn = &t, day
		e.later = strings.EqualFold(l.params["RANGE"], "THISANDFUTURE")
	}
	if e.recurrence != nil {
		for _, name := range []string{"RRULE", "RDATE"} {
			if l, ok := c.get(name); ok {
				return e, &Fault{l.n, fault.Say("calendar.changed_repeats")}
			}
		}
	}
	return e, nil
}

// length finds how long an event lasts, and the line that says so.
func (e *event) length() (int, error) {
	at := 0
	if l, ok := e.get("DTEND"); ok {
		at = l.n
		wall, z, day, err := e.when(l, l.value)
		if err != nil {
			return at, err
		}
		if day {
			return at, fault.Say("calendar.end_day")
		}
		e.lasts = z.utc(wall).Sub(e.zone.utc(e.start))
	} else if l, ok := e.get("DURATION"); ok {
		at = l.n
		d, ok := readDuration(l.value)
		if !ok {
			return at, fault.Say("calendar.duration", "value", l.value)
		}
		e.lasts = d
	} else {
		return 0, fault.Say("calendar.no_end")
	}
	switch {
	case e.lasts < time.Minute:
		return at, fault.Say("calendar.turned")
	case e.lasts > 24*time.Hour:
		return at, fault.Say("calendar.long")
	}
	return at, nil
}

// when reads DATE-TIME or DATE (3.3.4, 3.3.5). A DATE is midnight of it, with day true.
func (e *event) when(l line, value string) (wall time.Time, z zone, day bool, err error) {
	z = e.floating
	if name := l.params["TZID"]; name != "" {
		if z, err = e.described.find(name); err != nil {
			return wall, z, false, err
		}
	}
	if strings.EqualFold(l.params["VALUE"], "DATE") || len(value) == 8 {
		wall, err = time.Parse("20060102", value)
		day = true
	} else if strings.HasSuffix(value, "Z") {
		wall, err = time.Parse("20060102T150405Z", value)
		if l.params["TZID"] == "" || err != nil {
			z = inUTC
		} else {
			wall = z.wall(wall)
		}
	} else {
		wall, err = time.Parse("20060102T150405", value)
	}
	if err != nil {
		err = fault.Say("calendar.time", "value", value)
	}
	return wall, z, day, err
}

// readDuration reads DURATION (3.3.6).
func readDuration(s string) (time.Duration, bool) {
	rest, ok := strings.CutPrefix(strings.TrimPrefix(s, "+"), "P")
	if !ok || rest == "" {
		return 0, false
	}
	var out time.Duration
	number := -1
	clock := false
	for _, c := range rest {
		if c >= '0' && c <= '9' {
			number = max(0, number)*10 + int(c-'0')
			if number > 1_000_000 {
				return 0, false
			}
			continue
		}
		if c == 'T' && number < 0 {
			clock = true
			continue
		}
		unit, ok := map[rune]time.Duration{'W': 7 * 24 * time.Hour, 'D': 24 * time.Hour, 'H': time.Hour,
			'M': time.Minute, 'S': time.Second}[c]
		if !ok || number < 0 || clock != (c == 'H' || c == 'M' || c == 'S') {
			return 0, false
		}
		out += time.Duration(number) * unit
		number = -1
	}
	return out, number < 0
}

// most is how many dates a series can have.
const most = timetable.MaxLectures
