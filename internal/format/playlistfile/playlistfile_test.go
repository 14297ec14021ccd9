package playlistfile

import (
	"encoding/csv"
	"encoding/xml"
	"errors"
	"os/exec"
	"reflect"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
)

var (
	one   = uuid.MustParse("01a22b2e-53a8-7414-83ab-67af62825fe9")
	two   = uuid.MustParse("01a22b2e-53a8-7414-83ab-67af62825fea")
	tides = List{Title: "For <revision> & more", About: "All of it.", Lines: []Line{
		{Title: "Two high waters", Address: "https://lantern.example/watch/" + one.String(), Recording: one,
			Course: "TID 210", Week: 1, Date: "2026-11-02", Length: 3723 * time.Second},
		{Heading: "To practise, \"at home\""},
		{Title: "=1+1, 潮", Address: "https://lantern.example/watch/" + two.String(), Recording: two},
		{Title: "Questions", Address: "https://college.example/q?a=1&b=2"},
	}}
)

// same is what of a list comes back from a file.
func same(l List, sheet bool) List {
	out := List{Title: l.Title, About: l.About}
	if sheet {
		out.Title, out.About = "", ""
	}
	for _, x := range l.Lines {
		x.Week, x.Date = 0, ""
		if sheet {
			x.Length = 0
		} else {
			x.Course = ""
		}
		out.Lines = append(out.Lines, x)
	}
	return out
}

func TestWhatIsWrittenIsReadBack(t *testing.T) {
	x, err := XSPF(tides)
	if err != nil {
		t.Fatal(err)
	}
	c, err := CSV(tides)
	if err != nil {
		t.Fatal(err)
	}
	for name, f := range map[string]struct {
		bytes []byte
		sheet bool
	}{"XSPF": {x, false}, "CSV": {c, true},
		"CSV as a spreadsheet saves it": {[]byte("\xef\xbb\xbf" + string(c)), true}} {
		got, err := Read(f.bytes)
		if err != nil || !reflect.DeepEqual(got, same(tides, f.sheet)) {
			t.Errorf("%s comes back as %+v (%v)", name, got, err)
		}
	}
}

// lint wants that a tool which is not ours takes an XML document.
func lint(t *testing.T, document []byte, how ...string) {
	t.Helper()
	c := exec.Command("xmllint", append(append([]string{"--noout", "--nonet"}, how...), "-")...)
	c.Stdin = strings.NewReader(string(document))
	if out, err := c.CombinedOutput(); err != nil {
		t.Errorf("xmllint (make test installs it): %v %s", err, out)
	}
}

// TestOthersCanReadIt: the XML is what the format has, in its order, and the sheet has no cell that is computed.
func TestOthersCanReadIt(t *testing.T) {
	b, err := XSPF(tides)
	if err != nil {
		t.Fatal(err)
	}
	var names []string
	d := xml.NewDecoder(strings.NewReader(string(b)))
	for {
		token, err := d.Token()
		if err != nil {
			break
		}
		if e, ok := token.(xml.StartElement); ok {
			if e.Name.Space != namespace {
				t.Errorf("%s is of %q", e.Name.Local, e.Name.Space)
			}
			names = append(names, e.Name.Local)
		}
	}
	if got := strings.Join(names[:9], " "); got !=
		"playlist title annotation trackList track location identifier title duration" {
		t.Errorf("it has %s", got)
	}
	lint(t, b, "--relaxng", "testdata/xspf.rng")
	if empty, err := XSPF(List{}); err != nil {
		t.Error(err)
	} else {
		lint(t, empty, "--relaxng", "testdata/xspf.rng")
	}
	sheet, err := CSV(tides)
	if err != nil {
		t.Fatal(err)
	}
	rows, err := csv.NewReader(strings.NewReader(string(sheet))).ReadAll()
	if err != nil || len(rows) != 4 || rows[1][5] != "1:02:03" || rows[2][1] != "'=1+1, 潮" ||
		rows[3][0] != rows[2][0] {
		t.Errorf("the sheet is %q (%v)", rows, err)
	}
	const want = "#EXTM3U\n#PLAYLIST:For <revision> & more\n#EXTINF:3723,Two high waters\n" +
		"https://lantern.example/watch/01a22b2e-53a8-7414-83ab-67af62825fe9\n#EXTGRP:To practise, \"at home\"\n"
	if got := string(M3U(tides)); !strings.HasPrefix(got, want) || strings.Count(got, "#EXTINF:-1,") != 2 {
		t.Errorf("the text is %s", got)
	}
}

func TestFilesOfOthers(t *testing.T) {
	for name, c := range map[string]struct {
		file string
		want error
		of   []Line
	}{
		"a sheet with fewer columns": {"Title;Recording\nx;" + one.String() + "\n\n;\n", nil,
			[]Line{{Title: "x", Recording: one}}},
		"an address of ours": {"address\nhttps://old.example/watch/" + one.String() + "/\n", nil,
			[]Line{{Address: "https://old.example/watch/" + one.String() + "/", Recording: one}}},
		"an address of others": {"address,title\nhttps://x.example/videos/" + one.String() + ",y\n", nil,
			[]Line{{Address: "https://x.example/videos/" + one.String(), Title: "y"}}},
		"nothing":           {"", ErrBroken, nil},
		"a sheet of others": {"a,b\n1,2\n", ErrBroken, nil},
		"no line":           {"title,address\n", ErrEmpty, nil},
		"another document":  {"<html></html>", ErrBroken, nil},
		"a broken one":      {`<playlist xmlns="http://xspf.org/ns/0/"><trackList>`, ErrBroken, nil},
		"an entity": {`<!DOCTYPE p [<!ENTITY e SYSTEM "file:///etc/passwd">]>` +
			`<playlist xmlns="http://xspf.org/ns/0/"><title>&e;</title></playlist>`, ErrBroken, nil},
		"no text":           {"\xff\xfe\x00", ErrBroken, nil},
		"very many lines":   {"address\n" + strings.Repeat("https://x.example/\n", 9000), ErrLong, nil},
		"a quote left open": {"address\n\"https", ErrBroken, nil},
	} {
		got, err := Read([]byte(c.file))
		if !errors.Is(err, c.want) || c.want == nil && (err != nil || !reflect.DeepEqual(got.Lines, c.of)) {
			t.Errorf("%s: %+v (%v)", name, got, err)
		}
	}
}

func FuzzRead(f *testing.F) {
	b, _ := XSPF(tides)
	f.Add(b)
	b, _ = CSV(tides)
	f.Add(b)
	f.Fuzz(func(t *testing.T, b []byte) {
		l, err := Read(b)
		if err == nil && (len(l.Lines) == 0 || len(l.Lines) > MostLines) {
			t.Errorf("%d lines", len(l.Lines))
		}
	})
}
