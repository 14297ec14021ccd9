package main

import (
	"bytes"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

func write(t *testing.T, name, text string) string {
	t.Helper()
	p := filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(p, []byte(text), 0o600); err != nil {
		t.Fatal(err)
	}
	return p
}

func run2(tool func([]string, *bytes.Buffer, *bytes.Buffer) int, args ...string) (out, errs string, code int) {
	var o, e bytes.Buffer
	code = tool(args, &o, &e)
	return o.String(), e.String(), code
}

func timetableTool(args []string, out, errs *bytes.Buffer) int {
	return printTimetable(args, out, errs)
}
func rosterTool(args []string, out, errs *bytes.Buffer) int { return printRoster(args, out, errs) }

func TestTimetableTool(t *testing.T) {
	good := "BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nUID:a\r\nDTSTART;TZID=Europe/Berlin:20261006T101500\r\nDURATION:PT90M\r\nRRULE:FREQ=WEEKLY;COUNT=2\r\nSUMMARY:Title\r\nEND:VEVENT\r\n"
	bad := "BEGIN:VEVENT\r\nUID:b\r\nDTSTART;VALUE=DATE:20261006\r\nSUMMARY:Holiday\r\nEND:VEVENT\r\n"
	off := "BEGIN:VEVENT\r\nUID:a\r\nRECURRENCE-ID;TZID=Europe/Berlin:20261013T101500\r\nDTSTART;TZID=Europe/Berlin:20261013T101500\r\nDURATION:PT90M\r\nSTATUS:CANCELLED\r\nEND:VEVENT\r\n"
	end := "END:VCALENDAR\r\n"
	for name, c := range map[string]struct {
		text, out, errs string
		code            int
	}{
		"all of it": {good + end, "2026-10-06T08:15Z 90 Title\n2026-10-13T08:15Z 90 Title\n", "", 0},
		"some of it": {good + bad + end, "2026-10-06T08:15Z 90 Title\n2026-10-13T08:15Z 90 Title\n",
			"a.ics:11: This is an all-day event", 0},
		"called off": {good + off + end, "2026-10-06T08:15Z 90 Title\n", "", 0},
		"nothing":    {"BEGIN:VCALENDAR\r\n" + bad + end, "", "a.ics:4: This is an all-day event", 1},
	} {
		out, errs, code := run2(timetableTool, write(t, "a.ics", c.text))
		if out != c.out || !strings.Contains(errs, c.errs) || (c.errs == "") != (errs == "") || code != c.code {
			t.Errorf("%s: %d\n%s%s", name, code, out, errs)
		}
	}
	floating := "BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nDTSTART:20261006T101500\r\nDURATION:PT1H\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n"
	if out, _, _ := run2(timetableTool, "-zone", "Europe/Berlin",
		write(t, "a.ics", floating)); out != "2026-10-06T08:15Z 60 (no title)\n" {
		t.Errorf("with a zone: %s", out)
	}
	for _, args := range [][]string{{}, {"a", "b"}, {"-zone", "Nowhere/Land", "a"}} {
		if _, errs, code := run2(timetableTool, args...); code != 2 || errs == "" {
			t.Errorf("%v: %d %s", args, code, errs)
		}
	}
	if _, errs, code := run2(timetableTool, "missing.ics"); code != 1 || !strings.Contains(errs, "missing.ics") {
		t.Errorf("a file that is not there: %d %s", code, errs)
	}
}

func TestRosterTool(t *testing.T) {
	out, errs, code := run2(rosterTool,
		write(t, "people.csv",
			"email,name,course,part,group\nann@x.example,Ann Ardal,TID 210,lecturer,\nbo@x.example,Bo Berg,TID 210,student,Bench 1\n"))
	want := "add course TID 210\nadd person ann@x.example, Ann Ardal\nadd person bo@x.example, Bo Berg\nadd ann@x.example to TID 210 as lecturer\nadd bo@x.example to TID 210 as student, group Bench 1\n1 courses, 2 people, 2 enrolments would be added.\n"
	if out != want || errs != "" || code != 0 {
		t.Errorf("%d\n%s%s", code, out, errs)
	}
	out, errs, code = run2(rosterTool, write(t, "people.csv", "email,name,course,part\nnobody,Ann,TID 210,dean\n"))
	if out != "" || code != 1 || !strings.Contains(errs, "people.csv:2: email: “nobody” is no mail address.") ||
		!strings.Contains(errs, "people.csv:2: part: ") || !strings.Contains(errs, "2 faults") {
		t.Errorf("%d\n%s%s", code, out, errs)
	}
}
