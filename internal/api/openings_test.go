package api_test

import (
	"bytes"
	"encoding/json"
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/accounts"
	"latelantern/internal/api/page"
	"latelantern/internal/api/sharing"
	"latelantern/internal/api/watching"
	"latelantern/internal/audience"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/playlists"
	"latelantern/internal/testhouse"
)

// linked makes a link to a recording, and gives its opening and the path of its door.
func (e *house) linked(recording uuid.UUID, more map[string]any) (opening uuid.UUID, door string) {
	e.T.Helper()
	body := map[string]any{"kind": "link", "name": "The examiner", "uses": []string{"watch"}, "from": "once",
		"until": "ever", "days_after_term": 0}
	for k, v := range more {
		body[k] = v
	}
	list := post[sharing.OpeningList](e.as("lecturer"), "/api/recordings/"+recording.String()+"/openings", body)
	at := slices.IndexFunc(list.Openings, func(o sharing.OpeningLine) bool { return o.ID == *list.Made })
	_, key, _ := strings.Cut(list.Openings[at].Link, "/open/")
	return *list.Made, "/api/links/" + key
}

// TestALinkForOutsiders opens one recording in the browser that came by it, tells nothing else, and is taken back.
func TestALinkForOutsiders(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	e.everyone(true)
	e.Lit(id)
	watch := "/api/watch/" + id.String()
	opening, door := e.linked(id, map[string]any{"phrase": "a bell at low water"})
	guest := e.as("")
	answer := guest.request(http.MethodGet, strings.Replace(door, "/api/links/", "/open/", 1), nil)
	answer.Body.Close()
	if indexed := answer.Header.Get("X-Robots-Tag"); indexed != "noindex" {
		t.Errorf("of being indexed its page says %q", indexed)
	}
	if _, body := guest.send(http.MethodGet, door, nil); strings.Contains(body, "examiner") ||
		!strings.Contains(body, `"phrase":true`) || !strings.Contains(body, `"name":true`) {
		t.Errorf("before they are in it says %s", body)
	}
	if s := guest.status(http.MethodGet, watch, nil); s != http.StatusUnauthorized {
		t.Errorf("before they came: %d", s)
	}
	come := func(c *caller, phrase string) int {
		return c.status(http.MethodPost, door, map[string]string{"name": "Ada Voss", "phrase": phrase})
	}
	if s := come(guest, "a bell at high water"); s != http.StatusUnprocessableEntity {
		t.Errorf("with another phrase: %d", s)
	}
	if s := come(guest, "a bell at low water"); s != http.StatusOK {
		t.Fatalf("with the phrase: %d", s)
	}
	if me := get[accounts.Me](guest, "/api/me"); me.Link == nil || *me.Link != id || me.Name != "Ada Voss" || me.Staff {
		t.Errorf("they are %+v", me)
	}
	page := get[watching.Watch](guest, watch)
	if page.Account != nil {
		t.Errorf("they are told what they have of it: %+v", page.Account)
	}
	if page.Course.Code != "" || page.Course.ID != uuid.Nil || page.Next != nil || page.AsStaff || len(page.Takes) > 0 {
		t.Errorf("they are shown %+v", page)
	}
	if s := guest.status(http.MethodGet, page.Media, nil); s != http.StatusOK {
		t.Errorf("its media: %d", s)
	}
	for _, other := range []string{"", "student", "outsider"} {
		if s := e.as(other).status(http.MethodGet, page.Media, nil); s != http.StatusNotFound {
			t.Errorf("its media in another browser, as %q: %d", other, s)
		}
	}
	// Every route but these few is closed to who came by a link.
	open := []string{"GET /api/watch/:recording", "PUT /api/watch/:recording/place", "GET /api/me", "GET /api/events",
		"POST /api/sign-in", "POST /api/sign-out", "GET /api/college", "GET /api/links/:key", "POST /api/links/:key"}
	params := strings.NewReplacer(":recording", id.String(), ":course", e.Course.String(), ":lecture",
		e.Lecture.String(), ":kind", "video")
	for route, row := range matrix {
		if slices.Contains(open, route) || row.who == nil || row.who[0] == "in" {
			continue
		}
		method, path, _ := strings.Cut(route, " ")
		path = params.Replace(path)
		for part := range strings.SplitSeq(path, "/") {
			if strings.HasPrefix(part, ":") {
				path = strings.ReplaceAll(path, part, uuid.NewString())
			}
		}
		body, err := json.Marshal(row.body)
		e.Must(err)
		headers := []string{"Content-Type", "application/json"}
		if strings.HasPrefix(path, "/api/append/") {
			headers = []string{"Content-Type", "application/offset+octet-stream", "Upload-Offset", "0", "Tus-Resumable",
				"1.0.0"}
		}
		answer := guest.request(method, path, bytes.NewReader(body), headers...)
		answer.Body.Close()
		if s := answer.StatusCode; s != 401 && s != 403 && s != 404 {
			t.Errorf("%s: %d", route, s)
		}
	}
	// Renewed, whoever came by the old address is out at once, and that address opens nothing.
	lecturer, at := e.as("lecturer"), "/api/recordings/"+id.String()+"/openings/"+opening.String()
	list := post[sharing.OpeningList](lecturer, at+"/renew", nil)
	if len(list.Openings[0].Came) != 0 || strings.HasSuffix(list.Openings[0].Link, strings.TrimPrefix(door, "/api/links/")) {
		t.Errorf("renewed it is %+v", list.Openings[0])
	}
	for path, want := range map[string]int{watch: 401, page.Media: 404, door: 404} {
		if s := guest.status(http.MethodGet, path, nil); s != want {
			t.Errorf("renewed, %s: %d, want %d", path, s, want)
		}
	}
	// Someone of the college who opens a link stays who they are, and is seen to have come.
	_, key, _ := strings.Cut(list.Openings[0].Link, "/open/")
	door = "/api/links/" + key
	outsider := e.as("outsider")
	if s := come(outsider, "a bell at low water"); s != http.StatusOK {
		t.Errorf("someone with an account: %d", s)
	}
	if me := get[accounts.Me](outsider, "/api/me"); me.Name != "outsider" || me.Link != nil {
		t.Errorf("they became %+v", me)
	}
	if page := get[watching.CatchUp](outsider, "/api/catch-up"); len(page.Opened) != 1 || !page.Opened[0].Open {
		t.Errorf("their catch-up is %+v", page)
	}
	if came := get[sharing.OpeningList](lecturer, strings.TrimSuffix(at, "/"+opening.String())).Openings[0].Came; len(
		came) != 1 || came[0].Name != "outsider" || came[0].At == nil {
		t.Errorf("who came is %+v", came)
	}
	if s := lecturer.status(http.MethodDelete, at, nil); s != http.StatusOK {
		t.Errorf("taken back: %d", s)
	}
	if s := outsider.status(http.MethodGet, watch, nil); s != http.StatusForbidden {
		t.Errorf("taken back, to someone of the college: %d", s)
	}
	if s := lecturer.status(http.MethodPost, at+"/bring-back", nil); s != http.StatusOK ||
		outsider.status(http.MethodGet, watch, nil) != http.StatusOK {
		t.Errorf("brought back: %d", s)
	}
}

