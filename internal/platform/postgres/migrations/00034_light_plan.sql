-- +goose Up
-- A step can be for an hour that is set: it is kept as it was asked for until it is done then.
alter table light_change add column at timestamptz; -- null: at once
alter table light_change add column asked jsonb; -- what is done then
alter table light_change add column done_at timestamptz;
alter table light_change add column gave_up text not null default ''; -- why it could not be done: a code of the catalogue
alter table light_change add check ((at is null) = (asked is null));
create index on light_change (at) where at is not null and done_at is null and undone_at is null;

-- +goose Down
delete from light_change where at is not null and done_at is null;
alter table light_change drop column gave_up;
alter table light_change drop column done_at;
alter table light_change drop column asked;
alter table light_change drop column at;
