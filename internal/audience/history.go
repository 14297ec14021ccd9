package audience

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/postgres"
)

// What is a kind of change of who may watch.
type What string

const (
	WasRuled      What = "ruled"   // a rule was made, or made another
	WasUnruled    What = "unruled" // a rule was taken away
	WasLit        What = "lit"
	WasDarkened   What = "darkened"
	WasShutOut    What = "shut_out"
	WasLetIn      What = "let_in" // and is no longer shut out
	WasOpened     What = "opened"
	WasChanged    What = "changed" // an opening
	WasTakenBack  What = "taken_back"
	WasGivenAgain What = "given_again"
	WasRenewed    What = "renewed"
)

// Past is one change of who may watch, as it was made.
type Past struct {
	At         time.Time
	By         string // name of who made it; empty when nobody knows
	What       What
	Recordings []Named       // that it was about; none for a whole course or a playlist
	Rule, Was  *viewing.Rule // made, and in place of which; nil for none
	Opening    *Opened       // afterwards
	OpeningWas *Opened       // and before, when it was changed
	Person     string        // name of who was shut out
	Until      *time.Time    // they are shut out; nil for good
}

// Named is a recording by its title.
type Named struct {
	Recording uuid.UUID
	Title     string
}

// Opened is an opening as it once was.
type Opened struct {
	Kind Kind
	Name string // of a link
	viewing.Opening
	People int     // that it named
	List   *string // title of the playlist that it opens, empty for the main one; nil for a recording
}

// pastRow is one row of any of the tables that keep what was changed.
type pastRow struct {
	At          time.Time
	By          string
	What        What
	RecordingID *uuid.UUID
	Title       string
	ID, WasID   *uuid.UUID // of a rule, or of a change of an opening
	Person      string
	Until       *time.Time
}

// History is what was changed of who may watch, in a scope that is no college, the last first: what was done to many
// recordings at once as one. There is more when next is not the zero time: what was changed before that.
func (s *Service) History(ctx context.Context, of Scope, before time.Time) (list []Past, next time.Time, err error) {
	var rows []pastRow
	for _, sql := range pastSQL {
		some, err := postgres.All[pastRow](ctx, s.DB, sql, of.Course, postgres.OrNil(of.Recording), before, pastMost)
		if err != nil {
			return nil, next, fmt.Errorf("read what was changed of who may watch: %w", err)
		}
		if n := len(some); n >= pastMost && some[n-1].At.After(next) {
			next = some[n-1].At
		}
		rows = append(rows, some...)
	}
	rows = slices.DeleteFunc(rows, func(x pastRow) bool { return x.At.Before(next) })
	slices.SortStableFunc(rows, func(a, b pastRow) int {
		return cmp.Or(b.At.Compare(a.At), cmp.Compare(a.What, b.What), cmp.Compare(a.By, b.By))
	})
	list, err = s.pasts(ctx, rows)
	return list, next, err
}

// pastMost is how many changes of each kind are read at once, with those made at the same moment as the last of them.
const pastMost = 60

// pastSQL are what was changed of the course $1, of its recording $2 when that is not null, before $3, the last $4.
var pastSQL = []string{
	`select v.made_at as at, coalesce(p.name, '') as by, 'ruled' as what, v.recording_id,
		coalesce(r.title, '') as title, v.id,
		(select w.id from viewing_rule w where w.course_id = v.course_id and w.id <> v.id
			and w.recording_id is not distinct from v.recording_id and w.ended_at = v.made_at limit 1) as was_id,
		'' as person, null::timestamptz as until
	from viewing_rule v left join recording r on r.id = v.recording_id left join person p on p.id = v.made_by
	where v.course_id = $1 and v.made_at < $3` + pastOf("v.recording_id") + pastLast("v.made_at"),
	`select v.ended_at as at, coalesce(p.name, '') as by, 'unruled' as what, v.recording_id,
		coalesce(r.title, '') as title, null::uuid as id, v.id as was_id, '' as person, null::timestamptz as until
	from viewing_rule v left join recording r on r.id = v.recording_id left join person p on p.id = v.ended_by
	where v.course_id = $1 and v.ended_at < $3 and not exists (select 1 from viewing_rule w
		where w.course_id = v.course_id and w.recording_id is not distinct from v.recording_id and w.id <> v.id
		and w.made_at = v.ended_at)` + pastOf("v.recording_id") + pastLast("v.ended_at"),
	`select x.at, coalesce(p.name, '') as by, x.what, x.recording_id, r.title, null::uuid as id, null::uuid as was_id,
		'' as person, null::timestamptz as until
	from (select lit_at as at, lit_by as who, 'lit' as what, recording_id from lighting where course_id = $1
		union all select darkened_at, darkened_by, 'darkened', recording_id from lighting
		where course_id = $1 and darkened_at is not null) x
	join recording r on r.id = x.recording_id left join person p on p.id = x.who
	where x.at < $3` + pastOf("x.recording_id") + pastLast("x.at"),
	`select x.at, coalesce(p.name, '') as by, x.what, x.recording_id, coalesce(r.title, '') as title, null::uuid as id,
		null::uuid as was_id, w.name as person, x.until
	from (select made_at as at, made_by as who, 'shut_out' as what, recording_id, person_id, until_at as until
		from shut_out where course_id = $1
		union all select ended_at, ended_by, 'let_in', recording_id, person_id, null from shut_out
		where course_id = $1 and ended_at is not null) x
	join person w on w.id = x.person_id left join recording r on r.id = x.recording_id
	left join person p on p.id = x.who
	where x.at < $3` + pastOf("x.recording_id") + pastLast("x.at"),
	`select c.made_at as at, coalesce(p.name, '') as by, c.what, o.recording_id, coalesce(r.title, '') as title, c.id,
		case when c.what = 'changed' then (select w.id from opening_change w where w.opening_id = c.opening_id
			and (w.made_at, w.id) < (c.made_at, c.id) order by w.made_at desc, w.id desc limit 1) end as was_id,
		'' as person, null::timestamptz as until
	from opening_change c join opening o on o.id = c.opening_id join opening_course e on e.opening_id = o.id
	left join recording r on r.id = o.recording_id left join person p on p.id = c.made_by
	where e.course_id = $1 and c.made_at < $3` + pastOf("o.recording_id") + pastLast("c.made_at"),
}

