package api_test

import (
	"encoding/json"
	"net/http"
	"strings"
	"testing"

	"latelantern/internal/api/planning"
	"latelantern/internal/api/trimming"

	"github.com/google/uuid"
)

func parse[T any](e *house, body string) (v T) {
	e.T.Helper()
	if err := json.Unmarshal([]byte(body), &v); err != nil {
		e.T.Fatalf("%v: %s", err, body)
	}
	return v
}

// TestArrangingNeedsBothCourses: nobody gives a recording to a course they do not teach, or takes
// one from it; what was split off shows nothing of the rest.
func TestArrangingNeedsBothCourses(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	e.Measured(id)
	lecturer, coordinator, colleague := e.as("lecturer"), e.as("coordinator"), e.as("colleague")
	at := "/api/recordings/" + id.String()
	if status, body := lecturer.send(http.MethodPost, at+"/split",
		map[string]any{"at_ms": 2000, "lecture": e.Elsewhere}); status != http.StatusForbidden {
		t.Errorf("to a course of others: %d %s", status, body)
	}
	if status, body := lecturer.send(http.MethodPost, at+"/split",
		map[string]any{"at_ms": 100}); status != http.StatusConflict || !strings.Contains(body, "at least a second") {
		t.Errorf("nearly nothing: %d %s", status, body)
	}
	status, body := coordinator.send(http.MethodPost, at+"/split",
		map[string]any{"at_ms": 2100, "lecture": e.Elsewhere})
	if status != http.StatusOK {
		t.Fatalf("%d %s", status, body)
	}
	done := parse[trimming.SplitDone](e, body)
	if done.Bench.LengthMs != 2000 || done.Bench.Arranged == nil || done.Bench.Arranged.Course != "OTH 2" ||
		done.Bench.Arranged.Other == nil || *done.Bench.Arranged.Other != done.Rest {
		t.Errorf("%+v", done.Bench.Arranged)
	}
	rest := get[trimming.Bench](colleague, "/api/recordings/"+done.Rest.String())
	if rest.Lecture.ID != e.Elsewhere || rest.LengthMs != 2000 || rest.Arranged == nil || rest.Arranged.First {
		t.Errorf("%+v", rest)
	}
	// Each sees the slides of its own half, and no others.
	own, others := get[trimming.StripPage](colleague, "/api/recordings/"+done.Rest.String()+"/strip"),
		get[trimming.StripPage](lecturer, at+"/strip")
	if len(own.Slides) == 0 || len(others.Slides) == 0 {
		t.Fatal("there are no slides")
	}
	look := func(address string) int {
		answer := colleague.request(http.MethodGet, address, nil)
		answer.Body.Close()
		return answer.StatusCode
	}
	if got := look(own.Slides[0].Picture); got != http.StatusOK {
		t.Errorf("a slide of one's own half: %d", got)
	}
	slide := func(of trimming.StripPage) string {
		return of.Slides[0].Picture[strings.LastIndex(of.Slides[0].Picture, "/"):]
	}
	if slide(own) != slide(others) { // the same slide may stand over the split
		if got := look(own.Slides[0].Picture[:strings.LastIndex(own.Slides[0].Picture, "/")] +
			slide(others)); got != http.StatusNotFound {
			t.Errorf("a slide of the other half: %d", got)
		}
	}
	undo := "/rearrangements/" + rest.Arranged.ID.String() + "/undo"
	if status, body := colleague.send(http.MethodPost, "/api/recordings/"+done.Rest.String()+undo,
		nil); status != http.StatusForbidden {
		t.Errorf("undone by who teaches one of the courses: %d %s", status, body)
	}
	if status, body := colleague.send(http.MethodPost, "/api/recordings/"+done.Rest.String()+"/join",
		map[string]any{"other": id}); status != http.StatusForbidden {
		t.Errorf("joined from a course of others: %d %s", status, body)
	}
	status, body = coordinator.send(http.MethodPost, "/api/recordings/"+done.Rest.String()+undo, nil)
	if back := parse[trimming.SplitDone](e, body); status != http.StatusOK || back.Rest != id ||
		back.Bench.LengthMs != 4000 {
		t.Errorf("undone: %d %s", status, body)
	}
	if status, _ := coordinator.send(http.MethodPost, at+undo, nil); status != http.StatusConflict {
		t.Errorf("undone twice: %d", status)
	}
	if status, _ := colleague.send(http.MethodGet, "/api/recordings/"+done.Rest.String(),
		nil); status != http.StatusNotFound {
		t.Errorf("what was split off is still there: %d", status)
	}
}

