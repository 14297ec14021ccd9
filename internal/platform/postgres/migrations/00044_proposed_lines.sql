-- +goose Up
-- What people who read along propose to say in a line of captions instead. It stands as long as the line says what they
-- saw.
create table caption_proposal (
  id uuid primary key,
  capture_id uuid not null references capture on delete cascade,
  cue_id uuid not null, -- of a line that may be gone since
  seen text not null,
  text text not null,
  person_id uuid not null references person on delete cascade,
  made_at timestamptz not null,
  left_at timestamptz, -- when someone who teaches left the line as it is
  left_by uuid references person,
  unique (cue_id, person_id)
);
create index on caption_proposal (capture_id);
create index on caption_proposal (person_id);

-- +goose Down
drop table caption_proposal;
