package main

import (
	"context"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"io"
	"os"
	"os/signal"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"time"

	"latelantern/internal/assemble"
	"latelantern/internal/capture"
	"latelantern/internal/core/span"
	"latelantern/internal/core/texts"
	"latelantern/internal/platform/blobs"
)

// stretch is a stretch of a file, half-open.
type stretch struct {
	Start int64 `json:"start_ms"`
	End   int64 `json:"end_ms"`
}

// analysed is what is printed of a file.
type analysed struct {
	Duration  int64      `json:"duration_ms"`
	Speech    []stretch  `json:"speech"`
	Proposals []proposed `json:"proposals"`
	Slides    []int64    `json:"slides"` // when each begins, in milliseconds
	Loudness  *float64   `json:"loudness_lufs"`
}

type proposed struct {
	Kind string `json:"kind"`
	stretch
}

// printAnalysis prints as JSON what the strip page would say of a file. The code is 1 when nothing
// of it can be watched, 2 when it was called wrongly.
func printAnalysis(args []string, out, errs io.Writer) int {
	if len(args) != 1 {
		fmt.Fprintln(errs, "latelantern analyse: name one file, such as lecture.mp4")
		return 2
	}
	return packaged("analyse", args[0], errs, func(ctx context.Context, file *assemble.Alone) error {
		a, err := file.Analyse(ctx)
		if err != nil {
			return err
		}
		x := analysed{Duration: file.Length().Milliseconds(), Speech: []stretch{}, Proposals: []proposed{},
			Slides: []int64{}, Loudness: a.Loudness}
		for _, s := range a.Speech.Spans() {
			x.Speech = append(x.Speech, stretch{s.Start.Milliseconds(), s.End.Milliseconds()})
		}
		for _, p := range a.Proposals {
			x.Proposals = append(x.Proposals,
				proposed{string(p.Why), stretch{p.Start.Milliseconds(), p.End.Milliseconds()}})
		}
		for _, s := range a.Slides {
			x.Slides = append(x.Slides, s.Milliseconds())
		}
		w := json.NewEncoder(out)
		w.SetIndent("", "  ")
		return w.Encode(x)
	})
}

// cutFile writes what is kept of a file as one MP4 file, as it would be published. The code is 1
// when it cannot be, 2 when the command was called wrongly.
func cutFile(args []string, out, errs io.Writer) int {
	flags := flag.NewFlagSet("cut", flag.ContinueOnError)
	flags.SetOutput(errs)
	keep := flags.String("keep", "", "the stretches to keep, such as 0:41.200-30:10,40:08-58:02.5")
	flags.Usage = func() {
		fmt.Fprint(errs,
			"latelantern cut --keep RANGES FILE OUT.mp4\n\nWrites what is kept of a file, with the code that publishes lectures.\n\n")
		flags.PrintDefaults()
	}
	names, err := apart(flags, args)
	if err != nil {
		return 2
	}
	if len(names) != 2 || *keep == "" {
		fmt.Fprintln(errs,
			"latelantern cut: name what to keep, a file, and where to write, such as --keep 0:41.2-30:10 lecture.mp4 cut.mp4")
		return 2
	}
	kept, err := ranges(*keep)
	if err != nil {
		fmt.Fprintf(errs, "latelantern cut: %s\n", texts.English.Error(err))
		return 2
	}
	to, err := target(names[1])
	if err != nil {
		fmt.Fprintf(errs, "latelantern cut: %s\n", texts.English.Error(err))
		return 2
	}
	if same(names[0], to) {
		fmt.Fprintln(errs, "latelantern cut: the file would be written over itself")
		return 2
	}
	if _, err := os.Stat(to); err == nil {
		fmt.Fprintf(errs, "latelantern cut: %s is there already; name another file to write to\n", names[1])
		return 2
	}
	return packaged("cut", names[0], errs, func(ctx context.Context, file *assemble.Alone) error {
		for _, k := range kept {
			if k.Start >= file.Length() {
				return fmt.Errorf("%s lies after the end of the file, which is %s long", clockOf(k.Start),
					clockOf(file.Length()))
			}
		}
		began := time.Now()
		r, err := file.Cut(ctx, span.Of(kept...), to)
		if err != nil {
			return err
		}
		fmt.Fprintf(errs, "%s kept in %d stretches, written in %.1f s\n", clockOf(r.Length), len(r.Stretches),
			time.Since(began).Seconds())
		return nil
	})
}

