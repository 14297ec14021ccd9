package demo

import (
	"context"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"

	"latelantern/internal/assemble"
	"latelantern/internal/core/timetable"
	"latelantern/internal/platform/postgres"
)

// crowd is a large invented college: courses with a lecture in each week, of which those of the past were captured and
// have come as far as they do. Nothing of what was captured is there: its recordings can be looked at, not watched.
type crowd struct {
	term     uuid.UUID
	zone     string          // of the term
	mondays  []timetable.Day // of its weeks of teaching, once for each lecture that a course has in one
	courses  int             // at most 2,000, those that are there among them
	students int             // in each course
	now      time.Time       // what ended before is past
}

// crowdSubjects and crowdForms make 400 courses of different titles; more of them differ in their parts.
var (
	crowdSubjects = []string{"Coastal Ecology", "Harbour Law", "Marine Insurance", "Rope and Rigging", "Sea Fisheries",
		"Shipwreck Archaeology", "Ocean Chemistry", "Island History", "Salt Marshes", "Lighthouse Building",
		"Cold Seas", "Plankton", "Deep Currents", "Diving Medicine", "Net Making", "Shore Birds", "Sand and Silt",
		"Sail Cloth", "Radio at Sea", "Port Planning"}
	crowdForms = []string{"Introduction to %s", "%s in Practice", "Field Methods in %s", "Seminar: %s",
		"%s for Beginners", "Advanced %s", "History of %s", "Law and %s", "Figures in %s", "Writing on %s",
		"Teaching %s", "The Language of %s", "%s: a Workshop", "Ethics of %s", "Risks in %s", "The Future of %s",
		"Case Studies in %s", "Instruments of %s", "%s and the Public", "Research in %s"}
)

// crowdTitles are the codes and titles of the first n courses.
func crowdTitles(n int) (codes, titles []string) {
	for i := range n {
		subject, form := crowdSubjects[i%len(crowdSubjects)], i/len(crowdSubjects)
		title := fmt.Sprintf(crowdForms[form%len(crowdForms)], subject)
		if part := form / len(crowdForms); part > 0 {
			title += " " + strings.Repeat("I", part+1)
		}
		letters := strings.ToUpper(strings.ReplaceAll(subject, " ", ""))[:3]
		codes = append(codes, fmt.Sprintf("%s %d", letters, 400+form))
		titles = append(titles, title)
	}
	return codes, titles
}

// Size is how large a college is.
type Size struct {
	Courses  int // at least so many, of those that are there too; up to 2,000
	Students int // in each course
	AWeek    int // lectures of a course; 0 for one
}

// Fill has the current term of a house be of a size. Nothing of what the courses hold that it adds can be watched.
func Fill(ctx context.Context, h *assemble.House, size Size) error {
	term, err := h.Schedule.CurrentTerm(ctx)
	if err != nil {
		return err
	}
	c := crowd{term: term.ID, zone: term.Zone.String(), courses: size.Courses, students: size.Students,
		now: h.Clock.Now()}
	for _, w := range term.Weeks {
		for range max(1, size.AWeek) {
			if w.Number > 0 {
				c.mondays = append(c.mondays, w.Monday)
			}
		}
	}
	return c.load(ctx, h.DB)
}

// load adds what the college lacks of its courses, all or nothing.
func (c crowd) load(ctx context.Context, db *pgxpool.Pool) error {
	err := postgres.InTx(ctx, db, func(tx pgx.Tx) error {
		there, err := postgres.Value[int](ctx, tx, `select count(*) from course`)
		if err != nil || there >= c.courses {
			return err
		}
		codes, titles := crowdTitles(c.courses - there)
		with := pgx.NamedArgs{"term": c.term, "zone": c.zone, "mondays": c.mondays, "now": c.now, "codes": codes,
			"titles": titles, "given": given, "named": named, "students": c.students,
			"people": (c.courses - there) * c.students / 5, "lecturers": (c.courses - there + 3) / 4}
		for i, statement := range crowdSQL {
			if _, err := tx.Exec(ctx, statement, with); err != nil {
				return fmt.Errorf("statement %d: %w", i+1, err)
			}
		}
		return nil
	})
	if err != nil {
		return fmt.Errorf("load many courses: %w", err)
	}
	if _, err := db.Exec(ctx, `vacuum analyze`); err != nil { // as the database does by itself after a while
		return fmt.Errorf("count what was loaded: %w", err)
	}
	return nil
}

