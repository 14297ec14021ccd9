package remind_test

import (
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/audience"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/standin/posttray"
	"latelantern/internal/testhouse"
)

// TestWhoMissedItIsReminded: once, with their own stretches, when the course wants it and it is known who was there.
func TestWhoMissedItIsReminded(t *testing.T) {
	s, tray := posted(t)
	ctx := t.Context()
	s.Do(`insert into reminder (lecture_id, kind, made_at) values ($1, 'not_started', now())`, s.Lecture)
	id := s.Talk()
	length := s.Settled(id).Length
	s.Lit(id)
	rule := viewing.Rule{Audience: viewing.Everyone, Uses: viewing.WatchRead,
		Window: viewing.Window{From: viewing.FromOnce, Until: viewing.UntilEver}}
	s.Must(s.Audience.SetRule(ctx, audience.Scope{Course: s.Course}, s.Lecturer, &rule))
	s.Do(`update capture set source = 'desk', started_at = $1`, testhouse.Now)
	s.Do(`update lighting set lit_at = $1`, testhouse.Now)
	look := func(after time.Duration) int {
		t.Helper()
		n, err := s.At(clock.Standing(testhouse.Now.Add(after))).Remind.LookMissed(ctx)
		s.Must(err)
		return n
	}
	is := func(when string, got, want int) {
		t.Helper()
		if got != want {
			t.Errorf("%s: %d are told, want %d", when, got, want)
		}
	}
	is("no course wants it", look(11*time.Minute), 0)
	wants := func(on bool) {
		t.Helper()
		r := s.At(clock.Standing(testhouse.Now.Add(-time.Hour))).Remind
		s.Must(r.SetRemindsMissed(ctx, s.Course, on))
		if now, err := r.RemindsMissed(ctx, s.Course); err != nil || now != on {
			t.Errorf("it is %v (%v)", now, err)
		}
	}
	wants(true)
	is("it is not known who was there", look(11*time.Minute), 0)
	was := func(who uuid.UUID, from, until time.Duration) {
		s.Do(`insert into presence (lecture_id, person_id, from_at, until_at) values ($1, $2, $3, $4)`,
			s.Lecture, who, testhouse.Now.Add(from), testhouse.Now.Add(until))
	}
	was(s.Student, -time.Minute, length+time.Minute)
	was(s.Second, length/2, length+time.Minute)
	is("it may be darkened again", look(9*time.Minute), 0)
	is("long ago", look(15*24*time.Hour), 0)
	is("it was looked whether it is known a minute ago", look(12*time.Minute), 0)
	s.Do(`insert into news_wish (person_id, often) values ($1, 'never')`, s.Third)
	is("half of it was missed by one, and all by another who wants no mail", look(72*time.Minute), 1)
	is("once", look(3*time.Hour), 0)

	var list []posttray.Letter
	s.Until(func() bool {
		var err error
		list, err = tray.Letters()
		s.Must(err)
		return len(list) > 0
	})
	i := slices.IndexFunc(list, func(l posttray.Letter) bool { return strings.Contains(l.Subject, "what you missed") })
	if i < 0 || len(list) != 1 || list[i].To != "second@college.example" ||
		!strings.Contains(list[i].Text, "0:00 to 0:") ||
		!strings.Contains(list[i].Text, "https://lectures.college.example/watch/"+id.String()+"?at=0") ||
		!strings.Contains(list[i].Text, "/stop/") {
		t.Errorf("written is %+v", list)
	}
	if n, err := s.Remind.Reminded(ctx, []uuid.UUID{id, uuid.New()}); err != nil || len(n) != 1 || n[id] != 1 {
		t.Errorf("reminded are %v (%v)", n, err)
	}
	s.Must(postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error { return s.Remind.CarryCourse(ctx, tx, s.Course, s.Other) }))
	if on, err := s.Remind.RemindsMissed(ctx, s.Other); err != nil || !on {
		t.Errorf("of the course to which it is carried it is %v (%v)", on, err)
	}
	wants(false)
	s.Do(`delete from missed_looked`)
	is("the course wants it no more", look(11*time.Minute), 0)
}
