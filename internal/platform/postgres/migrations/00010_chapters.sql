-- +goose Up

-- Changes of the chapters of a recording, so that they can be undone: the chapters that people kept, by
-- capture and on its clock, or null where those that are proposed stood there.
create table chapter_change (
  id uuid primary key,
  recording_id uuid not null references recording on delete cascade,
  was jsonb,
  became jsonb,
  made_by uuid references person,
  made_at timestamptz not null,
  undone_at timestamptz
);
create index on chapter_change (recording_id, id);

-- +goose Down
drop table chapter_change;
