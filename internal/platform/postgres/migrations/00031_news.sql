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

-- Nobody is told of a recording twice, by however many courses.
create table told (
  recording_id uuid not null references recording on delete cascade,
  person_id uuid not null references person on delete cascade,
  news_id uuid not null references news on delete cascade,
  seen_at timestamptz,
  primary key (recording_id, person_id)
);
create index on told (person_id) where seen_at is null;
create index on told (news_id);

-- The mails of it, made with it. One that waits goes with all others that wait for its person; one was left out when
-- there was nothing to say any more.
create table news_letter (
  news_id uuid not null references news on delete cascade,
  person_id uuid not null references person on delete cascade,
  state text not null default 'waits' check (state in ('waits', 'sent', 'refused', 'left_out')),
  settled_at timestamptz,
  primary key (news_id, person_id)
);
create index on news_letter (person_id) where state = 'waits';

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
drop table news_letter;
drop table told;
drop table news_recording;
drop table news;
