-- +goose Up
-- With what a person signs in is kept apart from who they are. Someone without a row has no account yet.
create table account (
  person_id uuid primary key references person on delete cascade,
  password_hash text not null default '',
  session_era int not null default 0,
  invited_at timestamptz,
  closed_at timestamptz
);
insert into account (person_id, password_hash, session_era, invited_at, closed_at)
select id, password_hash, session_era, invited_at, closed_at from person
where password_hash <> '' or session_era <> 0 or invited_at is not null or closed_at is not null;
alter table person drop column password_hash, drop column session_era, drop column invited_at, drop column closed_at;

-- +goose Down
alter table person add column password_hash text not null default '', add column session_era int not null default 0,
  add column invited_at timestamptz, add column closed_at timestamptz;
update person p set password_hash = a.password_hash, session_era = a.session_era, invited_at = a.invited_at, closed_at = a.closed_at
from account a where a.person_id = p.id;
drop table account;
