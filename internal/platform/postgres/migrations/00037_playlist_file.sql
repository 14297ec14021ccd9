-- +goose Up
-- A file that stands in a playlist, as slides or a worksheet. Its bytes lie under blob, which a course that a playlist is
-- carried to shares. One that stands nowhere since left_at can be put back for a while.
create table playlist_file (
  id uuid primary key,
  course_id uuid not null references course on delete cascade, -- whose playlist it was put into
  blob uuid not null,
  name text not null,
  kind text not null, -- media type, found by looking at the bytes
  bytes bigint not null check (bytes > 0),
  made_by uuid references person,
  made_at timestamptz not null,
  left_at timestamptz
);
create index on playlist_file (course_id);
alter table playlist_entry add column file_id uuid references playlist_file;
create index on playlist_entry (file_id) where file_id is not null;
alter table playlist_entry drop constraint playlist_entry_check;
alter table playlist_entry drop constraint playlist_entry_check1;
alter table playlist_entry add check (num_nonnulls(heading, recording_id, address, file_id) = 1);
alter table playlist_entry add check ((address is null and file_id is null) = (title = ''));

-- +goose Down
delete from playlist_entry where file_id is not null;
alter table playlist_entry drop column file_id;
alter table playlist_entry add check (num_nonnulls(heading, recording_id, address) = 1);
alter table playlist_entry add check ((address is null) = (title = ''));
drop table playlist_file;
