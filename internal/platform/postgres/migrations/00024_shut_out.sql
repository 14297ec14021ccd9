-- +goose Up
-- Who is shut out of a recording, or of all that a course has, whatever a rule says. Shut out by the course of its
-- lecture nobody comes in by another course either.
create table shut_out (
  id uuid primary key,
  person_id uuid not null references person on delete cascade,
  course_id uuid not null references course on delete cascade, -- whose teachers did it
  recording_id uuid references recording on delete cascade, -- of this one alone
  until_at timestamptz, -- null: for good
  note text not null default '',
  made_by uuid references person,
  made_at timestamptz not null,
  ended_by uuid references person,
  ended_at timestamptz
);
create unique index on shut_out (person_id, course_id, recording_id) nulls not distinct where ended_at is null;
create index on shut_out (recording_id) where ended_at is null;
create index on shut_out (course_id) where ended_at is null;

-- +goose Down
drop table shut_out;
