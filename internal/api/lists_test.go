package api_test

import (
	"net/http"
	"strings"
	"testing"

	"github.com/google/uuid"

	"latelantern/internal/api/sharing"
	"latelantern/internal/api/watching"
	"latelantern/internal/core/viewing"
)

// TestPlaylistsOfSeveralCourses are offered to, shown by and filled from courses that one teaches, and no others.
func TestPlaylistsOfSeveralCourses(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	e.everyone(false)
	c, all := e.as("lecturer"), e.as("coordinator")
	here, there := "/api/courses/"+e.Course.String(), "/api/courses/"+e.Other.String()
	page := post[sharing.PlaylistPage](c, here+"/playlists",
		map[string]string{"title": "Revision", "about": "All at once.", "arranged": "date"})
	list := page.List.ID
	if list == nil || !page.List.Mine || len(page.Lists) != 2 || !page.Lists[0].Main || len(page.Waiting) != 1 {
		t.Fatalf("it is %+v", page)
	}
	at := "?list=" + list.String()
	page = post[sharing.PlaylistPage](c, here+"/playlist/recordings"+at,
		map[string][]uuid.UUID{"recordings": {id, id}})
	if len(page.Entries) != 1 || len(page.Waiting) != 0 || page.Took != 0 || len(page.Gaps) != 0 {
		t.Errorf("filled it is %+v", page)
	}
	// The lecturer teaches one of the two courses, the coordinator sees to all.
	shown := map[string]bool{"shown": true}
	for path, body := range map[string]any{
		there + "/playlists/" + list.String() + "/shown": shown, there + "/playlist" + at: nil,
		here + "/playlist/addable" + at + "&from=" + e.Other.String(): nil,
	} {
		method := http.MethodGet
		if body != nil {
			method = http.MethodPut
		}
		if s := c.status(method, path, body); s != http.StatusForbidden && s != http.StatusNotFound {
			t.Errorf("%s answers a lecturer of another course %d", path, s)
		}
	}
	offered := get[sharing.Offered](all, there+"/playlists/offered")
	if len(offered.Lists) != 1 || offered.Lists[0].Title != "Revision" || offered.Lists[0].Mine {
		t.Errorf("offered are %+v", offered)
	}
	if own := get[sharing.Offered](c, here+"/playlists/offered"); len(own.Lists) != 0 {
		t.Errorf("to their own course is offered %+v", own)
	}
	if s := all.status(http.MethodPut, there+"/playlists/"+list.String()+"/shown", shown); s != http.StatusOK {
		t.Fatalf("show it: %d", s)
	}
	page = get[sharing.PlaylistPage](all, here+"/playlist"+at)
	if len(page.ShownIn) != 1 || page.ShownIn[0].ID != e.Other || len(page.Entries[0].Elsewhere) != 1 {
		t.Errorf("shown it is %+v", page)
	}
	page = get[sharing.PlaylistPage](c, here+"/playlist"+at)
	if len(page.ShownIn) != 1 || page.ShownIn[0].Mine || page.Entries[0].Elsewhere != nil {
		t.Errorf("who does not teach the other course sees %+v", page)
	}
	if s := all.status(http.MethodPost, there+"/playlist/headings"+at, map[string]string{"title": "x"}); s != 404 {
		t.Errorf("it is changed from where it is shown: %d", s)
	}
	if add := get[sharing.Addable](all, there+"/playlist/addable?from="+e.Course.String()); len(add.Recordings) != 1 {
		t.Errorf("to be added are %+v", add)
	}
}

// TestStudentsSeeEachPlaylist of their course, with what is lit there and who made it dark elsewhere left out.
func TestStudentsSeeEachPlaylist(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	e.everyone(false)
	c, student := e.as("lecturer"), e.as("student")
	here := "/api/courses/" + e.Course.String()
	page := post[sharing.PlaylistPage](c, here+"/playlists",
		map[string]string{"title": "Revision", "about": "All at once.", "arranged": "week"})
	at := "?list=" + page.List.ID.String()
	post[sharing.PlaylistPage](c, here+"/playlist/headings"+at, map[string]string{"title": "Aside"})
	post[sharing.PlaylistPage](c, here+"/playlist/recordings"+at, map[string][]uuid.UUID{"recordings": {id}})
	sees := func(when string, want int) {
		t.Helper()
		got := get[watching.CatchUp](student, "/api/catch-up").Courses[0].Lists
		if len(got) != want {
			t.Errorf("%s a student sees %+v", when, got)
		}
		if want == 1 && (got[0].Title != "Revision" || got[0].About != "All at once." || !got[0].Weekly ||
			len(got[0].Entries) != 1 || !got[0].Entries[0].Open) {
			t.Errorf("%s they see %+v", when, got[0])
		}
	}
	sees("dark", 0)
	e.Lit(id)
	sees("lit", 1) // and it is not in the main one as well
	if s := c.status(http.MethodDelete, here+"/playlists/"+page.List.ID.String(), nil); s != http.StatusOK {
		t.Fatalf("take it away: %d", s)
	}
	sees("with its playlist taken away", 0)
	if s := student.status(http.MethodGet, "/api/watch/"+id.String(), nil); s != http.StatusOK {
		t.Errorf("what is lit is not any more: %d", s)
	}
	if s := c.status(http.MethodGet, here+"/playlist"+at, nil); s != http.StatusNotFound {
		t.Errorf("taken away it is there: %d", s)
	}
	post[sharing.PlaylistPage](c, here+"/playlists/"+page.List.ID.String()+"/back", nil)
	sees("brought back", 1)
	sight := get[watching.Sight](c, here+"/sight")
	if len(sight.Lists) != 1 || sight.Lists[0].Title != "Revision" || !sight.Lists[0].Entries[0].Open {
		t.Errorf("the sight check says %+v", sight)
	}
}

