package bench

import (
	"fmt"
	"math/rand/v2"
	"net/http"
	"slices"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/testhouse"
)

// BenchmarkToAll has 300 students, half of them through each of two servers, answer a question within ten seconds while
// who teaches looks at the answers twice a second: how long an answer takes until it is acknowledged, and what that
// takes of a core; and how long it takes until all of them have the results that are shown. The floor is to write an
// answer into the table.
func BenchmarkToAll(b *testing.B) {
	const students, within = 300, 10 * time.Second
	s := testhouse.New(b, true)
	all, base := classOf(b, s, students)
	teacher := followed(b, s, base, "lecturer")
	toAll := base + "/api/lectures/" + s.Lecture.String() + "/to-all"
	for b.Loop() {
		asked := uuid.NewString()
		teacher.send(b, http.MethodPut, toAll+"/"+asked, `{"seconds":600,"question":{"kind":"one","text":"When is ebb?",
			"choices":["at six","at noon","never"],"right":[1]}}`)
		timed(b, "row", func() {
			s.Do(`insert into given_answer (asked_id, person_id, later, choices, words, given_at)
				values ($1, $2, false, '{1}', '', $3)
				on conflict (asked_id, person_id) do update set given_at = $3`, asked, s.Student, testhouse.Now)
		})
		took := make([]time.Duration, students)
		before, began := spent(s), time.Now()
		var answered sync.WaitGroup
		for i, l := range all {
			wait := time.Duration(rand.Int64N(int64(within)))
			answered.Go(func() {
				time.Sleep(wait)
				begun := time.Now()
				l.send(b, http.MethodPut, l.base+"/api/lectures/"+s.Lecture.String()+"/to-all/"+asked+"/answer",
					fmt.Sprintf(`{"choices":[%d]}`, i%3))
				took[i] = time.Since(begun)
			})
		}
		for time.Since(began) < within {
			teacher.send(b, http.MethodGet, toAll, "")
			time.Sleep(500 * time.Millisecond)
		}
		answered.Wait()
		b.ReportMetric(100*(spent(s)-before).Seconds()/time.Since(began).Seconds(), "%-of-a-core")
		slices.Sort(took)
		b.ReportMetric(median(took).Seconds()*1000, "answer-ms")
		b.ReportMetric(took[len(took)*95/100].Seconds()*1000, "answer-p95-ms")
		if n := s.Count(`select count(*) from given_answer where asked_id = $1`, asked); n != students+1 {
			b.Errorf("%d answers are kept", n)
		}

		teacher.send(b, http.MethodPost, toAll+"/"+asked+"/change", `{"close":true,"shown":true}`)
		begun := time.Now()
		for _, l := range all {
			answered.Go(func() {
				l.send(b, http.MethodGet, l.base+"/api/lectures/"+s.Lecture.String()+"/to-all", "")
			})
		}
		answered.Wait()
		b.ReportMetric(time.Since(begun).Seconds()*1000, "all-have-results-ms")
	}
}
