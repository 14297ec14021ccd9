package audience_test

import (
	"errors"
	"slices"
	"strings"
	"testing"

	"github.com/google/uuid"

	"latelantern/internal/audience"
	"latelantern/internal/core/fault"
	"latelantern/internal/playlists"
	"latelantern/internal/testhouse"
)

// keyOf is the key of the first link to something.
func keyOf(s *testhouse.Stage, of audience.Opens) string {
	s.T.Helper()
	list, err := s.Audience.Openings(s.T.Context(), of)
	s.Must(err)
	return list[0].Link[strings.LastIndex(list[0].Link, "/")+1:]
}

// TestALinkToAPlaylist opens what stands in it and is lit for its course, as it is now, and nothing that its maker may
// not give.
func TestALinkToAPlaylist(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	own, dark := s.Bare(s.Lecture, true, nil), s.Bare(s.AddLecture(s.Course, testhouse.Now, "Tides"), true, nil)
	foreign := s.Bare(s.AddLecture(s.Other, testhouse.Now, "Currents"), true, nil)
	apart := s.Bare(s.AddLecture(s.Course, testhouse.Now, "Winds"), true, nil)
	s.LightRow(own, s.Course, nil)
	s.LightRow(apart, s.Course, nil)
	s.Do(`insert into release (recording_id, course_id, own, made_at) values ($1, $2, false, $3)`, foreign, s.Course,
		testhouse.Now)
	s.LightRow(foreign, s.Course, nil)
	list, err := s.Playlists.AddList(ctx, s.Course, s.Lecturer, playlists.Kept{Title: "Before the examination",
		Arranged: "hand"})
	s.Must(err)
	of, put := audience.Opens{Course: s.Course, Playlist: list}, playlists.Of{Course: s.Course, List: list}
	opening, err := s.Audience.Open(ctx, of, s.Lecturer, audience.OpeningForm{Kind: audience.ForHolders, Name: "Empty",
		Opening: atOnce})
	s.Must(err)
	if _, err := s.Audience.Come(ctx, keyOf(s, of), audience.Coming{Name: "Guest"}); !errors.Is(err, audience.ErrLink) {
		t.Errorf("with nothing in it: %v", err)
	}
	s.Must(s.Playlists.Add(ctx, put, []uuid.UUID{s.Course, s.Other}, own, dark, foreign))
	form := audience.OpeningForm{Kind: audience.ForHolders, Name: "The examiners", Opening: atOnce}
	change, err := s.Audience.PreviewOpening(ctx, of, s.Lecturer, form)
	if s.Must(err); change.List == nil || *change.List != (audience.ListOpened{Open: 1, Dark: 1, Others: 1}) {
		t.Errorf("it would open %+v", change.List)
	}
	let, err := s.Audience.Come(ctx, keyOf(s, of), audience.Coming{Name: "Guest"})
	if s.Must(err); let.Recording != uuid.Nil || let.Opening != opening {
		t.Fatalf("it leads to %+v", let)
	}
	open := func(when string, want ...uuid.UUID) {
		t.Helper()
		got, err := s.Audience.Opened(ctx, let.Person)
		s.Must(err)
		for _, id := range []uuid.UUID{own, dark, foreign, apart} {
			d, err := s.Audience.Decide(ctx, let.Person, id)
			released, failed := s.Audience.Released(ctx, id)
			s.Must(err, failed)
			may := slices.Contains(want, id)
			byLink := may || when == "renewed" && id == own // whoever has the address that it has now
			if d.Watch() != may || slices.Contains(got, id) != may ||
				released.ByLink(opening, testhouse.Now).Watch() != byLink {
				t.Errorf("%s one is open: %v (%+v), want %v", when, slices.Contains(got, id), d.Decision, may)
			}
		}
		recording, by, err := s.Audience.Holds(ctx, let.Person)
		if s.Must(err); (by == opening) != (len(want) > 0) || recording != uuid.Nil {
			t.Errorf("%s they hold %v and %v", when, recording, by)
		}
		if course, id, err := s.Audience.ListOf(ctx, let.Person, opening); (err == nil) != (len(want) > 0) ||
			err == nil && (course != s.Course || id != list) {
			t.Errorf("%s it is %v of %v (%v)", when, id, course, err)
		}
	}
	open("at first", own)
	s.LightRow(dark, s.Course, nil)
	open("once it is lit", own, dark)
	s.Do(`insert into membership (course_id, person_id, role, group_name) values ($1, $2, 'assistant', '')`, s.Other,
		s.Lecturer)
	open("once who made it teaches the other course", own, dark, foreign)
	s.Do(`delete from membership where course_id = $1 and person_id = $2`, s.Other, s.Lecturer)
	s.Do(`update lighting set darkened_at = $2 where recording_id = $1`, dark, testhouse.Now)
	open("dark again", own)
	s.Must(s.Playlists.SetDeleted(ctx, put, true))
	open("taken away with its playlist")
	s.Must(s.Playlists.SetDeleted(ctx, put, false))
	open("brought back", own)
	s.Must(s.Audience.Renew(ctx, of, opening, s.Lecturer))
	open("renewed")
	if _, err := s.Audience.Come(ctx, keyOf(s, of), audience.Coming{Person: let.Person}); err != nil {
		t.Errorf("by the new address: %v", err)
	}
	open("by the new address", own)
	// What was open by it is not open when it is not; what stands for another course is not there.
	s.Must(s.Audience.TakeBack(ctx, of, opening, s.Lecturer, false))
	open("taken back")
	theirs := audience.Opens{Course: s.Other, Playlist: list}
	if err := s.Audience.TakeBack(ctx, theirs, opening, s.Lecturer, true); !errors.Is(err, audience.ErrUnknown) {
		t.Errorf("given again by another course: %v", err)
	}
	if _, err := s.Audience.Open(ctx, theirs, s.Lecturer, form); !errors.Is(err, audience.ErrUnknown) {
		t.Errorf("made by another course: %v", err)
	}
	for _, kind := range []audience.Kind{audience.ForEveryone, audience.ForPeople} {
		_, err := s.Audience.Open(ctx, of, s.Lecturer, audience.OpeningForm{Kind: kind, People: []uuid.UUID{s.Student},
			Opening: atOnce})
		if texts := fault.All(err); len(texts) != 1 || texts[0].Code != "opening.kind" {
			t.Errorf("a playlist opened to %s: %v", kind, err)
		}
	}
	past, _, err := s.Audience.History(ctx, audience.Scope{Course: s.Course}, testhouse.Now.AddDate(1, 0, 0))
	if s.Must(err); len(past) == 0 || past[0].Opening == nil || past[0].Opening.List == nil ||
		*past[0].Opening.List != "Before the examination" {
		t.Errorf("its history is %+v", past)
	}
}
