package roster

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/enrol"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/viewing"
	"latelantern/internal/format/rosterfile"
	"latelantern/internal/platform/postgres"
)

// ErrStale says that the roster changed between the look at an import and its confirmation.
var ErrStale = fault.Code("stale")

// ErrFaulty says that an import has faults, so that nothing of it is applied.
var ErrFaulty = fault.Code("faulty")

// Import is what files would do to the roster of a term.
type Import struct {
	enrol.Changes
	Faults    []rosterfile.Fault // with any of them nothing is applied; the first of them
	FaultsAll int
	Notes     []rosterfile.Fault // what would be left out on purpose; the first of it
	NotesAll  int
	Digest    string // of the changes; who confirms names it
	Effect    *Effect
}

// Effect is what an import would change of who can watch; nil when it is not worked out: for more than mostEffect
// students, or with faults.
type Effect struct {
	Gain, Lose []string // names of students who could watch more, or no longer what they can watch now
}

// mostEffect is for how many students it is worked out what they could watch.
const mostEffect = 3000

// Watch is what an import needs of who can watch.
type Watch interface {
	// Watchable are the recordings that students with these addresses can watch as the roster is for q.
	Watchable(ctx context.Context, q postgres.Querier, emails []string) (map[string][]uuid.UUID, error)
}

// PreviewImport says what importing files would do. Only coordinators add courses and rename
// people; others import into courses they teach.
func (s *Service) PreviewImport(ctx context.Context, term uuid.UUID, by Person,
	files []rosterfile.File) (Import, error) {
	read := rosterfile.Files(files, s.Clock.Now().Format(time.DateOnly))
	out, err := s.compare(ctx, s.DB, term, by, read)
	if err != nil || len(out.Faults) > 0 {
		return out, err
	}
	out.Effect, err = s.effect(ctx, term, out.Changes)
	return out, err
}

// errLooked ends a look at what would be.
var errLooked = errors.New("looked")

// effect applies changes, looks who can watch what, and takes all of it back.
func (s *Service) effect(ctx context.Context, term uuid.UUID, c enrol.Changes) (*Effect, error) {
	emails := students(c)
	if len(emails) > mostEffect {
		return nil, nil
	}
	var out Effect
	err := postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		before, err := s.Watch.Watchable(ctx, tx, emails)
		if err == nil {
			err = s.apply(ctx, tx, term, c)
		}
		if err != nil {
			return err
		}
		after, err := s.Watch.Watchable(ctx, tx, emails)
		if err != nil {
			return err
		}
		const names = `select email, name from person where email = any($1) order by name, email`
		people, err := postgres.All[enrol.Person](ctx, tx, names, emails)
		if err != nil {
			return fmt.Errorf("list whom an import is about: %w", err)
		}
		for _, p := range people {
			if missing(after[p.Email], before[p.Email]) {
				out.Gain = append(out.Gain, p.Name)
			}
			if missing(before[p.Email], after[p.Email]) {
				out.Lose = append(out.Lose, p.Name)
			}
		}
		return errLooked
	})
	if errors.Is(err, errLooked) {
		err = nil
	}
	return &out, err
}

// missing tells whether any of some is none of others.
func missing(some, others []uuid.UUID) bool {
	in := make(map[uuid.UUID]bool, len(others))
	for _, id := range others {
		in[id] = true
	}
	return slices.ContainsFunc(some, func(id uuid.UUID) bool { return !in[id] })
}

// students are the addresses of those whose seat as a student changes; who teaches before or after is none of them.
func students(c enrol.Changes) (emails []string) {
	for _, x := range slices.Concat(c.AddSeats, c.RemoveSeats) {
		if x.Role == viewing.Student {
			emails = append(emails, x.Email)
		}
	}
	for _, x := range c.ChangeSeats {
		if x.From.Role == viewing.Student && x.To.Role == viewing.Student {
			emails = append(emails, x.To.Email)
		}
	}
	slices.Sort(emails)
	return slices.Compact(emails)
}

func (s *Service) compare(ctx context.Context, q postgres.Querier, term uuid.UUID, by Person,
	read rosterfile.Read) (Import, error) {
	out := Import{Faults: read.Faults, FaultsAll: read.FaultsAll, Notes: read.Notes, NotesAll: read.NotesAll}
	is, err := s.current(ctx, q, term, read.Roster)
	if err != nil {
		return out, err
	}
	out.Changes = enrol.Compare(is, read.Roster)
	if !by.Coordinator {
		faults, err := s.beyond(ctx, q, term, by, read, out.Changes)
		if err != nil {
			return out, err
		}
		if len(faults) > 0 { // and nothing else is said
			return Import{Faults: faults, FaultsAll: len(faults)}, nil
		}
		out.Rename = nil
		out.AddPeople = slices.DeleteFunc(out.AddPeople,
			func(p enrol.Person) bool { return !seated(read.Roster, p.Email) })
	}
	b, err := json.Marshal([]any{term, out.Changes})
	if err != nil {
		return out, fmt.Errorf("write the changes of an import: %w", err)
	}
	sum := sha256.Sum256(b)
	out.Digest = hex.EncodeToString(sum[:])
	return out, nil
}

