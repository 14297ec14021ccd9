package demo

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/assemble"
	"latelantern/internal/core/doorway"
	"latelantern/internal/core/timetable"
	"latelantern/internal/core/viewing"
	"latelantern/internal/door"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/passhash"
	"latelantern/internal/roster"
	"latelantern/internal/schedule"
)

// college sets up people, term, halls, courses and plans, as they were when the term began,
// and then what has changed since.
func (l *loader) college(ctx context.Context, today timetable.Day) error {
	plan, monday := term(today)
	before := l.h.At(clock.Standing(clockOn(plan.First.AddDate(0, 0, -7), 9*time.Hour, l.place)))
	name := "Autumn term"
	if plan.First.Month() < time.July {
		name = "Spring term"
	}
	var err error
	if l.term, err = before.Schedule.KeepTerm(ctx, uuid.Nil,
		schedule.TermForm{Name: name, Zone: zone, Term: plan}); err != nil {
		return err
	}
	if err := l.addPeople(ctx, before); err != nil {
		return err
	}
	weekday := int(today.Sub(timetable.Monday(today)).Hours()) / 24
	for _, c := range courses {
		if err := l.addCourse(ctx, before, c); err != nil {
			return fmt.Errorf("load the course %s: %w", c.code, err)
		}
		day := monday(1).AddDate(0, 0, min(4, weekday+c.later))
		if err := l.addPlan(ctx, before, c, day); err != nil {
			return fmt.Errorf("load the plan of %s: %w", c.code, err)
		}
	}
	return l.changeThings(ctx)
}

// addPeople adds everyone. All but the last few students have an active account.
func (l *loader) addPeople(ctx context.Context, h *assemble.House) error {
	names := []string{coordinator}
	for _, c := range courses {
		names = append(names, c.lecturer)
	}
	for n := range studentCount {
		names = append(names, student(n))
	}
	for _, n := range names {
		id, err := h.Roster.AddPerson(ctx, roster.PersonForm{Email: address(n), Name: n})
		if err != nil {
			return err
		}
		l.people[n] = id
	}
	hash, err := passhash.Of(Password)
	if err != nil {
		return err
	}
	var active []uuid.UUID
	for _, n := range names[:len(names)-inactive] {
		active = append(active, l.people[n])
	}
	// Their letters were answered long ago.
	if _, err := h.DB.Exec(ctx, `insert into account (person_id, password_hash, invited_at) select unnest($2::uuid[]), $1, $3`, hash,
		active, h.Clock.Now()); err != nil {
		return fmt.Errorf("activate accounts: %w", err)
	}
	return h.Roster.SetCoordinator(ctx, l.people[coordinator], true)
}

func (l *loader) addCourse(ctx context.Context, h *assemble.House, c course) (err error) {
	if _, ok := l.halls[c.hall]; !ok {
		if l.halls[c.hall], err = h.Schedule.KeepHall(ctx, uuid.Nil, c.hall); err != nil {
			return err
		}
	}
	id, err := h.Schedule.KeepCourse(ctx, uuid.Nil, schedule.CourseForm{Term: l.term, Code: c.code, Title: c.title})
	if err != nil {
		return err
	}
	l.courses[c.code] = id
	enrol := func(name string, role viewing.Role, group string) error {
		_, err := h.Roster.Enrol(ctx, roster.Person{Coordinator: true}, id,
			roster.PersonForm{Email: address(name), Name: name}, role, group)
		return err
	}
	if err := enrol(c.lecturer, viewing.Lecturer, ""); err != nil {
		return err
	}
	for n := c.students[0]; n < c.students[1]; n++ {
		group := ""
		if len(c.groups) > 0 {
			group = c.groups[n%len(c.groups)]
		}
		if err := enrol(student(n), viewing.Student, group); err != nil {
			return err
		}
	}
	return nil
}

// addPlan plans the weekly lecture of a course from its first day on, gives each its topic,
// and calls off those that were.
func (l *loader) addPlan(ctx context.Context, h *assemble.House, c course, first timetable.Day) error {
	hall, by := l.halls[c.hall], l.people[c.lecturer]
	choices := schedule.Usual
	choices.Doorway, choices.CaptureAuto = c.doorway, c.itself
	form := schedule.PlanForm{Choices: choices, Hall: &hall,
		Plan: timetable.Plan{Weekdays: []time.Weekday{first.Weekday()}, Every: 1, At: c.at, Lasts: c.lasts, From: first,
			Times: weeks}}
	if _, err := h.Schedule.AddPlan(ctx, l.courses[c.code], by, form); err != nil {
		return err
	}
	list, err := h.Schedule.Lectures(ctx, []uuid.UUID{l.courses[c.code]})
	if err != nil || len(list) != weeks {
		return errors.Join(err, fmt.Errorf("%d lectures were planned, and not %d", len(list), weeks))
	}
	l.lectures[c.code] = map[int]lecture{}
	for i, x := range list {
		off := slices.Contains(c.calledOff, i+1)
		if _, err := h.Schedule.Edit(ctx, x.ID, by, schedule.Edit{Topic: &c.topics[i], CalledOff: &off}); err != nil {
			return err
		}
		l.lectures[c.code][i+1] = lecture{x.ID, x.StartsAt, x.EndsAt}
	}
	return nil
}

// changeThings is what has happened to the plans since: a lecture moved to another hall, a
// guest invited, letters sent to those who came late.
func (l *loader) changeThings(ctx context.Context) error {
	loft, next := l.halls["Net Loft"], l.lectures["ALG 118"][thisWeek+1]
	h := l.h.At(clock.Standing(l.lectures["ALG 118"][thisWeek-1].ends))
	day := timetable.DayOf(next.starts, l.place).AddDate(0, 0, 1)
	if day.Weekday() == time.Saturday {
		day = day.AddDate(0, 0, -2)
	}
	if _, err := h.Schedule.Edit(ctx, next.id, l.people["Tobias Hallgrim"],
		schedule.Edit{Day: &day, Hall: &loft}); err != nil {
		return err
	}
	talk := l.lectures["SIG 305"][thisWeek]
	guest := door.GuestForm{Name: "Ebba Lindqvist-Rowe", Role: doorway.Speaker, EndsAt: talk.ends.Add(12 * time.Hour)}
	if _, err := h.Door.Invite(ctx, talk.id, l.people["Nia Castellane"], guest); err != nil {
		return err
	}
	if !h.SignIn.Post.On() {
		return nil
	}
	_, err := h.SignIn.Invite(ctx, nil, nil, false)
	return err
}
