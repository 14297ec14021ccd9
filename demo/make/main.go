// Command make draws the slides of the demonstration, has them read out by speech
// synthesisers, and puts both together as the captured lectures in demo/media. It needs
// ffmpeg, flite, espeak-ng and Chromium, and takes some minutes. Run it from the root of
// the project: go run ./demo/make, with the names of talks for these alone.
package main

import (
	"bytes"
	"context"
	"encoding/base64"
	"encoding/binary"
	"fmt"
	"html"
	"log"
	"math"
	"math/rand"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"github.com/chromedp/chromedp"

	"latelantern/demo"
	"latelantern/internal/core/caption"
	"latelantern/internal/core/span"
	"latelantern/internal/format/captionfile"
)

const rate = 48000

func main() {
	log.SetFlags(0)
	work, err := os.MkdirTemp("", "lectures")
	if err != nil {
		log.Fatal(err)
	}
	defer os.RemoveAll(work)
	options := append([]chromedp.ExecAllocatorOption{}, chromedp.DefaultExecAllocatorOptions[:]...)
	options = append(options, chromedp.ExecPath("/usr/bin/chromium"), chromedp.NoSandbox, chromedp.DisableGPU,
		chromedp.Flag("disable-quic", true), chromedp.UserDataDir(filepath.Join(work, "profile")))
	allocator, stop := chromedp.NewExecAllocator(context.Background(), options...)
	defer stop()
	browser, close := chromedp.NewContext(allocator)
	defer close()
	talks := append(slices.Clone(demo.Talks), demo.Came)
	only := os.Args[1:]
	if len(only) == 0 || slices.Contains(only, "slides") {
		if err := slides(browser, work, demo.Talks[0]); err != nil {
			log.Fatalf("slides: %v", err)
		}
	}
	for n, t := range talks {
		if len(only) > 0 && !slices.Contains(only, t.File) {
			continue
		}
		if err := make(browser, work, n, t); err != nil {
			log.Fatalf("%s: %v", t.File, err)
		}
	}
}

// moment is a stretch of the lecture with one picture.
type moment struct {
	picture string
	length  time.Duration
}

func make(browser context.Context, work string, n int, t demo.Talk) error {
	room := rand.New(rand.NewSource(int64(n)))
	var pcm []int16
	var cues []caption.Cue
	var shown []moment
	quiet := func(d time.Duration) {
		for range int(d * rate / time.Second) {
			pcm = append(pcm, int16(room.NormFloat64()*22))
		}
	}
	now := func() time.Duration { return time.Duration(len(pcm)) * time.Second / rate }
	show := func(name, page string, do func() error) error {
		path := filepath.Join(work, fmt.Sprintf("%s-%s.png", t.File, name))
		if err := draw(browser, path, page); err != nil {
			return err
		}
		from := now()
		if err := do(); err != nil {
			return err
		}
		shown = append(shown, moment{path, now() - from})
		return nil
	}
	speak := func(text string) error {
		for _, sentence := range strings.SplitAfter(text, ". ") {
			sentence = strings.TrimSpace(sentence)
			said, err := voice(work, t.Voice, sentence)
			if err != nil {
				return err
			}
			from := now()
			for _, v := range said {
				pcm = append(pcm, v+int16(room.NormFloat64()*22))
			}
			cues = append(cues, caption.Cue{Span: span.Span{Start: from, End: now()}, Text: sentence})
			quiet(900 * time.Millisecond)
		}
		return nil
	}
	first := time.Duration(11+n%5) * time.Second
	if err := show("before", plain(t, "We begin in a moment"), func() error { quiet(first); return nil }); err != nil {
		return err
	}
	for i, s := range t.Slides {
		if i == t.Break {
			if err := show("break", plain(t, "Break until the bell"),
				func() error { quiet(time.Duration(22+n%7) * time.Second); return nil }); err != nil {
				return err
			}
		}
		if err := show(fmt.Sprint(i), slide(t, i, s),
			func() error { quiet(time.Second); return speak(s.Say) }); err != nil {
			return err
		}
	}
	if err := show("after", plain(t, "Thank you"),
		func() error { quiet(time.Duration(12+n%6) * time.Second); return nil }); err != nil {
		return err
	}
	return assemble(work, t, pcm, shown, cues)
}