// current is the roster as it stands, as far as wanted speaks of it. Courses are known by
// their code in any case of letters; wanted is brought to the case that stands.
func (s *Service) current(ctx context.Context, q postgres.Querier, term uuid.UUID,
	wanted enrol.Roster) (enrol.Roster, error) {
	is := enrol.New()
	courses, err := postgres.All[struct{ Code, Title string }](ctx, q,
		`select code, title from course where term_id = $1`, term)
	if err != nil {
		return is, fmt.Errorf("list the courses of a term: %w", err)
	}
	stands := map[string]string{}
	for _, c := range courses {
		is.Courses[c.Code] = c.Title
		stands[strings.ToLower(c.Code)] = c.Code
	}
	for code, title := range wanted.Courses {
		if now, ok := stands[strings.ToLower(code)]; ok && now != code {
			delete(wanted.Courses, code)
			wanted.Courses[now] = title
			for key, seat := range wanted.Seats {
				if key.Course == code {
					delete(wanted.Seats, key)
					seat.Course = now
					wanted.Seats[enrol.Key{Course: now, Email: key.Email}] = seat
				}
			}
		}
	}
	emails := make([]string, 0, len(wanted.People))
	for email := range wanted.People {
		emails = append(emails, email)
	}
	people, err := postgres.All[enrol.Person](ctx, q, `select email, name from person where email = any($1)`, emails)
	if err != nil {
		return is, fmt.Errorf("list people by their addresses: %w", err)
	}
	for _, p := range people {
		is.People[p.Email] = p.Name
	}
	codes := make([]string, 0, len(wanted.Courses))
	for code := range wanted.Courses {
		codes = append(codes, code)
	}
	const seats = `select c.code as course, p.email, m.role, m.group_name as "group" from membership m
		join course c on c.id = m.course_id join person p on p.id = m.person_id
		where c.term_id = $1 and c.code = any($2) and p.email is not null`
	list, err := postgres.All[enrol.Seat](ctx, q, seats, term, codes)
	if err != nil {
		return is, fmt.Errorf("list who is in which course: %w", err)
	}
	for _, x := range list {
		is.Seats[enrol.Key{Course: x.Course, Email: x.Email}] = x
	}
	return is, nil
}

// seated reports whether a roster gives anyone with an address a role.
func seated(r enrol.Roster, email string) bool {
	for key := range r.Seats {
		if key.Email == email {
			return true
		}
	}
	return false
}

// beyond finds fault with what goes beyond the rights of someone who is no coordinator: courses that they do not
// teach, and who teaches, where they only assist. Whether there is such a course is not said.
func (s *Service) beyond(
	ctx context.Context, q postgres.Querier, term uuid.UUID, by Person, read rosterfile.Read, c enrol.Changes,
) (out []rosterfile.Fault, err error) {
	mine, err := postgres.All[struct {
		Code string
		Role viewing.Role
	}](ctx, q, `select c.code, m.role from course c join membership m on m.course_id = c.id
		where c.term_id = $1 and m.person_id = $2 and m.role in ('lecturer', 'assistant')`, term, by.ID)
	if err != nil {
		return nil, fmt.Errorf("list the courses someone teaches: %w", err)
	}
	own := map[string]viewing.Role{}
	for _, c := range mine {
		own[c.Code] = c.Role
	}
	at := map[string]rosterfile.Fault{}
	for key, where := range read.At {
		if old, ok := at[key.Course]; !ok || where.Line < old.Line {
			at[key.Course] = where
		}
	}
	say := func(course string, code fault.Code) {
		x := at[course]
		x.Column, x.Text = "course", fault.Say(code, "course", course)
		out = append(out, x)
	}
	for _, course := range c.NamedCourses {
		if own[course] == "" && len(out) < rosterfile.MostTold {
			say(course, "roster.not_yours")
		}
	}
	if len(out) > 0 {
		return out, nil
	}
	told := map[string]bool{}
	look := func(course string, roles ...viewing.Role) {
		for _, role := range roles {
			if !enrol.May(own[course], role) && !told[course] {
				told[course] = true
				say(course, "roster.teachers")
			}
		}
	}
	for _, x := range c.AddSeats {
		look(x.Course, x.Role)
	}
	for _, x := range c.ChangeSeats {
		look(x.To.Course, x.From.Role, x.To.Role)
	}
	for _, x := range c.RemoveSeats {
		look(x.Course, x.Role)
	}
	return out, nil
}

// ApplyImport applies files in one transaction, if they still change just what the digest of
// the preview says. Its error is ErrStale when they do not, and ErrFaulty when they have faults.
func (s *Service) ApplyImport(ctx context.Context, term uuid.UUID, by Person, files []rosterfile.File,
	digest string) (Import, error) {
	read := rosterfile.Files(files, s.Clock.Now().Format(time.DateOnly))
	var out Import
	err := postgres.InTx(ctx, s.DB, func(tx pgx.Tx) (err error) {
		if _, err := tx.Exec(ctx, `lock table membership in share row exclusive mode`); err != nil {
			return fmt.Errorf("hold the roster: %w", err)
		}
		if out, err = s.compare(ctx, tx, term, by, read); err != nil {
			return err
		}
		if len(out.Faults) > 0 {
			return ErrFaulty
		}
		if out.Digest != digest {
			return ErrStale
		}
		return s.apply(ctx, tx, term, out.Changes)
	})
	return out, err
}

