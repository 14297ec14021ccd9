package bench

import (
	"context"
	"net/http"
	"net/url"
	"slices"
	"testing"
	"time"

	"latelantern/internal/audience"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/testhouse"
)

// speaking is a college in which 1,000 hours were said: 200 courses of 100 recordings of three minutes, each with 45
// lines of ten words, of which some are said often and most seldom. The student is in eight of the courses.
func speaking(s *testhouse.Stage) {
	for _, t := range []string{"cue", "caption", "release", "lighting", "recording_edition",
		"recording_capture", "lecture", "membership"} {
		s.Do(`alter table ` + t + ` disable trigger user`)
	}
	term, at := `(select id from term limit 1)`, testhouse.Now
	s.Do(`insert into course (id, term_id, code, title)
		select gen_random_uuid(), ` + term + `, 'SPK ' || n, 'Course ' || n from generate_series(1, 200) n`)
	s.Do(`insert into lecture (id, course_id, starts_at, ends_at, topic)
		select gen_random_uuid(), k.id, $1::timestamptz - n * interval '3 hours',
			$1::timestamptz - n * interval '3 hours' + interval '1 hour', 'Spoken ' || n
		from course k, generate_series(1, 100) n where k.code like 'SPK %'`, at)
	s.Do(`insert into recording (id, lecture_id, title, created_at, origin_at)
		select gen_random_uuid(), id, topic, starts_at, starts_at from lecture where topic like 'Spoken %'`)
	s.Do(`insert into capture (id, lecture_id, source, started_at, stopped_at)
		select r.id, r.lecture_id, 'file', r.created_at, r.created_at from recording r`)
	s.Do(`insert into track (id, capture_id, media_type, arrived_at, packed_ms)
		select id, id, '', started_at, 180000 from capture`)
	s.Do(`insert into recording_capture (recording_id, capture_id, position, start_ms) select id, id, 0, 0 from capture`)
	s.Do(`insert into release (recording_id, course_id, own, made_at)
		select r.id, l.course_id, true, r.created_at from recording r join lecture l on l.id = r.lecture_id`)
	s.Do(`insert into lighting (id, recording_id, course_id, lit_at)
		select gen_random_uuid(), recording_id, course_id, made_at from release`)
	s.Do(`insert into edition (id, recording_id, state, asked_at, length_ms, stretches)
		select id, id, 'ready', created_at, 180000, '[{"Source": {"Start": 0, "End": 180000000000}, "At": 0}]'
		from recording`)
	s.Do(`insert into recording_edition (recording_id, edition_id) select id, id from recording`)
	s.Do(`insert into caption (capture_id, language, state, shown_at) select id, 'en', 'ready', started_at from capture`)
	s.Do(`insert into cue (id, capture_id, language, start_ms, end_ms, text)
		select gen_random_uuid(), c.id, 'en', n * 4000, n * 4000 + 3900,
			(select string_agg('w' || floor(20000 * random() ^ 3), ' ')
				from generate_series(1, 10) where c.id is not null)
		from capture c, generate_series(0, 44) n`)
	s.Do(`select note_spoken(array(select id from capture))`)
	s.Do(`insert into membership (course_id, person_id, role)
		select id, $1, 'student' from course where code like 'SPK %' order by code limit 8`, s.Student)
	rule := &viewing.Rule{Audience: viewing.Everyone, Uses: viewing.AllUses,
		Window: viewing.Window{From: viewing.FromLecture, Until: viewing.UntilEver}}
	s.Must(s.Audience.SetRule(context.Background(), audience.Scope{}, s.Coordinator, rule))
	s.Do(`vacuum analyze`)
}

// BenchmarkSearch looks for what was said among 1,000 hours, as a student of eight courses and as a coordinator: words
// that are said often, seldom, and two together. Its floor is to ask the bare index, which captures have them.
func BenchmarkSearch(b *testing.B) {
	ctx := context.Background()
	s := testhouse.New(b, true)
	speaking(s)
	words := []string{"w4", "w120", "w9000", "w17000", "w40 w60", "\"w3 w8\"", "w2 w12000"}
	for b.Loop() {
		var bare []time.Duration
		for range 20 {
			for _, w := range words {
				begun := time.Now()
				_, err := postgres.Values[string](ctx, s.DB, `select capture_id::text from spoken
					where words @@ websearch_to_tsquery('english', $1) limit 1000`, w)
				s.Must(err)
				bare = append(bare, time.Since(begun))
			}
		}
		slices.Sort(bare)
		b.ReportMetric(bare[len(bare)*99/100].Seconds()*1000, "index-p99-ms")
		for _, who := range []string{"student", "coordinator"} {
			send := signedIn(b, s, who)
			var took []time.Duration
			for range 20 {
				for _, w := range words {
					begun := time.Now()
					send(http.MethodGet, "/api/search?words="+url.QueryEscape(w), "")
					took = append(took, time.Since(begun))
				}
			}
			for i, w := range words {
				b.Logf("%s, %s: %v", who, w, took[i+len(words)])
			}
			slices.Sort(took)
			b.ReportMetric(took[len(took)/2].Seconds()*1000, who+"-ms")
			b.ReportMetric(took[len(took)*99/100].Seconds()*1000, who+"-p99-ms")
		}
	}
}
