-- +goose Up
-- When a class ends for everyone: what is due in a moment can be taken back until then.
create table class_end (
  lecture_id uuid primary key references lecture on delete cascade,
  made_by uuid references person on delete set null,
  made_at timestamptz not null,
  due_at timestamptz not null
);
create index on class_end (made_by);

-- +goose Down
drop table class_end;
