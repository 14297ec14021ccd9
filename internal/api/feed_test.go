package api_test

import (
	"encoding/json"
	"io"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/mmcdole/gofeed"

	"latelantern/internal/api/watching"
	"latelantern/internal/audience"
	"latelantern/internal/core/viewing"
	"latelantern/internal/playlists"
	"latelantern/internal/testhouse"
)

// pathOf is an address without where it lies.
func pathOf(address string) string {
	return strings.TrimPrefix(address, "https://lectures.college.example")
}

// read asks for a feed as an app does, which is nobody, and reads it by a reader that is not ours.
func (e *house) read(address string, headers ...string) (status int, tag string, feed *gofeed.Feed) {
	e.T.Helper()
	answer := e.as("").request(http.MethodGet, pathOf(address), nil, headers...)
	defer answer.Body.Close()
	if answer.StatusCode != http.StatusOK {
		return answer.StatusCode, answer.Header.Get("ETag"), nil
	}
	feed, err := gofeed.NewParser().Parse(answer.Body)
	e.Must(err)
	return answer.StatusCode, answer.Header.Get("ETag"), feed
}

// taker is a house with a recording that is lit, has captions and chapters and may be taken away, and a student's own
// feeds of it.
func taker(t *testing.T) (e *house, id uuid.UUID, kinds map[string]watching.FeedKind) {
	e = newEdge(t)
	id = e.recording()
	lecturer := e.as("lecturer")
	if status, _, text := lecturer.captionFile(id, "WEBVTT\n\n00:00:00.200 --> 00:00:03.000\nGood morning to all\n",
		nil); status != http.StatusOK {
		t.Fatalf("%d %s", status, text)
	}
	if status, text := lecturer.send(http.MethodPut, "/api/recordings/"+id.String()+"/chapters", map[string]any{
		"seen": []any{}, "chapters": []map[string]any{{"at": 0, "title": "Sampling & holding"}},
	}); status != http.StatusOK {
		t.Fatalf("%d %s", status, text)
	}
	e.everyone(true)
	e.Lit(id)
	return e, id, e.kinds("student")
}

func (e *house) kinds(name string) map[string]watching.FeedKind {
	e.T.Helper()
	out := map[string]watching.FeedKind{}
	for _, k := range get[watching.RecordingFeed](e.as(name), "/api/courses/"+e.Course.String()+"/recording-feed").Kinds {
		out[k.Kind] = k
	}
	return out
}

// filled asks for a feed until its one recording is in it.
func (e *house) filled(address string) (tag string, item *gofeed.Item) {
	e.T.Helper()
	e.Until(func() bool {
		status, t, feed := e.read(address)
		if status != http.StatusOK {
			e.T.Fatalf("a feed: %d", status)
		}
		if len(feed.Items) == 1 {
			tag, item = t, feed.Items[0]
		}
		return item != nil
	})
	return tag, item
}

