-- +goose Up
-- What a course calls late, early and there, in minutes and per cent.
create table course_register (
  course_id uuid primary key references course on delete cascade,
  late_min int not null check (late_min between 0 and 120),
  early_min int not null check (early_min between 0 and 120),
  least int not null check (least between 0 and 100)
);

-- How somebody who teaches has somebody stand in the register, whatever was reckoned. What stood before is kept.
create table register_mark (
  id uuid primary key,
  lecture_id uuid not null references lecture on delete cascade,
  person_id uuid not null references person on delete cascade,
  state text not null check (state in ('present', 'late', 'left_early', 'late_left_early', 'absent', 'excused')),
  late_min int not null default 0 check (late_min between 0 and 720),
  early_min int not null default 0 check (early_min between 0 and 720),
  reason text not null default '',
  made_by uuid references person on delete set null,
  made_at timestamptz not null,
  ended_at timestamptz
);
create unique index on register_mark (lecture_id, person_id) where ended_at is null;
create index on register_mark (person_id);
create index on register_mark (made_by);

-- What a student says of their own line.
create table register_word (
  lecture_id uuid not null references lecture on delete cascade,
  person_id uuid not null references person on delete cascade,
  text text not null,
  said_at timestamptz not null,
  settled_at timestamptz,
  primary key (lecture_id, person_id)
);
create index on register_word (person_id);

-- Who gave the code that was shown in the hall, and when.
create table hall_sign (
  lecture_id uuid not null references lecture on delete cascade,
  person_id uuid not null references person on delete cascade,
  signed_at timestamptz not null,
  primary key (lecture_id, person_id)
);
create index on hall_sign (person_id);

-- Codes that were none.
create table hall_try (
  lecture_id uuid not null references lecture on delete cascade,
  person_id uuid not null references person on delete cascade,
  tried_at timestamptz not null
);
create index on hall_try (lecture_id, person_id, tried_at);

-- Who was written to during a lecture that they are not there.
create table absent_told (
  lecture_id uuid not null references lecture on delete cascade,
  person_id uuid not null references person on delete cascade,
  told_at timestamptz not null,
  primary key (lecture_id, person_id)
);
create index on absent_told (person_id);

-- +goose Down
drop table absent_told;
drop table hall_try;
drop table hall_sign;
drop table register_word;
drop table register_mark;
drop table course_register;
