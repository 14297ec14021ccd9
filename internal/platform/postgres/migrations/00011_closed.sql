-- +goose Up

-- The edition that whoever published last asked for. It alone becomes the published one (edition_id), once it is whole.
alter table recording add column wanted_edition_id uuid references edition;
update recording r set wanted_edition_id = case when n.state in ('making', 'failed') then n.id else r.edition_id end
from (select distinct on (recording_id) recording_id, id, state from edition order by recording_id, asked_at desc, id desc) n
where n.recording_id = r.id;

-- An edition that nobody may see any more is removed from the disk; where its moments lay in the recording is kept,
-- so that a player which had it finds its moment in the next.
alter table edition drop constraint edition_state_check;
alter table edition add check (state in ('making', 'ready', 'failed', 'removed'));
alter table edition add column stretches jsonb;

-- The copy of an edition that is taken away as one file: made once, when it is first asked for.
alter table edition add column copy_state text not null default '' check (copy_state in ('', 'making', 'ready', 'failed'));
alter table edition add column copy_percent int not null default 0;
alter table edition add column copy_bytes bigint not null default 0;
alter table edition add column copy_about bytea; -- digest of what is said in it, such as its chapters

-- A coordinator can close an account: nobody signs in to it until it is opened again.
alter table person add column closed_at timestamptz;

-- Sessions are kept by the digest of their token. Those that were kept by the token itself end.
delete from sessions;

-- When the next attempt to sign in may be looked at, where many failed before.
create table sign_in_slot (
  key bytea primary key,
  next_at timestamptz not null
);

-- When someone who follows a lecture live was last sent some of it.
create table following (
  lecture_id uuid not null references lecture on delete cascade,
  person_id uuid not null references person on delete cascade,
  played_at timestamptz not null,
  primary key (lecture_id, person_id)
);

-- Lectures to which nobody was invited: recorded ahead, in a standing room that is closed, or captured there alone.
create view private_lecture as
select l.id from lecture l where l.unplanned and (l.ahead or l.doorway = 'closed'
  or exists (select 1 from capture c where c.lecture_id = l.id and c.alone));

-- +goose Down
drop view private_lecture;
drop table following;
drop table sign_in_slot;
alter table person drop column closed_at;
alter table edition drop column copy_about, drop column copy_bytes, drop column copy_percent, drop column copy_state, drop column stretches;
update recording r set edition_id = null from edition e where e.id = r.edition_id and e.state = 'removed';
delete from edition where state = 'removed';
alter table edition drop constraint edition_state_check;
alter table edition add check (state in ('making', 'ready', 'failed'));
alter table recording drop column wanted_edition_id;