// TestALinkToAPlaylist opens what stands in it to the browser that came by it: with what comes next, and without a word
// of anything else.
func TestALinkToAPlaylist(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	e.everyone(true)
	e.Lit(id)
	second := e.Bare(e.AddLecture(e.Course, testhouse.Now, "Winds"), true, nil)
	e.LightRow(second, e.Course, nil)
	e.Do(`update recording set title = 'Of winds' where id = $1`, second)
	apart := e.Bare(e.AddLecture(e.Course, testhouse.Now, "Ebb"), true, nil)
	e.LightRow(apart, e.Course, nil)
	lecturer, course := e.as("lecturer"), "/api/courses/"+e.Course.String()
	list := post[sharing.PlaylistPage](lecturer, course+"/playlists", map[string]string{"title": "For the examiner",
		"about": "", "arranged": "hand"}).List
	of := playlists.Of{Course: e.Course, List: *list.ID}
	_, err := e.Playlists.AddHeading(t.Context(), of, playlists.Text{Title: "Nothing below"})
	e.Must(err)
	_, err = e.Playlists.AddHeading(t.Context(), of, playlists.Text{Title: "To begin with"})
	e.Must(err, e.Playlists.Add(t.Context(), of, nil, id, second))
	openings := course + "/playlists/" + list.ID.String() + "/openings"
	form := map[string]any{"kind": "link", "name": "The board", "uses": []string{"watch"}, "from": "once",
		"until": "ever", "days_after_term": 0}
	if x := post[sharing.OpeningChange](lecturer, openings+"/preview", form); x.List == nil || x.List.Open != 2 {
		t.Errorf("it would open %+v", x.List)
	}
	made := post[sharing.OpeningList](lecturer, openings, form)
	if made.Title != "For the examiner" || len(made.Openings) != 1 || made.Openings[0].State != "open" {
		t.Fatalf("it is %+v", made)
	}
	for _, of := range []string{uuid.NewString(), e.Other.String()} { // what is none, and what another course has
		path := strings.Replace(openings, list.ID.String(), of, 1)
		if s := lecturer.status(http.MethodPost, path, form); s != http.StatusNotFound {
			t.Errorf("of a playlist that is not there: %d", s)
		}
	}
	theirs := strings.Replace(openings, e.Course.String(), e.Other.String(), 1)
	if s := e.as("coordinator").status(http.MethodGet, theirs, nil); s != http.StatusNotFound {
		t.Errorf("by another course: %d", s)
	}
	_, key, _ := strings.Cut(made.Openings[0].Link, "/open/")
	guest := e.as("")
	pass := post[sharing.LinkPass](guest, "/api/links/"+key, map[string]string{"name": "Ada Voss"})
	if pass.Recording != nil || pass.Opening == nil || *pass.Opening != *made.Made {
		t.Fatalf("it leads to %+v", pass)
	}
	if me := get[accounts.Me](guest, "/api/me"); me.LinkList == nil || *me.LinkList != *made.Made || me.Link != nil {
		t.Errorf("they are %+v", me)
	}
	linked := "/api/linked/" + made.Made.String()
	var said []string
	for _, x := range get[watching.LinkedList](guest, linked).Entries {
		if x.Heading != nil {
			x.Title = *x.Heading
		}
		said = append(said, x.Title)
	}
	if got := strings.Join(said, "|"); got != "To begin with|Today|Of winds" {
		t.Errorf("they see %q", got)
	}
	shown := get[watching.Watch](guest, "/api/watch/"+id.String())
	if shown.List == nil || shown.List.Title != "For the examiner" || shown.Next == nil || *shown.Next != second ||
		shown.NextTitle != "Of winds" || shown.Course.Code != "" || shown.Week != 0 {
		t.Errorf("they watch %+v", shown)
	}
	for path, want := range map[string]int{"/api/watch/" + apart.String(): 403, "/api/catch-up": 401,
		course + "/shown": 403, "/api/linked/" + uuid.NewString(): 404} {
		if s := guest.status(http.MethodGet, path, nil); s != want {
			t.Errorf("%s: %d, want %d", path, s, want)
		}
	}
	for _, other := range []string{"student", "outsider", "lecturer"} { // who did not come by it
		if s := e.as(other).status(http.MethodGet, linked, nil); s != http.StatusNotFound {
			t.Errorf("to %s: %d", other, s)
		}
	}
	sight := get[watching.Sight](lecturer, course+"/sight?opening="+made.Made.String())
	if len(sight.Lists) != 1 || len(sight.Lists[0].Entries) != 3 || sight.Lists[0].ID != *list.ID {
		t.Errorf("seen as whoever has it there is %+v", sight.Lists)
	}
	// Taken out of the playlist it is out of their hands, and so is its media address.
	entries := get[sharing.PlaylistPage](lecturer, course+"/playlist?list="+list.ID.String()).Entries
	at := slices.IndexFunc(entries, func(x page.PlaylistLine) bool { return postgres.OrZero(x.RecordingID) == id })
	e.Must(e.Playlists.Remove(t.Context(), of, entries[at].ID))
	for path, want := range map[string]int{"/api/watch/" + id.String(): 403, shown.Media: 404, linked: 200} {
		if s := guest.status(http.MethodGet, path, nil); s != want {
			t.Errorf("taken out, %s: %d, want %d", path, s, want)
		}
	}
}

