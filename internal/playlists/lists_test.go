package playlists_test

import (
	"errors"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/capture"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/playlist"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/playlists"
	"latelantern/internal/testhouse"
)

// named is a new playlist of a course.
func named(s *testhouse.Stage, title string, by playlist.Arranged) playlists.Of {
	s.T.Helper()
	id, err := s.Playlists.AddList(s.T.Context(), s.Course, s.Lecturer, playlists.Kept{Title: title, Arranged: by})
	s.Must(err)
	return playlists.Of{Course: s.Course, List: id}
}

// titles are the playlists that a course shows.
func titles(s *testhouse.Stage, course uuid.UUID) string {
	s.T.Helper()
	lists, err := s.Playlists.Lists(s.T.Context(), course)
	s.Must(err)
	var out []string
	for _, l := range lists {
		if l.Main {
			l.Title = "main"
		}
		out = append(out, l.Title)
	}
	return strings.Join(out, ", ")
}

// TestOnePlaylistInTwoCourses shows it in both without a copy: what changes in it changes in both, and its light is
// that of each.
func TestOnePlaylistInTwoCourses(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	r := weeks(s, "one", "two", "three")
	of := named(s, "Before the examination", playlist.Hand)
	s.Must(s.Playlists.Add(ctx, of, nil, r[0], r[2]))
	there := playlists.Of{Course: s.Other, List: of.List}
	if _, err := s.Playlists.Entries(ctx, there); !errors.Is(err, playlists.ErrUnknown) {
		t.Errorf("before it shows it the other course sees it: %v", err)
	}
	s.Must(s.Playlists.Show(ctx, there, true))
	s.Must(s.Playlists.Show(ctx, there, true)) // twice is once
	s.Must(s.Playlists.Add(ctx, of, nil, r[1]))
	s.Do(`insert into release (recording_id, course_id, own, made_at) values ($1, $2, false, now())`, r[0], s.Other)
	s.Do(`insert into lighting (id, recording_id, course_id, lit_at) values (gen_random_uuid(), $1, $2, now())`, r[0],
		s.Other)
	entries, got := listed(s, there)
	if got != "one two three" || !entries[0].Lit || entries[1].Lit || entries[0].From == "" {
		t.Errorf("the other course sees %s, %+v", got, entries[0])
	}
	if own, _ := listed(s, of); own[0].Lit || own[0].From != "" {
		t.Errorf("its own course sees %+v", own[0])
	}
	if got := titles(s, s.Other); got != "Before the examination" {
		t.Errorf("the other course shows %s", got)
	}
	shelves, err := s.Playlists.Shelves(ctx, []uuid.UUID{s.Other, s.Course})
	s.Must(err)
	if len(shelves) != 2 || shelves[0].Course != s.Other || words(shelves[1].Entries) != "one two three" ||
		!shelves[0].Entries[0].Lit || shelves[1].Entries[0].Lit {
		t.Errorf("both courses show %+v", shelves)
	}
	for what, err := range map[string]error{
		"adds":      s.Playlists.Add(ctx, there, nil, r[1]),
		"removes":   s.Playlists.Remove(ctx, there, entries[0].ID),
		"moves":     s.Playlists.Move(ctx, there, ids(entries[0].ID), uuid.Nil),
		"renames":   s.Playlists.ChangeList(ctx, there, playlists.Kept{Title: "x", Arranged: playlist.Hand}),
		"takes":     s.Playlists.SetDeleted(ctx, there, true),
		"hides own": s.Playlists.Show(ctx, of, false),
	} {
		if !errors.Is(err, playlists.ErrUnknown) {
			t.Errorf("a course that only shows it %s: %v", what, err)
		}
	}
	s.Must(s.Playlists.SetDeleted(ctx, of, true))
	if got := titles(s, s.Other) + titles(s, s.Course); got != "" {
		t.Errorf("taken away it is shown: %s", got)
	}
	s.Must(s.Playlists.SetDeleted(ctx, of, false))
	if _, got := listed(s, there); got != "one two three" {
		t.Errorf("brought back it is %s", got)
	}
	s.Must(s.Playlists.Show(ctx, there, false))
	if got := titles(s, s.Other); got != "" {
		t.Errorf("shown no more it is shown: %s", got)
	}
}

