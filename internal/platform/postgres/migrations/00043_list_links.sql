-- +goose Up
-- A link opens one recording, or a playlist: of what stands in that, what its course gives light to.
alter table opening alter column recording_id drop not null;
alter table opening add column playlist_id uuid references playlist on delete cascade;
alter table opening add check (num_nonnulls(recording_id, playlist_id) = 1);
alter table opening add check (playlist_id is null or kind = 'link');
create index on opening (playlist_id);
create index on opening (made_by) where playlist_id is not null;

-- What one who came by the link of a playlist may watch changes with the link, with what stands in the playlist, and
-- with what its maker teaches.
-- +goose StatementBegin
create function say_comers(openings uuid[]) returns void language sql as $$
  select say_rights(array(select distinct 'p' || person_id from opening_person where opening_id = any(openings)));
$$;

create function say_opening() returns trigger language plpgsql as $$
declare
  v opening := coalesce(new, old);
begin
  if v.playlist_id is null then
    perform say_rights(array['r' || v.recording_id]);
  else
    perform say_comers(array[v.id]);
  end if;
  return null;
end $$;

create function say_entry() returns trigger language plpgsql as $$
declare
  v playlist_entry := coalesce(new, old);
begin
  if v.recording_id is not null and exists (select 1 from opening where playlist_id = v.playlist_id) then
    perform say_rights(array['r' || v.recording_id]);
  end if;
  return null;
end $$;

create function say_playlist() returns trigger language plpgsql as $$
begin
  perform say_comers(array(select id from opening where playlist_id = new.id));
  return null;
end $$;

create function say_maker() returns trigger language plpgsql as $$
declare
  v jsonb := to_jsonb(coalesce(new, old));
begin
  perform say_comers(array(select id from opening
    where playlist_id is not null and made_by = (v->>tg_argv[0])::uuid));
  return null;
end $$;
-- +goose StatementEnd

drop trigger rights on opening;
create trigger rights after insert or update of uses, from_kind, from_at, days_after_lecture, until_kind, until_at,
  days_after_term, turn, ended_at or delete on opening
  for each row execute function say_opening();
create trigger rights after insert or delete on playlist_entry
  for each row execute function say_entry();
create trigger rights after update of deleted_at on playlist
  for each row execute function say_playlist();
create trigger rights_made after insert or update of role or delete on membership
  for each row execute function say_maker('person_id');
create trigger rights_made after update of coordinator on person
  for each row execute function say_maker('id');

-- +goose Down
drop trigger rights_made on person;
drop trigger rights_made on membership;
drop trigger rights on playlist;
drop trigger rights on playlist_entry;
drop trigger rights on opening;
delete from opening where playlist_id is not null;
create trigger rights after insert or update of uses, from_kind, from_at, days_after_lecture, until_kind, until_at,
  days_after_term, turn, ended_at or delete on opening
  for each row execute function say_row('r', 'recording_id');
drop function say_maker();
drop function say_playlist();
drop function say_entry();
drop function say_opening();
drop function say_comers(uuid[]);
alter table opening drop column playlist_id;
alter table opening alter column recording_id set not null;
