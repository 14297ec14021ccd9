package api_test

import (
	"bytes"
	"encoding/hex"
	"encoding/json"
	"net/http"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/capturing"
	"latelantern/internal/api/planning"
	"latelantern/internal/api/trimming"
	"latelantern/internal/core/fingerprint"
	"latelantern/internal/testfilm"
	"latelantern/internal/testhouse"
)

// made is a short film that says of itself when it was made and what it is called.
func (e *house) made(name, title string, at time.Time) []byte {
	e.T.Helper()
	path := filepath.Join(e.T.TempDir(), name)
	e.Must(testfilm.Film{Length: 2 * time.Second, Width: 160, Height: 120,
		Encoding: []string{"-c:v", "libx264", "-preset", "ultrafast", "-c:a", "aac", "-metadata",
			"creation_time=" + at.UTC().Format(time.RFC3339), "-metadata", "title=" + title}}.Make(e.T.Context(), path))
	b, err := os.ReadFile(path)
	e.Must(err)
	return b
}

// sends begins a file and sends some of it; it gives the status and the track.
func (c *caller) sends(b []byte, most int, about ...string) (int, uuid.UUID) {
	c.e.T.Helper()
	answer := c.request(http.MethodPost, "/api/append", nil, "Tus-Resumable", "1.0.0", "Upload-Length",
		strconv.Itoa(len(b)), "Upload-Metadata", meta(append([]string{"source", "file"}, about...)...))
	answer.Body.Close()
	if answer.StatusCode != http.StatusCreated {
		return answer.StatusCode, uuid.Nil
	}
	at := answer.Header.Get("Location")
	part := c.request(http.MethodPatch, at, bytes.NewReader(b[:min(most, len(b))]), "Tus-Resumable", "1.0.0",
		"Content-Type", "application/offset+octet-stream", "Upload-Offset", "0")
	part.Body.Close()
	if part.StatusCode != http.StatusNoContent {
		c.e.T.Fatalf("append: %d", part.StatusCode)
	}
	return answer.StatusCode, uuid.MustParse(strings.TrimPrefix(at, "/api/append/"))
}

const all = 1 << 30

// file waits until a file of the list is as it is wanted.
func (c *caller) file(track uuid.UUID, wanted func(capturing.FileLine) bool) capturing.FileLine {
	c.e.T.Helper()
	var out capturing.FileLine
	c.e.Until(func() bool {
		for _, f := range get[capturing.Arrivals](c, "/api/arrivals").Files {
			if f.Track == track {
				out = f
				return wanted(f)
			}
		}
		return false
	})
	return out
}

func ready(f capturing.FileLine) bool { return f.State == "ready" }
func waits(f capturing.FileLine) bool { return f.State == "waits" }

// TestAFileFindsItsLecture by its own time, and can be put elsewhere while nobody is shown it.
func TestAFileFindsItsLecture(t *testing.T) {
	e := newEdge(t)
	lecturer, coordinator, colleague := e.as("lecturer"), e.as("coordinator"), e.as("colleague")
	own := testhouse.Now.Add(5 * time.Minute)
	status, track := lecturer.sends(e.made("00042.mp4", "", own), all, "filename", "00042.mp4")
	if status != http.StatusCreated {
		t.Fatalf("a file without a lecture: %d", status)
	}
	f := lecturer.file(track, ready)
	if f.Lecture == nil || f.Lecture.ID != e.Lecture || f.PlacedBy != "itself" || f.Reading != "inside" ||
		f.Recording == nil || !f.MadeAt.Equal(own) || f.Stays {
		t.Errorf("%+v", f)
	}
	if list := get[capturing.Arrivals](colleague, "/api/arrivals"); len(list.Files) != 0 {
		t.Errorf("a colleague sees %d files of another", len(list.Files))
	}
	at := "/api/arrivals/" + track.String() + "/lecture"
	to := func(l uuid.UUID) map[string]string { return map[string]string{"lecture": l.String()} }
	if s := lecturer.status(http.MethodPut, at, to(e.Elsewhere)); s != http.StatusForbidden {
		t.Errorf("into a course that one does not teach: %d", s)
	}
	if s := colleague.status(http.MethodPut, at, to(e.Elsewhere)); s != http.StatusForbidden {
		t.Errorf("by a colleague: %d", s)
	}
	if s := lecturer.status(http.MethodPut, at, to(e.Later)); s != http.StatusOK {
		t.Fatalf("to another lecture: %d", s)
	}
	if r, err := e.Recordings.Recording(t.Context(), *f.Recording); err != nil || r.LectureID != e.Later {
		t.Errorf("the recording is of %v (%v)", r.LectureID, err)
	}
	if s := coordinator.status(http.MethodPut, at, to(e.Elsewhere)); s != http.StatusOK {
		t.Errorf("by a coordinator into another course: %d", s)
	}
	if s := coordinator.status(http.MethodPut, at, to(e.Lecture)); s != http.StatusOK {
		t.Errorf("back again: %d", s)
	}
	e.everyone(false)
	e.Measured(*f.Recording)
	e.Lit(*f.Recording)
	status, body := lecturer.send(http.MethodPut, at, to(e.Later))
	if p := problemOf(t, body); status != http.StatusConflict || p.Type != "urn:late-lantern:shown" {
		t.Errorf("while it gives light: %d %s", status, body)
	}
}

