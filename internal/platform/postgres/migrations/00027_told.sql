-- +goose Up
-- Who stood before the closed door of a recording and asked that whoever teaches be told, by which course.
create table door_told (
  recording_id uuid not null references recording on delete cascade,
  person_id uuid not null references person on delete cascade,
  course_id uuid not null references course on delete cascade,
  told_at timestamptz not null,
  primary key (recording_id, person_id)
);
create index on door_told (course_id, told_at);
create index on door_told (person_id);

-- +goose Down
drop table door_told;
