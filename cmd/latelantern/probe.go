package main

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"os"
	"os/signal"
	"strings"
	"syscall"
	"time"

	"latelantern/internal/capture"
	"latelantern/internal/core/tally"
	"latelantern/internal/core/texts"
	"latelantern/internal/platform/media"
)

// probed is what is printed of a file.
type probed struct {
	Kind      string            `json:"kind"` // video, audio or none
	Format    string            `json:"format,omitempty"`
	Duration  int64             `json:"duration_ms"` // that can be read
	Video     *probedVideo      `json:"video,omitempty"`
	Audio     *probedAudio      `json:"audio,omitempty"`
	Watchable capture.Watchable `json:"watchable"`
	Reason    string            `json:"reason"`
}

type probedVideo struct {
	Codec       string `json:"codec"`
	Width       int    `json:"width"`
	Height      int    `json:"height"`
	PixelFormat string `json:"pixel_format"`
}

type probedAudio struct {
	Codec    string `json:"codec"`
	Profile  string `json:"profile,omitempty"`
	Rate     int    `json:"rate"`
	Channels int    `json:"channels"`
}

// printProbe prints as JSON what an import would make of a file. The code is 1 when nothing
// of it can be watched, 2 when it was called wrongly.
func printProbe(args []string, out, errs io.Writer) int {
	if len(args) != 1 {
		fmt.Fprintln(errs, "latelantern probe: name one file, such as lecture.mp4")
		return 2
	}
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	f, err := capture.Examine(ctx, args[0])
	if err != nil {
		fmt.Fprintf(errs, "latelantern probe: %s\n", texts.English.Error(err))
		return 1
	}
	p := probed{Kind: "none", Format: string(f.Format), Duration: f.Length.Milliseconds(), Watchable: f.Watchable,
		Reason: reason(f)}
	if s := f.Audio; s != nil {
		p.Kind, p.Audio = "audio", &probedAudio{s.Codec, s.Profile, s.Rate, s.Channels}
	}
	if v := f.Video; v != nil {
		p.Kind, p.Video = "video", &probedVideo{v.Codec, v.Width, v.Height, v.PixelFormat}
	}
	w := json.NewEncoder(out)
	w.SetIndent("", "  ")
	w.SetEscapeHTML(false)
	if err := w.Encode(p); err != nil {
		fmt.Fprintf(errs, "latelantern probe: %s\n", texts.English.Error(err))
		return 1
	}
	if f.Watchable == capture.Never {
		return 1
	}
	return 0
}

// reason says in a sentence why a file can be watched as it can.
func reason(f capture.Finding) string {
	switch f.Fault {
	case capture.Empty:
		return "The file is empty."
	case capture.NoMedia:
		return "This is not a recording: it holds neither picture nor sound in a form that can be read."
	case capture.Fault(media.Document):
		return "This is a document. Save a film of it as MP4."
	case capture.Fault(media.Picture):
		return "This is a single picture; a recording is a film or sound."
	case capture.Fault(media.Archive):
		return "This is an archive, or a document with parts packed into it. Unpack it, and name the recording that is in it."
	case capture.Fault(media.Page):
		return "This is a page of the web. Save the recording that it shows."
	case capture.Fault(media.List):
		return "This is a list of other files, without any of their pictures and sound. Name the recording itself."
	case capture.Fault(media.Notes):
		return "These are notes for an instrument, and no sound. Save the sound as WAV or MP3."
	case capture.Fault(media.Locked):
		return "This is a recording of a kind that cannot be read here. Save it as MP4 where it was made."
	case capture.Unfinished:
		return "The list of where its pictures and sound lie is cut off: it was not copied to its end. Copy it again."
	case capture.Encrypted:
		return "It is encrypted, and the key is not in it."
	case capture.Unreadable:
		return "It looks like a recording, but neither its picture nor its sound can be read. It may be cut off or damaged."
	}
	var text string
	switch {
	case f.EncodePictures && f.EncodeSound:
		text = fmt.Sprintf("Pictures (%s) and sound (%s) are encoded anew; it can be watched as far as that has come.",
			f.Video.Codec, f.Audio.Codec)
	case f.EncodePictures:
		text = fmt.Sprintf("The pictures (%s) are encoded anew; it can be watched as far as that has come.",
			f.Video.Codec)
	case f.EncodeSound:
		text = fmt.Sprintf("The sound (%s) is encoded anew; it can be watched as far as that has come.", f.Audio.Codec)
	default:
		text = "It is used as it is."
	}
	switch {
	case f.Video == nil:
		text += " It has no picture."
	case f.Audio == nil:
		text += " It has no sound."
	}
	switch {
	case f.Length > capture.Longest:
		text += fmt.Sprintf(" It is %s long; the first %s of it are taken.", lengthText(f.Length),
			lengthText(capture.Longest))
	case f.Said > capture.Longest:
		text += fmt.Sprintf(" It claims to be %s long; there are %s of it.", lengthText(f.Said), lengthText(f.Length))
	case f.CutOff():
		text += fmt.Sprintf(" It is cut off: of %s that it should have, %s can be read.", lengthText(f.Said),
			lengthText(f.Length))
	}
	return text
}

// lengthText says a length in the units that one would use: "48 days", "1:02:41", "20 s".
func lengthText(d time.Duration) string {
	switch d = d.Round(time.Second); {
	case d >= 48*time.Hour:
		return fmt.Sprintf("%.0f days", d.Hours()/24)
	case d >= time.Minute:
		return strings.TrimSuffix(clockOf(d), ".000")
	}
	return fmt.Sprintf("%.0f s", d.Seconds())
}

// different says in a sentence that less can be watched than came.
func different(d tally.Difference) string {
	came, watchable := d.Lengths()
	switch d.What {
	case tally.Whole:
		return fmt.Sprintf("Its head says that it is %s long; %s of it came.", clockOf(came), clockOf(watchable))
	case tally.Sound:
		return fmt.Sprintf("Of %s of sound that came, %s can be heard.", clockOf(came), clockOf(watchable))
	}
	return fmt.Sprintf("Of %s of pictures that came, %s can be seen.", clockOf(came), clockOf(watchable))
}
