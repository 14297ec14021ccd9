package api_test

import (
	"encoding/json"
	"io"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"latelantern/internal/api/captioning"
	"latelantern/internal/api/page"
	"latelantern/internal/api/watching"

	"github.com/google/uuid"
)

// captionFile hands a file of captions over.
func (c *caller) captionFile(id uuid.UUID, text string, more map[string]any) (int, captioning.CaptionFileLook, string) {
	c.e.T.Helper()
	body := map[string]any{"content": []byte(text)}
	for k, v := range more {
		body[k] = v
	}
	status, answer := c.send(http.MethodPost, "/api/recordings/"+id.String()+"/caption-files", body)
	var look captioning.CaptionFileLook
	if status == http.StatusOK {
		c.e.Must(json.Unmarshal([]byte(answer), &look))
	}
	return status, look, answer
}

// TestCaptionsGoOutAndComeIn as files: on the clock of the recording, and on that of what is published.
func TestCaptionsGoOutAndComeIn(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	c := e.as("lecturer")
	c.cuts(id, map[string]any{"cut": "strike", "start": 1000, "end": 2000})
	e.Lit(id)
	const vtt = "WEBVTT - of a program\nLanguage: en\n\nSTYLE\n::cue { color: white }\n\n1\n00:00:00.200 --> 00:00:00.900 line:0\n<v Ada>Good & early</v>\n\n00:00:01.200 --> 00:00:01.800\nstruck\n\n00:00:02.500 --> 00:00:03.500\nand <i>late</i>\n"
	status, look, text := c.captionFile(id, strings.ReplaceAll(vtt, "& ", "&amp; "), nil)
	if status != http.StatusOK || !look.Taken || look.Lines != 3 || look.Form != "vtt" || look.Language != "en" {
		t.Fatalf("%d %s", status, text)
	}
	out := func(query string) string {
		answer := c.request(http.MethodGet, "/api/recordings/"+id.String()+"/captions/en/file?"+query, nil)
		defer answer.Body.Close()
		b, err := io.ReadAll(answer.Body)
		e.Must(err)
		if answer.StatusCode != http.StatusOK || !strings.Contains(answer.Header.Get("Content-Disposition"), ".en.") {
			t.Fatalf("%s: %d %v", query, answer.StatusCode, answer.Header)
		}
		return string(b)
	}
	if got := out("form=vtt"); got !=
		"WEBVTT - of a program\nLanguage: en\n\nSTYLE\n::cue { color: white }\n\n1\n00:00:00.200 --> 00:00:00.900 line:0\n<v Ada>Good &amp; early\n\n00:00:01.200 --> 00:00:01.800\nstruck\n\n00:00:02.500 --> 00:00:03.500\nand <i>late</i>\n" {
		t.Errorf("as WebVTT:\n%s", got)
	}
	published := "1\n00:00:00,200 --> 00:00:00,900\nAda: Good & early\n\n2\n00:00:01,500 --> 00:00:02,500\nand <i>late</i>\n"
	if got := out("form=srt&clock=published"); got != published {
		t.Errorf("as SubRip, as published:\n%s", got)
	}
	// What was written by someone who watched what is published comes back to its place.
	if status, look, text := c.captionFile(id, published,
		map[string]any{"published": true, "language": "de"}); status != http.StatusOK || !look.Taken {
		t.Fatalf("%d %s", status, text)
	}
	page := get[captioning.CaptionPage](c, "/api/recordings/"+id.String()+"/captions/de")
	if len(page.Text) != 2 || page.Text[1].Start != 2500 || page.Text[1].End != 3500 {
		t.Errorf("back on the clock of the recording: %+v", page.Text)
	}
	hits := get[[]captioning.Hit](c, "/api/recordings/"+id.String()+"/search?q=LATE")
	if len(hits) != 1 || hits[0].Where != "said" || hits[0].Start < 2500 || hits[0].Start > 3500 {
		t.Errorf("found: %+v", hits)
	}
	// Students read what is published of it, in either language.
	e.everyone(true)
	s := e.as("student")
	w := get[watching.Watch](s, "/api/watch/"+id.String())
	if len(w.Cues) != 2 || w.Cues[0].Speaker != "Ada" || w.Cues[1].Start != 1500 ||
		strings.Join(w.Languages, " ") != "de en" || w.Language != "en" {
		t.Errorf("watched: %+v %v", w.Cues, w.Languages)
	}
	if w := get[watching.Watch](s, "/api/watch/"+id.String()+"?language=de"); w.Language != "de" ||
		w.Cues[0].Text != "Ada: Good & early" {
		t.Errorf("in the other language: %q %+v", w.Language, w.Cues)
	}
}

