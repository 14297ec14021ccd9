package schedule_test

import (
	"fmt"
	"runtime"
	"strings"
	"testing"
	"time"

	"latelantern/internal/schedule"
	"latelantern/internal/testhouse"
)

// TestEqualEventsDoNotGrowWithTheirSquare: of 2,000 lectures that all clash it is said that they do, and of the first
// with what.
func TestEqualEventsDoNotGrowWithTheirSquare(t *testing.T) {
	s := testhouse.New(t, true)
	var b strings.Builder
	b.WriteString("BEGIN:VCALENDAR\r\n")
	for i := range 2000 {
		fmt.Fprintf(&b, "BEGIN:VEVENT\r\nUID:%d\r\nDTSTART:20261116T0%d1500Z\r\nDURATION:PT9H\r\nEND:VEVENT\r\n", i,
			i%8)
	}
	b.WriteString("END:VCALENDAR\r\n")
	var before, after runtime.MemStats
	runtime.ReadMemStats(&before)
	began := time.Now()
	x, err := s.Schedule.PreviewImport(t.Context(), s.Course, []byte(b.String()))
	s.Must(err)
	took := time.Since(began)
	runtime.ReadMemStats(&after)
	clashing, told := 0, 0
	for _, p := range x.Plans {
		for _, l := range p.Lectures {
			told += len(l.Clashes)
			if l.Clashing {
				clashing++
			}
		}
	}
	if x.Lectures() != 2000 || clashing != 2000 || told == 0 || told > 2*schedule.ToldClashes {
		t.Errorf("%d of %d lectures clash, %d times told", clashing, x.Lectures(), told)
	}
	if used := after.TotalAlloc - before.TotalAlloc; used > 200<<20 || took > 20*time.Second {
		t.Errorf("it took %d MB and %v", used>>20, took)
	}
}
