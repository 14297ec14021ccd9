-- +goose Up
-- What a course told its students, in which words ('' for those of the college), and of which recordings, as they were
-- called then.
create table news (
  id uuid primary key,
  course_id uuid not null references course on delete cascade,
  made_by uuid references person,
  made_at timestamptz not null,
  template text not null default ''
);
create index on news (course_id, made_at);
create table news_recording (
  news_id uuid not null references news on delete cascade,
  recording_id uuid not null references recording on delete cascade,
  position int not null,
  title text not null,
  primary key (news_id, recording_id)
);
create index on news_recording (recording_id);

-- Whom it told of what, and its mail to them, made with it. Nobody is told of a recording twice, by however many
-- courses: whoever tells holds the recordings meanwhile. A mail that waits goes with all others that wait for its person;
-- one was left out when there was nothing to say any more.
create table news_reader (
  news_id uuid not null references news on delete cascade,
  person_id uuid not null references person on delete cascade,
  recordings uuid[] not null,
  unseen uuid[] not null, -- of them
  mail text not null check (mail in ('none', 'waits', 'sent', 'refused', 'left_out')),
  address text not null default '', -- to which it went
  settled_at timestamptz,
  primary key (news_id, person_id)
);
create index on news_reader (person_id);
create index on news_reader (person_id) where mail = 'waits';

-- What a course is to tell its students as soon as any of them can watch it, as it was called when a step asked for it.
create table news_plan (
  step_id uuid not null references light_change on delete cascade,
  course_id uuid not null references course on delete cascade,
  recording_id uuid not null references recording on delete cascade,
  position int not null,
  title text not null,
  made_by uuid references person,
  made_at timestamptz not null,
  look_at timestamptz not null, -- whether any can watch it
  news_id uuid references news on delete cascade, -- by which they were told
  primary key (step_id, course_id, recording_id)
);
create index on news_plan (course_id) where news_id is null;
create index on news_plan (look_at) where news_id is null;
create index on news_plan (recording_id);

-- How often people want such mail, and when the last went to them.
create table news_wish (
  person_id uuid primary key references person on delete cascade,
  often text not null default 'daily' check (often in ('at_once', 'daily', 'weekly', 'never')),
  last_at timestamptz
);
create table course_news (
  course_id uuid primary key references course on delete cascade,
  template text not null
);

-- Addresses at which no mail arrives, as they were when it came back.
create table address_fault (
  person_id uuid primary key references person on delete cascade,
  address text not null,
  status text not null, -- RFC 3463, such as 5.1.1
  since timestamptz not null
);

-- +goose Down
drop table address_fault;
drop table course_news;
drop table news_wish;
drop table news_plan;
drop table news_reader;
drop table news_recording;
drop table news;
