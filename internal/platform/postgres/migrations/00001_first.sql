-- +goose Up
create table secret (
  name text primary key,
  value bytea not null
);
create table sessions (
  token text primary key,
  data bytea not null,
  expiry timestamptz not null
);
create index on sessions (expiry);

create table person (
  id uuid primary key,
  email text not null unique check (email = lower(email)),
  name text not null,
  password_hash text not null default '',
  coordinator boolean not null default false
);
create table term (
  id uuid primary key,
  name text not null,
  first_day date not null,
  last_day date not null check (last_day >= first_day),
  zone text not null
);
create table term_break (
  term_id uuid not null references term on delete cascade,
  first_day date not null,
  last_day date not null check (last_day >= first_day),
  name text not null,
  primary key (term_id, first_day)
);
create table hall (
  id uuid primary key,
  name text not null unique
);
create table course (
  id uuid primary key,
  term_id uuid not null references term,
  code text not null,
  title text not null,
  unique (term_id, code)
);
create table membership (
  course_id uuid not null references course on delete cascade,
  person_id uuid not null references person on delete cascade,
  part text not null check (part in ('lecturer', 'assistant', 'student')),
  group_name text not null default '',
  primary key (course_id, person_id)
);
create index on membership (person_id);
create table lecture (
  id uuid primary key,
  course_id uuid not null references course on delete cascade,
  hall_id uuid not null references hall,
  starts_at timestamptz not null,
  ends_at timestamptz not null check (ends_at > starts_at),
  topic text not null default '',
  called_off_at timestamptz
);
create index on lecture (course_id, starts_at);

create table capture (
  id uuid primary key,
  lecture_id uuid not null references lecture,
  source text not null check (source in ('desk', 'file')),
  file_name text not null default '',
  started_by uuid references person,
  started_at timestamptz not null,
  stopped_at timestamptz
);
create index on capture (lecture_id);
create table track (
  id uuid primary key,
  capture_id uuid not null references capture on delete cascade,
  media_type text not null,
  length bigint check (length >= 0),
  stored bigint not null default 0 check (stored >= 0 and (length is null or stored <= length)),
  state text not null default 'waiting' check (state in ('waiting', 'running', 'ready', 'failed')),
  fault text not null default '',
  pack text not null default '',
  packed_ms bigint not null default 0,
  expected_ms bigint not null default 0,
  pictures boolean not null default false,
  sound boolean not null default false
);
create index on track (capture_id);

create table recording (
  id uuid primary key,
  lecture_id uuid not null references lecture,
  title text not null default '',
  titled_by uuid references person,
  titled_at timestamptz,
  description text not null default '',
  cut_list_id uuid,
  edition_id uuid,
  created_at timestamptz not null,
  deleted_at timestamptz
);
create index on recording (lecture_id);
create table recording_capture (
  recording_id uuid not null references recording on delete cascade,
  capture_id uuid not null references capture,
  position int not null,
  primary key (recording_id, position)
);
create index on recording_capture (capture_id);
create table cut_list (
  id uuid primary key,
  recording_id uuid not null references recording on delete cascade,
  parent_id uuid references cut_list,
  struck int8multirange not null,
  made_by uuid references person,
  made_at timestamptz not null
);
create index on cut_list (recording_id);
alter table recording add foreign key (cut_list_id) references cut_list;
create table strip (
  recording_id uuid primary key references recording on delete cascade,
  peaks bytea not null,
  loudness double precision,
  speech int8multirange not null,
  slides jsonb not null,
  made_at timestamptz not null
);
create table cue (
  recording_id uuid not null references recording on delete cascade,
  start_ms bigint not null,
  end_ms bigint not null check (end_ms > start_ms),
  text text not null,
  primary key (recording_id, start_ms)
);
create table edition (
  id uuid primary key,
  recording_id uuid not null references recording on delete cascade,
  cut_list_id uuid references cut_list,
  state text not null default 'making' check (state in ('making', 'ready', 'failed')),
  fault text not null default '',
  length_ms bigint not null default 0,
  asked_by uuid references person,
  asked_at timestamptz not null,
  ready_at timestamptz
);
create index on edition (recording_id);
alter table recording add foreign key (edition_id) references edition;

create table viewing_rule (
  id uuid primary key,
  course_id uuid not null references course on delete cascade,
  audience text not null check (audience in ('everyone', 'groups')),
  groups text[] not null default '{}',
  download boolean not null,
  from_kind text not null check (from_kind in ('lecture', 'date')),
  from_at timestamptz,
  until_kind text not null check (until_kind in ('term', 'date', 'ever')),
  until_at timestamptz,
  days_after_term int not null default 0 check (days_after_term between 0 and 3650),
  made_by uuid references person,
  made_at timestamptz not null,
  ended_at timestamptz
);
create unique index on viewing_rule (course_id) where ended_at is null;

create table playlist (
  id uuid primary key,
  course_id uuid not null unique references course on delete cascade
);
create table playlist_entry (
  id uuid primary key,
  playlist_id uuid not null references playlist on delete cascade,
  position int not null,
  heading text,
  recording_id uuid references recording on delete cascade,
  check ((heading is null) <> (recording_id is null)),
  unique (playlist_id, position) deferrable initially deferred,
  unique (playlist_id, recording_id)
);
create table publication (
  id uuid primary key,
  recording_id uuid not null references recording on delete cascade,
  course_id uuid not null references course on delete cascade,
  lit_by uuid references person,
  lit_at timestamptz not null,
  darkened_by uuid references person,
  darkened_at timestamptz
);
create unique index on publication (recording_id, course_id) where darkened_at is null;

create table place (
  person_id uuid not null references person on delete cascade,
  recording_id uuid not null references recording on delete cascade,
  source_ms bigint not null check (source_ms >= 0),
  kept_at timestamptz not null,
  primary key (person_id, recording_id)
);
