package e2e

import (
	"context"
	"errors"
	"fmt"
	"net"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"latelantern/demo"
	"latelantern/internal/assemble"
	"latelantern/internal/platform/mail"
	"latelantern/internal/standin/posttray"
	"latelantern/internal/testdb"
)

// loaded is the college with some of its talks, of which each test has a copy.
type loaded struct {
	name   string    // of its database
	folder string    // of its media and letters
	at     time.Time // when the last thing was done in it
}

// colleges are those that were loaded, by their talks.
var colleges = struct {
	sync.Mutex
	by     map[string]func() (loaded, error)
	folder string
}{by: map[string]func() (loaded, error){}}

func TestMain(m *testing.M) {
	var err error
	if colleges.folder, err = os.MkdirTemp("", "latelantern-colleges-"); err != nil {
		panic(err)
	}
	// What was loaded goes with the folder; Main ends the process.
	testdb.Main(m, func() { _ = os.RemoveAll(colleges.folder) })
}

// loadedWith loads the college with some talks, once.
func loadedWith(talks []string) (loaded, error) {
	colleges.Lock()
	key := strings.Join(talks, " ")
	once, ok := colleges.by[key]
	if !ok {
		folder := filepath.Join(colleges.folder, fmt.Sprint(len(colleges.by)))
		once = sync.OnceValues(func() (out loaded, err error) {
			dsn, name, err := testdb.Lasting(context.Background())
			if err != nil {
				return out, err
			}
			at, err := load(dsn, folder, talks)
			return loaded{name, folder, at}, err
		})
		colleges.by[key] = once
	}
	colleges.Unlock()
	return once()
}

// load fills a database and a folder, and tells when the last thing was done there.
func load(dsn, folder string, talks []string) (at time.Time, err error) {
	ctx := context.Background()
	if at, err = demo.Start(time.Now()); err != nil {
		return at, err
	}
	post, letters, err := openPost(folder)
	if err != nil {
		return at, err
	}
	defer post.Close()
	h, err := assemble.Open(ctx,
		assemble.Settings{Database: dsn, Media: filepath.Join(folder, "media"), Clock: at, Mail: letters,
			Public: "http://elsewhere.example"})
	if err != nil {
		return at, err
	}
	defer h.Close()
	workers, err := h.Work(ctx, "loading")
	if err != nil {
		return at, err
	}
	if err := errors.Join(demo.Load(ctx, h, at, talks...), workers.Stop()); err != nil {
		return at, err
	}
	return h.Clock.Now(), nil
}

// openPost opens a post tray whose letters lie in a folder.
func openPost(folder string) (*posttray.Tray, mail.Post, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, mail.Post{}, err
	}
	tray, err := posttray.Open(l, filepath.Join(folder, "post"))
	return tray, mail.Post{Server: l.Addr().String(), From: "lantern@skerry.example", Plain: true}, err
}