// TestWhatIsNotLitHereSaysSo though another course has it: who looks through a student's eyes can mend it here.
func TestWhatIsNotLitHereSaysSo(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	e.everyone(false)
	e.Lit(id)
	all := e.as("coordinator")
	page := post[sharing.PlaylistPage](all, "/api/courses/"+e.Course.String()+"/playlists",
		map[string]string{"title": "Revision", "about": "", "arranged": "hand"})
	list := page.List.ID.String()
	post[sharing.PlaylistPage](all, "/api/courses/"+e.Course.String()+"/playlist/recordings?list="+list,
		map[string][]uuid.UUID{"recordings": {id}})
	there := "/api/courses/" + e.Other.String()
	if s := all.status(http.MethodPut, there+"/playlists/"+list+"/shown", map[string]bool{"shown": true}); s != 200 {
		t.Fatalf("show it: %d", s)
	}
	sight := get[watching.Sight](all, there+"/sight")
	if x := sight.Lists[0].Entries[0]; x.Open || !x.Hidden || x.Reason != string(viewing.NotLit) || x.By != "" {
		t.Errorf("the sight check says %+v", x)
	}
}

// TestAPlaylistIsFilledFromWhatOneTeaches alone, and what it would bring is said first.
func TestAPlaylistIsFilledFromWhatOneTeaches(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	c := e.as("lecturer")
	here := "/api/courses/" + e.Course.String() + "/playlists"
	page := post[sharing.PlaylistPage](c, here, map[string]string{"title": "All", "about": "", "arranged": "date"})
	at := here + "/" + page.List.ID.String() + "/filling"
	said := post[sharing.FillPreview](c, at+"/preview", map[string]any{"course": e.Course})
	if len(said.Come) != 1 || said.Come[0].Recording != id || said.Come[0].Title == "" || said.Here+said.Leave != 0 {
		t.Errorf("it would be %+v", said)
	}
	for _, path := range []string{at + "/preview", at} {
		method := http.MethodPut
		if path != at {
			method = http.MethodPost
		}
		if s := c.status(method, path, map[string]any{"course": e.Other}); s != http.StatusNotFound {
			t.Errorf("%s of a course that they do not teach: %d", path, s)
		}
		if s := c.status(method, path, map[string]any{"words": "…"}); s != http.StatusUnprocessableEntity {
			t.Errorf("%s of no word: %d", path, s)
		}
	}
	if s := c.status(http.MethodPut, at, map[string]any{"course": e.Course}); s != http.StatusOK {
		t.Fatalf("keep it: %d", s)
	}
	page = get[sharing.PlaylistPage](c, "/api/courses/"+e.Course.String()+"/playlist?list="+page.List.ID.String())
	if page.List.Filling == nil || *page.List.Filling.Course != e.Course || len(page.Entries) != 1 ||
		!page.Entries[0].Filled {
		t.Errorf("kept it is %+v", page)
	}
	// That it came there by itself does not hide that it waits for its trim.
	main := get[sharing.PlaylistPage](c, "/api/courses/"+e.Course.String()+"/playlist")
	if len(main.Gaps) != 1 || main.Gaps[0].Why != "waits" || main.Gaps[0].Next != "trim" || main.Here != 0 {
		t.Errorf("the main one says %+v", main)
	}
}