// TestWhatIsOpenedThoughItIsDark stands in the catch-up of whoever it is open to, once.
func TestWhatIsOpenedThoughItIsDark(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	e.everyone(true)
	e.Must(e.Playlists.Add(t.Context(), playlists.Of{Course: e.Course}, nil, id))
	student := e.as("student")
	stands := func(when string, listed, opened int) {
		t.Helper()
		page, n := get[watching.CatchUp](student, "/api/catch-up"), 0
		for _, list := range page.Courses[0].Lists {
			for _, x := range list.Entries {
				if x.RecordingID != nil {
					n++
				}
			}
		}
		if n != listed || len(page.Opened) != opened {
			t.Errorf("%s %d are listed and %d beside, want %d and %d", when, n, len(page.Opened), listed, opened)
		}
	}
	stands("dark", 0, 0)
	post[sharing.OpeningList](e.as("lecturer"), "/api/recordings/"+id.String()+"/openings", map[string]any{
		"kind": "people", "people": []uuid.UUID{e.Student}, "uses": []string{"watch"}, "from": "once", "until": "ever",
		"days_after_term": 0})
	e.Until(func() bool { return student.status(http.MethodGet, "/api/watch/"+id.String(), nil) == http.StatusOK })
	stands("opened", 0, 1)
	e.Lit(id)
	stands("lit", 1, 0)
}

