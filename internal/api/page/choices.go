package page

import (
	"latelantern/internal/core/doorway"
	"latelantern/internal/schedule"
)

// ChoicesText is what goes with each lecture besides its time.
type ChoicesText struct {
	Doorway     string `json:"doorway" enum:"walk_in,ask,closed"`
	OpensMin    int    `json:"opens_min" doc:"minutes before the start"`
	CaptureAuto bool   `json:"capture_auto" doc:"starts capture by itself"`
	LeadMin     int    `json:"lead_min" doc:"minutes before the start"`
	TailMin     int    `json:"tail_min" doc:"minutes after the planned end"`
}

// Choices are they as the plan has them.
func (c ChoicesText) Choices() schedule.Choices {
	return schedule.Choices{Doorway: doorway.Way(c.Doorway), OpensMin: c.OpensMin, CaptureAuto: c.CaptureAuto,
		LeadMin: c.LeadMin, TailMin: c.TailMin}
}
