package main

import (
	"bufio"
	"cmp"
	"context"
	"flag"
	"fmt"
	"io"
	"os"
	"os/signal"
	"path/filepath"
	"syscall"
	"time"

	"latelantern/internal/core/enrol"
	"latelantern/internal/core/texts"
	"latelantern/internal/format/ical"
	"latelantern/internal/format/rosterfile"
)

// printTimetable prints the lectures of a calendar in order. What could not be taken goes to
// errs with its line. The code is 1 when nothing could be taken, 2 when it was called wrongly.
func printTimetable(args []string, out, errs io.Writer) int {
	flags := flag.NewFlagSet("timetable", flag.ContinueOnError)
	flags.SetOutput(errs)
	zone := flags.String("zone", "", "zone of times that name none, such as Europe/Berlin")
	if err := flags.Parse(args); err != nil {
		return 2
	}
	if flags.NArg() != 1 {
		fmt.Fprintln(errs, "latelantern timetable: name one file, such as timetable.ics")
		return 2
	}
	var o ical.Options
	if *zone != "" {
		place, err := time.LoadLocation(*zone)
		if err != nil {
			fmt.Fprintf(errs, "latelantern timetable: there is no zone %q\n", *zone)
			return 2
		}
		o.Zone = place
	}
	name := flags.Arg(0)
	f, err := os.Open(name)
	if err != nil {
		fmt.Fprintf(errs, "latelantern timetable: %s\n", texts.English.Error(err))
		return 1
	}
	defer f.Close()
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	c, err := ical.Read(ctx, f, o)
	if err != nil {
		fmt.Fprintf(errs, "latelantern timetable: %s: %s\n", name, texts.English.Error(err))
		return 1
	}
	for _, x := range c.Faults {
		fmt.Fprintf(errs, "%s:%d: %s\n", name, x.Line, texts.English.Say(x.Text))
	}
	w := bufio.NewWriter(out)
	taken := 0
	for _, l := range c.Lectures {
		if l.CalledOff {
			continue
		}
		taken++
		fmt.Fprintf(w, "%s %d %s\n", l.Start.Format("2006-01-02T15:04Z"), int(l.End.Sub(l.Start).Minutes()),
			cmp.Or(l.Title, "(no title)"))
	}
	if err := w.Flush(); err != nil || taken == 0 {
		return 1
	}
	return 0
}

// printRoster prints what an import of the files would do where nothing is yet. Faults go to errs with
// file, line and column. The code is 1 when there are any, since then nothing would be applied.
func printRoster(args []string, out, errs io.Writer) int {
	if len(args) == 0 {
		fmt.Fprintln(errs, "latelantern roster: name the files, such as roster.csv")
		return 2
	}
	var files []rosterfile.File
	for _, name := range args {
		data, err := os.ReadFile(name)
		if err != nil {
			fmt.Fprintf(errs, "latelantern roster: %s\n", texts.English.Error(err))
			return 1
		}
		files = append(files, rosterfile.File{Name: name, Data: data})
	}
	read := rosterfile.Files(files, time.Now().Format(time.DateOnly))
	show := func(kind string, list []rosterfile.Fault) {
		for _, f := range list {
			at := filepath.Base(f.File)
			if f.Line > 0 {
				at += fmt.Sprintf(":%d", f.Line)
			}
			if f.Column != "" {
				at += ": " + f.Column
			}
			fmt.Fprintf(errs, "%s: %s%s\n", at, kind, texts.English.Say(f.Text))
		}
	}
	show("", read.Faults)
	show("left out: ", read.Notes)
	if len(read.Faults) > 0 {
		fmt.Fprintf(errs, "Nothing would be applied: %d faults.\n", len(read.Faults))
		return 1
	}
	w := bufio.NewWriter(out)
	c := enrol.Compare(enrol.New(), read.Roster)
	for _, x := range c.AddCourses {
		fmt.Fprintf(w, "add course %s\n", join(x.Code, x.Title))
	}
	for _, x := range c.AddPeople {
		fmt.Fprintf(w, "add person %s\n", join(x.Email, x.Name))
	}
	for _, x := range c.AddSeats {
		group := ""
		if x.Group != "" {
			group = "group " + x.Group
		}
		fmt.Fprintf(w, "add %s to %s as %s\n", x.Email, x.Course, join(string(x.Role), group))
	}
	fmt.Fprintf(w, "%d courses, %d people, %d enrolments would be added.\n", len(c.AddCourses), len(c.AddPeople),
		len(c.AddSeats))
	if err := w.Flush(); err != nil {
		return 1
	}
	return 0
}

func join(a, b string) string {
	if b == "" {
		return a
	}
	return a + ", " + b
}