// apply writes changes, each kind in one statement over rows that were copied in.
func (s *Service) apply(ctx context.Context, tx pgx.Tx, term uuid.UUID, c enrol.Changes) error {
	const tables = `create temporary table new_person (id uuid, email text, name text) on commit drop;
		create temporary table new_course (id uuid, code text, title text) on commit drop;
		create temporary table new_seat (code text, email text, role text, group_name text, gone boolean)
		on commit drop`
	if _, err := tx.Exec(ctx, tables); err != nil {
		return fmt.Errorf("prepare an import: %w", err)
	}
	fill := func(table string, columns []string, rows [][]any) error {
		if _, err := tx.CopyFrom(ctx, pgx.Identifier{table}, columns, pgx.CopyFromRows(rows)); err != nil {
			return fmt.Errorf("copy an import: %w", err)
		}
		return nil
	}
	var people, courses, seats [][]any
	for _, p := range c.AddPeople {
		people = append(people, []any{uuid.Must(uuid.NewV7()), p.Email, p.Name})
	}
	for _, p := range c.Rename {
		people = append(people, []any{uuid.Must(uuid.NewV7()), p.Email, p.To})
	}
	for _, x := range c.AddCourses {
		courses = append(courses, []any{x.Code})
	}
	seat := func(x enrol.Seat, gone bool) {
		seats = append(seats, []any{x.Course, x.Email, string(x.Role), x.Group, gone})
	}
	for _, x := range c.AddSeats {
		seat(x, false)
	}
	for _, x := range c.ChangeSeats {
		seat(x.To, false)
	}
	for _, x := range c.RemoveSeats {
		seat(x, true)
	}
	err := errors.Join(fill("new_person", []string{"id", "email", "name"}, people),
		fill("new_course", []string{"code"}, courses),
		fill("new_seat", []string{"code", "email", "role", "group_name", "gone"}, seats))
	if err == nil {
		err = s.Courses.AddCourses(ctx, tx, term, c.AddCourses)
	}
	if err != nil {
		return err
	}
	for _, sql := range []string{
		`insert into person (id, email, name) select id, email, name from new_person on conflict (email)
			do update set name = excluded.name where $1::uuid is not null`,
		`delete from membership m using new_seat n, course c, person p
			where n.gone and c.term_id = $1 and c.code = n.code and p.email = n.email and m.course_id = c.id
			and m.person_id = p.id`,
		`insert into membership (course_id, person_id, role, group_name) select c.id, p.id, n.role, n.group_name
			from new_seat n join course c on c.term_id = $1 and c.code = n.code join person p on p.email = n.email
			where not n.gone on conflict (course_id, person_id)
			do update set role = excluded.role, group_name = excluded.group_name`,
	} {
		if _, err := tx.Exec(ctx, sql, term); err != nil {
			return fmt.Errorf("apply an import: %w", err)
		}
	}
	const touched = `select c.id from course c
		where c.term_id = $1 and c.code in (select code from new_seat union select code from new_course)`
	return tell(ctx, tx, touched, term)
}

// Entries lists who is in the courses of a term, or in one of them, for writing to a file.
// Guests have no role in it.
func (s *Service) Entries(ctx context.Context, term uuid.UUID, course *uuid.UUID) ([]rosterfile.Entry, error) {
	const query = `select p.id::text as person_id, p.email, p.name, c.id::text as course_id, c.code as course,
		c.title as course_title, m.role, m.group_name as "group"
		from membership m join course c on c.id = m.course_id join person p on p.id = m.person_id
		where c.term_id = $1 and ($2::uuid is null or c.id = $2) and p.email is not null
		order by c.code, m.role, p.name, p.email`
	out, err := postgres.All[rosterfile.Entry](ctx, s.DB, query, term, course)
	if err != nil {
		return nil, fmt.Errorf("list a roster: %w", err)
	}
	return out, nil
}

// Member is a person of a course, as those who teach it see them.
type Member struct {
	ID        uuid.UUID
	Email     string
	Name      string
	Role      viewing.Role
	Group     string
	Active    bool // has an account that can be used
	InvitedAt *time.Time
}

// Members lists the people of a course, those who teach it first.
func (s *Service) Members(ctx context.Context, course uuid.UUID) ([]Member, error) {
	const query = `select p.id, p.email, p.name, m.role, m.group_name as "group", p.active, p.invited_at
		from membership m join person_account p on p.id = m.person_id where m.course_id = $1 and p.email <> ''
		order by case m.role when 'lecturer' then 0 when 'assistant' then 1 else 2 end, p.name, p.email`
	out, err := postgres.All[Member](ctx, s.DB, query, course)
	if err != nil {
		return nil, fmt.Errorf("list the people of a course: %w", err)
	}
	return out, nil
}
