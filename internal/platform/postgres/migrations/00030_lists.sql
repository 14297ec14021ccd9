-- +goose Up
-- A playlist is a thing of its own: a course has one that what is lit for it goes to, its main one, and any number of
-- others, and shows those of other courses too.
alter table playlist drop constraint playlist_course_id_key;
alter table playlist add column main boolean not null default false;
update playlist set main = true;
alter table playlist add column title text not null default ''; -- of the main one none
alter table playlist add column about text not null default '';
alter table playlist add column arranged text not null default 'hand' check (arranged in ('hand', 'date', 'week'));
alter table playlist add column made_by uuid references person;
alter table playlist add column made_at timestamptz;
alter table playlist add column deleted_at timestamptz;
-- It keeps itself filled by a sentence: with every recording of a course, with every one that holds some words, or both,
-- of those that filled_by teaches. Others were put there, or held out, by hand.
alter table playlist add column fill_course uuid references course on delete set null;
alter table playlist add column fill_words text not null default '';
alter table playlist add column filled_by uuid references person;
alter table playlist add column filled_at timestamptz;
create table playlist_held_out (
  playlist_id uuid not null references playlist on delete cascade,
  recording_id uuid not null references recording on delete cascade,
  primary key (playlist_id, recording_id)
);
alter table playlist_entry add column filled boolean not null default false;
alter table playlist add check (main or title <> '');
alter table playlist add check (not main or deleted_at is null);
create unique index on playlist (course_id) where main;
create index on playlist (course_id) where not main;

-- Which courses show a playlist that is not their main one, their own ones too, and in which order.
create table playlist_place (
  playlist_id uuid not null references playlist on delete cascade,
  course_id uuid not null references course on delete cascade,
  position int not null,
  primary key (playlist_id, course_id)
);
create index on playlist_place (course_id);

-- An entry is a heading, with a sentence if wanted, a recording, or a page elsewhere.
alter table playlist_entry add column about text not null default '';
alter table playlist_entry add column title text not null default '';
alter table playlist_entry add column address text;
alter table playlist_entry drop constraint playlist_entry_check;
alter table playlist_entry add check (num_nonnulls(heading, recording_id, address) = 1);
alter table playlist_entry add check ((address is null) = (title = ''));
create index on playlist_entry (recording_id);

-- +goose Down
delete from playlist where not main;
delete from playlist_entry where address is not null;
drop index playlist_entry_recording_id_idx;
alter table playlist_entry drop column filled;
drop table playlist_held_out;
alter table playlist_entry drop column address, drop column title, drop column about;
alter table playlist_entry add check ((heading is null) <> (recording_id is null));
drop table playlist_place;
drop index playlist_course_id_idx;
alter table playlist drop column filled_at, drop column filled_by, drop column fill_words, drop column fill_course,
  drop column deleted_at, drop column made_at, drop column made_by, drop column arranged,
  drop column about, drop column title, drop column main;
alter table playlist add unique (course_id);
