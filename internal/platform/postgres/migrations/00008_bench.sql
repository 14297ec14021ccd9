-- +goose Up
-- A part of a recording is a stretch of a capture, from_ms to until_ms on the capture's own clock: from its beginning, and to
-- its end, where they are null. That clock begins at start_ms on the clock of the recording, which may be before its zero.
alter table recording_capture add column start_ms bigint;
alter table recording_capture add column from_ms bigint check (from_ms > 0);
alter table recording_capture add column until_ms bigint check (until_ms > coalesce(from_ms, 0));
update recording_capture rc set start_ms = greatest(0, (extract(epoch from c.started_at - r.origin_at) * 1000)::bigint)
  from recording r, capture c where r.id = rc.recording_id and c.id = rc.capture_id;
alter table recording_capture alter column start_ms set not null;

-- What is measured of a track, on its own clock, as far as measured_ms.
drop table strip;
create table strip (
  track_id uuid primary key references track on delete cascade,
  measured_ms bigint not null,
  done boolean not null,
  peaks bytea not null, -- a byte for each 100 ms
  levels bytea not null, -- see core/signal: Levels
  speech int8multirange not null,
  slides jsonb not null,
  made_at timestamptz not null
);

-- Captions are kept on the clock of what was captured.
alter table cue add column capture_id uuid references capture on delete cascade;
alter table cue drop constraint cue_pkey;
update cue q set capture_id = p.capture_id, start_ms = q.start_ms - p.start_ms, end_ms = q.end_ms - p.start_ms
  from (select distinct on (c.recording_id, c.start_ms) c.recording_id, c.start_ms as at_ms, rc.capture_id, rc.start_ms
    from cue c join recording_capture rc on rc.recording_id = c.recording_id and rc.start_ms <= c.start_ms
    order by c.recording_id, c.start_ms, rc.start_ms desc) p
  where p.recording_id = q.recording_id and p.at_ms = q.start_ms;
delete from cue where capture_id is null;
alter table cue drop column recording_id;
alter table cue add primary key (capture_id, start_ms);

-- Where the second picture leads belongs to a cut list, as what is struck does.
alter table cut_list add column led int8multirange not null default '{}';
-- A version that brings an earlier one back says which.
alter table cut_list add column as_of uuid references cut_list;

-- What was split or joined, and how it was before, so that it can be undone.
create table rearrangement (
  id uuid primary key,
  kind text not null check (kind in ('split', 'join')),
  recording_id uuid not null references recording on delete cascade,
  other_id uuid not null references recording on delete cascade,
  was jsonb not null,
  made_by uuid references person,
  made_at timestamptz not null,
  undone_at timestamptz
);
create index on rearrangement (recording_id);
create index on rearrangement (other_id);

-- Two tracks that sound alike: the share of their telling moments that agree, and where the second begins in the first.
-- Someone may have said that both are wanted.
create table twin (
  track_id uuid not null references track on delete cascade,
  other_id uuid not null references track on delete cascade,
  share double precision not null,
  offset_ms bigint not null,
  both_wanted_at timestamptz,
  primary key (track_id, other_id),
  check (track_id < other_id)
);
create index on twin (other_id);
create index on recording (deleted_at) where deleted_at is not null;

-- A course can have the ends of its recordings trimmed by themselves.
alter table course add column trim_ends boolean not null default false;

-- Who took a recording away, and whether it was joined to another.
alter table recording add column deleted_by uuid references person;

drop view recording_source;
create view recording_source as
select r.id as recording_id, max(c.source) as source, max(c.file_name) as file_name,
  min(c.started_at + coalesce(rc.from_ms, 0) * interval '1 ms') as started_at, case when bool_and(c.stopped_at is not null) then max(c.stopped_at) end as stopped_at,
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
  coalesce(max(rc.start_ms + least(t.packed_ms, rc.until_ms)) filter (where t.role = 'main' and t.packed_ms > 0), 0) as length_ms,
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
