package schedule

import (
	"bytes"
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/fault"
	"latelantern/internal/core/timetable"
	"latelantern/internal/format/ical"
	"latelantern/internal/platform/postgres"
)

// ImportedPlan is a plan as a calendar gives it.
type ImportedPlan struct {
	timetable.Plan        // its sentence; without days of the week it is only its dates
	Title          string // as the calendar has it
	Hall           string // as the calendar has it; "" for none
	HallID         *uuid.UUID
	ByDates        bool // no weekly sentence says these dates
	Lectures       []ImportedLecture
}

// ImportedLecture is one date of an imported plan.
type ImportedLecture struct {
	Proposed
	Topic     string
	CalledOff bool
	hall      *uuid.UUID
}

// Import is what a calendar would bring into a course.
type Import struct {
	Plans  []ImportedPlan
	Faults []ical.Fault // what cannot be taken; with any of them nothing is applied. The first of it
	Notes  []ical.Fault // what would be left out, or changed on the way. The first of it

	FaultsAll, NotesAll int
}

func (i *Import) note(line int, code fault.Code, with ...any) {
	if i.NotesAll++; i.NotesAll <= ical.MostTold {
		i.Notes = append(i.Notes, ical.Fault{Line: line, Text: fault.Say(code, with...)})
	}
}

// Lectures is how many lectures the import would plan.
func (i Import) Lectures() int {
	n := 0
	for _, p := range i.Plans {
		n += len(p.Lectures)
	}
	return n
}

// PreviewImport says what importing a calendar into a course would do.
func (s *Service) PreviewImport(ctx context.Context, course uuid.UUID, file []byte) (Import, error) {
	return previewImport(ctx, s.DB, course, file)
}

// hallsByName are the halls by their names in small letters.
func hallsByName(ctx context.Context, q postgres.Querier) (map[string]uuid.UUID, error) {
	halls, err := postgres.All[struct {
		ID   uuid.UUID
		Name string
	}](ctx, q, `select id, name from hall`)
	if err != nil {
		return nil, fmt.Errorf("list halls: %w", err)
	}
	out := map[string]uuid.UUID{}
	for _, h := range halls {
		out[strings.ToLower(h.Name)] = h.ID
	}
	return out, nil
}

// series are the lectures of a calendar that lie in a term, those of one plan together, in the order in which the plans
// come. What is left out, and halls that nobody knows, are noted.
func (x *Import) series(list []ical.Lecture, term Term, hallOf map[string]uuid.UUID) (order []string,
	groups map[string][]ical.Lecture) {
	unknown := map[string]bool{}
	groups = map[string][]ical.Lecture{}
	count := map[string]int{}
	for _, l := range list {
		count[l.Series]++
	}
	for _, l := range list {
		if !term.Plan.Contains(timetable.DayOf(l.Start, term.Zone)) {
			x.note(l.Line, "calendar.left_out", "day", fault.Day{Time: l.Start.In(term.Zone)})
			continue
		}
		if _, known := hallOf[strings.ToLower(l.Hall)]; l.Hall != "" && !known && !unknown[l.Hall] {
			unknown[l.Hall] = true
			x.note(l.Line, "calendar.no_hall", "hall", l.Hall)
		}
		// Programs that know no series write each date alone: those that look alike are one plan.
		key := l.Series
		if count[key] == 1 {
			key = fmt.Sprint(l.Title, "\x00", l.Hall, "\x00", timetable.ClockOf(l.Start, term.Zone), "\x00",
				l.End.Sub(l.Start))
		}
		if _, there := groups[key]; !there {
			order = append(order, key)
		}
		groups[key] = append(groups[key], l)
	}
	return order, groups
}

