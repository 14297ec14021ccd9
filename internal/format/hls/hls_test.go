package hls

import (
	"strings"
	"testing"
	"time"
)

func TestMedia(t *testing.T) {
	got := Media(Rendition{Init: "v/init-%d.mp4", Inits: []int{0, 0, 1}, Pattern: "v/%d.m4s",
		Segments: []time.Duration{2 * time.Second, 1966667 * time.Microsecond, time.Second}, Ended: true})
	want := "#EXTM3U\n#EXT-X-VERSION:7\n#EXT-X-TARGETDURATION:2\n#EXT-X-MEDIA-SEQUENCE:0\n#EXT-X-PLAYLIST-TYPE:VOD\n#EXT-X-INDEPENDENT-SEGMENTS\n#EXT-X-MAP:URI=\"v/init-0.mp4\"\n#EXTINF:2.000000,\nv/0.m4s\n#EXTINF:1.966667,\nv/1.m4s\n#EXT-X-MAP:URI=\"v/init-1.mp4\"\n#EXTINF:1.000000,\nv/2.m4s\n#EXT-X-ENDLIST\n"
	if got != want {
		t.Errorf("got\n%s\nwant\n%s", got, want)
	}
	live := Media(Rendition{Init: "h%d", Inits: []int{0}, Pattern: "%d",
		Segments: []time.Duration{2300 * time.Millisecond}})
	if strings.Contains(live, "ENDLIST") || !strings.Contains(live, "TYPE:EVENT") ||
		!strings.Contains(live, "TARGETDURATION:3\n") {
		t.Errorf("a track that runs:\n%s", live)
	}
}

func TestMultivariant(t *testing.T) {
	both := Variant{Video: "video.m3u8", Audio: "audio.m3u8", VideoCodec: "avc1.64001f", AudioCodec: "mp4a.40.2",
		Width: 1280, Height: 720, BitsPerSecond: 300000}
	if got := Multivariant(both); !strings.Contains(got,
		`CODECS="avc1.64001f,mp4a.40.2",RESOLUTION=1280x720,AUDIO="sound-0"`+"\nvideo.m3u8\n") {
		t.Error(got)
	}
	both.Audio = ""
	if got := Multivariant(both); strings.Contains(got, "AUDIO") || !strings.Contains(got, "video.m3u8") {
		t.Error(got)
	}
	both.Audio, both.Video = "audio.m3u8", ""
	if got := Multivariant(both); strings.Contains(got, "RESOLUTION") ||
		!strings.HasSuffix(got, "CODECS=\"mp4a.40.2\"\naudio.m3u8\n") {
		t.Error(got)
	}
}

func TestASmallVariantHasItsOwnSound(t *testing.T) {
	got := Multivariant(Variant{Video: "p", Audio: "s", Width: 1280, Height: 720, BitsPerSecond: 900000},
		Variant{Video: "q", Audio: "r", Width: 640, Height: 360, BitsPerSecond: 200000})
	for _, want := range []string{`GROUP-ID="sound-0",NAME="Lecture",DEFAULT=YES,AUTOSELECT=YES,URI="s"`,
		`GROUP-ID="sound-1",NAME="Lecture",DEFAULT=YES,AUTOSELECT=YES,URI="r"`, "BANDWIDTH=900000",
		"RESOLUTION=640x360,AUDIO=\"sound-1\"\nq\n"} {
		if !strings.Contains(got, want) {
			t.Errorf("%q is not in\n%s", want, got)
		}
	}
}