// TestBadFilesOfCaptions are refused in a sentence, or not taken before it was said; the recording
// stays as it was.
func TestBadFilesOfCaptions(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	c := e.as("lecturer")
	if _, look, text := c.captionFile(id, "WEBVTT\n\n00:00:00.000 --> 00:00:01.000\nas it was\n", nil); !look.Taken {
		t.Fatal(text)
	}
	for name, x := range map[string]struct {
		file   string
		status int
		says   string
	}{
		"no captions at all": {"%PDF-1.7", http.StatusUnprocessableEntity, "neither WebVTT nor SubRip"},
		"times that go back": {"WEBVTT\n\n00:05.000 --> 00:04.000\nx\n", http.StatusOK, `"line":3,`},
		"a time below zero": {"1\n-00:00:01,000 --> 00:00:04,000\nx\n", http.StatusOK,
			"begins before the recording does"},
		"lines that overlap": {"WEBVTT\n\n00:00.000 --> 00:02.000\nx\n\n00:01.000 --> 00:03.000\ny\n", http.StatusOK,
			"captions.over"},
		"Latin-1": {"1\n00:00:00,000 --> 00:00:01,000\ncaf\xe9\n", http.StatusOK, "not in UTF-8"},
		"of another lecture": {"1\n01:00:00,000 --> 01:00:01,000\nx\n", http.StatusOK,
			"Is the file of another lecture?"},
		"of fifty megabytes": {"WEBVTT\n\n" + strings.Repeat("x", 50<<20), http.StatusUnprocessableEntity, "50 MB"},
		"with very many lines": {"WEBVTT\n\n" + strings.Repeat("0:00.000 --> 1:00.000\n\n", 120_000),
			http.StatusUnprocessableEntity, "more than 100000 lines"},
		"a language of no kind": {"WEBVTT\nLanguage: Klingon!\n\n00:00.000 --> 00:01.000\nx\n",
			http.StatusUnprocessableEntity, "is no language"},
	} {
		status, look, text := c.captionFile(id, x.file, nil)
		if status != x.status || look.Taken || !strings.Contains(text, x.says) {
			t.Errorf("%s: %d %.300s", name, status, text)
		}
	}
	page := get[captioning.CaptionPage](c, "/api/recordings/"+id.String()+"/captions/en")
	if len(page.Text) != 1 || page.Text[0].Text != "as it was" {
		t.Errorf("the captions are %+v", page.Text)
	}
	// Said first, it can be taken all the same.
	if _, look, text := c.captionFile(id, "1\n00:00:00,000 --> 00:00:01,000\ncaf\xe9\n",
		map[string]any{"noted": true}); !look.Taken || len(look.Notes) != 1 {
		t.Error(text)
	}
}

