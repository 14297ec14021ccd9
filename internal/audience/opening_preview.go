package audience

import (
	"context"
	"fmt"

	"github.com/google/uuid"

	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/postgres"
)

// OpeningChange is what an opening would change.
type OpeningChange struct {
	Gain  int         // people who can watch then, and cannot now
	Of    int         // people for whom it is; of a link nobody knows
	Names []Name      // of those who gain, where people are named
	List  *ListOpened // of a link to a playlist
}

// ListOpened counts the recordings of a playlist by what its link does.
type ListOpened struct {
	Open   int // it opens them
	Dark   int // it opens them once they are lit for the course
	Others int // it never does, since who makes it does not teach their courses
}

// PreviewOpening says what opening something would change, if it opened at once, made by someone. Its errors are those
// of Open.
func (s *Service) PreviewOpening(ctx context.Context, what Opens, by uuid.UUID, f OpeningForm) (OpeningChange,
	error) {
	about, err := s.openedCourse(ctx, s.DB, what, ``)
	if err != nil {
		return OpeningChange{}, err
	}
	end, err := termEnd(about.LastDay, about.Zone)
	if err != nil {
		return OpeningChange{}, err
	}
	if err := f.check(what, s.Clock.Now(), end); err != nil {
		return OpeningChange{}, err
	}
	if what.Playlist != uuid.Nil {
		list, err := s.listOpened(ctx, what.Playlist, by)
		return OpeningChange{List: &list}, err
	}
	const named = `select id as person_id, name from person_account where not guest and not closed
		and ($1 or id = any($2)) order by name, id`
	people, err := postgres.All[Name](ctx, s.DB, named, f.Kind == ForEveryone, f.People)
	if err != nil {
		return OpeningChange{}, fmt.Errorf("list for whom an opening would be: %w", err)
	}
	released, err := s.Released(ctx, what.Recording)
	if err != nil {
		return OpeningChange{}, err
	}
	known, err := s.known(ctx, released)
	if err != nil {
		return OpeningChange{}, err
	}
	out := OpeningChange{Of: len(people)}
	for _, p := range people {
		as := func(course uuid.UUID) viewing.Viewer { return known[shutSeat{p.PersonID, course}] }
		shut := s.Clock.Now().Before(released.shut[shutSeat{p.PersonID, about.CourseID}])
		if shut || released.Door(p.PersonID, false, as, s.Clock.Now()).Watch() {
			continue
		}
		if out.Gain++; f.Kind == ForPeople {
			out.Names = append(out.Names, p)
		}
	}
	return out, nil
}

// listOpened counts what a link to a playlist opens, as far as the one who makes it may give it.
func (s *Service) listOpened(ctx context.Context, list, by uuid.UUID) (ListOpened, error) {
	const count = `select count(*) filter (where may and x.lit) as open,
		count(*) filter (where may and not x.lit) as dark, count(*) filter (where not may) as others
		from listed_release x join recording r on r.id = x.recording_id and r.deleted_at is null
		cross join lateral (select x.own or exists (select 1 from teaches t where t.person_id = $2
			and t.course_id = x.own_course_id) as may) g where x.playlist_id = $1`
	out, err := postgres.One[ListOpened](ctx, s.DB, count, list, by)
	if err != nil {
		return out, fmt.Errorf("count what a link to a playlist opens: %w", err)
	}
	return out, nil
}