// TestEachUseIsGuarded: who may only watch reads nothing, and takes away what the rule says and nothing else.
func TestEachUseIsGuarded(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	if status, _, text := e.as("lecturer").captionFile(id,
		"WEBVTT\n\n00:00:00.200 --> 00:00:03.000\nGood morning to all\n", nil); status != http.StatusOK {
		t.Fatalf("%d %s", status, text)
	}
	e.everyone(true)
	e.Lit(id)
	student, watch := e.as("student"), "/api/watch/"+id.String()
	edition := get[watching.Watch](student, watch)
	for _, c := range []struct {
		uses  viewing.Uses
		reads bool
		takes string
	}{
		{viewing.Uses(viewing.ToWatch), false, ""},
		{viewing.WatchRead, true, ""},
		{viewing.WatchRead | viewing.Uses(viewing.TakeText), true, "text"},
		{viewing.Uses(viewing.ToWatch | viewing.TakeSound), false, "sound"},
		{viewing.Uses(viewing.ToWatch | viewing.TakeVideo), false, "video"},
		{viewing.AllUses, true, "video sound text"},
	} {
		rule := &viewing.Rule{Audience: viewing.Everyone, Uses: c.uses,
			Window: viewing.Window{From: viewing.FromOnce, Until: viewing.UntilEver}}
		e.Must(e.Audience.SetRule(t.Context(), audience.Scope{Course: e.Course}, e.Lecturer, rule))
		page := get[watching.Watch](student, watch)
		if reads := len(page.Cues) > 0; reads != c.reads {
			t.Errorf("with %v they read: %v", c.uses.Names(), reads)
		}
		var takes []string
		for _, x := range page.Takes {
			takes = append(takes, x.Kind)
		}
		if got := strings.Join(takes, " "); got != c.takes {
			t.Errorf("with %v they may take %q, want %q", c.uses.Names(), got, c.takes)
		}
		may := func(kind string) int {
			if slices.Contains(takes, kind) {
				return http.StatusOK
			}
			return http.StatusForbidden
		}
		for _, kind := range []string{"video", "sound"} {
			if s := student.status(http.MethodPost, watch+"/copies/"+kind, nil); s != may(kind) {
				t.Errorf("with %v they ask for the %s: %d", c.uses.Names(), kind, s)
			}
		}
		status, text := student.send(http.MethodGet, watch+"/text?form=vtt", nil)
		if status != may("text") || strings.Contains(text, "Good morning") != (status == http.StatusOK) {
			t.Errorf("with %v they take the text: %d %s", c.uses.Names(), status, text)
		}
	}
	// What is there is taken by its own use alone.
	var address string
	e.Until(func() bool {
		address = get[watching.Copy](student, watch+"/copies/sound").Address
		return address != ""
	})
	if s := student.status(http.MethodGet, address, nil); s != http.StatusOK {
		t.Errorf("the sound: %d", s)
	}
	rule := &viewing.Rule{Audience: viewing.Everyone, Uses: viewing.AllUses &^ viewing.Uses(viewing.TakeSound),
		Window: viewing.Window{From: viewing.FromOnce, Until: viewing.UntilEver}}
	e.Must(e.Audience.SetRule(t.Context(), audience.Scope{Course: e.Course}, e.Lecturer, rule))
	for path, want := range map[string]int{address: 404, edition.Media: 200,
		strings.TrimSuffix(edition.Media, "index.m3u8") + "copy/text.mp4": 404,
		strings.TrimSuffix(edition.Media, "index.m3u8") + "copy/none.mp4": 404} {
		if s := student.status(http.MethodGet, path, nil); s != want {
			t.Errorf("%s: %d, want %d", path, s, want)
		}
	}
}

