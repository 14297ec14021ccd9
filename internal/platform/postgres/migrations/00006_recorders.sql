-- +goose Up
-- A recorder that stands in a hall and captures by the timetable. It holds a token, of which only the digest is kept.
create table device (
  id uuid primary key,
  hall_id uuid not null references hall,
  name text not null,
  token_hash bytea not null unique,
  made_by uuid references person,
  made_at timestamptz not null,
  taken_back_at timestamptz,
  removed_at timestamptz
);
create unique index on device (hall_id) where removed_at is null;

-- What a recorder said last, and what it is to do by hand.
create table device_state (
  device_id uuid primary key references device on delete cascade,
  heard_at timestamptz not null,
  clock_ms bigint not null,
  doing text not null check (doing in ('idle', 'capturing')),
  lecture_id uuid references lecture on delete set null,
  level_db double precision,
  silent_since timestamptz,
  picture text not null check (picture in ('none', 'good', 'black')),
  black_since timestamptz,
  free_bytes bigint not null,
  unsent_bytes bigint not null,
  version text not null,
  pictured_at timestamptz
);
create table device_order (
  device_id uuid primary key references device on delete cascade,
  id uuid not null,
  kind text not null check (kind in ('start', 'stop')),
  lecture_id uuid references lecture on delete cascade,
  made_by uuid references person,
  made_at timestamptz not null
);

-- What it captures comes in as from a desk.
alter table capture drop constraint capture_source_check;
alter table capture add check (source in ('desk', 'hall', 'file'));
alter table capture add column device_id uuid references device;

-- By what a file that came whole is known again: see core/likeness.
alter table track add column likeness bytea;
create index on track (likeness) where likeness is not null;

-- What is captured as it happens, anywhere, runs until it is stopped.
create or replace view recording_source as
select r.id as recording_id, max(c.source) as source, max(c.file_name) as file_name,
  min(c.started_at) as started_at, case when bool_and(c.stopped_at is not null) then max(c.stopped_at) end as stopped_at,
  bool_or(c.source <> 'file' and c.stopped_at is null) as running,
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
