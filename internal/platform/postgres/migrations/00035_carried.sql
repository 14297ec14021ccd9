-- +goose Up
-- Courses that were carried to another term, so that it can be taken back.
create table course_carried (
  to_course uuid primary key references course on delete cascade,
  from_course uuid references course on delete set null,
  made boolean not null, -- the course was made for it
  change_id uuid, -- of its timetable
  lists uuid[] not null default '{}', -- that were made
  entries uuid[] not null default '{}', -- that were put into its main playlist
  rule_id uuid,
  step_id uuid, -- by which recordings were lit
  made_by uuid references person,
  made_at timestamptz not null
);
create index on course_carried (from_course);

-- +goose Down
drop table course_carried;