func pastOf(column string) string { return ` and ($2::uuid is null or ` + column + ` = $2)` }

func pastLast(at string) string { return ` order by ` + at + ` desc fetch first $4 rows with ties` }

// pasts are the changes that rows in order are, those as one that one did to many recordings at once.
func (s *Service) pasts(ctx context.Context, rows []pastRow) ([]Past, error) {
	rules, openings, err := s.thoseOnce(ctx, rows)
	if err != nil {
		return nil, err
	}
	var out []Past
	for i, x := range rows {
		p := Past{At: x.At, By: x.By, What: x.What, Person: x.Person, Until: x.Until}
		switch x.What {
		case WasRuled, WasUnruled:
			p.Rule, p.Was = rules[postgres.OrZero(x.ID)], rules[postgres.OrZero(x.WasID)]
		case WasOpened, WasChanged, WasTakenBack, WasGivenAgain, WasRenewed:
			p.Opening, p.OpeningWas = openings[postgres.OrZero(x.ID)], openings[postgres.OrZero(x.WasID)]
		}
		if i > 0 && x.RecordingID != nil && alike(out[len(out)-1], p) {
			last := &out[len(out)-1]
			last.Recordings = append(last.Recordings, Named{*x.RecordingID, x.Title})
			continue
		}
		if x.RecordingID != nil {
			p.Recordings = []Named{{*x.RecordingID, x.Title}}
		}
		out = append(out, p)
	}
	return out, nil
}

// alike tells whether two changes were one, of several recordings.
func alike(a, b Past) bool {
	return a.At.Equal(b.At) && a.By == b.By && a.What == b.What && a.Opening == nil && b.Opening == nil &&
		len(a.Recordings) > 0 && a.Person == b.Person && sameRule(a.Rule, b.Rule) && sameRule(a.Was, b.Was)
}

// thoseOnce are the rules and the openings that rows name, as they once were.
func (s *Service) thoseOnce(ctx context.Context, rows []pastRow) (map[uuid.UUID]*viewing.Rule,
	map[uuid.UUID]*Opened, error) {
	ids := []uuid.UUID{}
	for _, x := range rows {
		ids = append(ids, postgres.OrZero(x.ID), postgres.OrZero(x.WasID))
	}
	const rulesOnce = `select id, ` + ruleColumns + ` from viewing_rule where id = any($1)`
	ruled, err := postgres.All[struct {
		ID uuid.UUID
		ruleRow
	}](ctx, s.DB, rulesOnce, ids)
	if err != nil {
		return nil, nil, fmt.Errorf("read earlier rules: %w", err)
	}
	rules := map[uuid.UUID]*viewing.Rule{}
	for _, x := range ruled {
		rules[x.ID] = x.rule()
	}
	const openedOnce = `select c.id, o.kind, c.name, c.uses, c.people, c.from_kind, c.from_at, c.days_after_lecture,
		c.until_kind, c.until_at, c.days_after_term, l.title as list
		from opening_change c join opening o on o.id = c.opening_id left join playlist l on l.id = o.playlist_id
		where c.id = any($1)`
	opened, err := postgres.All[struct {
		ID     uuid.UUID
		Kind   Kind
		Name   string
		Uses   []string
		People int
		List   *string
		windowRow
	}](ctx, s.DB, openedOnce, ids)
	if err != nil {
		return nil, nil, fmt.Errorf("read earlier openings: %w", err)
	}
	openings := map[uuid.UUID]*Opened{}
	for _, x := range opened {
		openings[x.ID] = &Opened{Kind: x.Kind, Name: x.Name, Opening: openingOf(x.Uses, x.windowRow), People: x.People,
			List: x.List}
	}
	return rules, openings, nil
}

// keepOpening keeps what was done to an opening, and what it is now.
func (s *Service) keepOpening(ctx context.Context, tx pgx.Tx, id, by uuid.UUID, what What) error {
	const keep = `insert into opening_change (id, opening_id, what, name, uses, ` + windowColumns + `, people, made_by,
			made_at)
		select $1, id, $2, name, uses, ` + windowColumns + `, (select count(*) from opening_person p
			where p.opening_id = o.id and p.came_at is null), $3, $4 from opening o where id = $5`
	if _, err := tx.Exec(ctx, keep, uuid.Must(uuid.NewV7()), what, by, s.Clock.Now(), id); err != nil {
		return fmt.Errorf("keep what was done to an opening: %w", err)
	}
	return nil
}
