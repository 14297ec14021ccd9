package api_test

import (
	"net/http"
	"strings"
	"testing"

	"github.com/google/uuid"

	"latelantern/internal/api/sharing"
)

// TestARuleOfARecordingAlone holds instead of that of its course, is taken away again, and is not there in
// a course that
// does not have it.
func TestARuleOfARecordingAlone(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	e.everyone(true)
	e.Lit(id)
	lecturer, student := e.as("lecturer"), e.as("student")
	path := "/api/courses/" + e.Course.String() + "/rule?recording=" + id.String()
	page := get[sharing.RulePage](lecturer, path)
	if page.Set || page.OfCourse == nil || page.Version != "" || page.Rule.Audience != "everyone" {
		t.Errorf("before it has one: %+v", page)
	}
	only := page.Rule
	only.Audience, only.Groups = "groups", []string{"B"}
	put := func(version string, want int) {
		t.Helper()
		if s, body := lecturer.send(http.MethodPut, path+"&seen="+version, only); s != want {
			t.Errorf("seen as %q: %d %s", version, s, body)
		}
	}
	watch := "/api/watch/" + id.String()
	if s := student.status(http.MethodGet, watch, nil); s != http.StatusOK {
		t.Fatalf("by the rule of the course: %d", s)
	}
	put("", http.StatusOK)
	if s := student.status(http.MethodGet, watch, nil); s != http.StatusForbidden {
		t.Errorf("by the rule of the recording: %d", s)
	}
	if of := get[sharing.RulePage](lecturer, "/api/courses/"+e.Course.String()+"/rule"); of.Rule.Audience != "everyone" {
		t.Errorf("the rule of the course is %+v", of.Rule)
	}
	page = get[sharing.RulePage](lecturer, path)
	if !page.Set || page.By != "lecturer" || page.Rule.Groups[0] != "B" {
		t.Errorf("after it has one: %+v", page)
	}
	// Who saw another rule, or none, is told who was before them.
	put("", http.StatusConflict)
	put(uuid.NewString(), http.StatusConflict)
	if _, body := lecturer.send(http.MethodPut, path, only); !strings.Contains(body, "lecturer has changed this rule") {
		t.Errorf("told is %s", body)
	}
	put(page.Version, http.StatusOK)
	put(page.Version, http.StatusConflict)
	page = get[sharing.RulePage](lecturer, path)
	if s := lecturer.status(http.MethodDelete, path+"&seen="+page.Version, nil); s != http.StatusOK {
		t.Errorf("taken away: %d", s)
	}
	if s := student.status(http.MethodGet, watch, nil); s != http.StatusOK {
		t.Errorf("by the rule of the course again: %d", s)
	}
	put(page.Version, http.StatusConflict) // it is none any more
	colleague := e.as("colleague")
	foreign := "/api/courses/" + e.Other.String() + "/rule?recording=" + id.String()
	if s := colleague.status(http.MethodGet, foreign, nil); s != http.StatusNotFound {
		t.Errorf("in a course that does not have it: %d", s)
	}
	if s := colleague.status(http.MethodPut, foreign, only); s != http.StatusNotFound {
		t.Errorf("made in a course that does not have it: %d", s)
	}
	if s := colleague.status(http.MethodPost, "/api/courses/"+e.Other.String()+"/rule/preview?recording="+id.String(),
		only); s != http.StatusNotFound {
		t.Errorf("looked at in a course that does not have it: %d", s)
	}
}
