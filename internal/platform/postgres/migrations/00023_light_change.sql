-- +goose Up
-- What was lit or darkened in one step, and is taken back in one.
create table light_change (
  id uuid primary key,
  lit boolean not null, -- else darkened
  made_by uuid references person,
  made_at timestamptz not null,
  undone_at timestamptz
);
create table light_change_part (
  change_id uuid not null references light_change on delete cascade,
  lighting_id uuid not null references lighting on delete cascade, -- that was begun, or ended
  entry_id uuid references playlist_entry on delete set null, -- that was made for it
  primary key (change_id, lighting_id)
);
create index on light_change_part (lighting_id);
create index on light_change_part (entry_id);

-- +goose Down
drop table light_change_part;
drop table light_change;