// TestChaptersGoOut as WebVTT and as JSON on the clock of what is published, into the file that is
// taken away, and to those who watch.
func TestChaptersGoOut(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	c := e.as("lecturer")
	path := "/api/recordings/" + id.String() + "/chapters"
	c.cuts(id, map[string]any{"cut": "strike", "start": 1000, "end": 2000})
	e.Lit(id)
	seen := get[captioning.Chapters](c, path)
	if seen.ByHand {
		t.Fatalf("%+v", seen)
	}
	list := []page.Chapter{{At: 0, Title: "First; a=b #1"}, {At: 1500, Title: "Struck at its beginning"},
		{At: 3000, Title: "Last"}}
	if status, text := c.send(http.MethodPut, path,
		map[string]any{"seen": seen.Chapters, "chapters": list}); status != http.StatusOK {
		t.Fatalf("%d %s", status, text)
	}
	if status, text := c.send(http.MethodPut, path,
		map[string]any{"seen": seen.Chapters, "chapters": list[:1]}); status != http.StatusConflict ||
		len(seen.Chapters) == 3 {
		t.Errorf("over what was not seen: %d %s", status, text)
	}
	if status, text := c.send(http.MethodPut, path,
		map[string]any{"seen": list,
			"chapters": []page.Chapter{{At: 1, Title: " "}}}); status != http.StatusUnprocessableEntity ||
		!strings.Contains(text, "needs a title") {
		t.Errorf("without a title: %d %s", status, text)
	}
	_, vtt := c.send(http.MethodGet, path+"/file", nil)
	if want := "WEBVTT\n\n00:00:00.000 --> 00:00:01.000\nFirst; a=b #1\n\n00:00:01.000 --> 00:00:02.000\nStruck at its beginning\n\n00:00:02.000 --> "; !strings.HasPrefix(vtt, want) {
		t.Errorf("as WebVTT:\n%s", vtt)
	}
	_, text := c.send(http.MethodGet, path+"/file?form=json", nil)
	var feed struct {
		Version  string
		Chapters []struct {
			StartTime float64 `json:"startTime"`
			Title     string
		}
	}
	if err := json.Unmarshal([]byte(text),
		&feed); err != nil || feed.Version != "1.2.0" || len(feed.Chapters) != 3 || feed.Chapters[2].StartTime != 2 ||
		feed.Chapters[2].Title != "Last" {
		t.Errorf("as JSON: %v %s", err, text)
	}
	e.everyone(true)
	w := get[watching.Watch](e.as("student"), "/api/watch/"+id.String())
	if len(w.Chapters) != 3 || w.Chapters[1] != (page.Chapter{At: 1000, Title: "Struck at its beginning"}) {
		t.Errorf("watched: %+v", w.Chapters)
	}
	answer := e.as("student").request(http.MethodGet, e.copied("student", id), nil)
	defer answer.Body.Close()
	b, err := io.ReadAll(answer.Body)
	e.Must(err)
	file := filepath.Join(t.TempDir(), "a.mp4")
	e.Must(os.WriteFile(file, b, 0o600))
	out, err := exec.Command("ffprobe", "-v", "error", "-show_chapters", "-of", "csv=p=0", file).Output()
	if err != nil || !strings.Contains(string(out), "First; a=b #1") || strings.Count(string(out), "\n") != 3 ||
		!strings.Contains(string(out), "1.000000,") {
		t.Errorf("in the file: %v\n%s", err, out)
	}
}

// TestWhereWordsStand: in which lines, and how often, by the same rule as they are replaced.
func TestWhereWordsStand(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	c := e.as("lecturer")
	if status, _, text := c.captionFile(id,
		"WEBVTT\n\n00:00.100 --> 00:00.900\nTide, tide and tides\n\n00:01.000 --> 00:01.900\nnothing\n\n00:02.000 --> 00:02.900\nthe\ntidé", nil); status != http.StatusOK {
		t.Fatal(text)
	}
	path := "/api/recordings/" + id.String() + "/captions/en/found?"
	page := struct{ Text []captioning.CaptionLine }{}
	_, text := c.send(http.MethodGet, strings.TrimSuffix(path, "/found?"), nil)
	e.Must(json.Unmarshal([]byte(text), &page))
	for query, want := range map[string]struct {
		places int
		lines  []int
	}{
		"find=tide":            {4, []int{0, 2}},
		"find=tide&whole=true": {3, []int{0, 2}},
		"find=Tide&exact=true": {1, []int{0}},
		"find=the%20tide":      {1, []int{2}},
		"find=wind":            {},
		"find=":                {},
	} {
		status, text := c.send(http.MethodGet, path+query, nil)
		var got captioning.Found
		e.Must(json.Unmarshal([]byte(text), &got))
		lines := []uuid.UUID{}
		for _, n := range want.lines {
			lines = append(lines, page.Text[n].ID)
		}
		if status != http.StatusOK || got.Places != want.places || !slices.Equal(got.Lines, lines) {
			t.Errorf("%s: %d %s", query, status, text)
		}
	}
	if status, _ := c.send(http.MethodGet, path+"find="+strings.Repeat("x", 201),
		nil); status != http.StatusUnprocessableEntity {
		t.Errorf("too long a text: %d", status)
	}
}
