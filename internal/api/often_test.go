package api_test

import (
	"net/http"
	"testing"
	"time"

	"github.com/google/uuid"
)

// TestWhatIsAskedOftenEndsWithTheSession: whose a session is is remembered where many ask all the time, and no longer
// than a second once it ended, however that came; and a stream of events ends at its next look.
func TestWhatIsAskedOftenEndsWithTheSession(t *testing.T) {
	e := newEdge(t, true)
	lecture := "/api/lectures/" + e.Lecture.String()
	asked := []struct {
		method, path string
		body         any
		open         int // what is answered while the session holds
	}{
		{http.MethodGet, lecture + "/chat", nil, http.StatusOK},
		{http.MethodGet, lecture + "/to-all", nil, http.StatusOK},
		{http.MethodPut, "/api/watch/" + uuid.NewString() + "/place", map[string]any{"edition": uuid.Nil, "at": 0},
			http.StatusNotFound},
	}
	var streams []<-chan string
	for _, x := range []struct {
		who, how, end string
		person        uuid.UUID
	}{
		{"student", "all its sessions were ended", `update account set session_era = session_era + 1
			where person_id = $1`, e.Student},
		{"second", "the account was closed", `update account set closed_at = now() where person_id = $1`, e.Second},
		{"third", "it was ended elsewhere", `delete from sessions where $1::uuid is not null`, e.Third},
	} {
		c := e.as(x.who)
		streams = append(streams, c.hears())
		for _, a := range asked {
			for range 2 { // asked, and remembered
				if status := c.status(a.method, a.path, a.body); status != a.open {
					t.Fatalf("%s %s is answered %d, want %d", a.method, a.path, status, a.open)
				}
			}
		}
		e.Do(x.end, x.person)
		for began, open := time.Now(), 1; open > 0; {
			open = 0
			for _, a := range asked {
				if c.status(a.method, a.path, a.body) != http.StatusUnauthorized {
					open++
				}
			}
			if open > 0 && time.Since(began) > time.Second {
				t.Fatalf("a second after %s %d are still open", x.how, open)
			}
		}
	}
	ended := time.After(15 * time.Second)
	for n, stream := range streams {
		for open := true; open; {
			select {
			case _, open = <-stream:
			case <-ended:
				t.Fatalf("15 s later stream %d still hears what happens", n)
			}
		}
	}
}