// TestVersionsTwinsAndTheBin as the trim bench shows them.
func TestVersionsTwinsAndTheBin(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	again, _ := e.File(e.Lecture, e.shortFilm())
	e.Measured(again)
	e.Measured(id)
	c := e.as("lecturer")
	at := "/api/recordings/" + id.String()
	c.cuts(id, map[string]any{"cut": "strike", "start": 0, "end": 1000})
	c.cuts(id, map[string]any{"cut": "strike", "start": 2000, "end": 2500})
	list := get[trimming.Versions](c, at+"/versions").Versions
	if len(list) != 3 || !list[0].Current || list[1].LessMs != 500 || list[1].By != "lecturer" ||
		list[2].ID != uuid.Nil {
		t.Fatalf("%+v", list)
	}
	status, body := c.send(http.MethodPost, at+"/versions/"+list[1].ID.String()+"/bring-back",
		map[string]any{"from": list[0].ID})
	if b := parse[trimming.Bench](e, body); status != http.StatusOK || len(b.Struck) != 1 || !b.CanUndo {
		t.Errorf("%d %s", status, body)
	}
	if status, body := e.as("coordinator").send(http.MethodPost, at+"/versions/"+list[1].ID.String()+"/bring-back",
		map[string]any{"from": list[0].ID}); status != http.StatusConflict || !strings.Contains(body, "other_cut") {
		t.Errorf("brought back over another's change: %d %s", status, body)
	}

	twins := get[trimming.Twins](c, at+"/twins")
	if len(twins.Others) != 1 || twins.Others[0].ID != again || twins.Others[0].Why == "" || !twins.Others[0].Mine ||
		twins.One.ID != id || twins.One.Width == 0 {
		t.Fatalf("%+v", twins)
	}
	if status, body := c.send(http.MethodPut, at+"/twins/"+again.String(),
		map[string]any{"both": true}); status != http.StatusOK || len(parse[trimming.Twins](e, body).Others) != 0 {
		t.Errorf("both wanted: %d %s", status, body)
	}
	if status, body := c.send(http.MethodDelete, "/api/recordings/"+again.String(),
		nil); status != http.StatusNoContent {
		t.Errorf("into the bin: %d %s", status, body)
	}
	bin := get[trimming.Bin](c, "/api/bin")
	if len(bin.Lines) != 1 || bin.Lines[0].ID != again || bin.Lines[0].By != "lecturer" || bin.Days != 30 ||
		bin.Lines[0].Lecture.ID != e.Lecture {
		t.Errorf("%+v", bin)
	}
	if other := get[trimming.Bin](e.as("colleague"), "/api/bin"); len(other.Lines) != 0 {
		t.Errorf("who does not teach the course sees %+v", other.Lines)
	}
	if b := get[trimming.Bench](c, "/api/recordings/"+again.String()); b.GoneAt == nil || !b.Deleted {
		t.Errorf("the bench does not say when it goes")
	}
	if page := get[planning.CoursePage](c, "/api/courses/"+e.Course.String()); page.TrimsEnds {
		t.Error("ends are trimmed by themselves, unasked")
	}
	if status, body := c.send(http.MethodPut, "/api/courses/"+e.Course.String()+"/trim-ends",
		map[string]any{"trims": true}); status != http.StatusOK || !parse[planning.CoursePage](e, body).TrimsEnds {
		t.Errorf("%d %s", status, body)
	}
}
