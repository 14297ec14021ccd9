package api_test

import (
	"context"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/watching"
	"latelantern/internal/audience"
	"latelantern/internal/core/caption"
	"latelantern/internal/core/chapter"
	"latelantern/internal/core/span"
	"latelantern/internal/core/viewing"
	"latelantern/internal/testhouse"
)

// hits is what someone finds, as "at place text" with what was looked for in brackets.
func (c *caller) hits(words string) string {
	c.e.T.Helper()
	out := []string{}
	for _, g := range get[watching.Hits](c, "/api/search?words="+url.QueryEscape(words)).Found {
		for _, h := range g.Hits {
			text := ""
			for _, p := range h.Pieces {
				if p.Hit {
					p.Text = "[" + p.Text + "]"
				}
				text += p.Text
			}
			out = append(out, fmt.Sprintf("%d %s %s", h.At/1000, h.Place, text))
			if status := c.status(http.MethodGet, h.Picture, nil); status != http.StatusOK {
				c.e.T.Errorf("the picture of %q: %d", text, status)
			}
		}
	}
	return strings.Join(out, " | ")
}

// says gives a recording captions that are shown, one line each three seconds.
func (e *house) says(recording uuid.UUID, language string, lines ...string) {
	e.T.Helper()
	var cues []caption.Cue
	for i, l := range lines {
		at := time.Duration(3*i+1) * time.Second
		cues = append(cues, caption.Cue{Span: span.Span{Start: at, End: at + 2*time.Second}, Text: l})
	}
	e.Must(e.Words.Take(context.Background(), recording, language, e.Lecturer, caption.Sheet{Cues: cues}))
}

// TestWhatWasSaidIsFound by words, their endings, phrases over two lines, and what stands on slides, with its moment in
// what is published: nothing that was struck, nothing for who may not watch or not read, and nothing that is not shown.
func TestWhatWasSaidIsFound(t *testing.T) {
	ctx := context.Background()
	e := newEdge(t)
	id := e.litTalk() // its first seven seconds are struck
	e.says(id, "en", "A secret before the lecture", "Another one", "The Moon pulls the water", "twice in a single day",
		"and the café floods", "The waters of the Moon")
	strip := e.Measured(id)
	e.Do(`insert into slide_text (track_id, at_ms, title, body) values ($1, $2, 'Neap tides', 'low and lazy')`,
		strip.Slides[1].Track, strip.Slides[1].Picture)
	e.Do(`insert into slide_text (track_id, at_ms, title, body) values ($1, $2, 'Nothing yet', 'a secret slide')`,
		strip.Slides[0].Track, strip.Slides[0].Picture)
	student := e.as("student")
	const moon = "0 said The [Moon] pulls the water | 9 said The waters of the [Moon]"
	for words, want := range map[string]string{
		"moon":                    moon,
		"moons":                   moon,
		"pulling":                 "0 said The Moon [pulls] the water",
		"water moon":              "0 said The [Moon] pulls the [water] | 9 said The [waters] of the [Moon]",
		"\"moon pulls\"":          "0 said The [Moon] [pulls] the water",
		"\"pulls moon\"":          "",
		"\"the water twice\"":     "0 said The Moon pulls the [water]",
		"cafe":                    "6 said and the [café] floods",
		"moon lazy":               "0 slide Neap tides · low and [lazy] | 0 said The [Moon] pulls the water | 9 said The waters of the [Moon]",
		"moon harbour":            "",
		"moon or harbour":         moon,
		"neap":                    "0 slide [Neap] tides · low and lazy",
		"secret":                  "",
		"the":                     "",
		"":                        "",
		"&|!:*<->":                "",
		"\"":                      "",
		"(((":                     "",
		strings.Repeat("ab ", 60): "",
	} {
		if got := student.hits(words); !alike(got, want) {
			t.Errorf("%q: %s, want %s", words, got, want)
		}
	}
	if got := e.as("outsider").hits("moon"); got != "" {
		t.Errorf("someone of another course finds %s", got)
	}
	for _, who := range []string{"lecturer", "coordinator"} {
		if got := e.as(who).hits("moon"); got != moon {
			t.Errorf("%s finds %s", who, got)
		}
	}
	if s := student.status(http.MethodGet, "/api/search?words="+strings.Repeat("a", 201), nil); s != 422 {
		t.Errorf("more than can be looked for: %d", s)
	}

	// Who may watch and not read finds what stands on slides alone.
	rule := &viewing.Rule{Audience: viewing.Everyone, Uses: viewing.Uses(viewing.ToWatch),
		Window: viewing.Window{From: viewing.FromDate, FromAt: testhouse.Now.Add(-time.Hour), Until: viewing.UntilEver}}
	e.Must(e.Audience.SetRule(ctx, audience.Scope{Course: e.Course}, e.Lecturer, rule))
	if got := student.hits("moon") + student.hits("neap"); got != "0 slide [Neap] tides · low and lazy" {
		t.Errorf("who may not read finds %s", got)
	}
	e.everyone(false)

	// What is written anew is found anew, and what is not shown is not.
	e.says(id, "en", "a", "b", "Seals bark")
	if got := student.hits("moon") + student.hits("seal"); got != "0 said [Seals] bark" {
		t.Errorf("after other captions: %s", got)
	}
	e.says(id, "de", "a", "b", "Die Robben bellen")
	if got := student.hits("robbe"); got != "0 said Die [Robben] bellen" {
		t.Errorf("in another language: %s", got)
	}
	e.Do(`update caption set shown_at = null`)
	if n := e.Count(`select count(*) from spoken where language = 'de'`); n != 0 {
		t.Error("what was shown in another language is looked through after it is not")
	}
	if got := student.hits("seal") + student.hits("neap"); got != "0 slide [Neap] tides · low and lazy" {
		t.Errorf("what is not shown: %s", got)
	}
	e.Do(`update caption set shown_at = now()`)
	e.Must(e.Library.SetDeleted(ctx, id, e.Lecturer, true))
	if got := e.as("lecturer").hits("seal"); got != "" {
		t.Errorf("what lies in the bin: %s", got)
	}
	e.Do(`delete from recording`)
	e.Do(`delete from capture`)
	if n := e.Count(`select count(*) from spoken`); n != 0 {
		t.Errorf("%d are left of what is no longer there", n)
	}
}