// crowdSQL fills tables that are dropped at the end of the transaction, and from them the college. The stage of a
// lecture is 0 ahead or not captured, 1 called off, 2 captured, 3 trimmed, 4 titled, 5 in the playlist, 6 lit.
var crowdSQL = []string{
	`create temp table crowd_course on commit drop as
		select gen_random_uuid() as id, gen_random_uuid() as playlist, n::int, code, title
		from unnest(@codes::text[], @titles::text[]) with ordinality as x (code, title, n)`,
	`create temp table crowd_lecture on commit drop as
		select gen_random_uuid() as id, gen_random_uuid() as recording, gen_random_uuid() as capture,
			gen_random_uuid() as cut_list, gen_random_uuid() as edition, id as course_id, playlist, n, week::int,
			starts_at, starts_at + interval '90 minutes' as ends_at,
			case when (n * 7 + week * 3) % 31 = 0 then 1
				when starts_at + interval '90 minutes' >= @now::timestamptz or h < 4 then 0
				when starts_at < @now::timestamptz - interval '10 days' and h < 94 or h < 60 then 6
				when h < 72 then 2 when h < 80 then 3 when h < 88 then 4 else 5 end as stage
		from crowd_course, unnest(@mondays::date[]) with ordinality as w (monday, week),
		lateral (select (n * 37 + week * 53) % 100 as h,
			(monday + n % 5 + case when n / 5 % 2 = 0 then time '08:15' else time '13:15' end)
				at time zone @zone as starts_at) x`,
	`insert into course (id, term_id, code, title) select id, @term, code, title from crowd_course`,
	`insert into hall (id, name) select gen_random_uuid(), 'Quay ' || n from generate_series(1, 40) n
		on conflict do nothing`,
	`create temp table crowd_person on commit drop as
		select gen_random_uuid() as id, n, n > @people::int as teaches,
			(@given::text[])[1 + n % 18] || ' ' || (@named::text[])[1 + n / 18 % 11] as name
		from generate_series(1, @people::int + @lecturers::int) n`,
	`insert into person (id, email, name)
		select id, replace(lower(name), ' ', '.') || '.' || n || '@crowd.example', name from crowd_person`,
	`insert into membership (course_id, person_id, role, group_name)
		select c.id, p.id, 'student', 'G' || (p.n / 80) % 4 from crowd_course c
		join crowd_person p on not p.teaches and p.n % greatest(@people::int / @students::int, 1)
			= c.n % greatest(@people::int / @students::int, 1)`,
	`insert into membership (course_id, person_id, role) select c.id, p.id, 'lecturer' from crowd_course c
		join crowd_person p on p.n = @people::int + 1 + (c.n - 1) / 4`,
	`insert into lecture (id, course_id, hall_id, starts_at, ends_at, topic, called_off_at)
		select l.id, course_id, h.id, starts_at, ends_at, 'Topic of week ' || week,
			case when stage = 1 then starts_at - interval '1 day' end
		from crowd_lecture l left join hall h on h.name = 'Quay ' || (1 + n / 10 % 40)`,
	`delete from crowd_lecture where stage < 2`,
	`insert into capture (id, lecture_id, source, started_at, stopped_at)
		select capture, id, 'hall', starts_at, ends_at from crowd_lecture`,
	`insert into track (id, capture_id, media_type, state, arrived_at, video, audio, packed_ms, packed_at)
		select gen_random_uuid(), capture, 'video/webm', 'ready', ends_at, true, true, 5400000, ends_at
		from crowd_lecture`,
	`insert into recording (id, lecture_id, title, titled_at, created_at, origin_at)
		select recording, l.id, l.topic, case when stage > 3 then l.ends_at end, l.starts_at, l.starts_at
		from crowd_lecture x join lecture l on l.id = x.id`,
	`insert into recording_capture (recording_id, capture_id, position, start_ms)
		select recording, capture, 0, 0 from crowd_lecture`,
	`insert into release (recording_id, course_id, own, made_at)
		select recording, course_id, true, starts_at from crowd_lecture`,
	`insert into cut_list (id, recording_id, struck, made_at)
		select cut_list, recording, '{}', ends_at from crowd_lecture where stage > 2`,
	`insert into recording_cuts (recording_id, cut_list_id)
		select recording, cut_list from crowd_lecture where stage > 2`,
	`insert into playlist (id, course_id, main) select playlist, id, true from crowd_course`,
	`insert into playlist_entry (id, playlist_id, position, recording_id)
		select gen_random_uuid(), playlist, row_number() over (partition by playlist order by week), recording
		from crowd_lecture where stage > 4`,
	`insert into edition (id, recording_id, cut_list_id, state, asked_at)
		select edition, recording, cut_list, 'ready', ends_at from crowd_lecture where stage > 5`,
	`insert into recording_edition (recording_id, edition_id)
		select recording, edition from crowd_lecture where stage > 5`,
	`insert into lighting (id, recording_id, course_id, lit_at)
		select gen_random_uuid(), recording, course_id, ends_at from crowd_lecture where stage > 5`,
	// Their students were told in class.
	`insert into news_silent (course_id, recording_id, made_at)
		select course_id, recording, ends_at from crowd_lecture where stage > 5`,
	`insert into viewing_rule (id, course_id, audience, groups, uses, from_kind, until_kind, made_at)
		select gen_random_uuid(), id, case when n % 4 = 0 then 'groups' else 'everyone' end, '{G0,G1,G2}',
			'{watch,read,take_video,take_small,take_sound,take_text}',
			'lecture', 'term', @now::timestamptz - interval '30 days' from crowd_course where n % 29 <> 0`,
}
