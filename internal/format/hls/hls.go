// Package hls writes playlists of HTTP Live Streaming (RFC 8216).
package hls

import (
	"fmt"
	"math"
	"strings"
	"time"
)

// Track is one rendition: a run of segments over one head.
type Track struct {
	Head     string // address of head n, with %d, relative to the playlist
	Heads    []int  // the head of each segment
	Segments []time.Duration
	Pattern  string // address of segment n, with %d
	Ended    bool   // no more segments will come
}

// Media writes the media playlist of one track. A track that still runs is an event
// playlist: it only grows, so that it can be watched from its beginning.
func Media(t Track) string {
	var w strings.Builder
	longest := 1.0
	for _, d := range t.Segments {
		longest = max(longest, d.Seconds())
	}
	kind := "EVENT"
	if t.Ended {
		kind = "VOD"
	}
	fmt.Fprintf(&w, "#EXTM3U\n#EXT-X-VERSION:7\n#EXT-X-TARGETDURATION:%d\n#EXT-X-MEDIA-SEQUENCE:0\n#EXT-X-PLAYLIST-TYPE:%s\n#EXT-X-INDEPENDENT-SEGMENTS\n", int(math.Ceil(longest)), kind)
	for i, d := range t.Segments {
		if i == 0 || t.Heads[i] != t.Heads[i-1] {
			fmt.Fprintf(&w, "#EXT-X-MAP:URI=\"%s\"\n", fmt.Sprintf(t.Head, t.Heads[i]))
		}
		fmt.Fprintf(&w, "#EXTINF:%.6f,\n%s\n", d.Seconds(), fmt.Sprintf(t.Pattern, i))
	}
	if t.Ended {
		w.WriteString("#EXT-X-ENDLIST\n")
	}
	return w.String()
}

// Presentation is what a multivariant playlist binds together.
type Presentation struct {
	Pictures, Sound           string // addresses of the media playlists; "" for none
	PicturesCodec, SoundCodec string // RFC 6381
	Width, Height             int
	BitsPerSecond             int
	Language                  string // BCP 47 of what is spoken; may be empty
}

// Multivariant writes the multivariant playlist: pictures with their sound apart, or
// either alone.
func Multivariant(p Presentation) string {
	var w strings.Builder
	w.WriteString("#EXTM3U\n#EXT-X-VERSION:7\n#EXT-X-INDEPENDENT-SEGMENTS\n")
	rate := max(1, p.BitsPerSecond)
	switch {
	case p.Pictures == "":
		fmt.Fprintf(&w, "#EXT-X-STREAM-INF:BANDWIDTH=%d,CODECS=\"%s\"\n%s\n", rate, p.SoundCodec, p.Sound)
	case p.Sound == "":
		fmt.Fprintf(&w, "#EXT-X-STREAM-INF:BANDWIDTH=%d,CODECS=\"%s\",RESOLUTION=%dx%d\n%s\n", rate, p.PicturesCodec, p.Width, p.Height, p.Pictures)
	default:
		language := ""
		if p.Language != "" {
			language = fmt.Sprintf(",LANGUAGE=\"%s\"", p.Language)
		}
		fmt.Fprintf(&w, "#EXT-X-MEDIA:TYPE=AUDIO,GROUP-ID=\"sound\",NAME=\"Lecture\",DEFAULT=YES,AUTOSELECT=YES%s,URI=\"%s\"\n", language, p.Sound)
		fmt.Fprintf(&w, "#EXT-X-STREAM-INF:BANDWIDTH=%d,CODECS=\"%s,%s\",RESOLUTION=%dx%d,AUDIO=\"sound\"\n%s\n", rate, p.PicturesCodec, p.SoundCodec, p.Width, p.Height, p.Pictures)
	}
	return w.String()
}