// TestInOrderByItself goes by the dates of lectures, whenever they change, and keeps parts of one together.
func TestInOrderByItself(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	var r []uuid.UUID
	lectures := map[string]uuid.UUID{}
	for i, n := range []string{"one", "two", "three"} {
		lectures[n] = s.AddLecture(s.Course, testhouse.Now.AddDate(0, 0, -70+7*i), n)
		r = append(r, bare(s, lectures[n]))
	}
	b, err := s.Capture.Begin(ctx, capture.Start{Lecture: lectures["two"], By: s.Lecturer, Source: capture.File})
	s.Must(err)
	of := named(s, "In order", playlist.Hand)
	s.Must(s.Playlists.Add(ctx, of, nil, b.Recording, r[2], r[1], r[0]))
	heading, err := s.Playlists.AddHeading(ctx, of, playlists.Text{Title: "later", About: "What came after."})
	s.Must(err)
	entries, got := listed(s, of)
	if got != "one two 1/2 two 2/2 three LATER" || *entries[1].RecordingID != r[1] {
		t.Fatalf("the order is %s", got)
	}
	s.Must(s.Playlists.Move(ctx, of, ids(heading), entries[1].ID))
	s.Must(s.Playlists.Move(ctx, of, ids(entries[2].ID), entries[0].ID)) // its other part comes along
	if _, got := listed(s, of); got != "two 1/2 two 2/2 one LATER three" {
		t.Errorf("moved it is %s", got)
	}
	change := func(by playlist.Arranged) {
		s.Must(s.Playlists.ChangeList(ctx, of, playlists.Kept{Title: "In order", Arranged: by}))
	}
	change(playlist.Date)
	if _, got := listed(s, of); got != "one two 1/2 two 2/2 LATER three" {
		t.Errorf("by date it is %s", got)
	}
	s.Do(`update lecture set starts_at = starts_at - interval '30 days', ends_at = ends_at - interval '30 days'
		where id = $1`, lectures["two"])
	if _, got := listed(s, of); got != "two 1/2 two 2/2 one LATER three" {
		t.Errorf("with a lecture moved it is %s", got)
	}
	change(playlist.Week)
	if _, got := listed(s, of); got != "two 1/2 two 2/2 one three" {
		t.Errorf("by week it is %s", got)
	}
	if err := s.Playlists.Move(ctx, of, ids(entries[0].ID), uuid.Nil); !errors.Is(err, fault.Code("playlist.by_week")) {
		t.Errorf("moved by week: %v", err)
	}
	change(playlist.Hand)
	if _, got := listed(s, of); got != "two 1/2 two 2/2 one LATER three" {
		t.Errorf("by hand again it is %s", got)
	}
}

// TestWhatIsLitIsNotListedTwice: it goes into the main playlist unless another one of the course has it.
func TestWhatIsLitIsNotListedTwice(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	r := weeks(s, "one", "two")
	of := named(s, "Extra", playlist.Hand)
	s.Must(s.Playlists.Add(ctx, of, nil, r[0]))
	put := func(recording uuid.UUID) {
		t.Helper()
		s.Must(postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
			_, err := s.Playlists.Put(ctx, tx, s.Course, recording)
			return err
		}))
	}
	put(r[0])
	put(r[1])
	if _, got := list(s); got != "two" {
		t.Errorf("the main playlist is %s", got)
	}
	lectures, err := s.Schedule.Lectures(ctx, []uuid.UUID{s.Course})
	s.Must(err)
	for _, l := range lectures {
		if l.Topic == "one" && !l.Listed {
			t.Error("what stands in another playlist waits for a place")
		}
	}
	s.Must(s.Playlists.SetDeleted(ctx, of, true))
	put(r[0])
	if _, got := list(s); got != "one two" {
		t.Errorf("with the other one taken away the main playlist is %s", got)
	}
}

