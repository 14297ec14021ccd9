package api_test

import (
	"context"
	"fmt"
	"io"
	"net"
	"net/http"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"

	"latelantern/internal/api/watching"
	"latelantern/internal/assemble"
	"latelantern/internal/testhouse"
)

// hatch is a way to the database that can be closed.
type hatch struct {
	net.Listener
	to     string
	mu     sync.Mutex
	closed bool
	open   map[net.Conn]bool
}

func (d *hatch) serve() {
	for {
		c, err := d.Accept()
		if err != nil {
			return
		}
		d.mu.Lock()
		closed := d.closed
		if !closed {
			d.open[c] = true
		}
		d.mu.Unlock()
		if closed {
			_ = c.Close()
			continue
		}
		go func() {
			defer c.Close()
			in, err := net.Dial("tcp", d.to)
			if err != nil {
				return
			}
			defer in.Close()
			go func() { _, _ = io.Copy(in, c) }()
			_, _ = io.Copy(c, in)
		}()
	}
}

func (d *hatch) set(closed bool) {
	d.mu.Lock()
	defer d.mu.Unlock()
	d.closed = closed
	for c := range d.open {
		_ = c.Close()
	}
	clear(d.open)
}

// throughAHatch is a server on the house of e that reaches the database through a hatch.
func throughAHatch(e *house) (*house, *hatch) {
	e.T.Helper()
	to := e.DB.Config().ConnConfig
	l, err := net.Listen("tcp", "127.0.0.1:0")
	e.Must(err)
	d := &hatch{Listener: l, to: fmt.Sprintf("%s:%d", to.Host, to.Port), open: map[net.Conn]bool{}}
	go d.serve()
	e.T.Cleanup(func() { _ = d.Close() })
	dsn := fmt.Sprintf("host=127.0.0.1 port=%d user=%s password=%s dbname=%s", l.Addr().(*net.TCPAddr).Port, to.User,
		pgx.Identifier{to.Password}.Sanitize(), to.Database)
	if to.Password == "" {
		dsn = strings.Replace(dsn, ` password=""`, "", 1)
	}
	h, err := assemble.Beside(context.Background(),
		assemble.Settings{Database: dsn, Store: e.Blobs, Clock: testhouse.Now, Public: "https://lectures.college.example"})
	e.Must(err)
	e.T.Cleanup(func() {
		d.set(false)
		h.Close()
	})
	return newEdgeOn(&testhouse.Stage{House: h, T: e.T}), d
}

// TestWhoWatchesGoesOnWhileTheDatabaseIsAway by what was decided before; who asks for something new is told to try
// again, and once it is back what was taken meanwhile is closed.
func TestWhoWatchesGoesOnWhileTheDatabaseIsAway(t *testing.T) {
	e := newEdge(t)
	id := e.noisy()
	far, way := throughAHatch(e)
	student, second := far.as("student"), far.as("second")
	address := func(c *caller) string {
		return strings.TrimSuffix(get[watching.Watch](c, "/api/watch/"+id.String()).Media, "index.m3u8") + "pictures/"
	}
	mine, others := address(student), address(second)
	ask := func(c *caller, path string) int {
		t.Helper()
		r, err := http.NewRequest(http.MethodGet, far.server.URL+path, nil)
		e.Must(err)
		answer, err := c.client.Do(r)
		e.Must(err)
		defer answer.Body.Close()
		_, err = io.Copy(io.Discard, answer.Body)
		e.Must(err)
		return answer.StatusCode
	}
	if got := ask(student, mine+"0.m4s"); got != http.StatusOK {
		t.Fatalf("before: %d", got)
	}
	way.set(true)
	e.Must(e.Releases.Darken(t.Context(), e.Course, id, e.Lecturer))
	for began, n := time.Now(), 0; time.Since(began) < 4*time.Second; n++ {
		before := time.Now()
		if got := ask(student, mine+[]string{"0.m4s", "1.m4s"}[n%2]); got != http.StatusOK {
			t.Fatalf("%v after the database went it is %d", time.Since(began), got)
		}
		if took := time.Since(before); took > 8*time.Second {
			t.Errorf("a segment takes %v while the database is away", took)
		}
		time.Sleep(20 * time.Millisecond)
	}
	if got := ask(second, others+"0.m4s"); got != http.StatusServiceUnavailable {
		t.Errorf("who was not decided on before gets %d", got)
	}
	way.set(false)
	for began := time.Now(); ask(student, mine+"0.m4s") != http.StatusNotFound; time.Sleep(20 * time.Millisecond) {
		if time.Since(began) > 5*time.Second {
			t.Fatal("what was taken meanwhile stays open")
		}
	}
}
