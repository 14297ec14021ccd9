-- +goose Up
-- What somebody noted for themselves at a moment of a capture, on its clock: nobody else reads it.
create table private_note (
  id uuid primary key,
  person_id uuid not null references person on delete cascade,
  capture_id uuid not null references capture on delete cascade,
  at_ms bigint not null check (at_ms >= 0),
  text text not null,
  kept_at timestamptz not null
);
create index on private_note (person_id, capture_id);
create index on private_note (capture_id);

-- +goose Down
drop table private_note;
