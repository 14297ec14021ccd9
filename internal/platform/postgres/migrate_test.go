package postgres_test

import (
	"context"
	"testing"

	"github.com/jackc/pgx/v5/pgxpool"

	"latelantern/internal/platform/postgres"
	"latelantern/internal/testdb"
)

// term is a term of two courses as they were kept before recordings had releases: of the first one recording is lit,
// one was darkened, one was never lit, and one that was lit for it belongs to a lecture of the second now.
const term = `
insert into person (id, email, name) values ('00000000-0000-0000-0000-0000000000f1', 'l@c.example', 'L');
insert into term (id, name, first_day, last_day, zone)
values ('00000000-0000-0000-0000-0000000000a0', 'T', '2026-09-01', '2026-12-01', 'UTC');
insert into course (id, term_id, code, title)
select ('00000000-0000-0000-0000-0000000000a' || n)::uuid, '00000000-0000-0000-0000-0000000000a0', 'C' || n, 'C'
	from generate_series(1, 2) n;
insert into lecture (id, course_id, starts_at, ends_at) select ('00000000-0000-0000-0000-0000000000b' || n)::uuid,
	case when n < 4 then '00000000-0000-0000-0000-0000000000a1'
	else '00000000-0000-0000-0000-0000000000a2' end::uuid, '2026-10-01', '2026-10-02'
	from generate_series(1, 4) n;
insert into recording (id, lecture_id, created_at, origin_at) select ('00000000-0000-0000-0000-0000000000c' || n)::uuid,
	('00000000-0000-0000-0000-0000000000b' || n)::uuid, '2026-10-01', '2026-10-01' from generate_series(1, 4) n;
insert into publication (id, recording_id, course_id, lit_by, lit_at, darkened_at)
	select gen_random_uuid(), ('00000000-0000-0000-0000-0000000000c' || n)::uuid,
	'00000000-0000-0000-0000-0000000000a1',
	'00000000-0000-0000-0000-0000000000f1', '2026-10-03', case when n > 1 then timestamptz '2026-10-04' end
	from unnest(array[1, 2, 2, 4]) n;
insert into viewing_rule (id, course_id, audience, download, from_kind, until_kind, made_at)
	values (gen_random_uuid(), '00000000-0000-0000-0000-0000000000a1', 'everyone', false, 'lecture', 'ever',
	'2026-10-01');`

// old is a database without tables, to which statements are done, and which is brought to a version.
func old(t *testing.T) (pool *pgxpool.Pool, do func(string), to func(version int64)) {
	t.Helper()
	ctx := context.Background()
	pool = testdb.Pool(t)
	do = func(sql string) {
		t.Helper()
		if _, err := pool.Exec(ctx, sql); err != nil {
			t.Fatal(err)
		}
	}
	do(`drop schema public cascade; create schema public`)
	steps, done, err := postgres.MigrationsOf(pool)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(done)
	return pool, do, func(version int64) {
		t.Helper()
		step := steps.UpTo
		if now, err := steps.GetDBVersion(ctx); err == nil && now > version {
			step = steps.DownTo
		}
		if _, err := step(ctx, version); err != nil {
			t.Fatal(err)
		}
	}
}

