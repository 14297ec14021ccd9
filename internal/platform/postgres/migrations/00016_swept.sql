-- +goose Up

-- What was removed since nothing named it any more.
create table swept (
  id uuid primary key,
  at timestamptz not null,
  kind text not null,
  blobs int not null,
  bytes bigint not null
);

-- +goose Down
drop table swept;
