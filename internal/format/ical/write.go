package ical

import (
	"bytes"
	"fmt"
	"io"
	"time"
)

// Event is a lecture as it is written. Each has an entry of its own, so that each can have
// its own title and address; those of one plan name it (RELATED-TO).
type Event struct {
	UID        string
	Series     string // "" for none
	Start, End time.Time
	Changed    time.Time // the last time that anything of it changed
	Sequence   int       // how often its time or place changed
	Title      string
	Hall       string
	Text       string
	Address    string // of its page
	CalledOff  bool
}

const stamp = "20060102T150405Z"

// Write writes a calendar. Times are in UTC, which every program reads alike.
func Write(w io.Writer, name string, events []Event) error {
	var b bytes.Buffer
	put := func(format string, args ...any) { fold(&b, fmt.Sprintf(format, args...)) }
	put("BEGIN:VCALENDAR")
	put("VERSION:2.0")
	put("PRODID:-//Late Lantern//Timetable//EN")
	put("METHOD:PUBLISH")
	put("X-WR-CALNAME:%s", escape.Replace(name))
	put("REFRESH-INTERVAL;VALUE=DURATION:PT1H")
	for _, e := range events {
		put("BEGIN:VEVENT")
		put("UID:%s", escape.Replace(e.UID))
		put("DTSTAMP:%s", e.Changed.UTC().Format(stamp))
		put("SEQUENCE:%d", e.Sequence)
		put("DTSTART:%s", e.Start.UTC().Format(stamp))
		put("DTEND:%s", e.End.UTC().Format(stamp))
		put("SUMMARY:%s", escape.Replace(e.Title))
		for _, x := range [][2]string{{"LOCATION", escape.Replace(e.Hall)}, {"DESCRIPTION", escape.Replace(e.Text)},
			{"URL", e.Address}, {"RELATED-TO", e.Series}} {
			if x[1] != "" {
				put("%s:%s", x[0], x[1])
			}
		}
		status := "CONFIRMED"
		if e.CalledOff {
			status = "CANCELLED"
		}
		put("STATUS:%s", status)
		put("END:VEVENT")
	}
	put("END:VCALENDAR")
	if _, err := w.Write(b.Bytes()); err != nil {
		return fmt.Errorf("write a calendar: %w", err)
	}
	return nil
}
