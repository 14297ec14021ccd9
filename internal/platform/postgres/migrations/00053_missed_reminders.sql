-- +goose Up
-- Courses that remind those who were not there of what they missed, since when.
create table missed_reminders (
  course_id uuid primary key references course on delete cascade,
  since timestamptz -- null: they do not
);
-- Of which recordings that was done, or when it was last looked whether it can be, and who was written to.
create table missed_looked (
  course_id uuid not null references course on delete cascade,
  recording_id uuid not null references recording on delete cascade,
  looked_at timestamptz not null,
  done boolean not null,
  primary key (course_id, recording_id)
);
create table missed_told (
  recording_id uuid not null references recording on delete cascade,
  person_id uuid not null references person on delete cascade,
  told_at timestamptz not null,
  primary key (recording_id, person_id)
);
create index on missed_looked (recording_id);
create index on missed_told (person_id);

-- +goose Down
drop table missed_told, missed_looked, missed_reminders;
