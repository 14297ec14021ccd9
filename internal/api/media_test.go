package api_test

import (
	"context"
	"encoding/base64"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"latelantern/internal/api/watching"
	"latelantern/internal/testfilm"
)

// below lists every address that a playlist leads to, itself included.
func below(c *caller, playlist string) []string {
	c.e.T.Helper()
	status, text := c.send(http.MethodGet, playlist, nil)
	if status != http.StatusOK {
		c.e.T.Fatalf("%s: %d", playlist, status)
	}
	out := []string{playlist}
	folder := playlist[:strings.LastIndex(playlist, "/")+1]
	for line := range strings.SplitSeq(text, "\n") {
		if _, rest, ok := strings.Cut(line, `URI="`); ok {
			line, _, _ = strings.Cut(rest, `"`)
		}
		switch {
		case strings.HasPrefix(line, "#") || line == "":
		case strings.HasSuffix(line, ".m3u8"):
			out = append(out, below(c, folder+line)...)
		default:
			out = append(out, folder+line)
		}
	}
	return out
}

// TestMediaAddressesBelongToOnePerson: to anyone else, and to them when the decision no
// longer holds, nothing is there.
func TestMediaAddressesBelongToOnePerson(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	e.everyone(true)
	e.Lit(id)
	student := e.as("student")
	page := get[watching.Watch](student, "/api/watch/"+id.String())
	addresses := append(below(student, page.Media), e.copied("student", id))
	if len(addresses) < 8 {
		t.Fatalf("only %d addresses: %v", len(addresses), addresses)
	}
	for _, address := range addresses {
		if s := student.status(http.MethodGet, address, nil); s != http.StatusOK {
			t.Errorf("%s: %d for whom it is for", address, s)
		}
	}
	others := map[string]*caller{"": e.as(""), "second": e.as("second"), "outsider": e.as("outsider"),
		"lecturer": e.as("lecturer")}
	nothing := func(c *caller, when string) {
		t.Helper()
		for _, address := range addresses {
			if s := c.status(http.MethodGet, address, nil); s != http.StatusNotFound {
				t.Errorf("%s: %d %s", address, s, when)
			}
		}
	}
	for name, c := range others {
		nothing(c, "for "+name)
	}
	// A token that was changed in any bit is none.
	parts := strings.Split(page.Media, "/")
	raw, err := base64.RawURLEncoding.DecodeString(parts[2])
	e.Must(err)
	for i := range raw {
		raw[i] ^= 1
		if s := student.status(http.MethodGet, "/media/"+base64.RawURLEncoding.EncodeToString(raw)+"/index.m3u8",
			nil); s != http.StatusNotFound {
			t.Fatalf("a token with byte %d changed opens: %d", i, s)
		}
		raw[i] ^= 1
	}
	e.Must(e.Releases.Darken(context.Background(), e.Course, id, e.Lecturer))
	nothing(student, "after it was taken back")
	e.Lit(id)
	e.Do(`delete from membership where person_id = $1`, e.Student)
	nothing(student, "off the roster")
}

func TestDownloadOnlyWhereTheRuleSaysSo(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	e.everyone(false)
	e.Lit(id)
	student := e.as("student")
	page := get[watching.Watch](student, "/api/watch/"+id.String())
	if len(page.Takes) > 0 {
		t.Error("a download is offered against the rule")
	}
	address := strings.TrimSuffix(page.Media, "index.m3u8") + "copy/video.mp4"
	if s := student.status(http.MethodGet, address, nil); s != http.StatusNotFound {
		t.Errorf("a download against the rule: %d", s)
	}
	if s := student.status(http.MethodPost, "/api/watch/"+id.String()+"/copies/video", nil); s != http.StatusForbidden {
		t.Errorf("a copy asked for against the rule: %d", s)
	}
	e.everyone(true)
	if s := student.status(http.MethodGet, address, nil); s != http.StatusNotFound {
		t.Errorf("a copy that nobody asked for: %d", s)
	}
	if e.copied("student", id) != address {
		t.Error("the copy lies elsewhere")
	}
	answer := student.request(http.MethodGet, address, nil)
	defer answer.Body.Close()
	b, err := io.ReadAll(answer.Body)
	e.Must(err)
	if answer.StatusCode != http.StatusOK || !strings.Contains(answer.Header.Get("Content-Disposition"), "attachment") {
		t.Fatalf("%d %v", answer.StatusCode, answer.Header)
	}
	path := filepath.Join(t.TempDir(), "copy.mp4")
	e.Must(os.WriteFile(path, b, 0o600))
	if n, err := testfilm.Numbers(context.Background(), path); err != nil || len(n) != 100 {
		t.Errorf("the copy has %d pictures (%v)", len(n), err)
	}
	part := student.request(http.MethodGet, address, nil, "Range", "bytes=4-7")
	defer part.Body.Close()
	if b, _ := io.ReadAll(part.Body); part.StatusCode != http.StatusPartialContent || string(b) != "ftyp" {
		t.Errorf("a range of the copy: %d %q", part.StatusCode, b)
	}
}

