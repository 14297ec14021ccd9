-- +goose Up
-- In which language someone is written to; '' for whoever has not chosen one.
alter table account add column language text not null default '';

-- +goose Down
alter table account drop column language;