func assemble(work string, t demo.Talk, pcm []int16, shown []moment, cues []caption.Cue) error {
	var list strings.Builder
	for _, m := range shown {
		fmt.Fprintf(&list, "file '%s'\nduration %.3f\n", m.picture, m.length.Seconds())
	}
	fmt.Fprintf(&list, "file '%s'\n", shown[len(shown)-1].picture)
	listed := filepath.Join(work, t.File+".txt")
	if err := os.WriteFile(listed, []byte(list.String()), 0o600); err != nil {
		return err
	}
	var raw bytes.Buffer
	if err := binary.Write(&raw, binary.LittleEndian, pcm); err != nil {
		return err
	}
	length := fmt.Sprintf("%.3f", float64(len(pcm))/rate)
	cmd := exec.Command("ffmpeg", "-y", "-v", "error", "-f", "concat", "-safe", "0", "-i", listed, "-f", "s16le", "-ar",
		fmt.Sprint(rate), "-ac", "1", "-i", "pipe:0", "-t", length,
		"-vf", "format=yuv420p,fps=15", "-c:v", "libx264", "-preset", "veryfast", "-tune", "stillimage", "-crf", "30",
		"-g", "30", "-c:a", "aac", "-b:a", "48k", "-ar", fmt.Sprint(rate),
		"-map_metadata", "-1", "-fflags", "+bitexact", filepath.Join("demo/media", t.File+".mp4"))
	cmd.Stdin = &raw
	if out, err := cmd.CombinedOutput(); err != nil {
		return fmt.Errorf("ffmpeg: %w\n%s", err, out)
	}
	f, err := os.Create(filepath.Join("demo/media", t.File+".vtt"))
	if err != nil {
		return err
	}
	defer f.Close()
	log.Printf("%s  %s s", t.File, length)
	return captionfile.WriteWebVTT(f, caption.Sheet{Cues: cues})
}

// voice is a sentence as 48 kHz mono samples.
func voice(work, name, text string) ([]int16, error) {
	program, which, _ := strings.Cut(name, ":")
	path := filepath.Join(work, "said.wav")
	cmd := exec.Command("flite", "--setf", "duration_stretch=1.1", "-voice", which, "-t", text, "-o", path)
	if program == "espeak-ng" {
		cmd = exec.Command("espeak-ng", "-v", which, "-s", "140", "-w", path, text)
	}
	if out, err := cmd.CombinedOutput(); err != nil {
		return nil, fmt.Errorf("%s: %w\n%s", program, err, out)
	}
	raw, err := exec.Command("ffmpeg", "-v", "error", "-i", path, "-af",
		"silenceremove=start_periods=1:start_threshold=-50dB,volume=-3dB", "-ac", "1", "-ar", fmt.Sprint(rate), "-f",
		"s16le", "-").Output()
	if err != nil {
		return nil, fmt.Errorf("ffmpeg: %w", err)
	}
	out := []int16{}
	for i := 0; i+1 < len(raw); i += 2 {
		out = append(out, int16(binary.LittleEndian.Uint16(raw[i:])))
	}
	return out, nil
}

// slides keeps those of a talk as a file for its students.
func slides(browser context.Context, work string, t demo.Talk) error {
	var all strings.Builder
	all.WriteString("<style>@page{size:1280px 720px;margin:0}body{height:auto}section{position:relative;height:720px}</style>")
	for n, s := range t.Slides {
		all.WriteString("<section>" + slide(t, n, s) + "</section>")
	}
	if err := open(browser, filepath.Join(work, "slides.html"), all.String()); err != nil {
		return err
	}
	pdf, err := chromedp.Run(browser,
		chromedp.PrintToPDF(chromedp.PDFPreferCSSPageSize(), chromedp.PDFPrintBackground()))
	if err != nil {
		return err
	}
	return os.WriteFile(filepath.Join("demo/media", t.File+".pdf"), pdf, 0o600)
}

// open shows a page, with our fonts, that is kept in a file.
func open(browser context.Context, path, page string) error {
	page = "<!doctype html><meta charset=utf-8><style>" + fonts + css + "</style>" + page
	if err := os.WriteFile(path, []byte(page), 0o600); err != nil {
		return err
	}
	if err := chromedp.Do(browser, chromedp.EmulateViewport(1280, 720),
		chromedp.Navigate("file://"+path)); err != nil {
		return err
	}
	_, err := chromedp.Run(browser,
		chromedp.Evaluate[bool]("document.fonts.ready.then(() => true)", chromedp.EvalAwaitPromise))
	return err
}

func draw(browser context.Context, path, page string) error {
	if err := open(browser, strings.TrimSuffix(path, ".png")+".html", page); err != nil {
		return err
	}
	png, err := chromedp.Run(browser, chromedp.CaptureScreenshot())
	if err != nil {
		return err
	}
	return os.WriteFile(path, png, 0o600)
}

