-- +goose Up
-- A step can change the rules of single recordings in courses as well as their light, or alone.
alter table light_change alter column lit drop not null; -- null: neither lit nor darkened
create table rule_change_part (
  change_id uuid not null references light_change on delete cascade,
  recording_id uuid not null,
  course_id uuid not null,
  was_id uuid references viewing_rule on delete cascade, -- that it ended; null for none
  made_id uuid references viewing_rule on delete cascade, -- that it began; null for none
  primary key (change_id, recording_id, course_id),
  foreign key (recording_id, course_id) references release on delete cascade
);
create index on rule_change_part (recording_id, course_id);
create index on rule_change_part (was_id);
create index on rule_change_part (made_id);
alter table viewing_rule add column ended_by uuid references person; -- null: nobody knows
-- The light of a board reads the rules of single recordings of hundreds of courses, most of which say the same.
alter table viewing_rule add column said bigint generated always as (hash_record_extended(row(audience, groups,
  from_kind, from_at, days_after_lecture, until_kind, until_at, days_after_term), 0)) stored;
create index viewing_rule_single on viewing_rule (course_id, said) include (recording_id, id)
  where ended_at is null and recording_id is not null;

-- +goose Down
alter table viewing_rule drop column said;
alter table viewing_rule drop column ended_by;
drop table rule_change_part;
delete from light_change where lit is null;
alter table light_change alter column lit set not null;
