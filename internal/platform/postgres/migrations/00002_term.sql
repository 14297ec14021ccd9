-- +goose Up
-- People: guests are people without an account; an account is active once it has a password.
alter table person alter column email drop not null;
alter table person add column guest boolean not null default false;
alter table person add check (guest or email is not null);
alter table person add column session_era int not null default 0;
alter table person add column invited_at timestamptz;
create table account_key (
  hash bytea primary key,
  person_id uuid not null references person on delete cascade,
  made_at timestamptz not null,
  ends_at timestamptz not null,
  used_at timestamptz
);
create index on account_key (person_id);
create table sign_in_failure (
  key bytea not null,
  at timestamptz not null
);
create index on sign_in_failure (key, at);
create index on membership (course_id, part);

-- Plans, and the lectures that stand in them.
create table plan (
  id uuid primary key,
  course_id uuid not null references course on delete cascade,
  hall_id uuid references hall,
  weekdays int[] not null,
  every int not null default 1 check (every between 1 and 12),
  at_min int not null check (at_min between 0 and 1439),
  lasts_min int not null check (lasts_min between 1 and 1440),
  over_breaks boolean not null default false,
  by_dates boolean not null default false,
  capture_auto boolean not null default false,
  lead_min int not null default 5 check (lead_min between 0 and 120),
  tail_min int not null default 10 check (tail_min between 0 and 240),
  doorway text not null default 'walk_in' check (doorway in ('walk_in', 'ask', 'closed')),
  opens_min int not null default 10 check (opens_min between 0 and 240),
  made_by uuid references person,
  made_at timestamptz not null
);
create index on plan (course_id);
alter table lecture alter column hall_id drop not null;
alter table lecture add column plan_id uuid references plan;
alter table lecture add column planned_start timestamptz;
alter table lecture add column planned_end timestamptz;
alter table lecture add column unplanned boolean not null default false;
alter table lecture add column capture_auto boolean not null default false;
alter table lecture add column lead_min int not null default 5 check (lead_min between 0 and 120);
alter table lecture add column tail_min int not null default 10 check (tail_min between 0 and 240);
alter table lecture add column doorway text not null default 'walk_in' check (doorway in ('walk_in', 'ask', 'closed'));
alter table lecture add column opens_min int not null default 10 check (opens_min between 0 and 240);
alter table lecture add column sequence int not null default 0;
alter table lecture add column changed_at timestamptz;
create index on lecture (plan_id);
create index on lecture (hall_id, starts_at);
create index on lecture (starts_at);

-- What was changed in the timetable of a course, so that it can be undone.
create table timetable_change (
  id uuid primary key,
  course_id uuid not null references course on delete cascade,
  made_by uuid references person,
  made_at timestamptz not null,
  undone_at timestamptz
);
create index on timetable_change (course_id, made_at);
create table lecture_was (
  change_id uuid not null references timetable_change on delete cascade,
  lecture_id uuid not null,
  was jsonb,
  primary key (change_id, lecture_id)
);

-- Feed addresses: each renewal is a new era, and the address of an earlier one is worth nothing.
create table feed (
  kind text not null check (kind in ('person', 'course', 'hall')),
  subject uuid not null,
  era int not null default 0,
  primary key (kind, subject)
);

-- The doorway of a live lecture.
create table guest (
  id uuid primary key,
  lecture_id uuid not null references lecture on delete cascade,
  person_id uuid not null references person on delete cascade,
  part text not null check (part in ('listener', 'speaker')),
  made_by uuid references person,
  made_at timestamptz not null,
  ends_at timestamptz not null,
  taken_back_at timestamptz
);
create index on guest (lecture_id);
create index on guest (person_id);
create table doorway_ask (
  lecture_id uuid not null references lecture on delete cascade,
  person_id uuid not null references person on delete cascade,
  asked_at timestamptz not null,
  answered_at timestamptz,
  answered_by uuid references person,
  let_in boolean not null default false,
  primary key (lecture_id, person_id)
);
