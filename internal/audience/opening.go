package audience

import (
	"context"
	"fmt"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/google/uuid"

	"latelantern/internal/core/fault"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/postgres"
)

// Kind is whom an opening is for.
type Kind string

const (
	ForPeople   Kind = "people"   // who are named
	ForEveryone Kind = "everyone" // who have an account here
	ForHolders  Kind = "link"     // whoever has its link
)

// Opens is what an opening opens, one of both: a recording, or a playlist of a course, and with that whatever stands in
// it and gives light to the course, as far as who made the opening may give it.
type Opens struct {
	Recording uuid.UUID
	Course    uuid.UUID // of the playlist; another's is unknown
	Playlist  uuid.UUID
}

// id is that of the one or the other.
func (o Opens) id() uuid.UUID {
	if o.Playlist != uuid.Nil {
		return o.Playlist
	}
	return o.Recording
}

// opensIs says in SQL that the opening o opens what a parameter names.
func opensIs(parameter string) string {
	return `(o.recording_id = ` + parameter + ` or o.playlist_id = ` + parameter + `)`
}

// Opening is a right to watch a recording, or what stands in a playlist, beside any course.
type Opening struct {
	ID   uuid.UUID
	Kind Kind
	Name string // of a link
	viewing.Opening
	People []Came // who are named, or came by the link as it is now, by name
	Phrase bool   // a link asks for a pass phrase
	Most   *int   // people that may come by a link; nil for any number
	Link   string // its address
	By     string // name of who made it
	MadeAt time.Time
	Opens  time.Time  // the zero time for at once
	Closes *time.Time // nil for never
}

// Came is someone for whom an opening is.
type Came struct {
	PersonID uuid.UUID
	Name     string
	At       *time.Time // when they came by the link; nil for who was named
}

// OpeningForm is an opening as someone enters it.
type OpeningForm struct {
	Kind Kind
	Name string // of a link, 1 to 200 characters
	viewing.Opening
	People []uuid.UUID // for ForPeople, at least one; with an account here
	Phrase *string     // nil for as it was, of a new one for none; empty for none
	Most   *int        // 1 to 10,000
}

// leastPhrase is how many characters a pass phrase has.
const leastPhrase = 8

// mostPeople is how many may be named, or come by one link.
const mostPeople = 10_000

func (f *OpeningForm) check(what Opens, now time.Time, end time.Time) error {
	f.Name = strings.Join(strings.Fields(f.Name), " ")
	var faults fault.Faults
	if n := utf8.RuneCountInString(f.Name); f.Kind == ForHolders {
		faults.When(n == 0 || n > 200, "name", "opening.name")
		faults.When(f.Phrase != nil && *f.Phrase != "" && utf8.RuneCountInString(*f.Phrase) < leastPhrase, "phrase",
			"opening.phrase", "n", leastPhrase)
		faults.When(f.Phrase != nil && len(*f.Phrase) > 1000, "phrase", "password.long")
		faults.When(f.Most != nil && (*f.Most < 1 || *f.Most > mostPeople), "most", "opening.most", "n", mostPeople)
	} else {
		f.Name, f.Phrase, f.Most = "", nil, nil
	}
	faults.When(f.Kind == ForPeople && (len(f.People) == 0 || len(f.People) > mostPeople), "people", "opening.people")
	faults.When(f.Kind != ForPeople && f.Kind != ForEveryone && f.Kind != ForHolders ||
		what.Playlist != uuid.Nil && f.Kind != ForHolders, "kind", "opening.kind")
	if err := faults.Err(); err != nil {
		return err
	}
	if err := f.Check(); err != nil {
		return fmt.Errorf("%w: %w", ErrInvalid, err)
	}
	closes, ends := f.Closes(viewing.Release{TermEnd: end})
	switch {
	case ends && !now.Before(closes):
		return fmt.Errorf("%w: %w", ErrInvalid, fault.Say("rule.past"))
	case ends && f.From == viewing.FromDate && !f.FromAt.Before(closes):
		return fmt.Errorf("%w: %w", ErrInvalid, fault.Say("rule.never"))
	}
	return nil
}

type openingRow struct {
	ID         uuid.UUID
	Kind       Kind
	Name       string
	Uses       []string
	Phrase     bool
	Most       *int
	Turn       int
	By         string
	MadeAt     time.Time
	LectureEnd *time.Time // of a recording; nil for a playlist, in which each has its own
	LastDay    time.Time
	Zone       string
	windowRow
}