// TestWhatOneDoesNotTeachIsNotTold by a playlist that a course shows, until it is lit there.
func TestWhatOneDoesNotTeachIsNotTold(t *testing.T) {
	e := newEdge(t)
	c, all := e.as("lecturer"), e.as("coordinator")
	secret, _ := e.File(e.Elsewhere, e.shortFilm())
	e.Settled(secret)
	there, here := "/api/courses/"+e.Other.String(), "/api/courses/"+e.Course.String()
	list := post[sharing.PlaylistPage](all, there+"/playlists",
		map[string]string{"title": "Theirs", "about": "", "arranged": "hand"}).List.ID.String()
	post[sharing.PlaylistPage](all, there+"/playlist/recordings?list="+list,
		map[string][]uuid.UUID{"recordings": {secret}})
	if s := all.status(http.MethodPut, here+"/playlists/"+list+"/shown", map[string]bool{"shown": true}); s != 200 {
		t.Fatalf("show it: %d", s)
	}
	sees := func(when string, of *caller, want int) {
		t.Helper()
		page := get[sharing.PlaylistPage](of, here+"/playlist?list="+list)
		lines := 0
		for _, x := range get[watching.Sight](of, here+"/sight").Lists {
			lines += len(x.Entries)
		}
		if len(page.Entries) != want || lines != want {
			t.Errorf("%s they see %d entries, and %d through a student's eyes", when, len(page.Entries), lines)
		}
	}
	sees("who coordinates: dark", all, 1)
	sees("dark", c, 0)
	e.Must(e.Releases.Light(t.Context(), e.Course, secret, e.Coordinator))
	sees("lit", c, 1)
}

// TestPlaylistsAsFiles are taken out and read back; what one may not put into a playlist is named and left out.
func TestPlaylistsAsFiles(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	secret, _ := e.File(e.Elsewhere, e.shortFilm())
	e.Settled(secret)
	c := e.as("lecturer")
	here := "/api/courses/" + e.Course.String()
	list := "?list=" + post[sharing.PlaylistPage](c, here+"/playlists",
		map[string]string{"title": "Out & in", "about": "A line.", "arranged": "hand"}).List.ID.String()
	post[sharing.PlaylistPage](c, here+"/playlist/headings"+list, map[string]string{"title": "=Topic"})
	post[sharing.PlaylistPage](c, here+"/playlist/recordings"+list, map[string][]uuid.UUID{"recordings": {id}})
	post[sharing.PlaylistPage](c, here+"/playlist/pages"+list,
		map[string]string{"title": "Charts", "address": "https://charts.example/?a=1&b=2"})
	for kind, mime := range map[string]string{"xspf": "application/xspf+xml", "csv": "text/csv; charset=utf-8",
		"m3u": "audio/x-mpegurl; charset=utf-8"} {
		status, is, body := c.text(here + "/playlist/file" + list + "&kind=" + kind)
		if status != http.StatusOK || is != mime || !strings.Contains(body, "/watch/"+id.String()) {
			t.Errorf("%s is %d %s %s", kind, status, is, body)
		}
		if kind == "m3u" {
			continue
		}
		file := map[string]string{"title": "Back " + kind, "file": body}
		back := post[sharing.Brought](c, here+"/playlists/file", file)
		page := get[sharing.PlaylistPage](c, here+"/playlist?list="+back.List.String())
		if back.Here != 2 || len(back.Unknown) != 0 || page.List.Title != "Back "+kind || len(page.Entries) != 3 ||
			*page.Entries[0].Heading != "=Topic" || *page.Entries[1].RecordingID != id ||
			page.Entries[2].Address != "https://charts.example/?a=1&b=2" {
			t.Errorf("%s comes back as %+v %+v", kind, back, page.Entries)
		}
	}
	if status, is, body := c.text(here + "/playlist/file" + list + "&kind=imscc"); status != http.StatusOK ||
		is != "application/zip" || !strings.Contains(body, "imsmanifest.xml") || strings.Count(body, "links/entry") != 4 {
		t.Errorf("a cartridge is %d %s, %d bytes", status, is, len(body))
	}
	file := "title,address,recording\nOurs,," + id.String() + "\nOnce more,," + id.String() + "\nTheirs,," +
		secret.String() + "\nNowhere,," + uuid.NewString() + "\nBad,javascript:alert(1),\n"
	back := post[sharing.Brought](c, here+"/playlists/file", map[string]string{"title": "Some", "file": file})
	if back.Here != 1 || len(back.Unknown) != 4 || back.Unknown[1] != (sharing.UnknownLine{Line: 3, Title: "Theirs"}) {
		t.Errorf("of a file with strange lines came %+v", back)
	}
	for name, body := range map[string]map[string]string{"no playlist": {"title": "x", "file": "a,b\n1,2"},
		"no title": {"file": file}, "nothing": {"title": "x", "file": ""}} {
		if s := c.status(http.MethodPost, here+"/playlists/file", body); s != http.StatusUnprocessableEntity {
			t.Errorf("%s: %d", name, s)
		}
	}
}
