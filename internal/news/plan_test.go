package news_test

import (
	"errors"
	"slices"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/viewing"
	"latelantern/internal/news"
	"latelantern/internal/platform/clock"
	"latelantern/internal/release"
	"latelantern/internal/testhouse"
)

// ready has a recording be one that can be published, without media.
func (o office) ready(topic string) uuid.UUID {
	id := o.Bare(o.AddLecture(o.Course, testhouse.Now.Add(-24*time.Hour), topic), true, nil)
	o.Do(`update track set state = 'ready', packed_ms = 60000, video = true, audio = true`)
	return id
}

// light lights recordings for their course, and has its students told.
func (o office) light(tell map[uuid.UUID]string) uuid.UUID {
	o.T.Helper()
	var ids []uuid.UUID
	for id := range tell {
		ids = append(ids, id)
	}
	step, err := o.At(clock.Standing(testhouse.Now)).Releases.Change(o.T.Context(), o.Lecturer, release.Many{
		Pairs: release.Every(ids, []uuid.UUID{o.Course}), Giving: viewing.Giving{Lit: new(true)}, Tell: tell})
	o.Must(err)
	return step
}

// planned is of what the students are still to be told.
func (o office) planned() []string {
	o.T.Helper()
	list, err := o.at(0).Planned(o.T.Context(), o.Course)
	o.Must(err)
	var out []string
	for _, x := range list {
		out = append(out, x.Title)
	}
	slices.Sort(out)
	return out
}

// TestToldAsSoonAsTheyCanWatch: with the light, as one step; when an edition is there and the rule has begun.
func TestToldAsSoonAsTheyCanWatch(t *testing.T) {
	o := open(t)
	now, later := o.ready("Now"), o.ready("Later")
	o.light(map[uuid.UUID]string{now: "Now", later: "Later"})
	o.Do(`update recording_edition set edition_id = null where recording_id = $1`, later)
	same(t, "planned with the light", o.planned(), []string{"Later", "Now"})
	tell := func(after time.Duration) { o.Must(o.at(after).TellPlanned(t.Context())) }
	tell(0)
	same(t, "left, of which there is no edition", o.planned(), []string{"Later"})
	same(t, "what a student was told", o.unseen(o.Student), []string{"Now"})
	tell(0)
	if n := o.Count(`select count(*) from news`); n != 1 {
		t.Errorf("told %d times", n)
	}
	o.Do(`update recording_edition set edition_id = (select id from edition where recording_id = $1 limit 1)
		where recording_id = $1`, later)
	errs := make(chan error, 6)
	for range cap(errs) {
		go func() { errs <- o.at(time.Minute).TellPlanned(t.Context()) }()
	}
	for range cap(errs) {
		o.Must(<-errs)
	}
	same(t, "left once there is one", o.planned(), nil)
	if got := o.unseen(o.Student); len(got) != 2 || o.Count(`select count(*) from news`) != 2 {
		t.Errorf("a student was told of %q", got)
	}
	if got := o.send(time.Hour); len(got) != 3 {
		t.Errorf("mails: %q", got)
	}
}

// TestAPlanWaitsForItsRule, is looked at seldom meanwhile, and can be forgotten.
func TestAPlanWaitsForItsRule(t *testing.T) {
	o := open(t)
	o.Do(`update viewing_rule set from_at = $1 where ended_at is null`, testhouse.Now.Add(2*time.Hour))
	one, two := o.ready("One"), o.ready("Two")
	o.light(map[uuid.UUID]string{one: "One", two: "Two"})
	o.Must(o.at(0).Forget(t.Context(), o.Course, two))
	if err := o.at(0).Forget(t.Context(), o.Course, two); !errors.Is(err, news.ErrUnknown) {
		t.Errorf("forgotten twice: %v", err)
	}
	if err := o.at(0).Forget(t.Context(), o.Other, one); !errors.Is(err, news.ErrUnknown) {
		t.Errorf("by another course: %v", err)
	}
	o.Must(o.at(118*time.Minute).TellPlanned(t.Context()), o.at(121*time.Minute).TellPlanned(t.Context()))
	same(t, "told before it is looked again", o.unseen(o.Student), nil)
	o.Must(o.at(123 * time.Minute).TellPlanned(t.Context()))
	same(t, "told after the rule began", o.unseen(o.Student), []string{"One"})
}

// TestAStepTakesItsNewsBack, those that are planned and those that were told, but for who has the mail.
func TestAStepTakesItsNewsBack(t *testing.T) {
	o := open(t)
	undo := func(step uuid.UUID) { o.Must(o.Releases.TakeBack(t.Context(), step, o.Lecturer, false)) }
	id := o.ready("One")
	undo(o.light(map[uuid.UUID]string{id: "One"}))
	same(t, "planned after it was taken back", o.planned(), nil)
	step := o.light(map[uuid.UUID]string{id: "One"})
	o.Must(o.at(0).TellPlanned(t.Context()))
	undo(step)
	if n := o.Count(`select count(*) from news`) + o.Count(`select count(*) from news_plan`); n != 0 {
		t.Errorf("%d are left", n)
	}
	step = o.light(map[uuid.UUID]string{id: "One"})
	o.Must(o.at(0).TellPlanned(t.Context()))
	sent := o.send(time.Minute)
	undo(step)
	if n := o.Count(`select count(*) from news_reader`); len(sent) != 3 || n != 3 {
		t.Errorf("%d mails went, %d keep it", len(sent), n)
	}
}