func TestPagesAndWords(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	of := named(s, "  Read   first ", playlist.Hand)
	chart, err := s.Playlists.AddPage(ctx, of,
		playlists.Text{Title: "Chart", Address: " https://charts.example/a?b=c "})
	s.Must(err)
	heading, err := s.Playlists.AddHeading(ctx, of, playlists.Text{Title: "later", About: " Two\nlines. "})
	s.Must(err)
	s.Must(s.Playlists.Word(ctx, of, chart, playlists.Text{Title: "New chart", Address: "http://charts.example/"}))
	entries, got := listed(s, of)
	if got != "<New chart> LATER" || *entries[0].Address != "http://charts.example/" ||
		entries[1].About != "Two lines." {
		t.Errorf("it is %s, %+v", got, entries)
	}
	if got := titles(s, s.Course); got != "Read first" {
		t.Errorf("the course shows %s", got)
	}
	page := func(address string) error {
		_, err := s.Playlists.AddPage(ctx, of, playlists.Text{Title: "x", Address: address})
		return err
	}
	list := func(k playlists.Kept) error {
		_, err := s.Playlists.AddList(ctx, s.Course, s.Lecturer, k)
		return err
	}
	for what, c := range map[string]struct{ got, want error }{
		"a script":       {page("javascript:alert(1)"), fault.Code("playlist.address")},
		"a path":         {page("/board"), fault.Code("playlist.address")},
		"no address":     {page(""), fault.Code("playlist.address")},
		"a long address": {page("https://x.example/" + strings.Repeat("x", 2000)), fault.Code("playlist.address")},
		"no title":       {list(playlists.Kept{Arranged: playlist.Hand}), fault.Code("playlist.title")},
		"a long title":   {list(playlists.Kept{Title: strings.Repeat("x", 10000)}), fault.Code("playlist.title")},
		"a long sentence": {list(playlists.Kept{Title: "x", About: strings.Repeat("x", 501)}),
			fault.Code("playlist.about")},
		"no such order":   {list(playlists.Kept{Title: "x", Arranged: "size"}), fault.Code("playlist.arranged")},
		"a page as topic": {s.Playlists.Word(ctx, of, chart, playlists.Text{Title: "x"}), playlists.ErrUnknown},
		"a topic as page": {s.Playlists.Word(ctx, of, heading,
			playlists.Text{Title: "x", Address: "https://x.example"}), playlists.ErrUnknown},
		"one that is gone": {s.Playlists.Remove(ctx, of, chart, uuid.New()), playlists.ErrUnknown},
		"the main one": {s.Playlists.SetDeleted(ctx, playlists.Of{Course: s.Course, List: mainOf(s)}, true),
			fault.Code("playlist.main_stays")},
	} {
		if !errors.Is(c.got, c.want) {
			t.Errorf("%s: %v", what, c.got)
		}
	}
	if _, got := listed(s, of); got != "<New chart> LATER" {
		t.Errorf("something that was refused changed it: %s", got)
	}
}

// mainOf is the main playlist of the course, with a heading in it.
func mainOf(s *testhouse.Stage) uuid.UUID {
	s.T.Helper()
	_, err := s.Playlists.AddHeading(s.T.Context(), playlists.Of{Course: s.Course}, playlists.Text{Title: "x"})
	s.Must(err)
	lists, err := s.Playlists.Lists(s.T.Context(), s.Course)
	s.Must(err)
	return lists[0].ID
}

// TestRecordingsOfOthers can be added by who teaches their course, and by nobody else.
func TestRecordingsOfOthers(t *testing.T) {
	s := testhouse.New(t, true)
	theirs := bare(s, s.Elsewhere)
	of := named(s, "Mine", playlist.Date)
	if err := s.Playlists.Add(t.Context(), of, ids(s.Course), theirs); !errors.Is(err, playlists.ErrUnknown) {
		t.Errorf("of a course that one does not teach: %v", err)
	}
	s.Must(s.Playlists.Add(t.Context(), of, ids(s.Other), theirs))
	if entries, _ := listed(s, of); len(entries) != 1 || entries[0].From == "" || entries[0].Lit {
		t.Errorf("it is %+v", entries)
	}
}

// TestTwoDragAtOnce keeps both, and nobody waits for ever.
func TestTwoDragAtOnce(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	r := weeks(s, "one", "two", "three", "four")
	of := named(s, "Dragged", playlist.Hand)
	s.Must(s.Playlists.Add(ctx, of, nil, r...))
	entries, _ := listed(s, of)
	var both sync.WaitGroup
	errs := make([]error, 2)
	both.Go(func() { errs[0] = s.Playlists.Move(ctx, of, ids(entries[3].ID, entries[2].ID), entries[0].ID) })
	both.Go(func() { errs[1] = s.Playlists.Move(ctx, of, ids(entries[1].ID), uuid.Nil) })
	done := make(chan struct{})
	go func() { both.Wait(); close(done) }()
	select {
	case <-done:
	case <-time.After(20 * time.Second):
		t.Fatal("they wait for each other")
	}
	s.Must(errs...)
	if _, got := listed(s, of); got != "three four one two" {
		t.Errorf("after both it is %s", got)
	}
}
