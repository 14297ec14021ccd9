package api_test

import (
	"bytes"
	"context"
	"io"
	"net/http"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/watching"
	"latelantern/internal/testfilm"
)

// noisy publishes a film of which a segment has more than a hundred kilobytes.
func (e *house) noisy() uuid.UUID {
	e.T.Helper()
	path := filepath.Join(e.T.TempDir(), "noisy.mp4")
	e.Must(testfilm.Film{Length: 4 * time.Second, Scene: "testsrc2=s=640x360:r=25,noise=alls=60:allf=t"}.Make(
		context.Background(), path))
	id, _ := e.File(e.Lecture, path)
	e.Measured(id)
	e.everyone(false)
	e.Lit(id)
	return id
}

// TestSegmentsAreContent: short ones and long ones, which go different ways, are what the reader of recordings says, to
// the byte; parts of them, whether they are there, and whether they are still the same, can be asked for.
func TestSegmentsAreContent(t *testing.T) {
	e := newEdge(t)
	id := e.noisy()
	r, err := e.Recordings.Recording(t.Context(), id)
	e.Must(err)
	edition, err := e.Publication.Edition(t.Context(), *r.EditionID)
	e.Must(err)
	student := e.as("student")
	base := strings.TrimSuffix(get[watching.Watch](student, "/api/watch/"+id.String()).Media, "index.m3u8")
	ask := func(method, path string, headers ...string) (*http.Response, []byte) {
		t.Helper()
		answer := student.request(method, base+path, nil, headers...)
		defer answer.Body.Close()
		b, err := io.ReadAll(answer.Body)
		e.Must(err)
		return answer, b
	}
	sizes := map[string]int{}
	for name, x := range map[string]int{"pictures": len(edition.Video.Segments), "sound": len(edition.Audio.Segments)} {
		of := edition.Video
		if name == "sound" {
			of = edition.Audio
		}
		for n := range x {
			path := name + "/" + strconv.Itoa(n) + ".m4s"
			want, err := e.Recordings.Segment(of, n)
			e.Must(err)
			for range 2 { // the second from a file that is open already
				answer, got := ask(http.MethodGet, path)
				if answer.StatusCode != http.StatusOK || !bytes.Equal(got, want) ||
					answer.ContentLength != int64(len(want)) || answer.Header.Get("Content-Type") != "video/mp4" {
					t.Errorf("%s: %d, %d bytes of %d, %v", path, answer.StatusCode, len(got), len(want), answer.Header)
				}
			}
			sizes[name] = max(sizes[name], len(want))
			head, none := ask(http.MethodHead, path)
			if head.StatusCode != http.StatusOK || head.ContentLength != int64(len(want)) || len(none) > 0 {
				t.Errorf("whether %s is there: %d, %d bytes", path, head.StatusCode, head.ContentLength)
			}
			part, some := ask(http.MethodGet, path, "Range", "bytes=5-104")
			if part.StatusCode != http.StatusPartialContent || !bytes.Equal(some, want[5:105]) {
				t.Errorf("a part of %s: %d, %d bytes", path, part.StatusCode, len(some))
			}
			if beyond, _ := ask(http.MethodGet, path, "Range", "bytes=99999999-"); beyond.StatusCode != 416 {
				t.Errorf("what is beyond %s: %d", path, beyond.StatusCode)
			}
			same, none := ask(http.MethodGet, path, "If-None-Match", head.Header.Get("ETag"))
			if same.StatusCode != http.StatusNotModified || len(none) > 0 {
				t.Errorf("whether %s is still the same: %d", path, same.StatusCode)
			}
		}
	}
	if sizes["pictures"] < 100_000 || sizes["sound"] > 64_000 {
		t.Fatalf("the largest segments have %v bytes", sizes)
	}
	for _, path := range []string{"pictures/99.m4s", "pictures/-1.m4s", "pictures/x.m4s", "pictures/0.mp4",
		"pictures/init-9.mp4", "pictures/init-x.mp4", "second/0.m4s"} {
		if answer, _ := ask(http.MethodGet, path); answer.StatusCode != http.StatusNotFound {
			t.Errorf("%s: %d", path, answer.StatusCode)
		}
	}
	init, b := ask(http.MethodGet, "pictures/init-0.mp4", "Range", "bytes=4-7")
	if init.StatusCode != http.StatusPartialContent || string(b) != "ftyp" {
		t.Errorf("a part of an initialization segment: %d %q", init.StatusCode, b)
	}
}

// TestSegmentsEndWithTheRight: of what plays the next segment is closed within a second once the right is taken, one
// has signed out, or all one's sessions were ended; and open again when it is given back.
func TestSegmentsEndWithTheRight(t *testing.T) {
	e := newEdge(t)
	id := e.noisy()
	student := e.as("student")
	path := strings.TrimSuffix(get[watching.Watch](student, "/api/watch/"+id.String()).Media, "index.m3u8") +
		"pictures/0.m4s"
	within := func(what string, want int) {
		t.Helper()
		began := time.Now()
		for {
			r, err := http.NewRequest(http.MethodGet, e.server.URL+path, nil)
			e.Must(err)
			answer, err := student.client.Do(r)
			e.Must(err)
			answer.Body.Close()
			if answer.StatusCode == want {
				return
			}
			if time.Since(began) > time.Second {
				t.Fatalf("a second after %s: %d", what, answer.StatusCode)
			}
		}
	}
	within("the beginning", 200)
	e.Must(e.Releases.Darken(t.Context(), e.Course, id, e.Lecturer))
	within("it was darkened", 404)
	e.Must(e.Releases.Light(t.Context(), e.Course, id, e.Lecturer))
	within("it was lit", 200)
	e.Do(`delete from membership where person_id = $1`, e.Student)
	within("they were taken off", 404)
	e.Do(`insert into membership (course_id, person_id, role, group_name) values ($1, $2, 'student', 'A')`, e.Course,
		e.Student)
	within("they were enrolled", 200)
	e.Do(`update account set session_era = session_era + 1 where person_id = $1`, e.Student)
	within("all sessions were ended", 404)
	student = e.as("student")
	within("they signed in", 200)
	if s := student.status(http.MethodPost, "/api/sign-out", map[string]string{}); s >= 300 {
		t.Fatalf("signing out: %d", s)
	}
	within("they signed out", 404)
}