// TestAFeedOfOnesOwn has what one may take away, with chapters and captions, for whoever has its address.
func TestAFeedOfOnesOwn(t *testing.T) {
	e, id, kinds := taker(t)
	if len(kinds) != 2 || kinds["sound"].Waits != 1 || kinds["sound"].Here != 0 || kinds["video"].Without != 0 {
		t.Fatalf("before an app asked: %+v", kinds)
	}
	if s := e.as("outsider").status(http.MethodGet, "/api/courses/"+e.Course.String()+"/recording-feed",
		nil); s != http.StatusForbidden {
		t.Errorf("a feed of another course: %d", s)
	}
	tag, item := e.filled(kinds["sound"].Address)
	if got := e.kinds("student")["sound"]; got.Here != 1 || got.Waits != 0 {
		t.Errorf("once it was asked for: %+v", got)
	}
	lecture, err := e.Schedule.Lecture(t.Context(), e.Lecture)
	e.Must(err)
	if len(item.Enclosures) != 1 || item.Enclosures[0].Type != "audio/mp4" || !strings.HasSuffix(item.Link,
		"/watch/"+id.String()) || item.GUID != "urn:uuid:"+id.String() || item.Title == "" ||
		!item.PublishedParsed.Equal(lecture[0].StartsAt.Truncate(time.Second)) {
		t.Errorf("it has %+v", item)
	}
	// Apps ask for parts of a file, and whether it is still the same.
	app := e.as("")
	file := pathOf(item.Enclosures[0].URL)
	whole := app.request(http.MethodGet, file, nil)
	b, err := io.ReadAll(whole.Body)
	e.Must(err, whole.Body.Close())
	if whole.StatusCode != 200 || item.Enclosures[0].Length != whole.Header.Get("Content-Length") || len(b) < 1000 {
		t.Errorf("the file: %d, %d bytes of %s", whole.StatusCode, len(b), item.Enclosures[0].Length)
	}
	part := app.request(http.MethodGet, file, nil, "Range", "bytes=100-199", "If-Range", whole.Header.Get("ETag"))
	got, err := io.ReadAll(part.Body)
	e.Must(err, part.Body.Close())
	if part.StatusCode != http.StatusPartialContent || string(got) != string(b[100:200]) {
		t.Errorf("a part: %d, %d bytes", part.StatusCode, len(got))
	}
	head := app.request(http.MethodHead, pathOf(kinds["sound"].Address), nil)
	e.Must(head.Body.Close())
	if head.StatusCode != 200 || head.Header.Get("ETag") != tag {
		t.Errorf("only its head: %d %s", head.StatusCode, head.Header.Get("ETag"))
	}
	references := item.Extensions["podcast"]
	if len(references["chapters"]) != 1 || len(references["transcript"]) != 1 {
		t.Fatalf("beside it stand %v", references)
	}
	var chapters struct{ Chapters []struct{ Title string } }
	_, text := app.send(http.MethodGet, pathOf(references["chapters"][0].Attrs["url"]), nil)
	e.Must(json.Unmarshal([]byte(text), &chapters))
	if len(chapters.Chapters) != 1 || chapters.Chapters[0].Title != "Sampling & holding" {
		t.Errorf("its chapters: %s", text)
	}
	captions := pathOf(references["transcript"][0].Attrs["url"])
	if s, text := app.send(http.MethodGet, captions, nil); s != 200 || !strings.Contains(text, "Good morning to all") {
		t.Errorf("its captions: %d %s", s, text)
	}
	for _, other := range []string{strings.Replace(captions, ".en.", ".fi.", 1), strings.TrimSuffix(file, "m4a") + "mp4",
		strings.Replace(file, id.String(), uuid.NewString(), 1), strings.Replace(file, id.String(), "x", 1),
		strings.Replace(file, "/sound/", "/text/", 1)} {
		if s := app.status(http.MethodGet, other, nil); s != http.StatusNotFound {
			t.Errorf("%s: %d", other, s)
		}
	}
}

// TestAFeedAskedForAgain costs one query while it is the same, and is another as soon as it is not.
func TestAFeedAskedForAgain(t *testing.T) {
	e, id, kinds := taker(t)
	address := kinds["sound"].Address
	tag, _ := e.filled(address)
	app := e.as("")
	again := func() (status int, queries int64) {
		t.Helper()
		asked := func() int64 { return e.DB.Stat().AcquireCount() + e.Feeds.Often.Stat().AcquireCount() }
		before := asked()
		answer := app.request(http.MethodGet, pathOf(address), nil, "If-None-Match", tag)
		e.Must(answer.Body.Close())
		tag = answer.Header.Get("ETag")
		return answer.StatusCode, asked() - before
	}
	// Jobs of the house ask in between, now and then.
	least := int64(99)
	for range 20 {
		status, n := again()
		if status != http.StatusNotModified {
			t.Fatalf("asked again: %d", status)
		}
		least = min(least, n)
	}
	if least != 1 {
		t.Errorf("it costs %d queries", least)
	}
	opens := func(at time.Time) {
		rule := viewing.Rule{Audience: viewing.Everyone, Uses: viewing.AllUses,
			Window: viewing.Window{From: viewing.FromDate, FromAt: at, Until: viewing.UntilEver}}
		e.Must(e.Audience.SetRule(t.Context(), audience.Scope{Course: e.Course}, e.Lecturer, &rule))
	}
	for _, change := range []struct {
		what  string
		do    func()
		items int
	}{
		{"it has another title", func() { e.Must(e.Library.SetTitle(t.Context(), id, e.Lecturer, "Renamed")) }, 1},
		{"it is dark", func() { e.Must(e.Releases.Darken(t.Context(), e.Course, id, e.Lecturer)) }, 0},
		{"it is lit", func() { e.Must(e.Releases.Light(t.Context(), e.Course, id, e.Lecturer)) }, 1},
		{"it opens later", func() { opens(e.Clock.Now().Add(3 * time.Second)) }, 0},
		{"it has opened", func() { time.Sleep(3500 * time.Millisecond) }, 1},
		{"the playlist has it no more", func() { e.Do(`delete from playlist_entry where recording_id = $1`, id) }, 0},
	} {
		change.do()
		status, next, feed := e.read(address, "If-None-Match", tag)
		if status != http.StatusOK || next == tag || len(feed.Items) != change.items {
			t.Errorf("%s: %d, the same %v", change.what, status, next == tag)
			continue
		}
		tag = next
		if status, _ := again(); status != http.StatusNotModified {
			t.Errorf("%s, asked once more: %d", change.what, status)
		}
	}
}

