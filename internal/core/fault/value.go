package fault

import (
	"encoding/json"
	"time"
)

// What stands in a sentence and is written otherwise in other places. In JSON each is an object of one member that
// says what it is, so that a page can write it in its reader's way.
type (
	// Day is a day of the calendar; its hour does not count.
	Day struct{ time.Time }
	// Hour is a time of day, in the zone of the time.
	Hour struct{ time.Time }
	// Moment is a day and an hour, in the zone of the time.
	Moment struct{ time.Time }
	// Clock is a place in a recording, such as 41:07.
	Clock time.Duration
	// Either is a list of which one counts: A, B or C.
	Either []string
)

// MarshalJSON gives {"day": "2026-10-05"}.
func (d Day) MarshalJSON() ([]byte, error) {
	return json.Marshal(map[string]string{"day": d.Format(time.DateOnly)})
}

// MarshalJSON gives {"hour": "10:15"}.
func (h Hour) MarshalJSON() ([]byte, error) {
	return json.Marshal(map[string]string{"hour": h.Format("15:04")})
}

// MarshalJSON gives {"moment": "2026-10-05T10:15"}, on the wall of its zone.
func (m Moment) MarshalJSON() ([]byte, error) {
	return json.Marshal(map[string]string{"moment": m.Format("2006-01-02T15:04")})
}

// MarshalJSON gives {"clock": 2467000}, in milliseconds.
func (c Clock) MarshalJSON() ([]byte, error) {
	return json.Marshal(map[string]int64{"clock": time.Duration(c).Milliseconds()})
}

// MarshalJSON gives {"either": ["A", "B"]}.
func (e Either) MarshalJSON() ([]byte, error) { return json.Marshal(map[string][]string{"either": e}) }

// MarshalJSON gives {"code": "cut.turned", "with": {}}.
func (t Text) MarshalJSON() ([]byte, error) {
	return json.Marshal(struct {
		Code Code           `json:"code"`
		With map[string]any `json:"with,omitempty"`
	}{t.Code, t.With})
}
