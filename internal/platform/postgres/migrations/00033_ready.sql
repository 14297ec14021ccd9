-- +goose Up

-- Recordings of which those who lecture were told that they can be watched, so that they are told once.
create table ready_told (
  recording_id uuid primary key references recording on delete cascade,
  made_at timestamptz not null
);
create index on capture (stopped_at) where source <> 'file';

-- Who wants no such mail.
create table ready_wish (
  person_id uuid primary key references person on delete cascade
);

-- +goose Down
drop table ready_wish;
drop index capture_stopped_at_idx;
drop table ready_told;