func previewImport(ctx context.Context, q postgres.Querier, course uuid.UUID, file []byte) (Import, error) {
	term, err := termOf(ctx, q, course)
	if err != nil {
		return Import{}, err
	}
	end := timetable.On(term.Plan.Last, 24*time.Hour-time.Minute, term.Zone)
	c, err := ical.Read(ctx, bytes.NewReader(file), ical.Options{Zone: term.Zone, Until: end})
	if err != nil {
		return Import{}, err
	}
	out := Import{Faults: c.Faults, FaultsAll: c.FaultsAll}
	hallOf, err := hallsByName(ctx, q)
	if err != nil {
		return Import{}, err
	}
	codes, err := postgres.All[struct{ Code, Title string }](ctx, q,
		`select code, title from course where term_id = $1`, term.ID)
	if err != nil {
		return Import{}, fmt.Errorf("list courses: %w", err)
	}
	order, groups := out.series(c.Lectures, term, hallOf)
	var all []Proposed
	var where []*uuid.UUID
	for _, key := range order {
		p := importedPlan(groups[key], term, hallOf)
		for _, l := range groups[key] {
			x := ImportedLecture{Proposed: Proposed{Start: l.Start, End: l.End}, Topic: topicOf(l.Title, codes),
				CalledOff: l.CalledOff}
			if id, ok := hallOf[strings.ToLower(l.Hall)]; ok {
				x.hall = &id
			}
			p.Lectures = append(p.Lectures, x)
			all, where = append(all, x.Proposed), append(where, x.hall)
		}
		out.Plans = append(out.Plans, p)
	}
	if err := clashes(ctx, q, course, term, all, func(i int) *uuid.UUID { return where[i] }); err != nil {
		return Import{}, err
	}
	i := 0
	for _, p := range out.Plans {
		for j := range p.Lectures {
			p.Lectures[j].Proposed = all[i]
			i++
		}
	}
	return out, nil
}

// most is the most frequent of the values; of several the first.
func most[T comparable](values []T) T {
	n := map[T]int{}
	for _, v := range values {
		n[v]++
	}
	return slices.MaxFunc(values, func(a, b T) int { return cmp.Compare(n[a], n[b]) })
}

// importedPlan finds the sentence of lectures that belong together.
func importedPlan(list []ical.Lecture, term Term, hallOf map[string]uuid.UUID) ImportedPlan {
	var days []timetable.Day
	var at, lasts []time.Duration
	var halls, titles []string
	for _, l := range list {
		days = append(days, timetable.DayOf(l.Start, term.Zone))
		at, lasts = append(at, timetable.ClockOf(l.Start, term.Zone)), append(lasts, l.End.Sub(l.Start))
		halls, titles = append(halls, l.Hall), append(titles, l.Title)
	}
	days = slices.CompactFunc(days, timetable.Day.Equal)
	plan, weekly := timetable.Recognise(days, term.Plan)
	if !weekly {
		plan = timetable.Plan{From: days[0], Every: 1, Times: len(list)}
	}
	plan.At, plan.Lasts = most(at), most(lasts)
	out := ImportedPlan{Plan: plan, Title: most(titles), Hall: most(halls), ByDates: !weekly}
	if id, ok := hallOf[strings.ToLower(out.Hall)]; ok {
		out.HallID = &id
	}
	return out
}

// topicOf takes the name of a course off the title that a calendar shows.
func topicOf(title string, courses []struct{ Code, Title string }) string {
	for _, c := range courses {
		if title == eventTitle(c.Code, c.Title, "") || title == c.Code || title == c.Title {
			return ""
		}
		if topic, ok := strings.CutPrefix(title, c.Code+": "); ok {
			title = topic
			break
		}
	}
	if r := []rune(title); len(r) > 200 {
		return string(r[:200])
	}
	return title
}

// ApplyImport brings a calendar into a course as its preview said, all of it or nothing, and
// gives the change by which that can be undone. Its error is of type fault.Faults when
// something in it cannot be taken.
func (s *Service) ApplyImport(ctx context.Context, course, by uuid.UUID, file []byte) (change uuid.UUID, err error) {
	err = postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		in, err := previewImport(ctx, tx, course, file)
		if err != nil {
			return err
		}
		var f fault.Faults
		for _, x := range in.Faults {
			f.Add("file", "file.line", "line", x.Line, "says", x.Text)
		}
		f.When(in.Lectures() == 0 && len(f) == 0, "file", "calendar.outside")
		if err := f.Err(); err != nil {
			return err
		}
		if change, err = s.begin(ctx, tx, course, by); err != nil {
			return err
		}
		for _, p := range in.Plans {
			id, err := s.insertPlan(ctx, tx, course, by, PlanForm{Plan: p.Plan, Choices: Usual, Hall: p.HallID},
				p.ByDates)
			if err != nil {
				return err
			}
			list := make([]added, len(p.Lectures))
			for i, l := range p.Lectures {
				list[i] = added{l.Start, l.End, l.hall, l.Topic, l.CalledOff}
			}
			if err := s.insertLectures(ctx, tx, change, course, id, Usual, list); err != nil {
				return err
			}
		}
		return nil
	})
	return change, err
}