// own is what an opening needs to know of the release of a recording to its own course.
type own struct {
	List        bool // it is open by the link of a playlist
	RecordingID uuid.UUID
	CourseID    uuid.UUID
	Code        string
	EditionID   *uuid.UUID
	LectureEnd  time.Time
	LastDay     time.Time
	Zone        string
}

// ownColumns are that, of the opening o, ownJoined to a recording w that it opens.
const (
	ownColumns = `o.playlist_id is not null as list, r.id as recording_id, l.course_id, k.code, r.edition_id,
		` + lectureEnd + ` as lecture_end, t.last_day, t.zone`
	ownFrom   = ` from opened_recording w join opening o on o.id = w.opening_id` + ownJoined
	ownJoined = ` join recorded r on r.id = w.recording_id
		join lecture l on l.id = r.lecture_id` + stoppedFrom + `
		join course k on k.id = l.course_id join term t on t.id = k.term_id`
)

func (x own) release() (viewing.Release, error) {
	end, err := termEnd(x.LastDay, x.Zone)
	return viewing.Release{Own: true, Watchable: x.EditionID != nil, LectureEnd: x.LectureEnd, TermEnd: end}, err
}

func openingOf(uses []string, w windowRow) viewing.Opening {
	set, _ := viewing.UsesOf(uses...) // what is none lets nobody in
	return viewing.Opening{Uses: set, Window: w.window()}
}

// Openings are those of a recording or a playlist that were not taken back, from the first on.
func (s *Service) Openings(ctx context.Context, of Opens) ([]Opening, error) {
	query := `select o.id, o.kind, o.name, o.uses, o.phrase <> '' as phrase, o.most, o.turn,
		coalesce(p.name, '') as by, o.made_at, ` + lectureEnd + ` as lecture_end, t.last_day, t.zone, ` +
		windowColumns + ` from opening o
		join opening_course c on c.opening_id = o.id join course k on k.id = c.course_id
		join term t on t.id = k.term_id left join recording r on r.id = o.recording_id
		left join lecture l on l.id = r.lecture_id` + stoppedFrom + `
		left join person p on p.id = o.made_by where ` + opensIs("$1") + ` and o.ended_at is null
		order by o.made_at, o.id`
	rows, err := postgres.All[openingRow](ctx, s.DB, query, of.id())
	if err != nil {
		return nil, fmt.Errorf("list openings: %w", err)
	}
	people := `select o.id as opening_id, p.id as person_id, p.name, c.came_at as at from opening o
		join opening_person c on c.opening_id = o.id and c.turn = o.turn join person p on p.id = c.person_id
		where ` + opensIs("$1") + ` and o.ended_at is null order by p.name, p.id`
	who, err := postgres.All[struct {
		OpeningID uuid.UUID
		Came
	}](ctx, s.DB, people, of.id())
	if err != nil {
		return nil, fmt.Errorf("list for whom openings are: %w", err)
	}
	out := make([]Opening, 0, len(rows))
	for _, x := range rows {
		o, err := x.opening()
		if err != nil {
			return nil, err
		}
		if x.Kind == ForHolders {
			o.Link = s.Public + "/open/" + s.linkKey(x.ID, x.Turn)
		}
		for _, p := range who {
			if p.OpeningID == x.ID {
				o.People = append(o.People, p.Came)
			}
		}
		out = append(out, o)
	}
	return out, nil
}

// opening is what a row says. Of a playlist whose recordings open after their lectures it does not say when.
func (x openingRow) opening() (Opening, error) {
	o := Opening{ID: x.ID, Kind: x.Kind, Name: x.Name, Opening: openingOf(x.Uses, x.windowRow), Phrase: x.Phrase,
		Most: x.Most, By: x.By, MadeAt: x.MadeAt}
	end, err := termEnd(x.LastDay, x.Zone)
	if err != nil {
		return o, err
	}
	release := viewing.Release{TermEnd: end}
	if x.LectureEnd != nil {
		release.LectureEnd = *x.LectureEnd
	}
	if x.LectureEnd != nil || o.From == viewing.FromDate {
		o.Opens = o.Opening.Opens(release)
	}
	if at, ends := o.Opening.Closes(release); ends {
		o.Closes = &at
	}
	return o, nil
}
