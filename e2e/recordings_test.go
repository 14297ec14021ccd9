package e2e

import (
	"context"
	"fmt"
	"testing"

	"latelantern/internal/platform/postgres"
)

// TestAllRecordingsInOneTable are found by what they wait for, put in order, chosen, and dealt with at once: given
// titles, put into a playlist and into the bin, each taken back with one press.
func TestAllRecordingsInOneTable(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s := newStage(t)
	p := s.person(chromium(t), coordinator)
	count := func(sql string) int {
		n, err := postgres.Value[int](ctx, s.house.DB, sql)
		s.must(err)
		return n
	}
	rows := func(n int) error {
		return p.Wait(fmt.Sprintf(`document.querySelectorAll('.el-table-v2__row').length === %d`, n))
	}
	first := func(title string) error {
		return p.Wait(fmt.Sprintf(
			`document.querySelector('.el-table-v2__row .title a')?.innerText.includes(%q)`, title))
	}
	s.must(p.Go("/board"), p.Click("Recordings"), p.See("recordings, "), p.See("no title of its own"))
	s.clean(p, "all recordings")

	// The address keeps what is chosen, and so does coming back.
	s.must(p.Click("Sort by Length"), p.Click("no title of its own"), rows(count(`select count(*)::int from recording r
		where r.title = '' and r.deleted_at is null
			and exists (select 1 from recording_capture rc where rc.recording_id = r.id)`)))
	if err := p.Wait(`/by=length/.test(location.search) && /untitled=yes/.test(location.search)`); err != nil {
		t.Errorf("the address: %v", err)
	}
	bare := count(`select count(*)::int from recording where title = '' and deleted_at is null`)
	s.must(p.Click("Choose all that are shown"), p.See("recordings are chosen"), p.Click("Title"), p.See("their titles"))
	s.clean(p, "titles of what is chosen")
	s.must(p.Click("Give "), p.See("titles changed"))
	if now := count(`select count(*)::int from recording where title = '' and deleted_at is null`); now >= bare {
		t.Errorf("%d without a title, and were %d", now, bare)
	}
	s.must(p.Click("Undo"), p.See("Undone"), p.Click("Close"), p.Wait(shut))
	if now := count(`select count(*)::int from recording where title = '' and deleted_at is null`); now != bare {
		t.Errorf("taken back: %d without a title, and were %d", now, bare)
	}

	// Into a playlist of a course, and out again.
	s.must(p.Click("Choose none"), p.Go("/recordings?words=fog"), first("Fog"), p.Click("Choose Fog"),
		p.Click("Into a playlist"), p.See("Put it there"))
	s.clean(p, "into a playlist")
	entries := count(`select count(*)::int from playlist_entry`)
	s.must(p.Click("Put it there"), p.See("One came into the playlist"))
	if now := count(`select count(*)::int from playlist_entry`); now != entries+1 {
		t.Errorf("%d entries, and were %d", now, entries)
	}
	s.must(p.Click("Undo"))
	s.until("it is out of the playlist", func() bool {
		return count(`select count(*)::int from playlist_entry`) == entries
	})
	s.must(p.Click("Close"), p.Wait(shut))

	// Into the bin, and back.
	s.must(p.Click("Into the bin"), p.See("One recording lies in the bin"), p.See("No recording is like that"))
	if n := count(`select count(*)::int from recording where title = 'Fog' and deleted_at is not null`); n != 1 {
		t.Errorf("%d in the bin", n)
	}
	s.must(p.Click("Undo"), p.See("Undone"), first("Fog"))

	// Lit at an hour that is set: seen with its hour, and taken back before it.
	s.must(p.Go("/recordings?words=errors"), first("The tide table and its errors"),
		p.Click("Choose The tide table and its errors"), p.Click("Light, or give a rule"), p.See("24 more can watch"),
		p.Click("At an hour"), p.Write("Hour", "25:00"), p.See("An hour, such as 18:00"), p.Write("Hour", "23.59"),
		p.Click("Light it for TID 210, "), p.See("It will be done"))
	s.clean(p, "set for an hour")
	planned := `select count(*)::int from light_change where at is not null and undone_at is null`
	if n := count(planned); n != 1 {
		t.Errorf("%d steps are set for an hour", n)
	}
	if n := count(`select count(*)::int from released e join recording r on r.id = e.recording_id
		where r.title = 'The tide table and its errors' and e.lit`); n != 0 {
		t.Error("it is lit before its hour")
	}
	s.must(p.Click("Close"), p.Wait(shut), p.Click("Choose none"), p.See("light The tide table and its errors for TID 210"),
		p.Click("Take it back"), p.See("Taken back: nothing is done"))
	if n := count(planned); n != 0 {
		t.Errorf("taken back: %d steps are set for an hour", n)
	}

	// A week of the ribbon shows what was recorded in it, and again all.
	s.must(p.Go("/recordings"), p.See("recordings, "), p.Click("2: the week from"),
		p.Wait(`/week=2/.test(location.search)`), p.See(" of "), p.Click("2: the week from"), p.Wait(`!location.search`))
	s.must(p.Click("playlist, Fog"), p.See("Put it into the playlist"))
}
