// Package registerfile writes registers as a sheet (CSV, RFC 4180): a line for each student and lecture.
package registerfile

import (
	"encoding/csv"
	"fmt"
	"io"
	"strconv"
	"time"

	"latelantern/internal/core/presence"
	"latelantern/internal/format/sheetcell"
)

// Line is how a student stands in the register of a lecture.
type Line struct {
	Starts             time.Time // in the zone of the college
	Topic              string
	Name, Email, Group string
	Stands             presence.Line
	By, Reason         string // who said so by hand, and why; "" for what was reckoned
}

// Write writes lines in their order. Times of a line are whole minutes.
func Write(w io.Writer, lines []Line) error {
	c := csv.NewWriter(w)
	c.UseCRLF = true
	rows := [][]string{{"date", "starts", "lecture", "name", "email", "group", "state", "minutes_late",
		"minutes_early", "minutes_there", "by_hand", "reason"}}
	minutes := func(d time.Duration) string { return strconv.Itoa(int(d / time.Minute)) }
	for _, l := range lines {
		rows = append(rows, []string{l.Starts.Format(time.DateOnly), l.Starts.Format("15:04"),
			sheetcell.Harmless(l.Topic), sheetcell.Harmless(l.Name), sheetcell.Harmless(l.Email),
			sheetcell.Harmless(l.Group), string(l.Stands.State),
			minutes(l.Stands.Late), minutes(l.Stands.Early), minutes(l.Stands.There),
			sheetcell.Harmless(l.By), sheetcell.Harmless(l.Reason)})
	}
	if err := c.WriteAll(rows); err != nil {
		return fmt.Errorf("write a register: %w", err)
	}
	return nil
}
