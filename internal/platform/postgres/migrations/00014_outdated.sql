-- +goose Up

-- What a recording is made of is other than when this edition was asked for: it is that of no cut list any more.
alter table edition add column outdated boolean not null default false;
update edition e set outdated = true, cut_list_id = null from cut_list c where c.id = e.cut_list_id and c.parent_id = c.id;
delete from cut_list where parent_id = id;

-- +goose Down
alter table edition drop column outdated;
