-- What several packages read alike. Views are made anew whenever this text is another: no migration speaks of them.

-- What is known of a recording and of what is kept with it elsewhere.
create view recorded as
select r.*, c.cut_list_id, e.edition_id, e.wanted_edition_id, coalesce(w.subject, '') as subject, w.chapters_at
from recording r
left join recording_cuts c on c.recording_id = r.id
left join recording_edition e on e.recording_id = r.id
left join recording_words w on w.recording_id = r.id;

-- What a course has said about its recordings.
create view course_setting as
select k.id as course_id, coalesce(c.trim_ends, false) as trim_ends, o.days as original_days,
  coalesce(w.language, 'en') as language, coalesce(w.drafts, true) as drafts, coalesce(w.glossary, '') as glossary
from course k
left join course_cuts c on c.course_id = k.id
left join course_originals o on o.course_id = k.id
left join course_words w on w.course_id = k.id;

-- Whether a recording gives light to a course that has it.
create view released as
select e.recording_id, e.course_id, e.own, p.id is not null as lit, p.lit_by, p.lit_at
from release e left join lighting p on p.recording_id = e.recording_id and p.course_id = e.course_id and p.darkened_at is null;

-- Lectures to which nobody was invited.
create view private_lecture as
select l.id from lecture l where l.unplanned and (l.ahead or l.doorway = 'closed'
  or exists (select 1 from capture c where c.lecture_id = l.id and c.alone));

-- What is captured at a desk or in a hall and was not stopped. One that began half a day ago or before is none that one
-- could follow: whoever asks says what time it is.
create view live_capture as
select * from capture where source <> 'file' and stopped_at is null;

-- What a recording is made of. It came from a hall if any of it did, else as a file if any of it did.
create view recording_source as
select r.id as recording_id,
  case when bool_or(c.source = 'hall') then 'hall' when bool_or(c.source = 'file') then 'file' else 'desk' end as source, max(c.file_name) as file_name,
  min(c.started_at + coalesce(rc.from_ms, 0) * interval '1 ms') as started_at, case when bool_and(c.stopped_at is not null) then max(c.stopped_at) end as stopped_at,
  bool_or(c.source <> 'file' and c.stopped_at is null) as running,
  (array_agg(c.started_by order by c.started_at, c.id))[1] as started_by,
  count(*) filter (where t.role = 'main')::int as parts,
  case
    when bool_and(t.state = 'failed') filter (where t.role = 'main') then 'failed'
    when bool_and(t.state in ('ready', 'failed')) then 'ready'
    when bool_and(t.state = 'waiting') then 'waiting'
    else 'running' end as state,
  coalesce(max(t.fault) filter (where t.role = 'main'), '') as fault,
  sum(t.stored)::bigint as stored, case when bool_and(t.length is not null) then sum(t.length)::bigint end as size,
  coalesce(max(rc.start_ms + least(t.packed_ms, rc.until_ms)) filter (where t.role = 'main' and t.packed_ms > 0), 0) as length_ms,
  max(t.expected_ms) as expected_ms,
  min(t.pack_began_at) filter (where t.state = 'running') as pack_began_at,
  bool_or(t.encoded) as encoded, max(t.packed_at) as packed_at,
  max(t.original_gone_at) as original_gone_at,
  bool_or(t.video and t.role = 'main') as video, bool_or(t.audio) as audio, bool_or(t.role = 'second' and t.video) as second_video,
  case
    when bool_or(t.small_state = 'failed') filter (where t.role = 'main') then 'failed'
    when bool_and(t.small_state = 'ready' or t.state = 'failed') filter (where t.role = 'main') then 'ready'
    when bool_or(t.small_state <> '') filter (where t.role = 'main') then 'making'
    else '' end as small_state,
  coalesce(100 * sum(t.small_ms) filter (where t.role = 'main') / nullif(sum(t.packed_ms) filter (where t.role = 'main'), 0), 0)::int as small_percent,
  max(t.arrived_at) filter (where c.source <> 'file' and c.stopped_at is null) as last_at,
  case when bool_and(c.paused_at is not null) filter (where c.source <> 'file' and c.stopped_at is null) then max(c.paused_at) filter (where c.stopped_at is null) end as paused_at,
  coalesce(bool_and(c.alone) filter (where c.source <> 'file'), false) as apart
from recording r
join recording_capture rc on rc.recording_id = r.id
join capture c on c.id = rc.capture_id
join track t on t.capture_id = c.id
group by r.id;

-- The jobs: one that waits will still be begun, one under way will be done, and one that was given up was tried in vain.
create view job as
select kind, args, state in ('available', 'pending', 'retryable', 'scheduled') as waits,
  state in ('available', 'pending', 'running', 'retryable', 'scheduled') as under_way, state in ('discarded', 'cancelled') as given_up
