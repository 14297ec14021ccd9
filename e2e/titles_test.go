package e2e

import (
	"context"
	"testing"

	"latelantern/internal/platform/postgres"
)

// TestTwelveTitlesAtOnce are read as they are and as they would become, given with one press, and
// taken back with another.
func TestTwelveTitlesAtOnce(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s := newStage(t)
	b := chromium(t)
	p := s.person(b, coordinator)
	titles := func() string {
		x, err := postgres.Value[string](ctx, s.house.DB,
			`select string_agg(r.title, '|' order by k.code, l.starts_at) from recording r
				join lecture l on l.id = r.lecture_id join course k on k.id = l.course_id
			where exists (select 1 from recording_capture rc where rc.recording_id = r.id) and r.deleted_at is null`)
		s.must(err)
		return x
	}
	before := titles()
	// Those without a title of their own stand there first; the board leads here.
	s.must(p.Go("/board"), p.Wait(`document.querySelectorAll('.lantern').length > 5`), p.Go("/titles"),
		p.See("only those without a title of their own"))
	s.clean(p, "titles without their own")
	s.must(p.Click("only those without a title of their own"),
		p.Wait(`document.querySelectorAll('tbody tr').length >= 12`), p.See("Two high waters a day"),
		p.Wait(`[...document.querySelectorAll('tbody .then input')].some(e => /^TID 210, week 1 · .* · Two high waters a day$/.test(e.value))`))
	rows := `document.querySelectorAll('tbody tr').length`
	s.must(p.Click("Change all titles"),
		p.Wait(`(b => b && Number(b.innerText.match(/\d+/)?.[0]) === `+rows+
			`)([...document.querySelectorAll('button')].find(b => /^Give/.test(b.innerText)))`))
	s.clean(p, "titles before and after")
	if titles() != before {
		t.Fatal("only looked at, and changed all the same")
	}
	s.must(p.Click("Give 1"), p.See("titles changed"))
	after := titles()
	if after == before {
		t.Errorf("nothing was changed: %s", after)
	}
	s.must(p.Click("Undo"), p.See("Undone"))
	if now := titles(); now != before {
		t.Errorf("taken back: %s, was %s", now, before)
	}
	// A pattern is tried as it is written, and says what it does not know.
	course := s.course("TID 210")
	s.must(p.Go("/titles?course="+course.String()), p.Write("Pattern of TID 210", "{course} {weak}"),
		p.See("A pattern knows no {weak}"))
	s.clean(p, "a pattern that names what is unknown")
	s.must(p.Write("Pattern of TID 210", "{course} week {week}: {subject} ({date})"),
		p.Click("only those without a title of their own"),
		p.Wait(`[...document.querySelectorAll('tbody .then input')].some(e => /^TID 210 week 1: Two high waters a day \(.*\)$/.test(e.value))`))
	s.must(p.Click("Keep the pattern"), p.See("New recordings of TID 210 are called so"))
	pattern, err := postgres.Value[string](ctx, s.house.DB, `select title_pattern from course where id = $1`, course)
	if err != nil || pattern != "{course} week {week}: {subject} ({date})" {
		t.Errorf("kept is %q (%v)", pattern, err)
	}
	// One of them is written by hand.
	s.must(p.Write("New title of Spring tides and neap tides", "Springs and neaps"),
		p.Click("Give 1 recording its title"), p.See("1 title changed"), p.See("Springs and neaps"))
}
