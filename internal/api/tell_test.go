package api_test

import (
	"net/http"
	"testing"

	"latelantern/internal/api/planning"
)

// TestWhoTeachesIsToldOfClosedDoors: a student's word stands on the board of their course, of nobody else, until they
// can come in.
func TestWhoTeachesIsToldOfClosedDoors(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	student, lecturer, colleague := e.as("student"), e.as("lecturer"), e.as("colleague")
	address := "/api/watch/" + id.String() + "/tell"
	doors := func(c *caller) []planning.Door { return get[planning.Board](c, "/api/board").Doors }
	if s := student.status(http.MethodPost, address, nil); s >= 300 {
		t.Fatalf("telling: %d", s)
	}
	if d := doors(lecturer); len(d) != 1 || d[0].Students != 1 || d[0].Reason != "not_lit" || d[0].Course != "COU 1" ||
		d[0].Week != 4 || d[0].Recording != id {
		t.Errorf("on the board it is %+v", d)
	}
	for name, c := range map[string]*caller{"of another course": colleague, "a student": student} {
		if d := doors(c); len(d) != 0 {
			t.Errorf("on the board of %s it is %+v", name, d)
		}
	}
	e.everyone(false)
	e.Lit(id)
	if d := doors(lecturer); len(d) != 0 {
		t.Errorf("once it is open it is %+v", d)
	}
	if s, body := student.send(http.MethodPost, address, nil); s != http.StatusConflict {
		t.Errorf("of an open door: %d %s", s, body)
	}
	if s, body := e.as("outsider").send(http.MethodPost, address, nil); s != http.StatusForbidden {
		t.Errorf("from another course: %d %s", s, body)
	}
}
