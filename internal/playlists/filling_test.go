package playlists_test

import (
	"errors"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/capture"
	"latelantern/internal/core/playlist"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/playlists"
	"latelantern/internal/recordings"
	"latelantern/internal/testhouse"
)

// arrived are recordings of lectures in which nothing runs any more.
func arrived(s *testhouse.Stage, names ...string) []uuid.UUID {
	s.T.Helper()
	out := weeks(s, names...)
	for i, id := range out {
		s.Do(`update recording set title = $2 where id = $1`, id, names[i])
	}
	return out
}

// TestAPlaylistKeepsItselfFilled with a course, in order; single ones are held out, and added, by hand.
func TestAPlaylistKeepsItselfFilled(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	r := arrived(s, "one", "two", "three")
	theirs := bare(s, s.Elsewhere)
	of := named(s, "All of it", playlist.Date)
	whole := playlists.Sentence{Course: s.Course}
	said, err := s.Playlists.Preview(ctx, of, s.Lecturer, whole)
	s.Must(err)
	if len(said.Come) != 3 || said.Come[0].Title != "one" || said.Leave != 0 || said.Here != 0 {
		t.Errorf("it would be %+v", said)
	}
	if _, got := listed(s, of); got != "" {
		t.Errorf("looked at, it is %s", got)
	}
	s.Must(s.Playlists.SetSentence(ctx, of, s.Lecturer, whole))
	entries, got := listed(s, of)
	if got != "one two three" || !entries[0].Filled {
		t.Fatalf("it is %s, %+v", got, entries)
	}
	s.Must(s.Playlists.Remove(ctx, of, entries[1].ID))
	s.Must(s.Playlists.Add(ctx, of, ids(s.Other), theirs))
	refill := func() {
		t.Helper()
		s.Do(`update playlist set filled_at = null`)
		s.Must(s.Playlists.FillAll(ctx))
	}
	four := bare(s, s.AddLecture(s.Course, testhouse.Now.AddDate(0, 0, -42), "four"))
	refill()
	if _, got := listed(s, of); got != "one three four Elsewhere" && got != "one three four " {
		t.Errorf("filled again it is %q", got)
	}
	said, err = s.Playlists.Preview(ctx, of, s.Lecturer, playlists.Sentence{Course: s.Course, Words: "thr"})
	s.Must(err)
	if len(said.Come) != 0 || said.Here != 1 || said.Leave != 2 {
		t.Errorf("with a word it would be %+v", said)
	}
	said, err = s.Playlists.Preview(ctx, of, s.Lecturer, whole)
	s.Must(err)
	if len(said.Come) != 0 || said.Here != 3 { // one is held out
		t.Errorf("anew it would be %+v", said)
	}
	s.Must(s.Playlists.Add(ctx, of, nil, r[1], four)) // by hand: they stay
	s.Must(s.Playlists.SetSentence(ctx, of, s.Lecturer, playlists.Sentence{Course: s.Course, Words: "Three"}))
	if entries, got = listed(s, of); len(entries) != 4 || got[:14] != "two three four" {
		t.Errorf("with a word it is %s", got)
	}
	s.Must(s.Playlists.SetSentence(ctx, of, s.Lecturer, playlists.Sentence{}))
	refill()
	if _, got := listed(s, of); got[:14] != "two three four" {
		t.Errorf("with none it is %s", got)
	}
	s.Must(s.Playlists.SetSentence(ctx, of, s.Lecturer, playlists.Sentence{Leave: true}))
	if _, got := listed(s, of); got[:8] != "two four" {
		t.Errorf("with what came taken back it is %s", got)
	}
}

// TestWordsAreLookedForInWhatOneTeaches: in titles, keywords and captions, and no longer once one teaches it no more.
func TestWordsAreLookedForInWhatOneTeaches(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	r := arrived(s, "Reprise générale", "two", "three", "four")
	theirs := bare(s, s.Elsewhere)
	s.Do(`update recording set title = 'A reprise of others' where id = $1`, theirs)
	s.Do(`update recording set keywords = '{tides,Reprise}' where id = $1`, r[1])
	s.Do(`insert into caption (capture_id, language, state) select capture_id, 'en', 'ready' from recording_capture
		where recording_id = $1`, r[2])
	s.Do(`insert into cue (id, capture_id, language, start_ms, end_ms, text)
		select gen_random_uuid(), capture_id, 'en', 0, 1000,
		'and now a REPRISE' from recording_capture where recording_id = $1`, r[2])
	of := named(s, "Once more", playlist.Date)
	s.Must(s.Playlists.SetSentence(ctx, of, s.Lecturer, playlists.Sentence{Words: "reprise"}))
	if _, got := listed(s, of); got != "Reprise générale two three" {
		t.Errorf("it is %s", got)
	}
	s.Do(`update membership set role = 'student' where person_id = $1 and course_id = $2`, s.Lecturer, s.Course)
	s.Do(`update playlist set filled_at = $1`, testhouse.Now.Add(-time.Hour))
	s.Must(s.Playlists.FillAll(ctx))
	if _, got := listed(s, of); got != "" {
		t.Errorf("who teaches it no more fills it with %s", got)
	}
	for what, x := range map[string]playlists.Sentence{"signs alone": {Words: "…"},
		"very long words": {Words: strings.Repeat("x", 121)}} {
		if err := s.Playlists.SetSentence(ctx, of, s.Lecturer, x); !errors.Is(err, playlists.ErrInvalid) {
			t.Errorf("%s: %v", what, err)
		}
	}
	main := playlists.Of{Course: s.Course}
	if err := s.Playlists.SetSentence(ctx, main, s.Lecturer, playlists.Sentence{Course: s.Course}); !errors.Is(err,
		playlists.ErrInvalid) {
		t.Errorf("the main one: %v", err)
	}
}

// TestWhatRunsIsNotTaken before its capture ended.
func TestWhatRunsIsNotTaken(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	b, err := s.Capture.Begin(ctx, capture.Start{Lecture: s.Lecture, By: s.Lecturer, Source: capture.Desk})
	s.Must(err)
	of := named(s, "All of it", playlist.Date)
	s.Must(s.Playlists.SetSentence(ctx, of, s.Lecturer, playlists.Sentence{Course: s.Course}))
	if entries, _ := listed(s, of); len(entries) != 0 {
		t.Errorf("%v is in it", b.Recording)
	}
}

// TestWhatCameByItselfHoldsNothing: a recording can still be moved to another lecture, until someone puts it there.
func TestWhatCameByItselfHoldsNothing(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	id := arrived(s, "one")[0]
	of := named(s, "All of it", playlist.Date)
	held := func(when string, want bool) {
		t.Helper()
		s.Must(postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
			got, err := recordings.Shown(ctx, tx, id)
			if got != want {
				t.Errorf("%s it is held: %v", when, got)
			}
			return err
		}))
	}
	s.Must(s.Playlists.SetSentence(ctx, of, s.Lecturer, playlists.Sentence{Course: s.Course}))
	held("come by itself", false)
	s.Must(s.Playlists.Add(ctx, of, nil, id))
	held("put there", true)
	s.Must(s.Playlists.SetDeleted(ctx, of, true))
	held("with the playlist taken away", false)
}