// TestAFileThatNobodyCanPlace waits, with what is proposed, for a person; and never for long unseen.
func TestAFileThatNobodyCanPlace(t *testing.T) {
	e := newEdge(t)
	coordinator, lecturer := e.as("coordinator"), e.as("lecturer")
	e.AddLecture(e.Other, testhouse.Now, "At the same time")
	heard := lecturer.hears()
	_, track := lecturer.sends(e.made("a.mp4", "", testhouse.Now.AddDate(0, 0, -40)), all, "filename", "a.mp4")
	if f := lecturer.file(track, waits); len(f.Proposals) != 0 || f.Lecture != nil {
		t.Errorf("nothing was held then: %+v", f)
	}
	// Other things may be told meanwhile, as that a lecture was not begun.
	limit := time.After(10 * time.Second)
	for told := false; !told; {
		select {
		case got := <-heard:
			if strings.Contains(got, track.String()) || strings.Contains(got, e.Lecturer.String()) {
				t.Errorf("heard %s", got)
			}
			told = strings.Contains(got, `"about":"file"`)
		case <-limit:
			t.Fatal("its sender hears nothing of it")
		}
	}
	_, second := coordinator.sends(e.made("b.mp4", "", testhouse.Now.Add(10*time.Minute)), all, "filename", "b.mp4")
	if f := coordinator.file(second, waits); len(f.Proposals) != 2 {
		t.Errorf("two lectures were held then: %+v", f.Proposals)
	}
	_, third := coordinator.sends(e.made("c.mp4", "COU 1", testhouse.Now.Add(10*time.Minute)), all, "filename", "c.mp4")
	if f := coordinator.file(third, ready); f.Lecture == nil || f.Lecture.Course != "COU 1" {
		t.Errorf("its title names the course: %+v", f)
	}
	if b := get[planning.Board](coordinator, "/api/board"); b.Files != 2 {
		t.Errorf("the board says %d of 2", b.Files)
	}
	if b := get[planning.Board](lecturer, "/api/board"); b.Files != 1 {
		t.Errorf("the lecturer's board says %d of 1", b.Files)
	}
	at := "/api/arrivals/" + track.String()
	if s := lecturer.status(http.MethodPut, "/api/arrivals/"+second.String()+"/lecture",
		map[string]string{"lecture": e.Lecture.String()}); s != http.StatusForbidden {
		t.Errorf("what another sent: %d", s)
	}
	if s := lecturer.status(http.MethodDelete, at, nil); s != http.StatusNoContent ||
		get[planning.Board](lecturer, "/api/board").Files != 0 {
		t.Errorf("put away: %d", s)
	}
	if s := lecturer.status(http.MethodPost, at+"/bring-back", nil); s != http.StatusNoContent ||
		get[planning.Board](lecturer, "/api/board").Files != 1 {
		t.Errorf("brought back: %d", s)
	}
	if s := lecturer.status(http.MethodPut, at+"/lecture",
		map[string]string{"lecture": e.Lecture.String()}); s != http.StatusOK {
		t.Fatalf("placed by hand: %d", s)
	}
	if f := lecturer.file(track, ready); f.PlacedBy != "person" || f.Recording == nil {
		t.Errorf("%+v", f)
	}
}

