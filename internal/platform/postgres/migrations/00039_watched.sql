-- +goose Up
-- What someone watched of a capture, on its clock, in milliseconds: it holds whatever is struck, split or joined later.
create table watched (
  person_id uuid not null references person on delete cascade,
  capture_id uuid not null references capture on delete cascade,
  ranges int8multirange not null,
  kept_at timestamptz not null,
  primary key (person_id, capture_id)
);
create index on watched (capture_id);

-- Who stopped somewhere had been told that they had seen everything before it.
insert into watched (person_id, capture_id, ranges, kept_at)
select p.person_id, rc.capture_id, range_agg(int8range(coalesce(rc.from_ms, 0), least(p.source_ms - rc.start_ms, t.packed_ms, rc.until_ms))), max(p.kept_at)
from resume_position p
join recording_capture rc on rc.recording_id = p.recording_id
join track t on t.capture_id = rc.capture_id and t.role = 'main'
where least(p.source_ms - rc.start_ms, t.packed_ms, rc.until_ms) > coalesce(rc.from_ms, 0)
group by p.person_id, rc.capture_id;

-- Recordings of which someone said that they know what is in them.
create table known_recording (
  person_id uuid not null references person on delete cascade,
  recording_id uuid not null references recording on delete cascade,
  known_at timestamptz not null,
  primary key (person_id, recording_id)
);
create index on known_recording (recording_id);

-- How fast someone watches: how much was played, and how long that took.
create table watching_pace (
  person_id uuid primary key references person on delete cascade,
  played_ms bigint not null,
  took_ms bigint not null
);

-- +goose Down
drop table watching_pace;
drop table known_recording;
drop table watched;
