package bench

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/audience"
	"latelantern/internal/core/viewing"
	"latelantern/internal/feeds"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/testhouse"
	"latelantern/web"
)

// BenchmarkFeed asks for a private feed of 40 and of 500 recordings: the whole of it, and again while it is the same.
// Its floor is a query that asks for nothing.
func BenchmarkFeed(b *testing.B) {
	for _, many := range []int{40, 500} {
		b.Run(fmt.Sprint(many), func(b *testing.B) { feedOf(b, many) })
	}
}

func feedOf(b *testing.B, many int) {
	ctx := context.Background()
	s := testhouse.New(b, true)
	list := uuid.Must(uuid.NewV7())
	s.Do(`insert into playlist (id, course_id, main, title, about, arranged) values ($1, $2, true, '', '', 'date')`, list,
		s.Course)
	for n := range many {
		at := testhouse.Now.Add(-time.Duration(n+1) * 3 * time.Hour)
		recording := s.Bare(s.AddLecture(s.Course, at, fmt.Sprintf("Lecture %d", n)), true, &at)
		s.LightRow(recording, s.Course, nil)
		s.Do(`insert into playlist_entry (id, playlist_id, position, recording_id) values ($1, $2, $3, $4)`, uuid.New(),
			list, n, recording)
	}
	s.Do(`insert into edition_copy (edition_id, kind, state, percent, bytes)
		select edition_id, 'sound', 'ready', 100, 20000000 from recorded where edition_id is not null`)
	s.Do(`update track set audio = true`)
	s.Do(`analyze`)
	s.Must(s.Audience.SetRule(ctx, audience.Scope{Course: s.Course}, s.Lecturer, &viewing.Rule{
		Audience: viewing.Everyone, Uses: viewing.AllUses,
		Window: viewing.Window{From: viewing.FromOnce, Until: viewing.UntilEver}}))
	key, err := s.Feeds.Key(ctx, feeds.Of{Person: s.Student, Course: s.Course})
	s.Must(err)
	server := httptest.NewServer(s.Edge(web.Files()))
	defer server.Close()
	ask := func(tag string) (status int, now string, items int) {
		r, err := http.NewRequest(http.MethodGet, server.URL+"/take/"+key+"/sound.xml", nil)
		s.Must(err)
		r.Header.Set("If-None-Match", tag)
		answer, err := http.DefaultClient.Do(r)
		s.Must(err)
		text, err := io.ReadAll(answer.Body)
		s.Must(err, answer.Body.Close())
		return answer.StatusCode, answer.Header.Get("ETag"), bytes.Count(text, []byte("<item>"))
	}
	_, tag, items := ask("")
	if items != many {
		b.Fatalf("it has %d of %d", items, many)
	}
	for b.Loop() {
		timed(b, "nothing", func() {
			_, err := postgres.Value[int](ctx, s.DB, `select 1`)
			s.Must(err)
		})
		timed(b, "whole", func() { ask("") })
		timed(b, "again", func() {
			if status, _, _ := ask(tag); status != http.StatusNotModified {
				b.Fatalf("asked again it is %d", status)
			}
		})
	}
}
