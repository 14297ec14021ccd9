package api_test

import (
	"encoding/json"
	"net/http"
	"strings"
	"testing"

	"github.com/google/uuid"

	"latelantern/internal/api/watching"
	"latelantern/internal/audience"
	"latelantern/internal/core/viewing"
	"latelantern/internal/playlists"
)

// TestTheSightCheckSaysWhatIsSo: what is said of a student is what that student is answered, rule by rule, and nothing
// of theirs changes by it.
func TestTheSightCheckSaysWhatIsSo(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	e.everyone(true)
	lecturer, student := e.as("lecturer"), e.as("student")
	base, watch := "/api/courses/"+e.Course.String()+"/sight", "/api/watch/"+id.String()
	eyes := "?person=" + e.Student.String()
	window := viewing.Window{From: viewing.FromOnce, Until: viewing.UntilEver}
	say := func(when string) watching.SightLine {
		t.Helper()
		page := get[watching.Sight](lecturer, base+eyes)
		if page.Name != "student" || page.Group != "A" {
			t.Errorf("%s they are %+v", when, page)
		}
		status, body := student.send(http.MethodGet, watch, nil)
		one := get[watching.SightWatch](lecturer, base+"/"+id.String()+eyes)
		if (status == http.StatusOK) != (one.Watch != nil) {
			t.Fatalf("%s they are answered %d, and said is %+v", when, status, one)
		}
		if one.Door != nil && !strings.Contains(body, `"`+one.Door.Code+`"`) && !strings.Contains(body, one.Door.Text) {
			t.Errorf("%s they are told %s, and said is %+v", when, body, one.Door)
		}
		if one.Watch != nil {
			var real watching.Watch
			e.Must(json.Unmarshal([]byte(body), &real))
			if len(real.Takes) != len(one.Watch.Takes) || len(real.Cues) != len(one.Watch.Cues) || one.Watch.AsStaff {
				t.Errorf("%s they have %+v, and said is %+v", when, real, one.Watch)
			}
			if s := lecturer.status(http.MethodGet, one.Watch.Media, nil); s != http.StatusOK {
				t.Errorf("%s it does not play: %d", when, s)
			}
			if s := student.status(http.MethodGet, one.Watch.Media, nil); s != http.StatusNotFound {
				t.Errorf("%s the address is good for someone else: %d", when, s)
			}
		}
		for _, x := range page.Lists[0].Entries {
			if x.RecordingID != nil && *x.RecordingID == id {
				return x
			}
		}
		return watching.SightLine{}
	}
	e.Must(e.Playlists.Add(t.Context(), playlists.Of{Course: e.Course}, nil, id))
	if x := say("dark"); x.Open || !x.Hidden || x.Reason != "not_lit" {
		t.Errorf("dark it is %+v", x)
	}
	e.Lit(id)
	if x := say("lit"); !x.Open || x.Hidden || x.Whence != "course" {
		t.Errorf("lit it is %+v", x)
	}
	rule := func(of audience.Scope, change func(*viewing.Rule)) {
		r := viewing.Rule{Audience: viewing.Everyone, Uses: viewing.WatchRead, Window: window}
		change(&r)
		e.Must(e.Audience.SetRule(t.Context(), of, e.Lecturer, &r))
	}
	single := audience.Scope{Course: e.Course, Recording: id}
	rule(single, func(r *viewing.Rule) { r.Audience, r.Groups = viewing.Groups, []string{"B"} })
	if x := say("for another group"); x.Open || x.Hidden || x.Reason != "other_group" || x.Whence != "recording" {
		t.Errorf("for another group it is %+v", x)
	}
	for group, open := range map[string]bool{"A": false, "B": true, "": false} {
		one := get[watching.SightWatch](lecturer, base+"/"+id.String()+"?group="+group)
		if (one.Watch != nil) != open {
			t.Errorf("to anyone of %q it is %+v", group, one)
		}
	}
	e.Must(e.Audience.SetRule(t.Context(), single, e.Lecturer, nil))
	shut, err := e.Audience.ShutOut(t.Context(), e.Lecturer, audience.ShutForm{Scope: single, Person: e.Student})
	e.Must(err)
	if x := say("shut out"); x.Open || x.Reason != "shut_out" {
		t.Errorf("shut out it is %+v", x)
	}
	e.Must(e.Audience.LetIn(t.Context(), e.Course, shut, e.Lecturer, false))
	opening, _ := e.linked(id, nil)
	page := get[watching.Sight](lecturer, base+"?opening="+opening.String())
	one := get[watching.SightWatch](lecturer, base+"/"+id.String()+"?opening="+opening.String())
	if len(page.Lists) != 1 || len(page.Lists[0].Entries) != 1 || !page.Lists[0].Entries[0].Open ||
		one.Watch == nil || one.Watch.Course.Code != "" {
		t.Errorf("by a link it is %+v and %+v", page, one)
	}
	none := get[watching.Sight](lecturer, base+"?opening="+uuid.NewString())
	if len(none.Lists) != 0 {
		t.Errorf("by no link it is %+v", none)
	}
	for name, path := range map[string]string{
		"who teaches":        base + "?person=" + e.Lecturer.String(),
		"of another course":  base + "?person=" + e.Outsider.String(),
		"another recording":  base + "/" + uuid.NewString() + eyes,
		"of the course next": "/api/courses/" + e.Other.String() + "/sight" + eyes,
	} {
		want := http.StatusNotFound
		if name == "of the course next" {
			want = http.StatusForbidden
		}
		if s := lecturer.status(http.MethodGet, path, nil); s != want {
			t.Errorf("%s: %d, want %d", name, s, want)
		}
	}
	if n := e.Count(`select (select count(*) from presence) + (select count(*) from resume_position)`); n != 0 {
		t.Errorf("%d traces are left", n)
	}
}