var fonts = func() string {
	var w strings.Builder
	for family, file := range map[string]string{
		"Literata": "@fontsource-variable/literata/files/literata-latin-wght-normal.woff2",
		"Hyper":    "@fontsource-variable/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-wght-normal.woff2",
	} {
		b, err := os.ReadFile(filepath.Join("web/node_modules", file))
		if err != nil {
			log.Fatalf("fonts (npm ci first): %v", err)
		}
		fmt.Fprintf(&w, "@font-face{font-family:%s;font-weight:200 900;src:url(data:font/woff2;base64,%s)}", family,
			base64.StdEncoding.EncodeToString(b))
	}
	return w.String()
}()

const css = `*{box-sizing:border-box}
body{margin:0;width:1280px;height:720px;background:#f6f4ec;color:#1c2b33;font:30px/1.5 Hyper;overflow:hidden}
h1{font:600 58px/1.15 Literata;margin:0 0 34px}.in{position:absolute;left:84px;top:96px;width:700px}
li{margin:0 0 14px}.foot{position:absolute;left:84px;bottom:44px;font-size:21px;color:#5a6a70}
svg{position:absolute;right:0;top:0}.mid{display:grid;place-items:center;height:720px;text-align:center}
.mid h1{font-size:64px}`

func slide(t demo.Talk, n int, s demo.Slide) string {
	var points strings.Builder
	for _, p := range s.Points {
		fmt.Fprintf(&points, "<li>%s</li>", html.EscapeString(p))
	}
	return fmt.Sprintf(`%s<div class=in><h1>%s</h1><ul>%s</ul></div><div class=foot>%s · week %d · %d</div>`,
		drawing(t.Course, n), html.EscapeString(s.Heading), points.String(), t.Course, t.Week, n+1)
}

func plain(t demo.Talk, text string) string {
	return fmt.Sprintf(`<div class=mid><div><h1>%s</h1><div>%s, week %d</div></div></div>`, html.EscapeString(text),
		t.Course, t.Week)
}

// drawing is a figure for the right of a slide, another for each course and slide.
func drawing(course string, n int) string {
	r := rand.New(rand.NewSource(int64(n)*31 + int64(course[0])))
	var w strings.Builder
	path := func(colour string, width float64, f func(x float64) float64) {
		fmt.Fprintf(&w, `<path fill=none stroke="%s" stroke-width="%.1f" d="M`, colour, width)
		for x := 0.0; x <= 430; x += 5 {
			fmt.Fprintf(&w, "%.0f %.0f ", 820+x, f(x))
		}
		w.WriteString(`"/>`)
	}
	switch course {
	case "TID 210":
		for k := range 3 {
			path([]string{"#2f6f78", "#7fa9a6", "#c4b590"}[k], 7-float64(k)*2, func(x float64) float64 {
				return 360 + 120*math.Sin(x/(34+float64(n*9))+float64(k))*(0.4+0.6*math.Sin(x/140+float64(n)))
			})
		}
	case "ALG 118":
		for range 9 {
			at, high := 840+r.Float64()*390, 180+r.Float64()*380
			fmt.Fprintf(&w,
				`<path fill=none stroke="#5b6b2f" stroke-width="%.0f" stroke-linecap=round d="M%.0f 690 Q%.0f %.0f %.0f %.0f"/>`, 6+r.Float64()*12, at, at+90*(r.Float64()-0.5), 690-high/2, at+70*(r.Float64()-0.5), 690-high)
		}
	case "SIG 305":
		fmt.Fprintf(&w,
			`<path fill="#e9d9a2" d="M1040 250 L820 %d L820 %d Z"/><path fill="#33424c" d="M1010 640 L1025 280 h50 L1090 640 Z"/><rect fill="#b6452c" x="1018" y="%d" width="66" height="60"/><rect fill="#33424c" x="1020" y="226" width="60" height="50"/>`, 130+n*30, 330+n*40, 360+n*40)
	case "BOA 140":
		for k := range 6 {
			path([]string{"#8a5a33", "#a9794c"}[k%2], 12, func(x float64) float64 {
				return 300 + float64(k)*34 + (0.9-float64(k)*0.12)*110*math.Sin(math.Pi*x/430)*math.Cos(float64(n)/3)
			})
		}
	default:
		for k := range 7 {
			fmt.Fprintf(&w,
				`<ellipse fill=none stroke="#53707c" stroke-width="4" cx="%d" cy="%d" rx="%d" ry="%d" transform="rotate(%d 1040 360)"/>`, 1040+n*8, 360-n*12, 30+k*34, 20+k*26, 12*n+k*3)
		}
	}
	return `<svg width=1280 height=720>` + w.String() + `</svg>`
}
