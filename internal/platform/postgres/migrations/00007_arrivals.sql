-- +goose Up
-- A file can come before anyone knows of which lecture it is.
alter table capture alter column lecture_id drop not null;
alter table capture add check (lecture_id is not null or source = 'file');

-- What is known of a file made elsewhere, and who or what said of which lecture it is.
create table arrival (
  track_id uuid primary key references track on delete cascade,
  course_id uuid references course on delete set null, -- among whose lectures it is looked for; all that the sender teaches when null
  words text not null default '',
  modified_at timestamptz,
  made_at timestamptz,
  length_ms bigint not null default 0,
  sorted_at timestamptz,
  fault text not null default '',
  placed_by text not null default '' check (placed_by in ('', 'person', 'itself')),
  reading text not null default '',
  put_away_at timestamptz
);
insert into arrival (track_id, sorted_at, placed_by) select t.id, t.arrived_at, 'person' from track t join capture c on c.id = t.capture_id where c.source = 'file';
create index on capture (started_at) where source = 'file';

-- When a copy was begun, so that its end can be said; whether a track was encoded anew; and for
-- how long after that the original is kept: as long as the recording when null.
alter table track add column pack_began_at timestamptz;
alter table track add column encoded boolean not null default false;
alter table track add column packed_at timestamptz;
alter table track add column original_gone_at timestamptz;
create index on track (packed_at) where encoded and original_gone_at is null;
alter table course add column original_days int check (original_days between 1 and 3650);

drop view recording_source;
create view recording_source as
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
  min(t.pack_began_at) filter (where t.state = 'running') as pack_began_at,
  bool_or(t.encoded) as encoded, max(t.packed_at) as packed_at,
  max(t.original_gone_at) as original_gone_at,
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
