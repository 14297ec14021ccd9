package audience

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/event"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/passhash"
	"latelantern/internal/platform/postgres"
)

// Kind is whom an opening is for.
type Kind string

const (
	ForPeople   Kind = "people"   // who are named
	ForEveryone Kind = "everyone" // who have an account here
	ForHolders  Kind = "link"     // whoever has its link
)

// Opening is a right to watch a recording beside any course.
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

func (f *OpeningForm) check(now time.Time, end time.Time) error {
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
	faults.When(f.Kind != ForPeople && f.Kind != ForEveryone && f.Kind != ForHolders, "kind", "opening.kind")
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
	ID     uuid.UUID
	Kind   Kind
	Name   string
	Uses   []string
	Phrase bool
	Most   *int
	Turn   int
	By     string
	MadeAt time.Time
	own
	windowRow
}

// own is what an opening needs to know of the release of a recording to its own course.
type own struct {
	RecordingID uuid.UUID
	CourseID    uuid.UUID
	Code        string
	EditionID   *uuid.UUID
	LectureEnd  time.Time
	LastDay     time.Time
	Zone        string
}

// ownColumns are that, of the opening o, ownJoined to the recording that it opens.
const (
	ownColumns = `r.id as recording_id, l.course_id, k.code, r.edition_id, ` + lectureEnd + ` as lecture_end,
		t.last_day,
		t.zone`
	ownFrom   = ` from opening o` + ownJoined
	ownJoined = ` join recorded r on r.id = o.recording_id
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

// Openings are those of a recording that were not taken back, from the first on.
func (s *Service) Openings(ctx context.Context, recording uuid.UUID) ([]Opening, error) {
	const query = `select o.id, o.kind, o.name, o.uses, o.phrase <> '' as phrase, o.most, o.turn,
		coalesce(p.name, '') as by, o.made_at, ` + ownColumns + `, ` + windowColumns + ownFrom + `
		left join person p on p.id = o.made_by where o.recording_id = $1 and o.ended_at is null
			order by o.made_at, o.id`
	rows, err := postgres.All[openingRow](ctx, s.DB, query, recording)
	if err != nil {
		return nil, fmt.Errorf("list the openings of a recording: %w", err)
	}
	const people = `select o.id as opening_id, p.id as person_id, p.name, c.came_at as at from opening o
		join opening_person c on c.opening_id = o.id and c.turn = o.turn join person p on p.id = c.person_id
		where o.recording_id = $1 and o.ended_at is null order by p.name, p.id`
	who, err := postgres.All[struct {
		OpeningID uuid.UUID
		Came
	}](ctx, s.DB, people, recording)
	if err != nil {
		return nil, fmt.Errorf("list for whom a recording is open: %w", err)
	}
	out := make([]Opening, 0, len(rows))
	for _, x := range rows {
		o := Opening{ID: x.ID, Kind: x.Kind, Name: x.Name, Opening: openingOf(x.Uses, x.windowRow), Phrase: x.Phrase,
			Most: x.Most, By: x.By, MadeAt: x.MadeAt}
		release, err := x.release()
		if err != nil {
			return nil, err
		}
		o.Opens = o.Opening.Opens(release)
		if at, ends := o.Opening.Closes(release); ends {
			o.Closes = &at
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

// Open opens a recording beside any course, and has it published unless it is. Its error is ErrUnknown, ErrInvalid, or
// of type fault.Faults for what is wrong with the form.
func (s *Service) Open(ctx context.Context, recording, by uuid.UUID, f OpeningForm) (uuid.UUID, error) {
	id := uuid.Must(uuid.NewV7())
	return id, s.open(ctx, recording, &f, func(tx pgx.Tx, phrase string) error {
		const shown = `select exists (select 1 from shown_recording where recording_id = $1)`
		was, err := postgres.Value[bool](ctx, tx, shown, recording)
		if err != nil {
			return fmt.Errorf("look whether a recording is shown: %w", err)
		}
		if err := s.Editions.Want(ctx, tx, recording, by, was); err != nil {
			return err
		}
		w := rowOf(f.Window)
		const keep = `insert into opening (id, recording_id, kind, name, uses, ` + windowColumns + `, phrase, most,
			made_by,
			made_at) values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15)`
		if _, err := tx.Exec(ctx, keep, id, recording, f.Kind, f.Name, f.Uses.Names(), w.FromKind, w.FromAt,
			w.DaysAfterLecture, w.UntilKind, w.UntilAt, w.DaysAfterTerm, phrase, f.Most, by,
			s.Clock.Now()); err != nil {
			return fmt.Errorf("open a recording: %w", err)
		}
		if err := s.namePeople(ctx, tx, id, &f); err != nil {
			return err
		}
		return s.keepOpening(ctx, tx, id, by, WasOpened)
	})
}

// ChangeOpening makes an opening what a form says, for everyone for whom it is. Its kind stays. Its errors are those of
// Open.
func (s *Service) ChangeOpening(ctx context.Context, recording, id, by uuid.UUID, f OpeningForm) error {
	const is = `select kind from opening where id = $1 and recording_id = $2 and ended_at is null`
	kind, err := postgres.Value[Kind](ctx, s.DB, is, id, recording)
	if errors.Is(err, pgx.ErrNoRows) {
		return ErrUnknown
	}
	if err != nil {
		return fmt.Errorf("look up an opening: %w", err)
	}
	f.Kind = kind
	return s.open(ctx, recording, &f, func(tx pgx.Tx, phrase string) error {
		w := rowOf(f.Window)
		const change = `update opening set name = $2, uses = $3, from_kind = $4, from_at = $5, days_after_lecture = $6,
			until_kind = $7, until_at = $8, days_after_term = $9, most = $10,
			phrase = case when $11 then $12 else phrase end where id = $1 and ended_at is null`
		tag, err := tx.Exec(ctx, change, id, f.Name, f.Uses.Names(), w.FromKind, w.FromAt, w.DaysAfterLecture,
			w.UntilKind, w.UntilAt, w.DaysAfterTerm, f.Most, f.Phrase != nil, phrase)
		if err != nil {
			return fmt.Errorf("change an opening: %w", err)
		}
		if tag.RowsAffected() == 0 {
			return ErrUnknown
		}
		if err := s.namePeople(ctx, tx, id, &f); err != nil {
			return err
		}
		return s.keepOpening(ctx, tx, id, by, WasChanged)
	})
}

// openedCourse is the course of a recording that is opened.
type openedCourse struct {
	CourseID uuid.UUID
	LastDay  time.Time
	Zone     string
}

// open does something to the openings of a recording for which a form is right, and tells of it.
func (s *Service) open(ctx context.Context, recording uuid.UUID, f *OpeningForm,
	do func(tx pgx.Tx, phrase string) error) error {
	const of = `select l.course_id, t.last_day, t.zone from recording r join lecture l on l.id = r.lecture_id
		join course k on k.id = l.course_id join term t on t.id = k.term_id
		where r.id = $1 and r.deleted_at is null for no key update of r`
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		x, err := postgres.One[openedCourse](ctx, tx, of, recording)
		if errors.Is(err, pgx.ErrNoRows) {
			return ErrUnknown
		}
		if err != nil {
			return fmt.Errorf("hold a recording: %w", err)
		}
		end, err := termEnd(x.LastDay, x.Zone)
		if err != nil {
			return err
		}
		if err := f.check(s.Clock.Now(), end); err != nil {
			return err
		}
		phrase := ""
		if f.Phrase != nil && *f.Phrase != "" {
			if phrase, err = passhash.Of(*f.Phrase); err != nil {
				return err
			}
		}
		if err := do(tx, phrase); err != nil {
			return err
		}
		return postgres.Notify(ctx, tx, postgres.Event{About: event.Rule, Course: x.CourseID, Recording: recording})
	})
}

// namePeople names those for whom an opening is, in place of any before.
func (s *Service) namePeople(ctx context.Context, tx pgx.Tx, id uuid.UUID, f *OpeningForm) error {
	if f.Kind != ForPeople {
		return nil
	}
	const others = `delete from opening_person where opening_id = $1 and not (person_id = any($2))`
	if _, err := tx.Exec(ctx, others, id, f.People); err != nil {
		return fmt.Errorf("take someone from an opening: %w", err)
	}
	const name = `insert into opening_person (opening_id, person_id)
		select $1, p.id from person_account p where p.id = any($2) and not p.guest
		on conflict (opening_id, person_id) do update set turn = 1`
	tag, err := tx.Exec(ctx, name, id, f.People)
	if err != nil {
		return fmt.Errorf("name for whom an opening is: %w", err)
	}
	if tag.RowsAffected() == 0 {
		return fault.One("people", "opening.people")
	}
	return nil
}

// TakeBack takes an opening back, or with again gives it as it was. Its error is ErrUnknown.
func (s *Service) TakeBack(ctx context.Context, recording, id, by uuid.UUID, again bool) error {
	const end = `update opening o set ended_at = case when $4 then null else $3::timestamptz end,
			ended_by = case when $4 then null else $5::uuid end
		from recording r join lecture l on l.id = r.lecture_id
		where o.id = $1 and o.recording_id = $2 and r.id = o.recording_id and (o.ended_at is null) <> $4
		returning l.course_id`
	what := WasTakenBack
	if again {
		what = WasGivenAgain
	}
	return s.tellOpening(ctx, recording, id, by, what, end, id, recording, s.Clock.Now(), again, by)
}

// Renew gives a link a new address: whoever came by the old one is out. Its error is ErrUnknown for no link.
func (s *Service) Renew(ctx context.Context, recording, id, by uuid.UUID) error {
	const renew = `update opening o set turn = turn + 1 from recording r join lecture l on l.id = r.lecture_id
		where o.id = $1 and o.recording_id = $2 and r.id = o.recording_id and o.ended_at is null and o.kind = 'link'
		returning l.course_id`
	return s.tellOpening(ctx, recording, id, by, WasRenewed, renew, id, recording)
}

// tellOpening does a statement that gives the course of the recording, keeps what it did, and tells of it.
func (s *Service) tellOpening(ctx context.Context, recording, id, by uuid.UUID, what What, sql string,
	args ...any) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		course, err := postgres.Value[uuid.UUID](ctx, tx, sql, args...)
		if errors.Is(err, pgx.ErrNoRows) {
			return ErrUnknown
		}
		if err != nil {
			return fmt.Errorf("change an opening: %w", err)
		}
		if err := s.keepOpening(ctx, tx, id, by, what); err != nil {
			return err
		}
		return postgres.Notify(ctx, tx, postgres.Event{About: event.Rule, Course: course, Recording: recording})
	})
}
