-- +goose Up
-- Chapters are looked for with what is said and shown.
-- +goose StatementBegin
create or replace function note_spoken(captures uuid[]) returns void language plpgsql as $$
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
    where t.capture_id = any(captures)
    union all
    select h.capture_id, coalesce(w.language, 'en'), true, h.at_ms, h.title
    from chapter h join capture on capture.id = h.capture_id
    left join lecture l on l.id = capture.lecture_id left join course_words w on w.course_id = l.course_id
    where h.capture_id = any(captures)) x
  group by x.capture_id, x.language),
  gone as (delete from spoken s where s.capture_id = any(captures)
    and not exists (select 1 from fresh f where f.capture_id = s.capture_id and f.language = s.language))
  insert into spoken (capture_id, language, words) select capture_id, language, words from fresh
  on conflict (capture_id, language) do update set words = excluded.words;
end $$;

create function note_chapters() returns trigger language plpgsql as $$
begin
  perform note_spoken(array(select distinct capture_id from changed));
  return null;
end $$;
-- +goose StatementEnd

create trigger spoken_new after insert on chapter referencing new table as changed for each statement execute function note_chapters();
create trigger spoken_gone after delete on chapter referencing old table as changed for each statement execute function note_chapters();
create trigger spoken_other after update on chapter referencing new table as changed for each statement execute function note_chapters();

select note_spoken(array(select distinct capture_id from chapter));

-- +goose Down
drop trigger spoken_new on chapter;
drop trigger spoken_gone on chapter;
drop trigger spoken_other on chapter;
drop function note_chapters();
-- +goose StatementBegin
create or replace function note_spoken(captures uuid[]) returns void language plpgsql as $$
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
-- +goose StatementEnd
select note_spoken(array(select distinct capture_id from chapter));
