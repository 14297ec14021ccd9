-- +goose Up
-- Questions that a course keeps to put to all in a lecture.
create table prepared_question (
  id uuid primary key,
  course_id uuid not null references course on delete cascade,
  position bigint generated always as identity,
  kind text not null check (kind in ('one', 'several', 'number', 'words')),
  text text not null,
  choices text[] not null,
  right_choices int[] not null,
  made_by uuid references person on delete set null,
  made_at timestamptz not null,
  dropped_at timestamptz
);
create index on prepared_question (course_id);
create index on prepared_question (made_by);

-- A question that was put to all in a lecture, as it stood then. Its moment lies on the clock of the capture that ran.
create table asked_question (
  id uuid primary key,
  lecture_id uuid not null references lecture on delete cascade,
  asked_by uuid references person on delete set null,
  kind text not null check (kind in ('one', 'several', 'number', 'words')),
  text text not null,
  choices text[] not null,
  right_choices int[] not null,
  opened_at timestamptz not null,
  closes_at timestamptz not null,
  timed boolean not null,
  shown boolean not null default false,
  withdrawn_at timestamptz,
  capture_id uuid references capture on delete set null,
  at_ms bigint check (at_ms >= 0)
);
create index on asked_question (lecture_id, opened_at);
create index on asked_question (capture_id);
create index on asked_question (asked_by);

-- What somebody answered: in the lecture, or later in its recording.
create table given_answer (
  asked_id uuid not null references asked_question on delete cascade,
  person_id uuid not null references person on delete cascade,
  later boolean not null,
  choices int[] not null,
  number double precision,
  words text not null,
  given_at timestamptz not null,
  hidden boolean not null default false,
  primary key (asked_id, person_id)
);
create index on given_answer (person_id);

-- +goose Down
drop table given_answer;
drop table asked_question;
drop table prepared_question;
