-- +goose Up
-- What was done to openings, and what each of them was afterwards.
create table opening_change (
  id uuid primary key,
  opening_id uuid not null references opening on delete cascade,
  what text not null check (what in ('opened', 'changed', 'taken_back', 'given_again', 'renewed')),
  name text not null,
  uses text[] not null,
  from_kind text not null,
  from_at timestamptz,
  days_after_lecture int not null,
  until_kind text not null,
  until_at timestamptz,
  days_after_term int not null,
  people int not null, -- that it named
  made_by uuid references person,
  made_at timestamptz not null
);
create index on opening_change (opening_id, made_at);
insert into opening_change
select gen_random_uuid(), o.id, 'opened', o.name, o.uses, o.from_kind, o.from_at, o.days_after_lecture, o.until_kind,
  o.until_at, o.days_after_term, (select count(*) from opening_person p where p.opening_id = o.id and p.came_at is null),
  o.made_by, o.made_at
from opening o;
insert into opening_change
select gen_random_uuid(), o.id, 'taken_back', o.name, o.uses, o.from_kind, o.from_at, o.days_after_lecture,
  o.until_kind, o.until_at, o.days_after_term,
  (select count(*) from opening_person p where p.opening_id = o.id and p.came_at is null), o.ended_by, o.ended_at
from opening o where o.ended_at is not null;

-- +goose Down
drop table opening_change;
