package api_test

import (
	"net/http"
	"net/url"
	"slices"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/trimming"
	"latelantern/internal/testhouse"
)

// titled gives recordings titles of their own, in their order.
func (e *house) titled(titles map[uuid.UUID]string) {
	for id, title := range titles {
		e.Do(`update recording set title = $2, titled_at = $3, titled_by = $4 where id = $1`, id, title, testhouse.Now,
			e.Lecturer)
	}
}

// titles asks for the table of all recordings, and gives what stands in it, line by line.
func (c *caller) titles(query url.Values) []string {
	out := []string{}
	for _, l := range get[trimming.AllRecordings](c, "/api/recordings?"+query.Encode()).Lines {
		out = append(out, l.Title)
	}
	return out
}

// TestAllThatOneTeaches: the table has what one teaches and nothing else, of this term or of all, with what is known of
// each; what is asked for comes, in its order.
func TestAllThatOneTeaches(t *testing.T) {
	e := newEdge(t, true)
	e.everyone(false)
	stopped := testhouse.Now
	lit, dark, other := e.Bare(e.Lecture, true, &stopped), e.Bare(e.Later, false, &stopped),
		e.Bare(e.Elsewhere, true, &stopped)
	e.titled(map[uuid.UUID]string{lit: "Ropes 10", other: "Of others"})
	e.LightRow(lit, e.Course, nil)
	e.LightRow(lit, e.Other, nil)
	e.Do(`update track set packed_ms = 60000, stored = 5000, state = 'ready' where capture_id in
		(select capture_id from recording_capture where recording_id = $1)`, lit)
	e.Do(`insert into caption (capture_id, language, state, shown_at) select capture_id, x, 'ready', $2
		from recording_capture, unnest(array['en', 'de']) x where recording_id = $1`, lit, testhouse.Now)
	for _, who := range []uuid.UUID{e.Student, e.Second, e.Lecturer} { // who teaches it does not count
		e.Do(`insert into resume_position (person_id, recording_id, source_ms, kept_at) values ($1, $2, 0, $3)`, who,
			lit, testhouse.Now)
	}
	past, old := uuid.New(), uuid.New()
	e.Do(`insert into term (id, name, first_day, last_day, zone) values ($1, 'Before', '2025-09-01', '2025-12-20',
		'Europe/London')`, past)
	e.Do(`insert into course (id, term_id, code, title) values ($1, $2, 'OLD 3', 'Old knots')`, old, past)
	e.Do(`insert into membership (course_id, person_id, role) values ($1, $2, 'lecturer')`, old, e.Lecturer)
	bygone := e.Bare(e.AddLecture(old, time.Date(2025, 10, 6, 9, 0, 0, 0, time.UTC), "Bygone"), false, &stopped)
	e.Do(`insert into release (recording_id, course_id, own, made_at) values ($1, $2, true, $3) on conflict do nothing`,
		bygone, old, testhouse.Now)

	page := get[trimming.AllRecordings](e.as("lecturer"), "/api/recordings?by=title")
	if page.Of != 2 || len(page.Lines) != 2 || len(page.Courses) != 1 || page.Courses[0].ID != e.Course ||
		page.LengthMs != 60_000 || page.Bytes != 5000 {
		t.Fatalf("a lecturer: %+v", page)
	}
	got := page.Lines[1]
	want := trimming.RecordingRow{Recording: lit, Lecture: e.Lecture, Week: 4, StartsAt: got.StartsAt, Title: "Ropes 10", State: "lit",
		Next: "trim", Can: 3, Of: 3, Elsewhere: 1, LengthMs: 60_000, Bytes: 5000, Captions: 2, Seen: 2}
	if got != want {
		t.Errorf("%+v, want %+v", got, want)
	}
	if l := page.Lines[0]; l.Recording != dark || !l.Bare || l.State != "dark" || l.Seen != 0 || l.Captions != 0 {
		t.Errorf("what was never touched: %+v", l)
	}
	bare := page.Lines[0].Title
	for _, c := range []struct {
		who   string
		query string
		want  []string
	}{
		{"lecturer", "", []string{"Ropes 10", bare}},
		{"lecturer", "down=true", []string{bare, "Ropes 10"}},
		{"lecturer", "light=lit", []string{"Ropes 10"}},
		{"lecturer", "untitled=true", []string{bare}},
		{"lecturer", "uncaptioned=true&unseen=true", []string{bare}},
		{"lecturer", "waits=trim&longer_ms=60000", []string{"Ropes 10"}},
		{"lecturer", "shorter_ms=60000", []string{bare}},
		{"lecturer", "larger=5000", []string{"Ropes 10"}},
		{"lecturer", "words=ROPES+cou", []string{"Ropes 10"}},
		{"lecturer", "week=4", []string{"Ropes 10"}},
		{"lecturer", "course=" + e.Other.String(), []string{}},
		{"lecturer", "all_terms=true&words=bygone", []string{get[trimming.Bench](e.as("lecturer"),
			"/api/recordings/"+bygone.String()).Title}},
		{"colleague", "", []string{"Of others"}},
		{"coordinator", "by=course", []string{bare, "Ropes 10", "Of others"}},
	} {
		query, _ := url.ParseQuery(c.query)
		if got := e.as(c.who).titles(query); !slices.Equal(got, c.want) {
			t.Errorf("%s asks for %q: %q, want %q", c.who, c.query, got, c.want)
		}
	}
	if status, body := e.as("lecturer").send(http.MethodGet, "/api/recordings?waits=lunch", nil); status != 422 {
		t.Errorf("an unknown step: %d %s", status, body)
	}
}