// TestOneFileSentByTwoAtOnce is begun once; the other is told, and can send it all the same.
func TestOneFileSentByTwoAtOnce(t *testing.T) {
	e := newEdge(t)
	b := e.made("a.mp4", "", testhouse.Now.Add(time.Minute))
	print, err := fingerprint.Print(int64(len(b)), bytes.NewReader(b))
	e.Must(err)
	name := hex.EncodeToString(print)
	callers := []*caller{e.as("lecturer"), e.as("coordinator")}
	statuses, tracks := make([]int, 2), make([]uuid.UUID, 2)
	var both sync.WaitGroup
	for i, c := range callers {
		both.Go(func() {
			statuses[i], tracks[i] = c.sends(b, 1000, "filename", "a.mp4", "print", name)
		})
	}
	both.Wait()
	first := 0
	if statuses[1] == http.StatusCreated {
		first = 1
	}
	if statuses[first] != http.StatusCreated || statuses[1-first] != http.StatusConflict {
		t.Fatalf("both at once: %v", statuses)
	}
	if here := get[capturing.FilesHere](callers[first],
		"/api/files/"+name); len(here.Here) != 1 || !here.Here[0].Mine || here.Here[0].Percent > 99 ||
		here.Here[0].Track != tracks[first] {
		t.Errorf("whoever sends it: %+v", here)
	}
	other := get[capturing.FilesHere](callers[1-first], "/api/files/"+name)
	if n := len(other.Here) + other.Elsewhere; n != 1 ||
		len(other.Here) == 1 && (other.Here[0].Mine || other.Here[0].Recording != nil) {
		t.Errorf("whoever is told: %+v", other)
	}
	status, track := callers[1-first].sends(b, all, "filename", "a.mp4", "print", name, "again", "yes")
	if status != http.StatusCreated {
		t.Fatalf("sent all the same: %d", status)
	}
	// It is not taken for a lecture unasked while the same file is on its way.
	f := callers[1-first].file(track, waits)
	if !f.Twice || len(f.Proposals) == 0 {
		t.Errorf("%+v", f)
	}
}

// TestTheOriginalIsKeptByTheRuleOfTheCourse: of a file of which an own copy was made.
func TestTheOriginalIsKeptByTheRuleOfTheCourse(t *testing.T) {
	e := newEdge(t)
	lecturer := e.as("lecturer")
	path := filepath.Join(t.TempDir(), "talk.webm")
	e.Must(testfilm.Film{Length: 2 * time.Second, Width: 161, Height: 121,
		Encoding: []string{"-c:v", "libvpx", "-deadline", "realtime", "-cpu-used", "8", "-c:a",
			"libopus"}}.Make(t.Context(), path))
	b, err := os.ReadFile(path)
	e.Must(err)
	foreign, track := e.File(e.Lecture, path)
	e.Settled(foreign)
	plain := e.recording()
	bench := func(id uuid.UUID) trimming.Bench {
		return get[trimming.Bench](lecturer, "/api/recordings/"+id.String())
	}
	if x := bench(foreign); !x.OwnCopy || !x.Original || x.OriginalUntil != nil {
		t.Errorf("a foreign file: %+v", x)
	}
	answer := lecturer.request(http.MethodGet, "/api/recordings/"+foreign.String()+"/original", nil)
	var got bytes.Buffer
	_, err = got.ReadFrom(answer.Body)
	answer.Body.Close()
	if e.Must(err); !bytes.Equal(got.Bytes(), b) ||
		answer.Header.Get("Content-Disposition") != "attachment; filename=talk.webm" {
		t.Errorf("the original has %d bytes of %d: %v", got.Len(), len(b), answer.Header)
	}
	course := "/api/courses/" + e.Course.String() + "/originals"
	for _, days := range []int{-1, 3651} {
		if s := lecturer.status(http.MethodPut, course,
			map[string]int{"days": days}); s != http.StatusUnprocessableEntity {
			t.Errorf("%d days: %d", days, s)
		}
	}
	var page planning.CoursePage
	status, body := lecturer.send(http.MethodPut, course, map[string]int{"days": 30})
	if e.Must(json.Unmarshal([]byte(body), &page)); status != http.StatusOK || page.Originals != 30 {
		t.Errorf("30 days: %d %d", status, page.Originals)
	}
	if x := bench(foreign); x.OriginalUntil == nil ||
		x.OriginalUntil.Sub(testhouse.Now).Round(time.Hour) != 30*24*time.Hour {
		t.Errorf("until %v", x.OriginalUntil)
	}
	if x := bench(plain); x.OwnCopy || !x.Original || x.OriginalUntil != nil {
		t.Errorf("what is used as it came: %+v", x)
	}
	if n, err := e.Capture.ClearOriginals(t.Context()); n != 0 || err != nil {
		t.Fatalf("at once %d were removed: %v", n, err)
	}
	e.Do(`update track set packed_at = packed_at - interval '30 days'`)
	if n, err := e.Capture.ClearOriginals(t.Context()); n != 1 || err != nil {
		t.Fatalf("after 30 days %d were removed: %v", n, err)
	}
	if x := bench(foreign); x.Original || x.State != "ready" {
		t.Errorf("after that: %+v", x)
	}
	if s := lecturer.status(http.MethodGet, "/api/recordings/"+foreign.String()+"/original",
		nil); s != http.StatusNotFound {
		t.Errorf("the original that is gone: %d", s)
	}
	if size := e.Blobs.Size("log/" + track.String()); size != 0 {
		t.Errorf("%d bytes of it are still there", size)
	}
	e.Lit(foreign) // its own copy is whole without it
	if n, err := e.Capture.ClearOriginals(t.Context()); n != 0 || err != nil {
		t.Errorf("once more %d were removed: %v", n, err)
	}
}
