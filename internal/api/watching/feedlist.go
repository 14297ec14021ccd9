package watching

import (
	"cmp"
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/page"
	"latelantern/internal/audience"
	"latelantern/internal/core/timetable"
	"latelantern/internal/core/viewing"
	"latelantern/internal/feeds"
	"latelantern/internal/playlists"
)

// fed is what of a course or playlist one person can watch.
type fed struct {
	title, about, language string
	lists                  []FeedList // those of which one can watch something
	lines                  []fedLine
	until                  time.Time // the first moment at which the clock may make another of it; zero for none
}

// fedLine is a recording of a feed.
type fedLine struct {
	id           uuid.UUID
	title, about string
	held         time.Time // when its lecture was
	uses         viewing.Uses
	files        feeds.Files
}

// How far a file of a recording is for one person.
const (
	fileNone = iota // there is none, or they may not take it away
	fileWaits
	fileReady
)

func (l fedLine) file(kind string) int {
	there := map[string]bool{"sound": l.files.Audio, "small": l.files.Small, "video": true}[kind]
	state := l.files.Copies[kind].State
	switch {
	case !there || !l.uses.Has(useOf(kind)) || state == "failed":
		return fileNone
	case state == "ready":
		return fileReady
	}
	return fileWaits
}

// feedOf gathers what is in a feed, each recording once, in the order of the course.
func (a *API) feedOf(ctx context.Context, of feeds.Of) (fed, error) {
	course, err := a.Schedule.Course(ctx, of.Course)
	if err != nil {
		return fed{}, err
	}
	settings, err := a.Words.Course(ctx, of.Course)
	if err != nil {
		return fed{}, err
	}
	shelves, err := a.Playlists.Shelves(ctx, []uuid.UUID{of.Course})
	if err != nil {
		return fed{}, err
	}
	out := fed{title: course.Code + " " + course.Title, language: settings.Language, lists: []FeedList{}}
	var ids []uuid.UUID
	for _, list := range shelves {
		for _, e := range list.Entries {
			if e.RecordingID != nil && e.Lit {
				ids = append(ids, *e.RecordingID)
			}
		}
	}
	var open watchable
	open.accesses, out.until, err = a.Audience.DecideUntil(ctx, of.Person, ids)
	if err != nil {
		return fed{}, err
	}
	if open.files, err = a.Feeds.Files(ctx, ids); err != nil {
		return fed{}, err
	}
	seen := map[uuid.UUID]bool{}
	for _, list := range shelves {
		lines := open.lines(list, course.Code)
		if len(lines) == 0 {
			continue
		}
		out.lists = append(out.lists, FeedList{list.ID, list.Title})
		if of.List == list.ID && list.Title != "" {
			out.title, out.about = course.Code+": "+list.Title, list.About
		}
		for _, l := range lines {
			if (of.List == uuid.Nil || of.List == list.ID) && !seen[l.id] {
				seen[l.id] = true
				out.lines = append(out.lines, l)
			}
		}
	}
	return out, nil
}

// watchable is what someone may do with recordings, and what there is of them.
type watchable struct {
	accesses map[uuid.UUID]audience.Access
	files    map[uuid.UUID]feeds.Files
}

// lines are the recordings of a playlist that are lit and open to them.
func (w watchable) lines(list playlists.Shown, code string) (out []fedLine) {
	heading := ""
	for _, e := range list.Entries {
		if e.Heading != nil {
			heading = *e.Heading
		}
		if e.RecordingID == nil || !e.Lit {
			continue
		}
		access, f := w.accesses[*e.RecordingID], w.files[*e.RecordingID]
		if access.Watch() && access.Edition != nil && *access.Edition == f.Edition {
			out = append(out, fedLine{id: *e.RecordingID, title: feedTitle(e, code), about: heading,
				held: cmp.Or(e.StartsAt, e.MadeAt).UTC(), uses: access.Uses, files: f})
		}
	}
	return out
}

// feedTitle is what a recording is called in a feed, with which part of its lecture it is.
func feedTitle(e playlists.Entry, code string) string {
	line := page.LineOf(e, func(time.Time) timetable.Week { return timetable.Week{} }, nil)
	title := cmp.Or(line.Title, code)
	if line.Parts > 1 {
		title += fmt.Sprintf(" (%d/%d)", line.Part, line.Parts)
	}
	return title
}
