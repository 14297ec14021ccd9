-- +goose Up
-- Other sites whose pages may show what is here in a frame.
create table embed_site (
  site text primary key,
  made_by uuid references person,
  made_at timestamptz not null
);

-- +goose Down
drop table embed_site;
