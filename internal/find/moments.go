package find

import (
	"context"
	"fmt"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/google/uuid"

	"latelantern/internal/platform/postgres"
)

// mostHeard is how many recordings are weighed at most in which the words of a query are said or shown: the newest.
const mostHeard = 150

// queries is what someone looks for, $1, by the stems of every language that there are stems for: each text is held
// against those of its own, and that one language has a word of another hardly ever misleads. What stands between
// quotation marks is one phrase, or and a minus are what they are elsewhere (websearch_to_tsquery).
const queries = `(select coalesce(string_agg(distinct '(' || x.q || ')', ' | '), '')::tsquery from (
	select websearch_to_tsquery(c, folded($1))::text as q from unnest('{english,german,french,spanish,italian,
		portuguese,dutch,danish,swedish,norwegian,finnish,simple}'::regconfig[]) c) x where x.q <> '')`

// Spoken is a recording of a lecture in which something is said.
type Spoken struct {
	Recording, Lecture uuid.UUID
}

// Speaking are the recordings in which what someone looks for is said or stands on slides, all of it somewhere in each,
// the best first. Only those that are released to the courses in within, and those in beside, are looked at; all when
// within is nil. Whether somebody may know that is for the caller to say.
func (s *Service) Speaking(ctx context.Context, words string, within, beside []uuid.UUID) ([]Spoken, error) {
	const query = `with q as materialized (select ` + queries + ` as q),
	has as materialized (select s.capture_id from spoken s, q where s.words @@ q.q),
	newest as materialized (
		select rc.recording_id, r.lecture_id, rc.capture_id
		from has join recording_capture rc on rc.capture_id = has.capture_id join recording r on r.id = rc.recording_id
		where r.deleted_at is null and ($2::uuid[] is null or rc.recording_id = any($3)
			or exists (select 1 from release e where e.recording_id = rc.recording_id and e.course_id = any($2)))
		order by r.origin_at desc, r.id limit $4)
	select n.recording_id as recording, n.lecture_id as lecture
	from q, newest n join spoken s on s.capture_id = n.capture_id
	group by n.recording_id, n.lecture_id order by max(ts_rank_cd(s.words, q.q)) desc, n.recording_id`
	out, err := postgres.All[Spoken](ctx, s.DB, query, words, within, beside, mostHeard)
	if err != nil {
		return nil, fmt.Errorf("find what was said: %w", err)
	}
	return out, nil
}

// Place is where a moment was found.
type Place string

// Where moments are found.
const (
	Said      Place = "said"
	OnSlide   Place = "slide"
	InChapter Place = "chapter" // as its title
)

// Moment is where in a recording something is said or shown, or a chapter is called so.
type Moment struct {
	Recording uuid.UUID
	Place     Place
	At        time.Duration // on the clock of the recording
	Until     time.Duration // of a chapter: where the next begins; 0 for the last
	Track     uuid.UUID     // of a slide
	Picture   int64         // of a slide: when it begins, in milliseconds on the clock of its track
	Pieces    []Piece       // of the text
}

// Piece is some of a text that was found; one that is Hit is what was looked for.
type Piece struct {
	Text string
	Hit  bool
}

// Hits begin and end with signs that stand in no text.
const opens, closes = "\u0001", "\u0002"

