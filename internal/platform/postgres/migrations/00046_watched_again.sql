-- +goose Up
-- How much of each ten seconds of a capture was watched by people who had watched it before, in milliseconds: by nobody's
-- name, on the clock of the capture.
create table watched_again (
  capture_id uuid not null references capture on delete cascade,
  piece int not null check (piece >= 0),
  ms bigint not null check (ms >= 0),
  primary key (capture_id, piece)
);

-- +goose Down
drop table watched_again;
