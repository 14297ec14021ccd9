-- +goose Up
-- Captions of a capture in one language. Those that a captioner drafted say so, and are shown to those who watch only when
-- someone lets them be.
create table caption (
  capture_id uuid not null references capture on delete cascade,
  language text not null check (language <> ''),
  state text not null check (state in ('waiting', 'making', 'ready', 'failed')), -- of its draft
  fault text not null default '',
  drafted_by text not null default '', -- the name of the captioner; '' for what came otherwise
  drafted_ms bigint not null default 0, -- how far it is drafted, on the clock of the capture
  spoken_ms bigint not null default 0, -- how far there is something to draft
  head text not null default '', -- what a file said before its first line and after its last
  tail text not null default '',
  looked_at timestamptz, -- when someone said that it was looked at, or corrected something
  looked_by uuid references person,
  shown_at timestamptz,
  shown_by uuid references person,
  primary key (capture_id, language)
);
insert into caption (capture_id, language, state, looked_at, shown_at) select distinct capture_id, 'en', 'ready', now(), now() from cue;

alter table cue drop constraint cue_pkey;
alter table cue add column id uuid primary key default gen_random_uuid();
alter table cue alter column id drop default;
alter table cue add column language text not null default 'en';
alter table cue alter column language drop default;
alter table cue add column speaker text not null default '';
alter table cue add column words int[]; -- from and to of each word of the text, in milliseconds after the beginning of the line; null where they are not known
alter table cue add column name text not null default ''; -- what a file said of it besides
alter table cue add column settings text not null default '';
alter table cue add column markup text not null default '';
alter table cue add column before text not null default '';
alter table cue add column corrected boolean not null default false;
alter table cue add foreign key (capture_id, language) references caption on delete cascade;
create index on cue (capture_id, language, start_ms);

-- Each change of captions, with the lines as they were and as they became, so that it can be undone and made again.
create table caption_change (
  id uuid primary key,
  recording_id uuid not null references recording on delete cascade,
  language text not null,
  kind text not null,
  was jsonb not null,
  became jsonb not null,
  heads jsonb, -- of a change that makes other captions of them: their rows of caption as they were, or, once undone, as they became
  made_by uuid references person,
  made_at timestamptz not null,
  undone_at timestamptz
);
create index on caption_change (recording_id, language, id);

-- What is written on a slide, read from its picture.
create table slide_text (
  track_id uuid not null references track on delete cascade,
  at_ms bigint not null,
  title text not null default '',
  body text not null default '',
  primary key (track_id, at_ms)
);
create index on slide_text using gin (to_tsvector('simple', title || ' ' || body));
alter table strip add column read_at timestamptz; -- when its slides were read

-- The words of a course, one term a line; and whether its recordings have captions drafted by themselves, in which language.
alter table course add column glossary text not null default '';
alter table course add column drafts boolean not null default true;
alter table course add column language text not null default 'en';

-- How the titles of a course are made, see core/naming; '' for as usual. What a recording is about, as its slides say;
-- and what a person says of it besides its description.
alter table course add column title_pattern text not null default '';
alter table recording add column subject text not null default '';
alter table recording add column language text not null default '';
alter table recording add column keywords text[] not null default '{}';

-- Chapters that people kept, on the clock of what was captured; without chapters_at those that markers and slides propose stand there.
create table chapter (
  capture_id uuid not null references capture on delete cascade,
  at_ms bigint not null,
  title text not null,
  primary key (capture_id, at_ms)
);
alter table recording add column chapters_at timestamptz;
alter table recording add column chapters_by uuid references person;
