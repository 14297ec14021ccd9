// Package hls writes playlists of HTTP Live Streaming (RFC 8216).
package hls

import (
	"fmt"
	"math"
	"strings"
	"time"
)

// Rendition is a run of segments over one initialization segment, or over several.
type Rendition struct {
	Init     string // address of initialization segment n, with %d, relative to the playlist
	Inits    []int  // the initialization segment of each segment
	Segments []time.Duration
	Pattern  string // address of segment n, with %d
	Ended    bool   // no more segments will come
}

// Media writes the media playlist of a rendition. One that still runs is an event
// playlist: it only grows, so that it can be watched from its beginning.
func Media(t Rendition) string {
	var w strings.Builder
	longest := 1.0
	for _, d := range t.Segments {
		longest = max(longest, d.Seconds())
	}
	kind := "EVENT"
	if t.Ended {
		kind = "VOD"
	}
	fmt.Fprintf(&w,
		"#EXTM3U\n#EXT-X-VERSION:7\n#EXT-X-TARGETDURATION:%d\n#EXT-X-MEDIA-SEQUENCE:0\n#EXT-X-PLAYLIST-TYPE:%s\n#EXT-X-INDEPENDENT-SEGMENTS\n", int(math.Ceil(longest)), kind)
	for i, d := range t.Segments {
		if i == 0 || t.Inits[i] != t.Inits[i-1] {
			fmt.Fprintf(&w, "#EXT-X-MAP:URI=\"%s\"\n", fmt.Sprintf(t.Init, t.Inits[i]))
		}
		fmt.Fprintf(&w, "#EXTINF:%.6f,\n%s\n", d.Seconds(), fmt.Sprintf(t.Pattern, i))
	}
	if t.Ended {
		w.WriteString("#EXT-X-ENDLIST\n")
	}
	return w.String()
}

// Variant is one way to play a presentation: pictures with their sound apart, or either alone.
type Variant struct {
	Video, Audio           string // addresses of the media playlists; "" for none
	VideoCodec, AudioCodec string // RFC 6381
	Width, Height          int
	BitsPerSecond          int
}

// Multivariant writes the multivariant playlist of the variants, the best first.
func Multivariant(variants ...Variant) string {
	var w strings.Builder
	w.WriteString("#EXTM3U\n#EXT-X-VERSION:7\n#EXT-X-INDEPENDENT-SEGMENTS\n")
	for n, p := range variants {
		rate := max(1, p.BitsPerSecond)
		switch {
		case p.Video == "":
			fmt.Fprintf(&w, "#EXT-X-STREAM-INF:BANDWIDTH=%d,CODECS=\"%s\"\n%s\n", rate, p.AudioCodec, p.Audio)
		case p.Audio == "":
			fmt.Fprintf(&w, "#EXT-X-STREAM-INF:BANDWIDTH=%d,CODECS=\"%s\",RESOLUTION=%dx%d\n%s\n", rate,
				p.VideoCodec, p.Width, p.Height, p.Video)
		default:
			fmt.Fprintf(&w,
				"#EXT-X-MEDIA:TYPE=AUDIO,GROUP-ID=\"sound-%d\",NAME=\"Lecture\",DEFAULT=YES,AUTOSELECT=YES,URI=\"%s\"\n", n, p.Audio)
			fmt.Fprintf(&w, "#EXT-X-STREAM-INF:BANDWIDTH=%d,CODECS=\"%s,%s\",RESOLUTION=%dx%d,AUDIO=\"sound-%d\"\n%s\n",
				rate, p.VideoCodec, p.AudioCodec, p.Width, p.Height, n, p.Video)
		}
	}
	return w.String()
}
