package ical

import (
	"fmt"
	"strings"
	"time"

	"github.com/teambition/rrule-go"
)

// zone turns times as a clock on the wall shows them, written as if they were UTC, into instants.
type zone struct {
	place *time.Location // nil for one that only the file describes
	rules []observance
}

// observance is a part of VTIMEZONE: from each of its onsets on an offset holds.
type observance struct {
	start  time.Time // on the wall, before the change
	offset time.Duration
	rule   *rrule.RRule // nil when it happens once
}

func (z zone) utc(wall time.Time) time.Time {
	if z.place != nil {
		return time.Date(wall.Year(), wall.Month(), wall.Day(), wall.Hour(), wall.Minute(), wall.Second(), 0, z.place).UTC()
	}
	var last time.Time
	offset, found := time.Duration(0), false
	for _, o := range z.rules {
		onset := o.start
		if o.rule != nil {
			onset = o.rule.Before(wall, true)
		}
		if !onset.IsZero() && !onset.After(wall) && (!found || onset.After(last)) {
			last, offset, found = onset, o.offset, true
		}
	}
	if !found && len(z.rules) > 0 {
		offset = z.rules[0].offset
	}
	return wall.Add(-offset)
}

// wall is what the clock shows at an instant.
func (z zone) wall(t time.Time) time.Time {
	if z.place != nil {
		l := t.In(z.place)
		return time.Date(l.Year(), l.Month(), l.Day(), l.Hour(), l.Minute(), l.Second(), 0, time.UTC)
	}
	// The offset depends on the wall; one step from any guess within a day is enough but for the hour of a change.
	guess := t.Add(t.Sub(z.utc(t)))
	return guess.Add(t.Sub(z.utc(guess)))
}

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

// zones are the zones that a file describes, by their names.
type zones map[string]zone

func (z zones) find(name string) (zone, error) {
	if x, ok := known(name); ok {
		return x, nil
	}
	if x, ok := z[name]; ok {
		return x, nil
	}
	return zone{}, say("There is no zone named %q, and the file does not describe one.", name)
}

// readZone reads VTIMEZONE (RFC 5545, 3.6.5).
func readZone(c component) (name string, z zone) {
	name = c.value("TZID")
	if l, ok := c.get("X-LIC-LOCATION"); ok {
		if x, ok := known(l.value); ok {
			return name, x
		}
	}
	for _, part := range c.parts {
		start, err := time.Parse("20060102T150405", part.value("DTSTART"))
		offset, ok := readOffset(part.value("TZOFFSETTO"))
		if err != nil || !ok {
			continue
		}
		o := observance{start: start, offset: offset}
		if l, ok := part.get("RRULE"); ok {
			option, err := rrule.StrToROption(l.value)
			if err != nil {
				continue
			}
			option.Dtstart = start
			if option.Until.IsZero() {
				option.Until = time.Now().AddDate(50, 0, 0)
			}
			if o.rule, err = rrule.NewRRule(*option); err != nil {
				continue
			}
		}
		z.rules = append(z.rules, o)
	}
	return name, z
}

// readOffset reads UTC-OFFSET (3.3.14): +0100, -0330.
func readOffset(s string) (time.Duration, bool) {
	var h, m int
	if len(s) < 5 || s[0] != '+' && s[0] != '-' {
		return 0, false
	}
	if _, err := fmt.Sscanf(s[1:5], "%2d%2d", &h, &m); err != nil {
		return 0, false
	}
	d := time.Duration(h)*time.Hour + time.Duration(m)*time.Minute
	if s[0] == '-' {
		d = -d
	}
	return d, true
}
