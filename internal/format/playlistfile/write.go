package playlistfile

import (
	"bytes"
	"encoding/csv"
	"encoding/xml"
	"fmt"
	"strconv"
	"strings"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/format/sheetcell"
)

// namespace is that of XSPF.
const namespace = "http://xspf.org/ns/0/"

type xspf struct {
	XMLName xml.Name `xml:"http://xspf.org/ns/0/ playlist"`
	Version string   `xml:"version,attr"`
	Title   string   `xml:"title,omitempty"`
	About   string   `xml:"annotation,omitempty"`
	Tracks  []track  `xml:"trackList>track"`
}

type track struct {
	Location   string `xml:"location,omitempty"`
	Identifier string `xml:"identifier,omitempty"`
	Title      string `xml:"title,omitempty"`
	About      string `xml:"annotation,omitempty"`
	Album      string `xml:"album,omitempty"` // the heading it stands below
	Duration   int64  `xml:"duration,omitempty"`
}

// XSPF is a list as an XML document. A heading is the album of what stands below it; one of nothing is left out.
func XSPF(l List) ([]byte, error) {
	out := xspf{Version: "1", Title: l.Title, About: l.About}
	heading := ""
	for _, x := range l.Lines {
		if x.Heading != "" {
			heading = x.Heading
			continue
		}
		t := track{Location: x.Address, Title: x.Title, Album: heading, Duration: x.Length.Milliseconds()}
		if x.Recording != uuid.Nil {
			t.Identifier = urn + x.Recording.String()
		}
		out.Tracks = append(out.Tracks, t)
	}
	b, err := xml.MarshalIndent(out, "", "  ")
	if err != nil {
		return nil, fmt.Errorf("write a playlist in XML: %w", err)
	}
	return append([]byte(xml.Header), append(b, '\n')...), nil
}

// M3U is a list as lines of text. A length that is not known is -1.
func M3U(l List) []byte {
	var b bytes.Buffer
	flat := func(s string) string { return strings.Join(strings.Fields(s), " ") }
	fmt.Fprintf(&b, "#EXTM3U\n#PLAYLIST:%s\n", flat(l.Title))
	for _, x := range l.Lines {
		if x.Heading != "" {
			fmt.Fprintf(&b, "#EXTGRP:%s\n", flat(x.Heading))
			continue
		}
		seconds := int64(-1)
		if x.Length > 0 {
			seconds = int64(x.Length.Round(time.Second) / time.Second)
		}
		fmt.Fprintf(&b, "#EXTINF:%d,%s\n%s\n", seconds, flat(x.Title), x.Address)
	}
	return b.Bytes()
}

// CSV is a list as a sheet, each line with the heading it stands below.
func CSV(l List) ([]byte, error) {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	w.UseCRLF = true
	rows := [][]string{columns}
	heading := ""
	for _, x := range l.Lines {
		if x.Heading != "" {
			heading = x.Heading
			continue
		}
		row := []string{heading, x.Title, x.Course, "", x.Date, "", x.Address, ""}
		if x.Week > 0 {
			row[3] = strconv.Itoa(x.Week)
		}
		if x.Length > 0 {
			s := int(x.Length.Round(time.Second) / time.Second)
			row[5] = fmt.Sprintf("%d:%02d:%02d", s/3600, s/60%60, s%60)
		}
		if x.Recording != uuid.Nil {
			row[7] = x.Recording.String()
		}
		for i := range row {
			row[i] = sheetcell.Harmless(row[i])
		}
		rows = append(rows, row)
	}
	if err := w.WriteAll(rows); err != nil {
		return nil, fmt.Errorf("write a playlist as a sheet: %w", err)
	}
	return b.Bytes(), nil
}
