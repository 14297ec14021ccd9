-- +goose Up
-- The chat of a lecture: for whom it is, and how many changes were made to it. Whoever changes it counts that up first
-- and so holds it: what has a lower number is never seen later than what has a higher one.
create table chat (
  lecture_id uuid primary key references lecture on delete cascade,
  way text not null default 'all' check (way in ('off', 'teachers', 'all')),
  changes bigint not null default 0
);

-- What somebody said in it, or asked of the recording afterwards. The moment lies on the clock of the capture that ran
-- then, so that it holds whatever is struck, split or joined later.
create table chat_line (
  id uuid primary key,
  lecture_id uuid not null references lecture on delete cascade,
  person_id uuid not null references person on delete cascade,
  said_at timestamptz not null,
  kept_at timestamptz not null,
  text text not null,
  to_teachers boolean not null,
  later boolean not null,
  capture_id uuid references capture on delete set null,
  at_ms bigint check (at_ms >= 0),
  state text not null check (state in ('', 'open', 'taken', 'answered', 'put_off')),
  answer text not null default '',
  answered_by uuid references person on delete set null,
  answered_at timestamptz,
  shown boolean not null default false,
  withdrawn_at timestamptz,
  taken_down_at timestamptz,
  taken_down_by uuid references person on delete set null,
  taken_down_why text not null default '',
  change bigint not null
);
create index on chat_line (lecture_id, change);
create index on chat_line (lecture_id, person_id, kept_at);
create index on chat_line (capture_id);
create index on chat_line (person_id);
create index on chat_line (answered_by);
create index on chat_line (taken_down_by);
create index chat_line_waits on chat_line (lecture_id) where state in ('open', 'taken', 'put_off');

-- That somebody is lost. Who is not kept: a mark is computed with the secret of the house, so that one person counts
-- once a minute.
create table lost_sign (
  lecture_id uuid not null references lecture on delete cascade,
  minute timestamptz not null,
  mark bytea not null,
  primary key (lecture_id, minute, mark)
);

-- +goose Down
drop table lost_sign;
drop table chat_line;
drop table chat;
