package media

import (
	"strings"
	"time"
)

// The names under which a recording says when it was made (mvhd of ISO/IEC 14496-12, and DateUTC
// and DATE_RECORDED of Matroska, RFC 9559 and its tags), and what it is called (the tags of
// Matroska, ID3 and Vorbis comments, as the tools name them).
var (
	madeTags = []string{"creation_time", "date_recorded", "date"}
	wordTags = []string{"title", "album", "artist", "comment", "description", "location"}
)

// mostWords is how much of what a recording is called is looked at.
const mostWords = 500

// tags reads when a recording was made and what it is called. A year alone, and a time before
// this century, as of a device whose clock was never set, say nothing.
func tags(all map[string]string) (made time.Time, words string) {
	low := map[string]string{}
	for k, v := range all {
		low[strings.ToLower(k)] = v
	}
	for _, k := range madeTags {
		for _, layout := range []string{time.RFC3339Nano, "2006-01-02T15:04:05", "2006-01-02 15:04:05"} {
			if t, err := time.Parse(layout, low[k]); err == nil && made.IsZero() && t.Year() >= 2000 {
				made = t.UTC()
			}
		}
	}
	var said []string
	for _, k := range wordTags {
		if v := strings.Join(strings.Fields(strings.ToValidUTF8(low[k], "")), " "); v != "" {
			said = append(said, v)
		}
	}
	r := []rune(strings.Join(said, " "))
	return made, string(r[:min(len(r), mostWords)])
}
