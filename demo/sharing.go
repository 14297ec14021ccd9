package demo

import (
	"context"
	"fmt"

	"github.com/google/uuid"

	"latelantern/internal/audience"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/clock"
	"latelantern/internal/release"
)

// parallel are classes that the lecturer of TID 210 teaches the same at another hour, and that watch what is captured
// there.
var parallel = []course{
	{code: "TID 211", title: "Reading the Tides, evening class", lecturer: "Maren Oduya", hall: "Kelp Hall",
		students: [2]int{24, 36}, rule: everyone},
	{code: "TID 212", title: "Reading the Tides, for the harbour school", lecturer: "Maren Oduya", hall: "Kelp Hall",
		students: [2]int{36, 46}, rule: everyone},
}

// sharing gives recordings of TID 210 to others than its students: one to the parallel classes and by a link to an
// examiner, one with a rule of its own; and it shuts someone out of a third until a re-sit.
func (l *loader) sharing(ctx context.Context, of map[string]uuid.UUID) error {
	by, here := l.people["Maren Oduya"], l.courses["TID 210"]
	h := l.h.At(clock.Starting(l.lectures["TID 210"][thisWeek-1].ends))
	courses := []uuid.UUID{here}
	for _, c := range parallel {
		if err := l.addCourse(ctx, h, c); err != nil {
			return fmt.Errorf("load the course %s: %w", c.code, err)
		}
		id := l.courses[c.code]
		if err := h.Audience.SetRule(ctx, audience.Scope{Course: id}, by, c.rule); err != nil {
			return err
		}
		courses = append(courses, id)
	}
	first, second := of["tid-1"], of["tid-2"]
	many := release.Many{Pairs: release.Every([]uuid.UUID{first}, courses),
		Giving: viewing.Giving{Lit: new(true)}}
	if _, err := h.Releases.Change(ctx, by, many); err != nil {
		return err
	}
	examiner := audience.OpeningForm{Kind: audience.ForHolders, Name: "The outside examiner",
		Opening: viewing.Opening{Uses: viewing.WatchRead,
			Window: viewing.Window{From: viewing.FromOnce, Until: viewing.UntilTerm, DaysAfterTerm: 14}}}
	if _, err := h.Audience.Open(ctx, first, by, examiner); err != nil {
		return err
	}
	own := *everyone
	own.Uses = viewing.WatchRead
	if err := h.Audience.SetRule(ctx, audience.Scope{Course: here, Recording: second}, by, &own); err != nil {
		return err
	}
	resit := l.lectures["TID 210"][thisWeek+2].starts
	_, err := h.Audience.ShutOut(ctx, by, audience.ShutForm{Scope: audience.Scope{Course: here, Recording: second},
		Person: l.people[student(5)], Until: &resit, Note: "Not before the re-sit."})
	return err
}
