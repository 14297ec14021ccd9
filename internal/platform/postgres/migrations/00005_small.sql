-- +goose Up
-- A copy of a track that is small enough for a slow line, made after the capture: where it lies, how far it is, and whether it will come.
alter table track add column small_pack text not null default '';
alter table track add column small_ms bigint not null default 0;
alter table track add column small_state text not null default '' check (small_state in ('', 'making', 'ready', 'failed'));

create or replace view recording_source as
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
