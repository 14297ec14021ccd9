-- +goose Up
-- Recordings of which the students of a course need not be told: somebody said so.
create table news_silent (
  course_id uuid not null references course on delete cascade,
  recording_id uuid not null references recording on delete cascade,
  made_by uuid references person,
  made_at timestamptz not null,
  primary key (course_id, recording_id)
);
create index on news_silent (recording_id);
-- What gives light already waits for nobody to tell of it.
insert into news_silent (course_id, recording_id, made_at)
select course_id, recording_id, lit_at from lighting where darkened_at is null on conflict do nothing;

-- +goose Down
drop table news_silent;
