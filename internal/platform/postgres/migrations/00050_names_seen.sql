-- +goose Up
-- Whether those of a course who follow a lecture see who else does. Where nothing is said they do not.
create table names_seen (
  course_id uuid primary key references course (id) on delete cascade,
  seen boolean not null
);

-- +goose Down
drop table names_seen;
