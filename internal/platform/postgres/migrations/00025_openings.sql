-- +goose Up
-- A rule says what one may do, each by itself, and from when: also at once, or days after the lecture. One without a
-- course is that of the college, which holds in courses that have none.
alter table viewing_rule add column uses text[];
update viewing_rule set uses = case when download
  then '{watch,read,take_video,take_small,take_sound,take_text}'::text[] else '{watch,read}' end;
alter table viewing_rule alter column uses set not null;
alter table viewing_rule add constraint viewing_rule_uses check ('watch' = any(uses)
  and uses <@ '{watch,read,take_video,take_small,take_sound,take_text}'::text[]);
alter table viewing_rule drop column download;
alter table viewing_rule drop constraint viewing_rule_from_kind_check;
alter table viewing_rule add constraint viewing_rule_from_kind_check
  check (from_kind in ('once', 'lecture', 'days', 'date'));
alter table viewing_rule add column days_after_lecture int not null default 0
  check (days_after_lecture between 0 and 3650);
alter table viewing_rule alter column course_id drop not null;
alter table viewing_rule add check (course_id is not null or recording_id is null and audience = 'everyone');

-- A right to watch a recording beside any course: of named people, of everyone with an account here, of whoever holds
-- a link.
create table opening (
  id uuid primary key,
  recording_id uuid not null references recording on delete cascade,
  kind text not null check (kind in ('people', 'everyone', 'link')),
  name text not null default '', -- of a link
  uses text[] not null check ('watch' = any(uses)
    and uses <@ '{watch,read,take_video,take_small,take_sound,take_text}'::text[]),
  from_kind text not null check (from_kind in ('once', 'lecture', 'days', 'date')),
  from_at timestamptz,
  days_after_lecture int not null default 0 check (days_after_lecture between 0 and 3650),
  until_kind text not null check (until_kind in ('term', 'date', 'ever')),
  until_at timestamptz,
  days_after_term int not null default 0 check (days_after_term between 0 and 3650),
  turn int not null default 1, -- of a link: who came by an earlier turn of it came by another address
  phrase text not null default '', -- digest of the pass phrase of a link
  failed int not null default 0, -- tries of the pass phrase in vain, since one that was right
  failed_at timestamptz,
  most int, -- people that may come by a link; null for any number
  made_by uuid references person,
  made_at timestamptz not null,
  ended_by uuid references person,
  ended_at timestamptz
);
create index on opening (recording_id) where ended_at is null;

-- Who was named, or came by the link.
create table opening_person (
  opening_id uuid not null references opening on delete cascade,
  person_id uuid not null references person on delete cascade,
  turn int not null default 1,
  came_at timestamptz, -- by the link; null for who was named
  primary key (opening_id, person_id)
);
create index on opening_person (person_id);

-- A copy of an edition that is taken away, of each kind at most one.
create table edition_copy (
  edition_id uuid not null references edition on delete cascade,
  kind text not null check (kind in ('video', 'small', 'sound')),
  state text not null check (state in ('making', 'ready', 'failed')),
  percent int not null default 0,
  bytes bigint not null default 0,
  about bytea, -- digest of what is said in it, such as its chapters
  primary key (edition_id, kind)
);
insert into edition_copy (edition_id, kind, state, percent, bytes, about)
select id, 'video', copy_state, copy_percent, copy_bytes, copy_about from edition where copy_state <> '';
alter table edition drop column copy_about, drop column copy_bytes, drop column copy_percent, drop column copy_state;

-- +goose Down
alter table edition add column copy_state text not null default ''
  check (copy_state in ('', 'making', 'ready', 'failed'));
alter table edition add column copy_percent int not null default 0;
alter table edition add column copy_bytes bigint not null default 0;
alter table edition add column copy_about bytea;
update edition e set copy_state = c.state, copy_percent = c.percent, copy_bytes = c.bytes, copy_about = c.about
from edition_copy c where c.edition_id = e.id and c.kind = 'video';
drop table edition_copy;
drop table opening_person;
drop table opening;
delete from viewing_rule where course_id is null or from_kind in ('once', 'days');
alter table viewing_rule drop constraint viewing_rule_check;
alter table viewing_rule alter column course_id set not null;
alter table viewing_rule drop column days_after_lecture;
alter table viewing_rule drop constraint viewing_rule_from_kind_check;
alter table viewing_rule add constraint viewing_rule_from_kind_check check (from_kind in ('lecture', 'date'));
alter table viewing_rule add column download boolean;
update viewing_rule set download = 'take_video' = any(uses);
alter table viewing_rule alter column download set not null;
alter table viewing_rule drop column uses;