// TestRecordingsOfBeforeHaveReleases: what was lit is, who lit it and when is kept, and each recording belongs to its
// course. There and back, nothing is lost.
func TestRecordingsOfBeforeHaveReleases(t *testing.T) {
	ctx := context.Background()
	pool, do, to := old(t)
	to(12)
	do(term)
	for range 2 {
		to(13)
		const all = `select string_agg(concat_ws(' ', right(recording_id::text, 2), right(course_id::text, 2), case
			when own then 'own' end, case when lit then 'lit' end),
			', ' order by recording_id, course_id) from released`
		const want = "c1 a1 own lit, c2 a1 own, c3 a1 own, c4 a1, c4 a2 own"
		if got, err := postgres.Value[string](ctx, pool, all); err != nil || got != want {
			t.Errorf("the releases are %q, want %q (%v)", got, want, err)
		}
		const kept = `select count(*) from lighting p join person w on w.id = p.lit_by
			where p.darkened_at is null or p.darkened_at > p.lit_at`
		if n, err := postgres.Value[int](ctx, pool, kept); err != nil || n != 4 {
			t.Errorf("of 4 times that something was lit %d are kept (%v)", n, err)
		}
		if n, err := postgres.Value[int](ctx, pool,
			`select count(*) from viewing_rule where recording_id is null and ended_at is null`); err != nil || n != 1 {
			t.Errorf("%d rules hold (%v)", n, err)
		}
		to(12)
	}
}

// TestAccountsOfBefore: who could sign in still can, whose account was closed stays out, and sessions that were void
// stay void. There and back, nothing is lost.
func TestAccountsOfBefore(t *testing.T) {
	ctx := context.Background()
	pool, do, to := old(t)
	to(17)
	do(`insert into person (id, email, name, coordinator, password_hash, session_era, invited_at, closed_at) values
		('00000000-0000-0000-0000-0000000000d1', 'a@x.example', 'A', true, 'hash', 3, '2026-10-01', null),
		('00000000-0000-0000-0000-0000000000d2', 'b@x.example', 'B', false, 'other', 0, null, '2026-10-02'),
		('00000000-0000-0000-0000-0000000000d3', 'c@x.example', 'C', false, '', 0, null, null)`)
	for range 2 {
		to(19)
		const all = `select string_agg(concat_ws(' ', name, password_hash, session_era, invited_at::date,
			closed_at::date), ', ' order by name) from account join person on id = person_id`
		const want = "A hash 3 2026-10-01, B other 0 2026-10-02"
		if got, err := postgres.Value[string](ctx, pool, all); err != nil || got != want {
			t.Errorf("the accounts are %q, want %q (%v)", got, want, err)
		}
		to(17)
		const was = `select string_agg(concat_ws(' ', name, password_hash, session_era, invited_at::date,
			closed_at::date), ', ' order by name) from person`
		if got, err := postgres.Value[string](ctx, pool, was); err != nil || got != want+", C  0" {
			t.Errorf("the people were %q (%v)", got, err)
		}
	}
}

// TestFaultsOfDraftsOfBefore: the sentence that was kept of a draft that could not be made is a code, also one that
// nobody knows any more; each of those that are known comes back as it was.
func TestFaultsOfDraftsOfBefore(t *testing.T) {
	ctx := context.Background()
	pool, do, to := old(t)
	to(12)
	do(term)
	to(17)
	do(`insert into capture (id, lecture_id, source, started_at)
		values ('00000000-0000-0000-0000-0000000000e1', '00000000-0000-0000-0000-0000000000b1', 'desk', '2026-10-01');
	insert into caption (capture_id, language, state, fault)
		select '00000000-0000-0000-0000-0000000000e1', split_part(x, '|', 1), 'failed', split_part(x, '|', 2)
		from unnest(array['aa|', 'ab|The captioner is not installed on this machine.',
		'ac|The captioner does not answer.', 'ad|The captioner answers what cannot be read.',
		'ae|There is no captioner for this language.', 'af|Something of long ago.']) x`)
	faults := func(want string) {
		t.Helper()
		const all = `select string_agg(fault, '|' order by language) from caption`
		if got, err := postgres.Value[string](ctx, pool, all); err != nil || got != want {
			t.Errorf("the faults are %q, want %q (%v)", got, want, err)
		}
	}
	to(18)
	faults("|draft.no_tool|draft.down|draft.nonsense|draft.language|draft.failed")
	to(17)
	faults("|The captioner is not installed on this machine.|The captioner does not answer." +
		"|The captioner answers what cannot be read.|There is no captioner for this language." +
		"|The draft could not be made.")
}