// target is where a file is to be written, as a full path: the tools work elsewhere.
func target(path string) (string, error) {
	full, err := filepath.Abs(path)
	if err != nil {
		return "", fmt.Errorf("find where to write: %w", err)
	}
	if about, err := os.Stat(full); err == nil {
		if !about.Mode().IsRegular() {
			return "", fmt.Errorf("%s: %w", path, capture.ErrNoFile)
		}
		return full, nil
	}
	if about, err := os.Stat(filepath.Dir(full)); err != nil || !about.IsDir() {
		return "", fmt.Errorf("there is no folder %s", filepath.Dir(path))
	}
	return full, nil
}

// same reports whether two paths lead to one file.
func same(a, b string) bool {
	x, err := os.Stat(a)
	y, err2 := os.Stat(b)
	return err == nil && err2 == nil && os.SameFile(x, y)
}

// packaged packages a file into a folder that is removed, and does something with it there.
func packaged(name, path string, errs io.Writer, do func(context.Context, *assemble.Alone) error) int {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	folder, err := os.MkdirTemp("", "late-lantern-"+name+"-")
	if err != nil {
		fmt.Fprintf(errs, "latelantern %s: %s\n", name, texts.English.Error(err))
		return 1
	}
	defer os.RemoveAll(folder)
	err = func() error {
		disk, err := blobs.Open(folder)
		if err != nil {
			return err
		}
		p, err := capture.Package(ctx, disk, path, "file")
		if err != nil {
			return err
		}
		for _, d := range p.Differs {
			fmt.Fprintf(errs, "latelantern %s: %s\n", name, different(d))
		}
		file, err := assemble.OpenAlone(disk, "file", p.Video, p.Audio)
		if err != nil {
			return err
		}
		return do(ctx, file)
	}()
	var fault capture.Fault
	switch {
	case ctx.Err() != nil:
		fmt.Fprintf(errs, "latelantern %s: it was stopped before it was done\n", name)
		return 1
	case errors.As(err, &fault):
		fmt.Fprintf(errs, "latelantern %s: %s\n", name, reason(capture.Finding{Fault: fault}))
		return 1
	case err != nil:
		fmt.Fprintf(errs, "latelantern %s: %s\n", name, texts.English.Error(err))
		return 1
	}
	return 0
}

// ranges reads stretches such as 0:41.200-30:10,1:02:03-1:10:00.
func ranges(text string) ([]span.Span, error) {
	var out []span.Span
	for _, part := range strings.Split(text, ",") {
		from, to, ok := strings.Cut(strings.TrimSpace(part), "-")
		start, err := moment(from)
		end, err2 := moment(to)
		if !ok || err != nil || err2 != nil {
			return nil, fmt.Errorf("%q is no stretch such as 0:41.2-30:10", part)
		}
		if end <= start {
			return nil, fmt.Errorf("the end of %q does not come after its start", part)
		}
		out = append(out, span.Span{Start: start, End: end})
	}
	return out, nil
}

// moment reads a time such as 58, 41:07.25 or 1:02:41.
func moment(text string) (time.Duration, error) {
	parts := strings.Split(strings.TrimSpace(text), ":")
	if len(parts) > 3 {
		return 0, strconv.ErrSyntax
	}
	seconds := 0.0
	for i, p := range parts {
		last := i == len(parts)-1
		if p == "" || strings.Trim(p, "0123456789.") != "" || !last && strings.Contains(p, ".") {
			return 0, strconv.ErrSyntax
		}
		v, err := strconv.ParseFloat(p, 64)
		if err != nil || i > 0 && v >= 60 || v > 1e6 {
			return 0, strconv.ErrSyntax
		}
		seconds = seconds*60 + v
	}
	return time.Duration(seconds*1000+0.5) * time.Millisecond, nil
}

// clockOf writes a time as 1:02:41.250.
func clockOf(d time.Duration) string {
	d = d.Round(time.Millisecond)
	text := fmt.Sprintf("%d:%06.3f", int(d.Minutes())%60, (d % time.Minute).Seconds())
	if h := int(d.Hours()); h > 0 {
		text = fmt.Sprintf("%d:%02d:%06.3f", h, int(d.Minutes())%60, (d % time.Minute).Seconds())
	}
	return text
}
