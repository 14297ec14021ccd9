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

-- Words that a captioner thinks may have been said, for a search: those that it chose, and others.
create table heard (
  capture_id uuid not null,
  language text not null,
  start_ms bigint not null,
  end_ms bigint not null,
  word text not null,
  share real not null, -- how likely it is, from 0 to 1
  foreign key (capture_id, language) references caption on delete cascade
);
create index on heard (capture_id, language, start_ms);

-- +goose Down
drop table heard;
drop table chapter_change;
