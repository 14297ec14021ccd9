package ical

import (
	"fmt"
	"strconv"
	"strings"
	"time"

	"latelantern/internal/core/fault"

	"github.com/teambition/rrule-go"
)

// rule is a rule of repetition (RFC 5545, 3.3.10).
type rule struct {
	rrule.ROption
	untilDay bool // its end is a day, which counts whole
	untilUTC bool // its end is in UTC
}

// readRule reads a rule, however its letters are written. Its error is a fault.Text.
func readRule(value string) (r rule, err error) {
	value = strings.ToUpper(strings.Trim(strings.TrimSpace(value), ";"))
	for part := range strings.SplitSeq(value, ";") {
		name, of, _ := strings.Cut(part, "=")
		switch name {
		case "INTERVAL":
			if n, err := strconv.Atoi(of); err != nil || n < 1 {
				return r, fault.Say("calendar.interval", "value", of)
			}
		case "COUNT":
			if n, err := strconv.Atoi(of); err != nil || n < 1 {
				return r, fault.Say("calendar.count_value", "value", of)
			}
		case "UNTIL":
			r.untilDay, r.untilUTC = len(of) == 8, strings.HasSuffix(of, "Z")
		case "BYEASTER":
			return r, fault.Say("calendar.easter")
		}
	}
	option, err := rrule.StrToROption(value)
	if err != nil {
		return r, fault.Say("calendar.rule", "why", err.Error())
	}
	r.ROption = *option
	return r, nil
}

// The calendar repeats itself after 400 years, which are 20,871 weeks.
const (
	cycleYears = 400
	lastYear   = 9999 // after which the library looks no further
)

// each calls do with the dates of a rule from its start on, through so many years, until it gives false. A rule that
// never matches a day, such as the 30th of February, would be looked for until the library's last year; so that this
// is not thousands of years, the rule is moved near to it by whole cycles of the calendar.
func (r rule) each(years int, do func(time.Time) bool) error {
	moved := max(0, (lastYear-years-r.Dtstart.Year())/cycleYears*cycleYears)
	option := r.ROption
	option.Dtstart = option.Dtstart.AddDate(moved, 0, 0)
	option.Until = time.Time{}
	if !r.Until.IsZero() {
		option.Until = r.Until.AddDate(moved, 0, 0)
	}
	set, err := rrule.NewRRule(option)
	if err != nil {
		return fmt.Errorf("make a rule of repetition: %w", err)
	}
	for next := set.Iterator(); ; {
		t, ok := next()
		if !ok || !do(t.AddDate(-moved, 0, 0)) {
			return nil
		}
	}
}
