-- +goose Up
-- A capture can have two pictures: the second runs beside the first, lag_ms later.
alter table track add column role text not null default 'main' check (role in ('main', 'second'));
alter table track add column lag_ms bigint not null default 0;
create unique index on track (capture_id, role);

-- Each track is given up by itself when nothing comes any more.
alter table track add column given_up boolean not null default false;
update track t set given_up = true from capture c where c.id = t.capture_id and c.given_up_at is not null;
alter table capture drop column given_up_at;

-- The parts of a recording lie on one clock, which begins here.
alter table recording add column origin_at timestamptz;
update recording r set origin_at = coalesce((select min(c.started_at) from recording_capture rc join capture c on c.id = rc.capture_id where rc.recording_id = r.id), r.created_at);
alter table recording alter column origin_at set not null;

-- A moment that someone flagged while capturing, on the clock of the capture; or a pause, which has a length.
create table marker (
  id uuid primary key,
  capture_id uuid not null references capture on delete cascade,
  at_ms bigint not null check (at_ms >= 0),
  pause_ms bigint check (pause_ms > 0),
  word text not null default '',
  made_by uuid references person,
  made_at timestamptz not null
);
create index on marker (capture_id);

-- What the college says to everyone who is captured, in its own words.
create table college (
  one boolean primary key default true check (one),
  capture_notice text not null default ''
);
insert into college default values;

-- Who has seen that a lecture is captured, and who followed it live from when to when.
create table notice_seen (
  lecture_id uuid not null references lecture on delete cascade,
  person_id uuid not null references person on delete cascade,
  seen_at timestamptz not null,
  primary key (lecture_id, person_id)
);
create table presence (
  lecture_id uuid not null references lecture on delete cascade,
  person_id uuid not null references person on delete cascade,
  from_at timestamptz not null,
  until_at timestamptz not null check (until_at >= from_at),
  primary key (lecture_id, person_id, from_at)
);
create index on presence (person_id);

-- A copy of a track that is small enough for a slow line, made after the capture: where it lies, how far it is, and whether it will come.
alter table track add column small_pack text not null default '';
alter table track add column small_ms bigint not null default 0;
alter table track add column small_state text not null default '' check (small_state in ('', 'making', 'ready', 'failed'));

-- What a recording is made of, as one line.
create view recording_source as
select r.id as recording_id, max(c.source) as source, max(c.file_name) as file_name,
  min(c.started_at) as started_at, case when bool_and(c.stopped_at is not null) then max(c.stopped_at) end as stopped_at,
  bool_or(c.source = 'desk' and c.stopped_at is null) as running,
  (array_agg(c.started_by order by c.started_at, c.id))[1] as started_by,
  count(*) filter (where t.role = 'main')::int as parts,
  case
    when bool_and(t.state = 'failed') filter (where t.role = 'main') then 'failed'
    when bool_and(t.state in ('ready', 'failed')) then 'ready'
    when bool_and(t.state = 'waiting') then 'waiting'
    else 'running' end as state,
  coalesce(max(t.fault) filter (where t.role = 'main'), '') as fault,
  sum(t.stored)::bigint as stored, case when bool_and(t.length is not null) then sum(t.length)::bigint end as size,
  coalesce(max((extract(epoch from c.started_at - r.origin_at) * 1000)::bigint + t.packed_ms) filter (where t.role = 'main' and t.packed_ms > 0), 0) as length_ms,
  max(t.expected_ms) as expected_ms,
  bool_or(t.pictures and t.role = 'main') as pictures, bool_or(t.sound) as sound, bool_or(t.role = 'second' and t.pictures) as second,
  case
    when bool_or(t.small_state = 'failed') filter (where t.role = 'main') then 'failed'
    when bool_and(t.small_state = 'ready' or t.state = 'failed') filter (where t.role = 'main') then 'ready'
    when bool_or(t.small_state <> '') filter (where t.role = 'main') then 'making'
    else '' end as small_state,
  coalesce(100 * sum(t.small_ms) filter (where t.role = 'main') / nullif(sum(t.packed_ms) filter (where t.role = 'main'), 0), 0)::int as small_percent
from recording r
join recording_capture rc on rc.recording_id = r.id
join capture c on c.id = rc.capture_id
join track t on t.capture_id = c.id
group by r.id;
