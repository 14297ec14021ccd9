-- +goose Up

-- What of a track came and cannot be watched, although it was encoded anew: what tally.Difference says.
alter table track add column differs jsonb;

-- Since when whoever captures has paused; while something is captured or over it is null.
alter table capture add column paused_at timestamptz;

-- When someone was sent out of a lecture, as long as that holds.
alter table doorway_ask add column sent_out_at timestamptz;

create or replace view recording_source as
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
  coalesce(100 * sum(t.small_ms) filter (where t.role = 'main') / nullif(sum(t.packed_ms) filter (where t.role = 'main'), 0), 0)::int as small_percent,
  max(t.arrived_at) filter (where c.source <> 'file' and c.stopped_at is null) as last_at,
  case when bool_and(c.paused_at is not null) filter (where c.source <> 'file' and c.stopped_at is null) then max(c.paused_at) filter (where c.stopped_at is null) end as paused_at,
  coalesce(bool_and(c.alone) filter (where c.source <> 'file'), false) as apart
from recording r
join recording_capture rc on rc.recording_id = r.id
join capture c on c.id = rc.capture_id
join track t on t.capture_id = c.id
group by r.id;

-- +goose Down

drop view recording_source cascade;
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
alter table doorway_ask drop column sent_out_at;
alter table capture drop column paused_at;
alter table track drop column differs;