// TestAFeedOpensNothing that the one whose it is could not have.
func TestAFeedOpensNothing(t *testing.T) {
	e, _, kinds := taker(t)
	address := kinds["sound"].Address
	_, item := e.filled(address)
	app, file := e.as(""), pathOf(item.Enclosures[0].URL)
	captions := pathOf(item.Extensions["podcast"]["transcript"][0].Attrs["url"])
	looks := func(when string, feed, items, file1, captions1 int) {
		t.Helper()
		status, _, got := e.read(address)
		n := 0
		if got != nil {
			n = len(got.Items)
		}
		f, c := app.status(http.MethodGet, file, nil), app.status(http.MethodGet, captions, nil)
		if status != feed || n != items || f != file1 || c != captions1 {
			t.Errorf("%s: the feed %d with %d, the file %d, the captions %d", when, status, n, f, c)
		}
	}
	uses := func(u viewing.Uses) {
		rule := viewing.Rule{Audience: viewing.Everyone, Uses: u,
			Window: viewing.Window{From: viewing.FromOnce, Until: viewing.UntilEver}}
		e.Must(e.Audience.SetRule(t.Context(), audience.Scope{Course: e.Course}, e.Lecturer, &rule))
	}
	looks("to begin with", 200, 1, 200, 200)
	uses(viewing.WatchRead | viewing.Uses(viewing.TakeSound))
	looks("the text may not be taken", 200, 1, 200, 404)
	uses(viewing.WatchRead)
	looks("nothing may be taken", 200, 0, 404, 404)
	if x := get[watching.RecordingFeed](e.as("student"), "/api/courses/"+e.Course.String()+"/recording-feed"); len(
		x.Kinds) != 0 || x.Open != 1 {
		t.Errorf("nothing may be taken: %+v", x)
	}
	uses(viewing.AllUses)
	_, err := e.Audience.ShutOut(t.Context(), e.Lecturer, audience.ShutForm{Scope: audience.Scope{Course: e.Course},
		Person: e.Student})
	e.Must(err)
	looks("shut out", 200, 0, 404, 404)
	e.Do(`update shut_out set ended_at = $1`, testhouse.Now)
	looks("let in again", 200, 1, 200, 200)
	e.Do(`update account set closed_at = now() where person_id = $1`, e.Student)
	looks("the account is closed", 404, 0, 404, 404)
	e.Do(`update account set closed_at = null where person_id = $1`, e.Student)
	e.Do(`delete from membership where person_id = $1 and course_id = $2`, e.Student, e.Course)
	looks("no student of the course any more", 404, 0, 404, 404)
	e.Do(`insert into membership (person_id, course_id, role) values ($1, $2, 'student')`, e.Student, e.Course)
	looks("a student again", 200, 1, 200, 200)

	renewed := post[watching.RecordingFeed](e.as("student"), "/api/courses/"+e.Course.String()+"/recording-feed", nil)
	looks("renewed", 404, 0, 404, 404)
	if status, _, feed := e.read(renewed.Kinds[0].Address); status != 200 || len(feed.Items) != 1 {
		t.Errorf("the new address: %d", status)
	}
	// Of a playlist of which one can watch nothing not even the name is known.
	if _, err := e.Playlists.AddList(t.Context(), e.Course, e.Lecturer, playlists.Kept{Title: "The test in week 9",
		Arranged: "hand"}); err != nil {
		t.Fatal(err)
	}
	if x := get[watching.RecordingFeed](e.as("student"), "/api/courses/"+e.Course.String()+"/recording-feed"); len(
		x.Lists) != 1 {
		t.Errorf("its playlists are %+v", x.Lists)
	}
	// Of a playlist of another course there is none.
	for list, want := range map[string]int{uuid.NewString(): 404, renewed.Lists[0].ID.String(): 200, "x": 422} {
		if s := e.as("student").status(http.MethodGet, "/api/courses/"+e.Course.String()+"/recording-feed?list="+list,
			nil); s != want {
			t.Errorf("of the playlist %s: %d", list, s)
		}
	}
}
