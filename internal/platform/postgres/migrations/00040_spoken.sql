-- +goose Up
-- What is said and shown in a capture, as it is looked for over many: its words by their stems, in the language of its captions, that of its course for what
-- stands on slides. It is made anew whenever one of them changes; where in it a word stands is looked for in captions and slides.
create table spoken (
  capture_id uuid not null references capture on delete cascade,
  language text not null,
  words tsvector not null,
  primary key (capture_id, language)
);
create index on spoken using gin (words);

-- +goose StatementBegin
create function stems_of(language text) returns regconfig language sql immutable parallel safe as $$
  select case split_part(lower(language), '-', 1)
    when 'en' then 'pg_catalog.english'::regconfig when 'de' then 'pg_catalog.german'::regconfig when 'fr' then 'pg_catalog.french'::regconfig
    when 'es' then 'pg_catalog.spanish'::regconfig when 'it' then 'pg_catalog.italian'::regconfig when 'pt' then 'pg_catalog.portuguese'::regconfig
    when 'nl' then 'pg_catalog.dutch'::regconfig when 'da' then 'pg_catalog.danish'::regconfig when 'sv' then 'pg_catalog.swedish'::regconfig
    when 'nb' then 'pg_catalog.norwegian'::regconfig when 'nn' then 'pg_catalog.norwegian'::regconfig when 'no' then 'pg_catalog.norwegian'::regconfig
    when 'fi' then 'pg_catalog.finnish'::regconfig else 'pg_catalog.simple'::regconfig end
$$;

-- +goose StatementEnd
alter table cue add column stems tsvector generated always as (to_tsvector(stems_of(language), folded(text))) stored;
-- +goose StatementBegin
create function note_spoken(captures uuid[]) returns void language plpgsql as $$
begin
  with fresh as (
  select x.capture_id, x.language, to_tsvector(stems_of(x.language), left(folded(string_agg(x.text, E'\n' order by x.slide, x.at)), 500000)) as words from (
    -- Slides stand behind all that is said, so that a phrase goes on from line to line.
    select c.capture_id, c.language, false as slide, q.start_ms as at, q.text
    from caption c join capture on capture.id = c.capture_id join cue q on q.capture_id = c.capture_id and q.language = c.language
    where c.capture_id = any(captures) and c.shown_at is not null
    union all
    select t.capture_id, coalesce(w.language, 'en'), true, s.at_ms, s.title || E'\n' || s.body
    from slide_text s join track t on t.id = s.track_id join capture on capture.id = t.capture_id
    left join lecture l on l.id = capture.lecture_id left join course_words w on w.course_id = l.course_id
    where t.capture_id = any(captures)) x
  group by x.capture_id, x.language),
  gone as (delete from spoken s where s.capture_id = any(captures)
    and not exists (select 1 from fresh f where f.capture_id = s.capture_id and f.language = s.language))
  insert into spoken (capture_id, language, words) select capture_id, language, words from fresh
  on conflict (capture_id, language) do update set words = excluded.words;
end $$;

create function note_cues() returns trigger language plpgsql as $$
begin
  perform note_spoken(array(select distinct capture_id from changed));
  return null;
end $$;

create function note_caption() returns trigger language plpgsql as $$
begin
  perform note_spoken(array[coalesce(new.capture_id, old.capture_id)]);
  return null;
end $$;

create function note_slides() returns trigger language plpgsql as $$
begin
  perform note_spoken(array(select distinct t.capture_id from changed c join track t on t.id = c.track_id));
  return null;
end $$;
-- +goose StatementEnd

create trigger spoken_new after insert on cue referencing new table as changed for each statement execute function note_cues();
create trigger spoken_gone after delete on cue referencing old table as changed for each statement execute function note_cues();
create trigger spoken_other after update on cue referencing new table as changed for each statement execute function note_cues();
create trigger spoken after insert or update of shown_at, language or delete on caption for each row execute function note_caption();
create trigger spoken_new after insert on slide_text referencing new table as changed for each statement execute function note_slides();
create trigger spoken_gone after delete on slide_text referencing old table as changed for each statement execute function note_slides();

select note_spoken(array(select id from capture));

-- +goose Down
drop trigger spoken_new on slide_text;
drop trigger spoken_gone on slide_text;
drop trigger spoken on caption;
drop trigger spoken_other on cue;
drop trigger spoken_gone on cue;
drop trigger spoken_new on cue;
alter table cue drop column stems;
drop function note_slides(), note_caption(), note_cues(), note_spoken(uuid[]), stems_of(text);
drop table spoken;
