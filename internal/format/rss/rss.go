// Package rss writes feeds of recordings: RSS 2.0 with the podcast namespace
// (https://podcastindex.org/namespace/1.0) for chapters and transcripts.
package rss

import (
	"encoding/xml"
	"fmt"
	"io"
	"time"

	"github.com/google/uuid"
)

// Feed is a channel of RSS. Its titles may hold any text; addresses are absolute.
type Feed struct {
	Title    string
	About    string // a sentence or more; the title where it is empty
	Page     string // where people find the same
	Self     string // its own address
	Language string // of what is said in it, such as en (RFC 5646)
	Grows    bool   // more comes within minutes
	Items    []Item
}

// Item is a recording with one file.
type Item struct {
	Recording uuid.UUID
	Title     string
	About     string // may be empty
	Page      string // where it is watched
	At        time.Time
	Number    int // in the order of the feed, from 1 on
	File      File
	Chapters  string // the address of its JSON chapters; empty for none
	Captions  []Captions
}

// File is what is taken.
type File struct {
	Address string
	Type    string // such as audio/mp4 (RFC 6381)
	Bytes   int64
}

// Captions are captions of an item as WebVTT.
type Captions struct{ Language, Address string }

type link struct {
	Href string `xml:"href,attr"`
	Rel  string `xml:"rel,attr"`
	Type string `xml:"type,attr"`
}

type document struct {
	XMLName xml.Name `xml:"rss"`
	Version string   `xml:"version,attr"`
	Atom    string   `xml:"xmlns:atom,attr"`
	Podcast string   `xml:"xmlns:podcast,attr"`
	Channel channel  `xml:"channel"`
}

type channel struct {
	Title    string `xml:"title"`
	Link     string `xml:"link"`
	About    string `xml:"description"`
	Language string `xml:"language,omitempty"`
	TTL      int    `xml:"ttl"` // minutes until it is worth asking again
	Self     link   `xml:"atom:link"`
	Locked   string `xml:"podcast:locked"` // no other service may take it over
	Block    string `xml:"podcast:block"`  // nor list it
	Items    []item `xml:"item"`
}

type item struct {
	Title    string       `xml:"title"`
	Link     string       `xml:"link"`
	About    string       `xml:"description,omitempty"`
	ID       guid         `xml:"guid"`
	At       string       `xml:"pubDate"`
	File     enclosure    `xml:"enclosure"`
	Number   int          `xml:"podcast:episode"`
	Chapters *reference   `xml:"podcast:chapters"`
	Captions []transcript `xml:"podcast:transcript"`
}

type guid struct {
	Permanent bool   `xml:"isPermaLink,attr"`
	Value     string `xml:",chardata"`
}

type enclosure struct {
	Address string `xml:"url,attr"`
	Bytes   int64  `xml:"length,attr"`
	Type    string `xml:"type,attr"`
}

type reference struct {
	Address string `xml:"url,attr"`
	Type    string `xml:"type,attr"`
}

type transcript struct {
	Address  string `xml:"url,attr"`
	Type     string `xml:"type,attr"`
	Language string `xml:"language,attr"`
	Rel      string `xml:"rel,attr"`
}

// Type is the media type of what Write writes.
const Type = "application/rss+xml; charset=utf-8"

// After how many minutes it is worth asking again.
const (
	ttl     = 60
	growing = 5
)

// Write writes a feed. Characters that XML cannot hold become U+FFFD.
func Write(w io.Writer, f Feed) error {
	about := f.About
	if about == "" {
		about = f.Title
	}
	d := document{Version: "2.0", Atom: "http://www.w3.org/2005/Atom",
		Podcast: "https://podcastindex.org/namespace/1.0",
		Channel: channel{Title: f.Title, Link: f.Page, About: about, Language: f.Language, TTL: ttl,
			Self: link{f.Self, "self", "application/rss+xml"}, Locked: "yes", Block: "yes"}}
	if f.Grows {
		d.Channel.TTL = growing
	}
	for _, x := range f.Items {
		it := item{Title: x.Title, Link: x.Page, About: x.About, ID: guid{Value: "urn:uuid:" + x.Recording.String()},
			At: x.At.Format(time.RFC1123Z), Number: x.Number,
			File: enclosure{x.File.Address, x.File.Bytes, x.File.Type}}
		if x.Chapters != "" {
			it.Chapters = &reference{x.Chapters, ChaptersType}
		}
		for _, c := range x.Captions {
			it.Captions = append(it.Captions, transcript{c.Address, "text/vtt", c.Language, "captions"})
		}
		d.Channel.Items = append(d.Channel.Items, it)
	}
	if _, err := io.WriteString(w, xml.Header); err != nil {
		return fmt.Errorf("write a feed: %w", err)
	}
	e := xml.NewEncoder(w)
	e.Indent("", "  ")
	if err := e.Encode(d); err != nil {
		return fmt.Errorf("write a feed: %w", err)
	}
	return nil
}
