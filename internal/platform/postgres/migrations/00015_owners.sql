-- +goose Up

-- What a recording is now to cuts, to publication and to words, and what a course has said to each of them, stands with
-- whoever keeps it: each table has one owner.
create table recording_cuts (
  recording_id uuid primary key references recording on delete cascade,
  cut_list_id uuid references cut_list -- null: nothing was ever struck, or all of it was taken back
);
insert into recording_cuts select id, cut_list_id from recording where cut_list_id is not null;

create table recording_edition (
  recording_id uuid primary key references recording on delete cascade,
  edition_id uuid references edition, -- that is published
  wanted_edition_id uuid references edition -- that was asked for last
);
create index on recording_edition (edition_id);
insert into recording_edition select id, edition_id, wanted_edition_id from recording where coalesce(edition_id, wanted_edition_id) is not null;

create table recording_words (
  recording_id uuid primary key references recording on delete cascade,
  subject text not null default '', -- the title of the slide on which it begins
  chapters_at timestamptz, -- when a person kept chapters; null while those hold that are proposed
  chapters_by uuid references person
);
insert into recording_words select id, subject, chapters_at, chapters_by from recording where subject <> '' or chapters_at is not null;

create table slides_read (
  track_id uuid primary key references track on delete cascade,
  read_at timestamptz not null
);
insert into slides_read select track_id, read_at from strip where read_at is not null;

create table course_cuts (
  course_id uuid primary key references course on delete cascade,
  trim_ends boolean not null
);
insert into course_cuts select id, true from course where trim_ends;

create table course_originals (
  course_id uuid primary key references course on delete cascade,
  days int not null check (days between 1 and 3650)
);
insert into course_originals select id, original_days from course where original_days is not null;

create table course_words (
  course_id uuid primary key references course on delete cascade,
  language text not null,
  drafts boolean not null,
  glossary text not null
);
insert into course_words select id, language, drafts, glossary from course where language <> 'en' or not drafts or glossary <> '';

alter table recording drop column cut_list_id, drop column edition_id, drop column wanted_edition_id,
  drop column subject, drop column chapters_at, drop column chapters_by;
alter table strip drop column read_at;
alter table course drop column trim_ends, drop column original_days, drop column language, drop column drafts, drop column glossary;

-- +goose Down
alter table course add column trim_ends boolean not null default false, add column original_days int, add column language text not null default 'en',
  add column drafts boolean not null default true, add column glossary text not null default '';
update course k set trim_ends = x.trim_ends from course_cuts x where x.course_id = k.id;
update course k set original_days = x.days from course_originals x where x.course_id = k.id;
update course k set language = x.language, drafts = x.drafts, glossary = x.glossary from course_words x where x.course_id = k.id;
alter table strip add column read_at timestamptz;
update strip s set read_at = x.read_at from slides_read x where x.track_id = s.track_id;
alter table recording add column cut_list_id uuid references cut_list, add column edition_id uuid references edition,
  add column wanted_edition_id uuid references edition, add column subject text not null default '',
  add column chapters_at timestamptz, add column chapters_by uuid references person;
update recording r set cut_list_id = x.cut_list_id from recording_cuts x where x.recording_id = r.id;
update recording r set edition_id = x.edition_id, wanted_edition_id = x.wanted_edition_id from recording_edition x where x.recording_id = r.id;
update recording r set subject = x.subject, chapters_at = x.chapters_at, chapters_by = x.chapters_by from recording_words x where x.recording_id = r.id;
drop table recording_cuts, recording_edition, recording_words, slides_read, course_cuts, course_originals, course_words;
