package rss

import (
	"bytes"
	"encoding/json"
	"os/exec"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/mmcdole/gofeed"

	"latelantern/internal/core/chapter"
	"latelantern/internal/core/span"
)

// TestOthersReadIt: a reader of feeds that is not ours finds what was written, whatever letters it has.
func TestOthersReadIt(t *testing.T) {
	id, at := uuid.New(), time.Date(2026, 11, 2, 9, 15, 0, 0, time.UTC)
	f := Feed{Title: "TID 210: <Moon> & \"Sun\", 潮", Page: "https://lantern.example/catch-up",
		Self: "https://lantern.example/take/k/sound.xml", Language: "fo", Items: []Item{
			{Recording: id, Title: "One\x00 & \x1bTwo", About: "]]> Below", Page: "https://lantern.example/watch/1", At: at,
				Number: 3, File: File{"https://lantern.example/f.m4a?a=1&b=2", "audio/mp4", 1 << 33},
				Chapters: "https://lantern.example/c.json",
				Captions: []Captions{{"en", "https://lantern.example/en.vtt"}, {"fo", "https://lantern.example/fo.vtt"}}},
			{Recording: uuid.New(), Title: "Bare", Page: "https://lantern.example/watch/2", At: at,
				File: File{"https://lantern.example/g.m4a", "audio/mp4", 1}},
		}}
	var b bytes.Buffer
	if err := Write(&b, f); err != nil {
		t.Fatal(err)
	}
	lint := exec.Command("xmllint", "--noout", "--nonet", "-")
	lint.Stdin = bytes.NewReader(b.Bytes())
	if out, err := lint.CombinedOutput(); err != nil {
		t.Errorf("xmllint (make test installs it): %v %s", err, out)
	}
	got, err := gofeed.NewParser().Parse(&b)
	if err != nil {
		t.Fatal(err)
	}
	if got.FeedType != "rss" || got.FeedVersion != "2.0" || got.Title != f.Title || got.Description != f.Title ||
		got.Language != "fo" || got.FeedLink != f.Self || got.Link != f.Page || len(got.Items) != 2 {
		t.Fatalf("it reads %+v", got)
	}
	x := got.Items[0]
	if x.Title != "One\uFFFD & \uFFFDTwo" || x.Description != f.Items[0].About || x.GUID != "urn:uuid:"+id.String() ||
		!x.PublishedParsed.Equal(at) || *x.Enclosures[0] != (gofeed.Enclosure{URL: f.Items[0].File.Address,
		Length: "8589934592", Type: "audio/mp4"}) {
		t.Errorf("the first is %+v with %+v", x, x.Enclosures[0])
	}
	podcast := x.Extensions["podcast"]
	if podcast["chapters"][0].Attrs["url"] != f.Items[0].Chapters || len(podcast["transcript"]) != 2 ||
		podcast["transcript"][1].Attrs["language"] != "fo" || podcast["episode"][0].Value != "3" {
		t.Errorf("beside it stand %+v", podcast)
	}
	if more := got.Items[1].Extensions["podcast"]; len(more["chapters"])+len(more["transcript"]) != 0 {
		t.Errorf("beside the bare one stand %+v", more)
	}
	if got.Extensions["podcast"]["block"][0].Value != "yes" {
		t.Error("others may list it")
	}
}

func TestChaptersOfAFeed(t *testing.T) {
	b, err := Chapters([]chapter.Published{{Span: span.Span{Start: 1500 * time.Millisecond, End: time.Minute}, Title: "A & B"}})
	if err != nil {
		t.Fatal(err)
	}
	var got struct {
		Version  string
		Chapters []struct {
			StartTime, EndTime float64
			Title              string
		}
	}
	if err := json.Unmarshal(b, &got); err != nil || got.Version != "1.2.0" || len(got.Chapters) != 1 ||
		got.Chapters[0].StartTime != 1.5 || got.Chapters[0].EndTime != 60 || got.Chapters[0].Title != "A & B" {
		t.Errorf("they are %s (%v)", b, err)
	}
	if b, _ := Chapters(nil); !bytes.Contains(b, []byte(`"chapters": []`)) {
		t.Errorf("none are %s", b)
	}
}
