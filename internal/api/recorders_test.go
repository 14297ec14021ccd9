package api_test

import (
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/planning"
	"latelantern/internal/testhouse"
)

// TestARecorderDoesOnlyWhatIsItsOwn: its token opens the plan of its hall, heartbeats, and
// captures of lectures that are held there; it is no account, and worth nothing once taken back.
func TestARecorderDoesOnlyWhatIsItsOwn(t *testing.T) {
	e := newEdge(t, true)
	boss := e.as("coordinator")
	list := get[planning.HallList](boss, "/api/recorders")
	hall := list.Halls[0]
	e.Do(`update lecture set hall_id = null`)
	e.Do(`update lecture set hall_id = $2, capture_auto = true where id = $1`, e.Lecture, hall.ID)
	add := func(name string) string {
		t.Helper()
		return post[planning.RecorderToken](boss, "/api/halls/"+hall.ID.String()+"/recorder",
			map[string]string{"name": name}).Token
	}
	if status, body := boss.send(http.MethodPost, "/api/halls/"+hall.ID.String()+"/recorder",
		map[string]string{"name": " "}); status != http.StatusUnprocessableEntity {
		t.Errorf("without a name: %d %s", status, body)
	}
	token := add("In the wall")
	if status, _ := boss.send(http.MethodPost, "/api/halls/"+hall.ID.String()+"/recorder",
		map[string]string{"name": "Another"}); status != http.StatusConflict {
		t.Errorf("a second recorder in a hall: %d", status)
	}
	device := get[planning.HallList](boss, "/api/recorders").Halls[0].Recorder.ID.String()
	anyone := e.as("")
	as := func(token, method, path, body string, headers ...string) int {
		t.Helper()
		answer := anyone.request(method, path, strings.NewReader(body),
			append([]string{"Authorization", "Bearer " + token, "Content-Type", "application/json", "Tus-Resumable",
				"1.0.0"}, headers...)...)
		answer.Body.Close()
		return answer.StatusCode
	}
	const beat = `{"now":"2026-10-14T10:20:00Z","picture":"good","free_bytes":1,"unsent_bytes":0,"version":"1"}`
	begin := func(token string, lecture uuid.UUID, more ...string) int {
		t.Helper()
		return as(token, http.MethodPost, "/api/append", "", "Upload-Defer-Length", "1", "Upload-Metadata",
			meta(append([]string{"lecture", lecture.String()}, more...)...))
	}
	old := e.AddLecture(e.Course, testhouse.Now.AddDate(0, 0, -28), "Old")
	yesterday := e.AddLecture(e.Course, testhouse.Now.Add(-20*time.Hour), "Yesterday")
	track := uuid.New()
	foreign := begun(e)
	for name, x := range map[string]struct{ got, want int }{
		"its plan":    {as(token, http.MethodGet, "/api/recorder/plan.ics", ""), 200},
		"a heartbeat": {as(token, http.MethodPut, "/api/recorder/heartbeat", beat), 200},
		"a heartbeat that cannot be": {as(token, http.MethodPut, "/api/recorder/heartbeat",
			strings.Replace(beat, "good", "fine", 1)), 422},
		"a lecture in its hall":        {begin(token, e.Lecture, "track", track.String()), 201},
		"a lecture elsewhere":          {begin(token, e.Later), 403},
		"a lecture of four weeks ago":  {begin(token, old), 403},
		"a lecture of yesterday":       {begin(token, yesterday), 201},
		"a lecture that is not there":  {begin(token, uuid.New()), 403},
		"a track that another began":   {as(token, http.MethodHead, "/api/append/"+foreign.String(), ""), 403},
		"its own track":                {as(token, http.MethodHead, "/api/append/"+track.String(), ""), 200},
		"its own track, with no token": {as("", http.MethodHead, "/api/append/"+track.String(), ""), 401},
		"what people see":              {as(token, http.MethodGet, "/api/board", ""), 401},
		"what coordinators do":         {as(token, http.MethodGet, "/api/recorders", ""), 401},
		"another token":                {as(token+"x", http.MethodGet, "/api/recorder/plan.ics", ""), 401},
		"a picture that is none": {as(token, http.MethodPut, "/api/recorder/picture", "GIF89a", "Content-Type",
			"image/jpeg"), 422},
		"a picture that is much too big": {as(token, http.MethodPut, "/api/recorder/picture",
			strings.Repeat("x", 300<<10), "Content-Type", "image/jpeg"), 413},
	} {
		if x.got != x.want {
			t.Errorf("%s: %d, want %d", name, x.got, x.want)
		}
	}
	holds := func(yes bool) {
		t.Helper()
		if s := boss.status(http.MethodPut, "/api/recorders/"+device+"/token",
			map[string]bool{"holds": yes}); s >= 300 {
			t.Fatalf("hold the token: %d", s)
		}
	}
	still := func(token string, want int, when string) {
		t.Helper()
		if got := as(token, http.MethodHead, "/api/append/"+track.String(), ""); got != want {
			t.Errorf("%s: %d, want %d", when, got, want)
		}
	}
	holds(false)
	still(token, 401, "taken back")
	holds(true)
	still(token, 200, "given again")
	renewed := post[planning.RecorderToken](boss, "/api/recorders/"+device+"/token", nil).Token
	still(token, 401, "renewed: the old")
	still(renewed, 200, "renewed: the new")
	if s := boss.status(http.MethodDelete, "/api/recorders/"+device, nil); s >= 300 {
		t.Errorf("remove: %d", s)
	}
	still(renewed, 401, "removed")
	add("Another")
	if s := boss.status(http.MethodPost, "/api/recorders/"+device+"/bring-back", nil); s != http.StatusConflict {
		t.Errorf("brought back where another stands: %d", s)
	}
}

// begun is a track that a lecturer began.
func begun(e *house) uuid.UUID {
	e.T.Helper()
	id := uuid.New()
	answer := e.as("lecturer").request(http.MethodPost, "/api/append", nil, "Tus-Resumable", "1.0.0",
		"Upload-Defer-Length", "1", "Upload-Metadata",
		meta("lecture", e.Lecture.String(), "source", "desk", "track", id.String()))
	answer.Body.Close()
	if answer.StatusCode != http.StatusCreated {
		e.T.Fatalf("begin: %d", answer.StatusCode)
	}
	return id
}