// Moments are where in recordings what someone looks for is said or shown, those of each recording in order. A line is
// one that has all of it, or has it together with the next; where a recording has no such line, those that have some.
func (s *Service) Moments(ctx context.Context, words string, recordings []uuid.UUID) ([]Moment, error) {
	type row struct {
		RecordingID uuid.UUID
		Place       Place
		AtMs        int64
		UntilMs     int64
		TrackID     *uuid.UUID
		Picture     int64
		Text        string
		Marked      string // folded, with its hits marked
	}
	const query = `with q as materialized (select ` + queries + ` as q), either as materialized (
		select regexp_replace(q.q::text, '&|<(-|\d+)>', '|', 'g')::tsquery as q from q),
	part as (
		select rc.recording_id, rc.capture_id, rc.start_ms, coalesce(rc.from_ms, 0) as from_ms, rc.until_ms
		from recording_capture rc where rc.recording_id = any($2)),
	hit as materialized (
		select p.recording_id, 'said' as place, c.start_ms + p.start_ms as at_ms, 0::bigint as until_ms,
			null::uuid as track_id, 0::bigint as picture, c.text, stems_of(c.language) as config,
			c.stems @@ q.q or c.stems || coalesce(n.stems, '') @@ q.q as all_of_it
		from q, either, part p join caption x on x.capture_id = p.capture_id and x.shown_at is not null
		join cue c on c.capture_id = p.capture_id and c.language = x.language
			and c.start_ms >= p.from_ms and (p.until_ms is null or c.start_ms < p.until_ms)
		left join lateral (select n.stems from cue n where n.capture_id = c.capture_id and n.language = c.language
			and n.start_ms > c.start_ms order by n.start_ms limit 1) n on true
		where c.stems @@ either.q
		union all
		select p.recording_id, 'slide', s.at_ms + p.start_ms, 0, s.track_id, s.at_ms, s.title || ' · ' || s.body,
			w.config, w.stems @@ q.q
		from q, either, part p join track t on t.capture_id = p.capture_id join slide_text s on s.track_id = t.id
		join capture k on k.id = p.capture_id left join lecture l on l.id = k.lecture_id
		left join course_words o on o.course_id = l.course_id
		cross join lateral (select stems_of(coalesce(o.language, 'en')) as config,
			to_tsvector(stems_of(coalesce(o.language, 'en')), folded(s.title || ' ' || s.body)) as stems offset 0) w
		where w.stems @@ either.q
		union all
		select p.recording_id, 'chapter', h.at_ms + p.start_ms, coalesce(h.until_ms + p.start_ms, 0), null, 0, h.title,
			w.config, w.stems @@ q.q
		from q, either, part p join recording_words r on r.recording_id = p.recording_id and r.chapters_at is not null
		cross join lateral (select h.at_ms, h.title, lead(h.at_ms) over (order by h.at_ms) as until_ms
			from chapter h where h.capture_id = p.capture_id and h.at_ms >= p.from_ms
			and (p.until_ms is null or h.at_ms < p.until_ms)) h
		join capture k on k.id = p.capture_id left join lecture l on l.id = k.lecture_id
		left join course_words o on o.course_id = l.course_id
		cross join lateral (select stems_of(coalesce(o.language, 'en')) as config,
			to_tsvector(stems_of(coalesce(o.language, 'en')), folded(h.title)) as stems offset 0) w
		where w.stems @@ either.q),
	best as (select hit.*, bool_or(all_of_it) over (partition by recording_id) as any_all from hit)
	select recording_id, place, at_ms, until_ms, track_id, picture, text, ts_headline(config, folded(text), either.q,
		'HighlightAll=true, StartSel=` + opens + `, StopSel=` + closes + `') as marked
	from best, either where all_of_it or not any_all order by recording_id, at_ms, place`
	rows, err := postgres.All[row](ctx, s.DB, query, words, recordings)
	if err != nil {
		return nil, fmt.Errorf("find where something was said: %w", err)
	}
	out := make([]Moment, len(rows))
	for i, r := range rows {
		out[i] = Moment{Recording: r.RecordingID, Place: r.Place, At: time.Duration(r.AtMs) * time.Millisecond,
			Until: time.Duration(r.UntilMs) * time.Millisecond, Picture: r.Picture, Pieces: pieces(r.Text, r.Marked)}
		if r.TrackID != nil {
			out[i].Track = *r.TrackID
		}
	}
	return out, nil
}

// pieces are those of a text whose folded form has its hits marked. Where a letter became two in it, none is a hit.
func pieces(text, marked string) []Piece {
	in := []rune(text)
	var out []Piece
	from, at, hit := 0, 0, false
	add := func(turn bool) {
		if at > from {
			out = append(out, Piece{strings.ReplaceAll(string(in[from:at]), "\n", " "), hit})
		}
		from, hit = at, turn
	}
	if utf8.RuneCountInString(strings.NewReplacer(opens, "", closes, "").Replace(marked)) != len(in) {
		at = len(in)
		add(false)
		return out
	}
	for _, r := range marked {
		switch string(r) {
		case opens:
			add(true)
		case closes:
			add(false)
		default:
			at++
		}
	}
	add(false)
	return out
}
