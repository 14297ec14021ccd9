-- +goose Up
-- What of a register came by a file, and what each took the place of.
alter table register_mark add column brought uuid;
alter table register_mark add column ended_by uuid;
create index on register_mark (brought) where brought is not null;
create index on register_mark (ended_by) where ended_by is not null;

-- +goose Down
alter table register_mark drop column brought;
alter table register_mark drop column ended_by;
