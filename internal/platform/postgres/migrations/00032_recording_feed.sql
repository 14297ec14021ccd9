-- +goose Up

-- How often someone renewed the address of a feed of theirs: of a playlist as a course shows it, or with null of all
-- that the course shows. The address itself is computed.
create table recording_feed (
  person_id uuid not null references person on delete cascade,
  course_id uuid not null references course on delete cascade,
  playlist_id uuid references playlist on delete cascade,
  turn int not null,
  unique nulls not distinct (person_id, course_id, playlist_id)
);

-- +goose Down
drop table recording_feed;
