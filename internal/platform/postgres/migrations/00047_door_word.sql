-- +goose Up
-- A word to who was sent away or out.
alter table doorway_ask add column word text not null default '' check (char_length(word) <= 300);

-- Doors at which people ask, and of which somebody said that whoever comes is let in from now on.
create table doorway_open (
  lecture_id uuid primary key references lecture on delete cascade,
  made_by uuid references person on delete set null,
  made_at timestamptz not null
);
create index on doorway_open (made_by);

-- +goose Down
drop table doorway_open;
alter table doorway_ask drop column word;