// alike compares hits whatever the order of those of one moment.
func alike(got, want string) bool {
	a, b := strings.Split(got, " | "), strings.Split(want, " | ")
	slices.Sort(a)
	slices.Sort(b)
	return slices.Equal(a, b)
}

// TestChaptersAreFound by their titles, at what is left of them, as long as they are those of their recording.
func TestChaptersAreFound(t *testing.T) {
	ctx := context.Background()
	e := newEdge(t)
	id := e.litTalk() // its first seven seconds are struck
	r, err := e.Recordings.Recording(ctx, id)
	e.Must(err)
	all := span.Of(span.Span{End: r.Length})
	e.Must(e.Words.SetChapters(ctx, id, e.Lecturer, all, r.Length, nil, []chapter.Chapter{{Title: "Greetings"},
		{At: 3 * time.Second, Title: "Seals on the rocks"}, {At: 12 * time.Second, Title: "Whales in the deep"}}))
	student := e.as("student")
	for words, want := range map[string]string{"seal": "0 chapter [Seals] on the rocks",
		"whale": "5 chapter [Whales] in the deep", "greetings": "", "rocks whales": "0 chapter Seals on the [rocks] | " +
			"5 chapter [Whales] in the deep"} {
		if got := student.hits(words); got != want {
			t.Errorf("%q: %s, want %s", words, got, want)
		}
	}
	if got := e.as("outsider").hits("seal"); got != "" {
		t.Errorf("someone of another course finds %s", got)
	}
	e.Do(`update chapter set title = 'Gulls' where title like 'Seals%'`)
	if got := student.hits("seal") + student.hits("gull"); got != "0 chapter [Gulls]" {
		t.Errorf("called otherwise: %s", got)
	}
	e.Do(`update recording_words set chapters_at = null`)
	if got := student.hits("gull"); got != "" {
		t.Errorf("chapters that are those of nothing any more: %s", got)
	}
	e.Do(`update recording_words set chapters_at = now()`)
	e.Do(`delete from chapter`)
	if n := e.Count(`select count(*) from spoken where words @@ 'gull'`); n != 0 || student.hits("gull") != "" {
		t.Error("chapters that are gone are found")
	}
}
