-- +goose Up

-- What a recording is to a course. One is to the course of its lecture, and is there from the beginning; others
-- follow when it is lit for them.
create table release (
  recording_id uuid not null references recording on delete cascade,
  course_id uuid not null references course on delete cascade,
  own boolean not null, -- the course of its lecture
  made_by uuid references person,
  made_at timestamptz not null,
  primary key (recording_id, course_id)
);
create unique index on release (recording_id) where own;
create index on release (course_id);

insert into release (recording_id, course_id, own, made_at)
select r.id, l.course_id, true, r.created_at from recording r join lecture l on l.id = r.lecture_id;
insert into release (recording_id, course_id, own, made_by, made_at)
select distinct on (p.recording_id, p.course_id) p.recording_id, p.course_id, false, p.lit_by, p.lit_at from publication p
order by p.recording_id, p.course_id, p.lit_at
on conflict do nothing;

-- From when to when a recording gave light to a course; one that is not darkened does so now.
alter table publication rename to lighting;
alter table lighting add foreign key (recording_id, course_id) references release on delete cascade;

create view released as
select e.recording_id, e.course_id, e.own, p.id is not null as lit, p.lit_by, p.lit_at
from release e left join lighting p on p.recording_id = e.recording_id and p.course_id = e.course_id and p.darkened_at is null;

-- A rule is of a course, or of one recording in it, where it holds instead.
alter table viewing_rule add column recording_id uuid;
alter table viewing_rule add foreign key (recording_id, course_id) references release on delete cascade;
drop index viewing_rule_course_id_idx;
create unique index on viewing_rule (course_id, recording_id) nulls not distinct where ended_at is null;

-- +goose Down
delete from viewing_rule where recording_id is not null;
drop index viewing_rule_course_id_recording_id_idx;
alter table viewing_rule drop column recording_id;
create unique index on viewing_rule (course_id) where ended_at is null;
drop view released;
alter table lighting drop constraint lighting_recording_id_course_id_fkey;
alter table lighting rename to publication;
drop table release;
