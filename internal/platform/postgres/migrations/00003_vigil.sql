-- +goose Up
-- When bytes of a track last came, and when the server ended a capture to which none came any more.
alter table track add column arrived_at timestamptz;
update track t set arrived_at = c.started_at from capture c where c.id = t.capture_id;
alter table track alter column arrived_at set not null;
alter table capture add column given_up_at timestamptz;
create index on capture (started_at) where stopped_at is null;

-- What people were told of by letter, so that they are told once.
create table reminder (
  lecture_id uuid not null references lecture on delete cascade,
  kind text not null check (kind in ('not_started')),
  made_at timestamptz not null,
  primary key (lecture_id, kind)
);
