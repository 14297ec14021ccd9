package bench

import (
	"bufio"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/listening"
	"latelantern/internal/api/live"
	"latelantern/internal/assemble"
	"latelantern/internal/testhouse"
)

// listener is a browser of somebody who follows a lecture: it hears events, and reads what is new of the chat.
type listener struct {
	client *http.Client
	base   string
	chat   string
	heard  chan string
	after  atomic.Int64
}

// followed signs somebody in and follows the chat of the lecture.
func followed(b *testing.B, s *testhouse.Stage, base, who string) *listener {
	jar, err := cookiejar.New(nil)
	s.Must(err)
	l := &listener{client: &http.Client{Jar: jar, Transport: &http.Transport{MaxIdleConnsPerHost: 2}}, base: base,
		chat: base + "/api/lectures/" + s.Lecture.String() + "/chat", heard: make(chan string, 1000)}
	l.send(b, http.MethodPost, base+"/api/sign-in",
		`{"email":"`+who+`@college.example","password":"`+testhouse.Password+`"}`)
	answer, err := l.client.Get(base + "/api/events")
	s.Must(err)
	b.Cleanup(func() { answer.Body.Close() })
	in := bufio.NewScanner(answer.Body)
	in.Scan()
	told := make(chan struct{}, 1)
	go func() {
		for in.Scan() {
			data, ok := strings.CutPrefix(in.Text(), "data: ")
			if ok && l.takes(data) {
				continue
			}
			if strings.Contains(data, `"about":"chat"`) {
				select {
				case told <- struct{}{}:
				default: // it reads already, and will again
				}
			}
		}
		close(told)
	}()
	go func() {
		for range told {
			l.read(b)
		}
	}()
	return l
}

// takes takes what is new from an event, as a page does, and reports whether that is all there is to know.
func (l *listener) takes(data string) bool {
	var e listening.Event
	if json.Unmarshal([]byte(data), &e) != nil || e.Chat == nil || l.after.Load() < e.Chat.From {
		return false
	}
	was := l.after.Swap(e.Chat.Changes)
	for _, line := range e.Chat.Lines[max(0, len(e.Chat.Lines)-int(e.Chat.Changes-was)):] {
		l.heard <- line.Text
	}
	return true
}

func (l *listener) send(b *testing.B, method, address, body string) {
	r, err := http.NewRequest(method, address, strings.NewReader(body))
	if err == nil {
		r.Header.Set("Content-Type", "application/json")
		var answer *http.Response
		if answer, err = l.client.Do(r); err == nil {
			_, _ = io.Copy(io.Discard, answer.Body)
			answer.Body.Close()
			if answer.StatusCode >= 300 {
				err = fmt.Errorf("%d", answer.StatusCode)
			}
		}
	}
	if err != nil {
		b.Errorf("%s: %v", address, err)
	}
}

// read reads what is new.
func (l *listener) read(b *testing.B) {
	answer, err := l.client.Get(fmt.Sprintf("%s?after=%d", l.chat, l.after.Load()))
	if err != nil {
		return // the server ended
	}
	defer answer.Body.Close()
	var x live.Chat
	if err := json.NewDecoder(answer.Body).Decode(&x); err != nil {
		b.Error(err)
		return
	}
	l.after.Store(x.Changes)
	for _, line := range x.Lines {
		l.heard <- line.Text
	}
}

// classOf are students who follow the lecture, half of them through each of two servers; base is the address of one.
func classOf(b *testing.B, s *testhouse.Stage, students int) (all []*listener, base string) {
	var bases []string
	for range 2 {
		server := httptest.NewUnstartedServer(s.Edge(nil))
		server.Config = assemble.NewServer(server.Config.Handler)
		server.Start()
		b.Cleanup(func() { server.CloseClientConnections(); server.Close() })
		bases = append(bases, server.URL)
	}
	for i := range students {
		name := fmt.Sprintf("follower%d", i)
		s.Person(name, s.Course, "student", "")
		all = append(all, followed(b, s, bases[i%2], name))
	}
	return all, bases[0]
}

// BenchmarkChat has 300 students follow a lecture, half of them through each of two servers: how long it takes until a
// line has reached all of them (95 of 100 lines), what that takes of a core while somebody says something every two
// seconds, and how long 2,000 lines take to load. The floor is to write a line into the table and to read it.
func BenchmarkChat(b *testing.B) {
	const students, lines = 300, 40
	s := testhouse.New(b, true)
	all, _ := classOf(b, s, students)
	for b.Loop() {
		timed(b, "row", func() {
			s.Do(`with x as (insert into chat (lecture_id, changes) values ($1, 1) on conflict (lecture_id)
				do update set changes = chat.changes + 1 returning changes)
				insert into chat_line (id, lecture_id, person_id, said_at, kept_at, text, to_teachers, later, state,
					change)
				select gen_random_uuid(), $1, $2, $3, $3, '', false, true, '', changes from x`, s.Elsewhere, s.Student,
				testhouse.Now)
		})
		var took []time.Duration
		before, began := spent(s), time.Now()
		for n := range lines {
			text := fmt.Sprintf("line %d %s", n, uuid.NewString())
			begun := time.Now()
			all[n].send(b, http.MethodPost, all[n].chat, fmt.Sprintf(`{"id":%q,"text":%q}`, uuid.NewString(), text))
			var reached sync.WaitGroup
			for _, l := range all {
				reached.Go(func() {
					for got := range l.heard {
						if got == text {
							return
						}
					}
				})
			}
			reached.Wait()
			took = append(took, time.Since(begun))
			time.Sleep(max(0, 2*time.Second-time.Since(begun)))
		}
		b.ReportMetric(100*(spent(s)-before).Seconds()/time.Since(began).Seconds(), "%-of-a-core")
		slices.Sort(took)
		b.ReportMetric(median(took).Seconds()*1000, "reach-ms")
		b.ReportMetric(took[len(took)*95/100].Seconds()*1000, "reach-p95-ms")

		s.Do(`insert into chat_line (id, lecture_id, person_id, said_at, kept_at, text, to_teachers, later, state,
				change)
			select gen_random_uuid(), $1, $2, $3, $3, 'What somebody says in a lecture, line ' || n, false, false, '', 1
			from generate_series(1, 2000) n`, s.Lecture, s.Second, testhouse.Now)
		var loads []time.Duration
		for range 20 {
			begun := time.Now()
			all[0].send(b, http.MethodGet, all[0].chat+"?after=0", "")
			loads = append(loads, time.Since(begun))
		}
		b.ReportMetric(median(loads).Seconds()*1000, "2000-lines-ms")
		s.Do(`delete from chat_line where change = 1`)
	}
}
