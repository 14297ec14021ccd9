-- +goose Up
-- What is open to everyone is asked for whenever someone's rights are.
create index on opening (recording_id) where kind = 'everyone' and ended_at is null;
-- Students are counted by group whenever a board is.
create index membership_students on membership (course_id, group_name) where role = 'student';

-- What decisions of who may watch rest on is said when it changes, by whoever changes it: a letter for what it is
-- (p person, r recording, c course, s session) and its id, or * for everything. It is heard once the change is
-- committed.
-- +goose StatementBegin
create function say_rights(subjects text[]) returns void language plpgsql as $$
declare
  s text;
begin
  if cardinality(subjects) > 1000 then
    subjects := '{*}';
  end if;
  foreach s in array coalesce(subjects, '{}') loop
    perform pg_notify('latelantern_rights', s);
  end loop;
end $$;

-- Of a row that changed, in a column that is named: its subject before and after.
create function say_row() returns trigger language plpgsql as $$
declare
  kind text := tg_argv[0];
  col text := tg_argv[1];
begin
  if tg_op <> 'INSERT' then
    perform say_rights(array[kind || (to_jsonb(old)->>col)]) where to_jsonb(old)->>col is not null;
  end if;
  if tg_op <> 'DELETE' and (tg_op = 'INSERT' or to_jsonb(new)->>col is distinct from to_jsonb(old)->>col) then
    perform say_rights(array[kind || (to_jsonb(new)->>col)]) where to_jsonb(new)->>col is not null;
  end if;
  return null;
end $$;

create function say_everything() returns trigger language plpgsql as $$
begin
  perform say_rights('{*}');
  return null;
end $$;

-- Of many rows at once.
create function say_members() returns trigger language plpgsql as $$
begin
  if tg_op = 'INSERT' then
    perform say_rights(array(select distinct 'p' || person_id from new_rows));
  elsif tg_op = 'DELETE' then
    perform say_rights(array(select distinct 'p' || person_id from old_rows));
  else
    perform say_rights(array(select 'p' || person_id from old_rows union select 'p' || person_id from new_rows));
  end if;
  return null;
end $$;

-- The rule of the college holds anywhere.
create function say_rule() returns trigger language plpgsql as $$
declare
  v viewing_rule := coalesce(new, old);
begin
  perform say_rights(array[case when v.course_id is null then '*' when v.recording_id is null then 'c' || v.course_id
    else 'r' || v.recording_id end]);
  return null;
end $$;

-- When a capture stopped is when its lecture was over.
create function say_capture() returns trigger language plpgsql as $$
begin
  perform say_rights(array(select 'r' || recording_id from recording_capture where capture_id = new.id));
  return null;
end $$;
-- +goose StatementEnd

create trigger rights after update of coordinator, guest or delete on person
  for each row execute function say_row('p', 'id');
create trigger rights after insert or update of session_era, closed_at or delete on account
  for each row execute function say_row('p', 'person_id');
create trigger rights_new after insert on membership referencing new table as new_rows
  for each statement execute function say_members();
create trigger rights_gone after delete on membership referencing old table as old_rows
  for each statement execute function say_members();
create trigger rights_other after update on membership referencing old table as old_rows new table as new_rows
  for each statement execute function say_members();
create trigger rights after insert or update or delete on viewing_rule
  for each row execute function say_rule();
create trigger rights after insert or update of uses, from_kind, from_at, days_after_lecture, until_kind, until_at,
  days_after_term, turn, ended_at or delete on opening
  for each row execute function say_row('r', 'recording_id');
create trigger rights after insert or update of person_id, turn or delete on opening_person
  for each row execute function say_row('p', 'person_id');
create trigger rights after insert or update or delete on shut_out
  for each row execute function say_row('p', 'person_id');
create trigger rights after insert or update or delete on release
  for each row execute function say_row('r', 'recording_id');
create trigger rights after insert or update or delete on lighting
  for each row execute function say_row('r', 'recording_id');
create trigger rights after update of deleted_at, lecture_id or delete on recording
  for each row execute function say_row('r', 'id');
create trigger rights after insert or update of edition_id or delete on recording_edition
  for each row execute function say_row('r', 'recording_id');
create trigger rights after insert or update or delete on recording_capture
  for each row execute function say_row('r', 'recording_id');
create trigger rights after update of stopped_at on capture
  for each row execute function say_capture();
create trigger rights after update of starts_at, ends_at, course_id on lecture
  for each row execute function say_row('c', 'course_id');
create trigger rights after update of term_id or delete on course
  for each row execute function say_row('c', 'id');
create trigger rights after update of last_day, zone or delete on term
  for each statement execute function say_everything();
create trigger rights after update or delete on sessions
  for each row execute function say_row('s', 'token');

-- +goose Down
drop trigger rights on sessions;
drop trigger rights on term;
drop trigger rights on course;
drop trigger rights on lecture;
drop trigger rights on capture;
drop trigger rights on recording_capture;
drop trigger rights on recording_edition;
drop trigger rights on recording;
drop trigger rights on lighting;
drop trigger rights on release;
drop trigger rights on shut_out;
drop trigger rights on opening_person;
drop trigger rights on opening;
drop trigger rights on viewing_rule;
drop trigger rights_other on membership;
drop trigger rights_gone on membership;
drop trigger rights_new on membership;
drop trigger rights on account;
drop trigger rights on person;
drop function say_capture();
drop function say_rule();
drop function say_members();
drop function say_everything();
drop function say_row();
drop function say_rights(text[]);
drop index membership_students;
drop index opening_recording_id_idx1;
