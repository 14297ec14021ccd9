package bench

import (
	"context"
	"io"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/platform/postgres"
	"latelantern/internal/playlists"
	"latelantern/internal/testhouse"
	"latelantern/web"
)

// BenchmarkPlaylist reads a playlist of 500 entries, moves ten of them, and asks for its page. Its floor is to
// read the bare rows.
func BenchmarkPlaylist(b *testing.B) {
	ctx := context.Background()
	s := testhouse.New(b, true)
	const many = 500
	s.Do(`insert into lecture (id, course_id, starts_at, ends_at, topic)
		select gen_random_uuid(), $1, $2::timestamptz - n * interval '3 hours',
			$2::timestamptz - n * interval '3 hours' + interval '1 hour', 'Lecture ' || n
		from generate_series(1, $3) n`,
		s.Course, testhouse.Now, many)
	s.Do(`insert into recording (id, lecture_id, title, created_at, origin_at)
		select gen_random_uuid(), id, topic, starts_at, starts_at
		from lecture where topic like 'Lecture %'`)
	s.Do(`insert into release (recording_id, course_id, own, made_at) select id, $1, true, created_at from recording`,
		s.Course)
	list, err := s.Playlists.AddList(ctx, s.Course, s.Lecturer, playlists.Kept{Title: "All", Arranged: "hand"})
	s.Must(err)
	s.Do(`insert into playlist_entry (id, playlist_id, position, recording_id)
		select gen_random_uuid(), $1, row_number() over (order by created_at), id from recording`, list)
	s.Do(`analyze`)
	of := playlists.Of{Course: s.Course, List: list}
	server := httptest.NewServer(s.Edge(web.Files()))
	defer server.Close()
	signed, err := http.Post(server.URL+"/api/sign-in", "application/json",
		strings.NewReader(`{"email":"lecturer@college.example","password":"`+testhouse.Password+`"}`))
	s.Must(err)
	s.Must(signed.Body.Close())
	page := func() {
		r, err := http.NewRequest(http.MethodGet, server.URL+"/api/courses/"+s.Course.String()+"/playlist?list="+
			list.String(), nil)
		s.Must(err)
		r.AddCookie(signed.Cookies()[0])
		answer, err := http.DefaultClient.Do(r)
		s.Must(err)
		n, err := io.Copy(io.Discard, answer.Body)
		s.Must(err, answer.Body.Close())
		if answer.StatusCode != http.StatusOK || n < many*200 {
			b.Fatalf("the page is %d, %d bytes", answer.StatusCode, n)
		}
	}
	for b.Loop() {
		timed(b, "rows", func() {
			_, err := postgres.Values[uuid.UUID](ctx, s.DB, `select id from playlist_entry where playlist_id = $1
				order by position`, list)
			s.Must(err)
		})
		entries, err := s.Playlists.Entries(ctx, of)
		s.Must(err)
		if len(entries) != many {
			b.Fatalf("%d entries", len(entries))
		}
		timed(b, "entries", func() { _, err = s.Playlists.Entries(ctx, of); s.Must(err) })
		var ten []uuid.UUID
		for _, e := range entries[200:210] {
			ten = append(ten, e.ID)
		}
		to := 0
		timed(b, "move", func() { to = (to + 37) % 190; s.Must(s.Playlists.Move(ctx, of, ten, entries[to].ID)) })
		timed(b, "page", page)
	}
}

// timed reports the median of 21 times of something, in milliseconds.
func timed(b *testing.B, name string, do func()) {
	var took []time.Duration
	for range 21 {
		begun := time.Now()
		do()
		took = append(took, time.Since(begun))
	}
	b.ReportMetric(median(took).Seconds()*1000, name+"-ms")
}
