package demo

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/assemble"
	"latelantern/internal/audience"
	"latelantern/internal/core/playlist"
	"latelantern/internal/core/viewing"
	"latelantern/internal/news"
	"latelantern/internal/platform/clock"
	"latelantern/internal/playlists"
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
// examiner, one with a rule of its own; it shuts someone out of a third until a re-sit; and tells the students
// of two of the classes of the first.
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
	if _, err := h.Audience.Open(ctx, audience.Opens{Recording: first}, by, examiner); err != nil {
		return err
	}
	own := *everyone
	own.Uses = viewing.WatchRead
	if err := h.Audience.SetRule(ctx, audience.Scope{Course: here, Recording: second}, by, &own); err != nil {
		return err
	}
	if err := l.examination(ctx, h, courses, []uuid.UUID{first, second}); err != nil {
		return fmt.Errorf("load a playlist of several courses: %w", err)
	}
	if err := l.tell(ctx, h, courses[:2], first); err != nil {
		return fmt.Errorf("tell students of a recording: %w", err)
	}
	resit := l.lectures["TID 210"][thisWeek+2].starts
	_, err := h.Audience.ShutOut(ctx, by, audience.ShutForm{Scope: audience.Scope{Course: here, Recording: second},
		Person: l.people[student(5)], Until: &resit, Note: "Not before the re-sit."})
	return err
}

// tell tells the students of some courses of a recording; those of the harbour school are still to be told.
func (l *loader) tell(ctx context.Context, h *assemble.House, courses []uuid.UUID, recording uuid.UUID) error {
	r, err := h.Recordings.Recording(ctx, recording)
	if err != nil {
		return err
	}
	for _, c := range courses {
		m := news.Message{Course: c, Recordings: []news.Named{{ID: recording, Title: r.Title}}}
		if _, err := h.News.Tell(ctx, l.people["Maren Oduya"], m); err != nil {
			return err
		}
	}
	_, err = l.h.At(clock.Starting(l.lectures["TID 210"][thisWeek-1].ends.Add(time.Hour))).News.Send(ctx)
	return err
}

// examination makes a playlist of the first of some courses, which all of them show, of recordings that not all of them
// can watch, and a link to it.
func (l *loader) examination(ctx context.Context, h *assemble.House, courses, recordings []uuid.UUID) error {
	id, err := h.Playlists.AddList(ctx, courses[0], l.people["Maren Oduya"], playlists.Kept{
		Title: "For the examination", About: "What is asked every year.", Arranged: playlist.Hand})
	if err != nil {
		return err
	}
	of := playlists.Of{Course: courses[0], List: id}
	if err := h.Playlists.Add(ctx, of, nil, recordings...); err != nil {
		return err
	}
	practice := playlists.Text{Title: "To practise", About: "Bring a pencil, and last year's tables."}
	if _, err := h.Playlists.AddHeading(ctx, of, practice); err != nil {
		return err
	}
	if _, err := h.Playlists.AddPage(ctx, of, playlists.Text{Title: "Questions of earlier years",
		Address: "https://skerry-sound.example/tides/questions"}); err != nil {
		return err
	}
	slides, err := media.Open("media/tid-1.pdf")
	if err != nil {
		return err
	}
	defer slides.Close()
	if _, err := h.Playlists.AddFile(ctx, of, l.people["Maren Oduya"], "Slides of week 1.pdf", -1, slides); err != nil {
		return err
	}
	board := audience.OpeningForm{Kind: audience.ForHolders, Name: "The examination board",
		Opening: viewing.Opening{Uses: viewing.WatchRead,
			Window: viewing.Window{From: viewing.FromOnce, Until: viewing.UntilTerm}}}
	opens := audience.Opens{Course: courses[0], Playlist: id}
	if _, err := h.Audience.Open(ctx, opens, l.people["Maren Oduya"], board); err != nil {
		return err
	}
	for _, c := range courses[1:] {
		if err := h.Playlists.Show(ctx, playlists.Of{Course: c, List: id}, true); err != nil {
			return err
		}
	}
	return nil
}