// TestClosedDoorsSayWhy and give away nothing of what is behind them.
func TestClosedDoorsSayWhy(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	e.Must(e.Library.SetTitle(context.Background(), id, e.Lecturer, "A secret title"))
	look := func(name string) (int, string) {
		return e.as(name).send(http.MethodGet, "/api/watch/"+id.String(), nil)
	}
	for _, c := range []struct {
		name, who, kind string
		before          func()
	}{
		{"dark", "student", "not_lit", func() {}},
		{"of another course", "outsider", "not_enrolled", func() { e.everyone(false); e.Lit(id) }},
		{"no rule", "student", "no_rule", func() { e.Do(`update viewing_rule set ended_at = now()`) }},
	} {
		c.before()
		status, body := look(c.who)
		if p := problemOf(t, body); status != http.StatusForbidden || p.Type != "urn:late-lantern:door."+c.kind ||
			!strings.Contains(p.Detail, "COU 1") {
			t.Errorf("%s: %d %s", c.name, status, body)
		}
		if strings.Contains(body, "secret") || strings.Contains(body, "/media/") {
			t.Errorf("%s: the door gives away what is behind it: %s", c.name, body)
		}
	}
	if status, _ := e.as("student").send(http.MethodGet, "/api/watch/0192f5e0-0000-7000-8000-000000000000",
		nil); status != http.StatusNotFound {
		t.Errorf("a recording that is not there: %d", status)
	}
}

// TestPlacesHoldOverANewTrim: where one stopped is a moment of the lecture, not of one edition.
func TestPlacesHoldOverANewTrim(t *testing.T) {
	e := newEdge(t)
	id := e.recording()
	e.everyone(false)
	e.Lit(id)
	student := e.as("student")
	watch := "/api/watch/" + id.String()
	if s := student.status(http.MethodPut, watch+"/place",
		map[string]any{"at": 3000, "edition": get[watching.Watch](student, watch).Edition}); s >= 300 {
		t.Fatalf("keep a place: %d", s)
	}
	if page := get[watching.Watch](student, watch); page.ResumeMs != 3000 || page.LengthMs != 4000 {
		t.Errorf("goes on at %d of %d", page.ResumeMs, page.LengthMs)
	}
	if s := e.as("lecturer").status(http.MethodPost, "/api/recordings/"+id.String()+"/cuts",
		map[string]any{"cut": "strike", "start": 0, "end": 1000}); s != http.StatusOK {
		t.Fatalf("strike: %d", s)
	}
	e.Lit(id)
	if page := get[watching.Watch](student, watch); page.ResumeMs != 2000 || page.LengthMs != 3000 {
		t.Errorf("after the first second was struck it goes on at %d of %d", page.ResumeMs, page.LengthMs)
	}
	list := get[watching.CatchUp](student, "/api/catch-up")
	if lines := list.Courses[0].Lists[0].Entries; len(list.Courses) != 1 || len(lines) != 1 ||
		lines[0].Account == nil || len(lines[0].Account.Missed) != 1 {
		t.Errorf("%+v", list.Courses)
	}
}
