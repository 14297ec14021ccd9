package main

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"os"
	"os/signal"
	"syscall"

	"latelantern/internal/capture"
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
		fmt.Fprintf(errs, "latelantern probe: %v\n", err)
		return 1
	}
	p := probed{Kind: "none", Format: string(f.Format), Duration: f.Length.Milliseconds(), Watchable: f.Watchable, Reason: reason(f)}
	if s := f.Sound; s != nil {
		p.Kind, p.Audio = "audio", &probedAudio{s.Codec, s.Profile, s.Rate, s.Channels}
	}
	if v := f.Pictures; v != nil {
		p.Kind, p.Video = "video", &probedVideo{v.Codec, v.Width, v.Height, v.PixelFormat}
	}
	w := json.NewEncoder(out)
	w.SetIndent("", "  ")
	w.SetEscapeHTML(false)
	if err := w.Encode(p); err != nil {
		fmt.Fprintf(errs, "latelantern probe: %v\n", err)
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
	case capture.Encrypted:
		return "It is encrypted, and the key is not in it."
	case capture.Unreadable:
		return "It looks like a recording, but neither its picture nor its sound can be read. It may be cut off or damaged."
	}
	var text string
	switch {
	case f.EncodePictures && f.EncodeSound:
		text = fmt.Sprintf("Pictures (%s) and sound (%s) are encoded anew; it can be watched as far as that has come.", f.Pictures.Codec, f.Sound.Codec)
	case f.EncodePictures:
		text = fmt.Sprintf("The pictures (%s) are encoded anew; it can be watched as far as that has come.", f.Pictures.Codec)
	case f.EncodeSound:
		text = fmt.Sprintf("The sound (%s) is encoded anew; it can be watched as far as that has come.", f.Sound.Codec)
	default:
		text = "It is used as it is."
	}
	switch {
	case f.Pictures == nil:
		text += " It has no picture."
	case f.Sound == nil:
		text += " It has no sound."
	}
	if f.CutOff() {
		text += fmt.Sprintf(" It is cut off: of %.0f s that it should have, %.0f can be read.", f.Said.Seconds(), f.Length.Seconds())
	}
	return text
}
