package ical

import (
	"context"
	"slices"
	"strings"
	"time"

	"latelantern/internal/core/fault"

	"github.com/teambition/rrule-go"
)

// zone turns times as a clock on the wall shows them, written as if they were UTC, into instants.
type zone struct {
	place  *time.Location // nil for one that only the file describes
	onsets []onset        // of that one, in order
}

// onset is a moment from which an offset holds (RFC 5545, 3.6.5).
type onset struct {
	at       time.Time // instant
	from, to time.Duration
}

// offset is how far the wall is ahead of UTC at an instant.
func (z zone) offset(t time.Time) time.Duration {
	if z.place != nil {
		_, seconds := t.In(z.place).Zone()
		return time.Duration(seconds) * time.Second
	}
	n, found := slices.BinarySearchFunc(z.onsets, t, func(o onset, t time.Time) int { return o.at.Compare(t) })
	switch {
	case found:
		return z.onsets[n].to
	case n > 0:
		return z.onsets[n-1].to
	case len(z.onsets) > 0:
		return z.onsets[0].from
	}
	return 0
}

// around is more than any clock is changed by, and less than lies between two changes.
const around = 26 * time.Hour

// utc is the instant at which the wall shows a time. One that it shows twice is the first of them, and one
// that it never shows is told by the offset before the gap (3.3.5).
func (z zone) utc(wall time.Time) time.Time {
	before, after := z.offset(wall.Add(-around)), z.offset(wall.Add(around))
	early, late := wall.Add(-max(before, after)), wall.Add(-min(before, after))
	switch {
	case z.offset(early) == max(before, after):
		return early
	case z.offset(late) == min(before, after):
		return late
	}
	return wall.Add(-before)
}

// wall is what the clock shows at an instant.
func (z zone) wall(t time.Time) time.Time { return t.UTC().Add(z.offset(t)) }

var inUTC = zone{place: time.UTC}

// known finds a zone by its name alone: one of the IANA database, also behind the prefix
// that some programs put before it.
func known(name string) (zone, bool) {
	parts := strings.Split(strings.Trim(name, "/"), "/")
	for n := range parts {
		try := strings.Join(parts[n:], "/")
		if try == "" || try == "Local" {
			continue
		}
		if place, err := time.LoadLocation(try); err == nil {
			return zone{place: place}, true
		}
	}
	return zone{}, false
}

// zones are the zones that a file describes, by their names, and those that were found by name alone.
type zones map[string]zone

// find finds a zone: as the file describes it, whatever its name means elsewhere, or else by its name.
func (z zones) find(name string) (zone, error) {
	if x, ok := z[name]; ok {
		return x, nil
	}
	if x, ok := known(name); ok {
		z[name] = x
		return x, nil
	}
	return zone{}, fault.Say("calendar.zone", "zone", name)
}

// What of a zone is worked out: its changes until then, and no more than so many of one rule, nor of a file.
const (
	zoneYears  = 50 // from now
	mostOnsets = 1000
	mostZones  = 100_000 // onsets of all zones of a file
)

// readZone reads VTIMEZONE (RFC 5545, 3.6.5).
func readZone(ctx context.Context, c component) (name string, z zone, faults []Fault) {
	name = c.value("TZID")
	for _, part := range c.parts {
		if ctx.Err() != nil {
			break
		}
		more, fault := onsets(part)
		if fault != nil {
			faults = append(faults, *fault)
			continue
		}
		z.onsets = append(z.onsets, more...)
	}
	slices.SortStableFunc(z.onsets, func(a, b onset) int { return a.at.Compare(b.at) })
	return name, z, faults
}

// onsets are those of one part of a zone, STANDARD or DAYLIGHT.
func onsets(part component) ([]onset, *Fault) {
	start, err := time.Parse("20060102T150405", part.value("DTSTART"))
	from, ok := readOffset(part.value("TZOFFSETFROM"))
	to, ok2 := readOffset(part.value("TZOFFSETTO"))
	if err != nil || !ok || !ok2 {
		return nil, &Fault{part.n, fault.Say("calendar.zone_part")}
	}
	walls := []time.Time{start}
	for _, l := range part.lines {
		switch l.name {
		case "RDATE":
			for value := range strings.SplitSeq(l.value, ",") {
				wall, err := time.Parse("20060102T150405", strings.TrimSpace(value))
				if err != nil {
					return nil, &Fault{l.n, fault.Say("calendar.zone_time", "value", value)}
				}
				walls = append(walls, wall)
			}
		case "RRULE":
			more, err := changes(start, from, l.value)
			if err != nil {
				return nil, &Fault{l.n, fault.Of(err)}
			}
			walls = append(walls, more...)
		}
		if len(walls) > mostOnsets {
			return nil, &Fault{l.n, fault.Say("calendar.zone_many", "most", mostOnsets)}
		}
	}
	out := make([]onset, len(walls))
	for i, w := range walls {
		out[i] = onset{at: w.Add(-from), from: from, to: to}
	}
	return out, nil
}

// changes are the walls of a rule of a zone. Its error is a fault.Text.
func changes(start time.Time, from time.Duration, value string) ([]time.Time, error) {
	r, err := readRule(value)
	if err != nil {
		return nil, err
	}
	if r.Freq > rrule.MONTHLY {
		return nil, fault.Say("calendar.zone_often")
	}
	end := time.Now().AddDate(zoneYears, 0, 0)
	if !r.Until.IsZero() && r.Until.Before(end) {
		end = r.Until.Add(from) // it is in UTC
	}
	r.Dtstart, r.Until = start, end // without one the library looks no further than 292 years
	var out []time.Time
	err = r.each(max(0, end.Year()-start.Year())+1, func(t time.Time) bool {
		out = append(out, t)
		return len(out) <= mostOnsets
	})
	if err != nil {
		return nil, fault.Say("calendar.zone_rule", "why", err.Error())
	}
	return out, nil
}

// readOffset reads UTC-OFFSET (3.3.14): +0100, -0330, +002130.
func readOffset(s string) (time.Duration, bool) {
	s = strings.TrimSpace(s)
	if len(s) != 5 && len(s) != 7 || s[0] != '+' && s[0] != '-' || strings.Trim(s[1:], "0123456789") != "" {
		return 0, false
	}
	two := func(at int) time.Duration { return time.Duration(s[at]-'0')*10 + time.Duration(s[at+1]-'0') }
	d := two(1)*time.Hour + two(3)*time.Minute
	if len(s) == 7 {
		d += two(5) * time.Second
	}
	if s[0] == '-' {
		d = -d
	}
	return d, d > -around && d < around
}