// TestManyIntoTheBin: all go or none, what lay there before stays as it was, and all come back.
func TestManyIntoTheBin(t *testing.T) {
	e := newEdge(t, true)
	stopped := testhouse.Now
	one, two, other := e.Bare(e.Lecture, false, &stopped), e.Bare(e.Later, false, &stopped),
		e.Bare(e.Elsewhere, false, &stopped)
	c := e.as("lecturer")
	put := func(binned bool, ids ...uuid.UUID) int {
		ids = append([]uuid.UUID{}, ids...)
		return c.status(http.MethodPut, "/api/bin", map[string]any{"recordings": ids, "binned": binned})
	}
	binned := func() int { return e.Count(`select count(*) from recording where deleted_at is not null`) }
	if got := put(true, one, other); got != http.StatusForbidden || binned() != 0 {
		t.Errorf("with one of another's: %d, %d in the bin", got, binned())
	}
	if got := put(true, one, uuid.New()); got != http.StatusNotFound || binned() != 0 {
		t.Errorf("with one that is not there: %d, %d in the bin", got, binned())
	}
	if got := put(true); got != http.StatusUnprocessableEntity {
		t.Errorf("nothing: %d", got)
	}
	if got := put(true, one); got >= 300 || binned() != 1 {
		t.Fatalf("one: %d", got)
	}
	e.Do(`update recording set deleted_at = deleted_at - interval '9 days', deleted_by = null where id = $1`, one)
	if got := put(true, one, two, two); got >= 300 || binned() != 2 {
		t.Fatalf("both: %d, %d in the bin", got, binned())
	}
	if n := e.Count(`select count(*) from recording where deleted_by is null and deleted_at < $1`,
		testhouse.Now.AddDate(0, 0, -8)); n != 1 {
		t.Error("what lay in the bin for nine days lies there anew")
	}
	if got := get[trimming.AllRecordings](c, "/api/recordings"); got.Of != 0 {
		t.Errorf("in the bin, and in the table: %+v", got.Lines)
	}
	if got := put(false, one, two); got >= 300 || binned() != 0 || len(c.titles(nil)) != 2 {
		t.Errorf("brought back: %d, %d in the bin", got, binned())
	}
}
