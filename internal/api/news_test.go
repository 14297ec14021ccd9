package api_test

import (
	"net/http"
	"testing"

	"github.com/google/uuid"

	"latelantern/internal/api/telling"
	"latelantern/internal/core/news"
)

// TestNewsOfACourse is told by who teaches it, of what is lit there, to whom it is lit; it is none to who watched it.
func TestNewsOfACourse(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	e.everyone(false)
	c, student, other := e.as("lecturer"), e.as("student"), e.as("outsider")
	here := "/api/courses/" + e.Course.String() + "/news"
	if p := get[telling.NewsPage](c, here); len(p.Recordings) != 0 || len(p.Past) != 0 {
		t.Errorf("before it is lit: %+v", p)
	}
	message := map[string][]uuid.UUID{"recordings": {id}}
	for _, path := range []string{here, here + "/preview"} {
		if s := c.status(http.MethodPost, path, message); s != http.StatusNotFound {
			t.Errorf("%s of what is dark: %d", path, s)
		}
	}
	edition := e.Lit(id).EditionID
	p := get[telling.NewsPage](c, here)
	if len(p.Recordings) != 1 || p.Recordings[0].New != 3 || p.Recordings[0].Told != 0 || p.Recordings[0].Title == "" {
		t.Errorf("once it is lit: %+v", p)
	}
	effect := post[telling.NewsEffect](c, here+"/preview", message)
	if effect.People != 3 || effect.Now+effect.Later != 0 || len(effect.NoMail) != 1 || effect.NoMail[0].Why != "no_post" ||
		len(effect.NoMail[0].Names) != 3 || len(effect.None) != 0 {
		t.Errorf("it would reach %+v", effect)
	}
	told := post[telling.NewsTold](c, here, map[string][]uuid.UUID{"recordings": {id, id}})
	if s := c.status(http.MethodPost, here, message); s != http.StatusConflict {
		t.Errorf("once more: %d", s)
	}
	if got := post[telling.NewsEffect](c, here+"/preview", message); got.People != 0 || got.None[0].Why != "told" {
		t.Errorf("once more it would reach %+v", got)
	}
	notices := func(c *caller) int { return len(get[telling.Notices](c, "/api/news").Notices) }
	if notices(student) != 1 || notices(other) != 0 || notices(c) != 0 {
		t.Errorf("told are %d, %d, %d", notices(student), notices(other), notices(c))
	}
	// Of what was darkened since nobody hears.
	e.Must(e.Releases.Darken(t.Context(), e.Course, id, e.Lecturer))
	if notices(student) != 0 {
		t.Error("a notice of what is dark")
	}
	e.Must(e.Releases.Light(t.Context(), e.Course, id, e.Lecturer))
	place := map[string]any{"at": 1000, "edition": edition}
	if s := student.status(http.MethodPut, "/api/watch/"+id.String()+"/place", place); s >= 300 {
		t.Fatalf("watched: %d", s)
	}
	if notices(student) != 0 {
		t.Error("it is news to who watched it")
	}
	undo := here + "/" + told.ID.String() + "/undo"
	if s := c.status(http.MethodPost, undo, nil); s >= 300 {
		t.Errorf("taken back: %d", s)
	}
	if s := c.status(http.MethodPost, undo, nil); s != http.StatusNotFound {
		t.Errorf("taken back twice: %d", s)
	}
	if p = get[telling.NewsPage](c, here); len(p.Past) != 0 || p.Recordings[0].New != 3 {
		t.Errorf("afterwards: %+v", p)
	}
	template := map[string]string{"template": "{recordings} {x}"}
	if s := c.status(http.MethodPut, here+"/template", template); s != http.StatusUnprocessableEntity {
		t.Errorf("a word that is none: %d", s)
	}
}

// TestStopWithoutSigningIn: the address of a mail stands for one person and one wish, and opens nothing else.
func TestStopWithoutSigningIn(t *testing.T) {
	e := newEdge(t)
	key := e.News.StopKey(e.Student)
	stranger := e.as("")
	if w := get[telling.Wish](stranger, "/api/stop/"+key); w.Often != string(news.Daily) {
		t.Errorf("it is %+v", w)
	}
	if s := stranger.status(http.MethodPut, "/api/stop/"+key, map[string]string{"often": "hourly"}); s != 422 {
		t.Errorf("a wish that is none: %d", s)
	}
	if s := stranger.status(http.MethodPost, "/stop/"+key, nil); s != http.StatusNoContent {
		t.Errorf("one press: %d", s)
	}
	for _, other := range []uuid.UUID{e.Second, e.Lecturer} {
		if w, err := e.News.Wish(t.Context(), other); err != nil || w != news.Daily {
			t.Errorf("of another: %s %v", w, err)
		}
	}
	if w := get[telling.Wish](e.as("student"), "/api/account/news"); w.Often != string(news.Never) {
		t.Errorf("they read %+v", w)
	}
	if s := stranger.status(http.MethodGet, "/api/me", nil); s != http.StatusUnauthorized {
		t.Errorf("they are signed in: %d", s)
	}
}