from river_job;

-- Who a person is, and what their account is. One without an account has never signed in and was never asked to.
create view person_account as
select p.id, coalesce(p.email, '') as email, p.name, p.coordinator, p.guest, coalesce(a.session_era, 0) as session_era,
  a.closed_at is not null as closed, coalesce(a.password_hash, '') <> '' as active, a.invited_at,
  coalesce(a.language, '') as language
from person p left join account a on a.person_id = p.id;

-- Recordings that anyone but those who teach is shown, or will be: lit for a course, or opened beside any.
create view shown_recording as
select recording_id from released where lit
union select recording_id from opening where ended_at is null and recording_id is not null;

-- Courses that someone teaches.
create view teaches as
select person_id, course_id from membership where role in ('lecturer', 'assistant')
union all
select p.id, k.id from person p cross join course k where p.coordinator;

-- Recordings that stand in a playlist, each with the course whose it is, and whether that of the playlist gives it light.
create view listed_release as
select p.id as playlist_id, e.recording_id, w.course_id as own_course_id, p.course_id = w.course_id as own,
  coalesce(d.lit, false) as lit
from playlist p
join playlist_entry e on e.playlist_id = p.id
join release w on w.recording_id = e.recording_id and w.own
left join released d on d.recording_id = e.recording_id and d.course_id = p.course_id
where p.deleted_at is null;

-- What the link of a playlist opens: what is lit of what stands in it, as far as who made it may give that.
create view listed_opening as
select o.id as opening_id, x.recording_id from opening o join listed_release x on x.playlist_id = o.playlist_id
where x.lit and (x.own or exists (
  select 1 from teaches t where t.person_id = o.made_by and t.course_id = x.own_course_id));

-- What any opening opens.
create view opened_recording as
select id as opening_id, recording_id from opening where recording_id is not null
union all
select opening_id, recording_id from listed_opening;

-- The course by which an opening was given.
create view opening_course as
select o.id as opening_id, coalesce(l.course_id, p.course_id) as course_id
from opening o
left join recording r on r.id = o.recording_id
left join lecture l on l.id = r.lecture_id
left join playlist p on p.id = o.playlist_id;

-- Recordings that somebody put into a playlist that is there. What one brought by itself, it gives up by itself.
create view listed_recording as
select e.recording_id from playlist_entry e join playlist p on p.id = e.playlist_id
where e.recording_id is not null and not e.filled and p.deleted_at is null;

-- The playlists that courses show, in their order: a course its main one first, wherever else it puts others.
create view shown_playlist as
select p.id as playlist_id, p.course_id, -1 as position from playlist p where p.main
union all
select x.playlist_id, x.course_id, x.position from playlist_place x join playlist p on p.id = x.playlist_id
where p.deleted_at is null and not p.main;

-- While somebody was in a lecture, as far as it is known: followed live, or from when they gave the code of the hall to
-- its end; and moments at which they said something or answered a question to all; or as somebody who teaches says by hand.
create view attendance as
select lecture_id, person_id, from_at, until_at, 'live' as by from presence
union all
select h.lecture_id, h.person_id, h.signed_at, greatest(h.signed_at, l.ends_at), 'hall'
from hall_sign h join lecture l on l.id = h.lecture_id
union all
select lecture_id, person_id, said_at, said_at, 'said' from chat_line
where not later and withdrawn_at is null
union all
select q.lecture_id, g.person_id, g.given_at, g.given_at, 'answered'
from given_answer g join asked_question q on q.id = g.asked_id where not g.later
union all
select m.lecture_id, m.person_id, l.starts_at + m.late_min * interval '1 minute',
  greatest(l.starts_at + m.late_min * interval '1 minute', l.ends_at - m.early_min * interval '1 minute'), 'hand'
from register_mark m join lecture l on l.id = m.lecture_id
where m.ended_at is null and m.state in ('present', 'late', 'left_early', 'late_left_early');

-- Classes that were ended for everyone, or are about to be, and of which nothing is captured since.
create view ended_class as
select e.lecture_id, e.due_at, coalesce(p.name, '') as by
from class_end e left join person p on p.id = e.made_by
where not exists (select 1 from capture c where c.lecture_id = e.lecture_id and c.source <> 'file' and not c.alone
  and c.started_at > e.due_at);

-- Questions that were put to all, and until when each is open: the end of a class ends it.
create view open_question as
select q.*, least(q.closes_at, case when e.due_at > q.opened_at then e.due_at end) as ends_at
from asked_question q left join ended_class e on e.lecture_id = q.lecture_id;