// TestShutOutOverHTTP: with what it changes before, and for whom it stays closed everywhere.
func TestShutOutOverHTTP(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	e.everyone(true)
	e.Lit(id)
	lecturer, student := e.as("lecturer"), e.as("student")
	path, watch := "/api/courses/"+e.Course.String()+"/shut-outs", "/api/watch/"+id.String()
	media := get[watching.Watch](student, watch).Media
	look := path + "/preview?person=" + e.Student.String() + "&recording=" + id.String()
	if x := get[sharing.ShutEffect](lecturer, look); x.Fewer != 1 {
		t.Errorf("it would take %d", x.Fewer)
	}
	if s := lecturer.status(http.MethodPost, path, map[string]any{"person_id": e.Student, "until": testhouse.Now,
		"note": strings.Repeat("x", 501)}); s != http.StatusUnprocessableEntity {
		t.Errorf("until now: %d", s)
	}
	list := post[sharing.ShutList](lecturer, path, map[string]any{"person_id": e.Student, "recording_id": id,
		"until": testhouse.Now.Add(time.Hour), "note": "Not before the re-sit."})
	if len(list.People) != 1 || list.People[0].Name != "student" || list.People[0].Note == "" {
		t.Errorf("shut out are %+v", list)
	}
	status, body := student.send(http.MethodGet, watch, nil)
	if status != http.StatusForbidden || !strings.Contains(body, "door.shut_out") || strings.Contains(body, "re-sit") {
		t.Errorf("shut out: %d %s", status, body)
	}
	if s := student.status(http.MethodGet, media, nil); s != http.StatusNotFound {
		t.Errorf("shut out, and its media: %d", s)
	}
	var page watching.CatchUp
	_, text := student.send(http.MethodGet, "/api/catch-up", nil)
	e.Must(json.Unmarshal([]byte(text), &page))
	if x := page.Courses[0].Lists[0].Entries[0]; x.Open || x.Reason != "shut_out" {
		t.Errorf("their catch-up is %+v", x)
	}
	if s := lecturer.status(http.MethodDelete, path+"/"+list.People[0].ID.String(), nil); s != http.StatusOK {
		t.Errorf("let in: %d", s)
	}
	if s := student.status(http.MethodGet, watch, nil); s != http.StatusOK {
		t.Errorf("let in again: %d", s)
	}
	if s := lecturer.status(http.MethodPost, path+"/"+list.People[0].ID.String()+"/bring-back",
		nil); s != http.StatusOK || student.status(http.MethodGet, watch, nil) != http.StatusForbidden {
		t.Errorf("shut out again: %d", s)
	}
}

// TestTheRuleOfTheCollegeOverHTTP holds where a course has none; only coordinators change it.
func TestTheRuleOfTheCollegeOverHTTP(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	e.Lit(id)
	watch, coordinator, student := "/api/watch/"+id.String(), e.as("coordinator"), e.as("student")
	page := get[sharing.RulePage](coordinator, "/api/rule")
	if page.Set || page.Course.Code != "" {
		t.Errorf("before there is one: %+v", page)
	}
	rule := page.Rule
	rule.From = "once"
	preview := post[sharing.RuleChange](coordinator, "/api/rule/preview", rule)
	if len(preview.Gain) != 3 || preview.Recordings != 1 {
		t.Errorf("it would change %+v", preview)
	}
	if s := student.status(http.MethodGet, watch, nil); s != http.StatusForbidden {
		t.Errorf("without any rule: %d", s)
	}
	if s := coordinator.status(http.MethodPut, "/api/rule", rule); s != http.StatusOK {
		t.Errorf("kept: %d", s)
	}
	if s := student.status(http.MethodGet, watch, nil); s != http.StatusOK {
		t.Errorf("by the rule of the college: %d", s)
	}
	of := get[sharing.RulePage](e.as("lecturer"), "/api/courses/"+e.Course.String()+"/rule")
	if of.Set || of.Whence != "college" || of.OfCourse == nil || of.Rule.From != "once" {
		t.Errorf("the course is told %+v", of)
	}
	version := get[sharing.RulePage](coordinator, "/api/rule").Version
	if s := coordinator.status(http.MethodDelete, "/api/rule?seen="+version, nil); s != http.StatusOK ||
		student.status(http.MethodGet, watch, nil) != http.StatusForbidden {
		t.Errorf("taken away: %d", s)
	}
}
