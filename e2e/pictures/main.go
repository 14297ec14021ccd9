// Command pictures takes the pictures of the main views for docs/screenshots from a running
// demonstration: make demo in one terminal, go run ./e2e/pictures in another.
package main

import (
	"context"
	"encoding/base64"
	"errors"
	"fmt"
	"log"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"

	"latelantern/demo"
	"latelantern/e2e/hand"
)

func main() {
	log.SetFlags(0)
	base, to := "http://127.0.0.1:8080", filepath.Join("docs", "screenshots")
	if len(os.Args) > 1 {
		to = os.Args[1]
	}
	if err := take(base, to); err != nil {
		log.Fatal(err)
	}
}

func take(base, to string) error {
	profile, err := os.MkdirTemp("", "pictures")
	if err != nil {
		return err
	}
	defer os.RemoveAll(profile)
	camera, voice, slide, err := stage(profile)
	if err != nil {
		return err
	}
	ctx, cancel := context.WithTimeout(context.Background(), 15*time.Minute)
	defer cancel()
	b, err := hand.Open(ctx, profile, chromedp.Flag("use-fake-device-for-media-stream", true),
		chromedp.Flag("auto-select-tab-capture-source-by-title", slidesTitle), chromedp.Flag("mute-audio", false),
		chromedp.Flag("use-file-for-fake-video-capture", camera),
		chromedp.Flag("use-file-for-fake-audio-capture", voice))
	if err != nil {
		return err
	}
	defer b.Close()
	for _, v := range views(slide) {
		if len(os.Args) > 2 && os.Args[2] != v.name {
			continue
		}
		if err := one(b, base, to, v); err != nil {
			return fmt.Errorf("%s: %w", v.name, err)
		}
	}
	return nil
}

// clash writes a plan that takes a hall from another course.
func clash(p *hand.Page) error {
	const write = `(() => {
		const day = new Date(DAY).toLocaleDateString('en', {weekday: 'long'})
		for (const el of document.querySelectorAll('.days input'))
			if (el.getAttribute('aria-label') === day) el.click()
		const halls = [...document.querySelectorAll('select')]
		const hall = halls.find(s => [...s.options].some(o => o.text === 'Kelp Hall'))
		hall.value = [...hall.options].find(o => o.text === 'Kelp Hall').value
		hall.dispatchEvent(new Event('change'))
		const [from, to] = document.querySelectorAll('.entry-clock input')
		from.value = '12:30'; from.dispatchEvent(new Event('input'))
		to.value = '14:00'; to.dispatchEvent(new Event('input'))
	})()`
	today, err := hand.Ask[string](p, `fetch('/api/term').then(r => r.json()).then(t => t.now)`)
	if err != nil {
		return err
	}
	_, err = hand.Ask[any](p, strings.Replace(write, "DAY", "'"+today+"'", 1))
	return errors.Join(err, p.See("clash"))
}

// both opens the desk of today's lecture with a tab of slides and the camera.
func both(p *hand.Page, slide string) error {
	slides, err := p.Beside()
	if err != nil {
		return err
	}
	return errors.Join(chromedp.Do(slides.Context(), chromedp.Navigate(slide)), p.Click("nobody has pressed start"),
		p.Click("Both"),
		p.Wait(`document.querySelectorAll('video').length === 2 && [...document.querySelectorAll('video')].every(v => v.videoWidth > 0)`),
		p.See("The screen is shown"), p.See("Loud enough"))
}

// stage makes what camera and microphone give: a talk of the demonstration.
func stage(folder string) (camera, voice, slides string, err error) {
	camera, voice, still := filepath.Join(folder, "camera.mjpeg"), filepath.Join(folder, "voice.wav"),
		filepath.Join(folder, "slide.jpg")
	// A figure before a wall: a head and shoulders that sway a little.
	const figure = "geq=lum='if(lt(hypot(X-160-6*sin(T*2),(Y-72)*0.85),34),170,if(lt(hypot((X-160-4*sin(T*2))*0.62,Y-196),66),70,120+20*Y/180))':cb='if(lt(hypot(X*2-160-6*sin(T*2),(Y*2-72)*0.85),34),112,126)':cr='if(lt(hypot(X*2-160-6*sin(T*2),(Y*2-72)*0.85),34),146,128)',noise=alls=4:allf=t"
	for _, args := range [][]string{
		{"-f", "lavfi", "-i", "color=gray:s=320x180:r=10:d=4", "-vf", figure, "-q:v", "3", camera},
		{"-ss", "13", "-t", "30", "-i", "demo/media/tid-1.mp4", "-map", "0:a", "-af", "volume=-1dB", "-ac", "1", voice},
		{"-ss", "20", "-i", "demo/media/tid-1.mp4", "-frames:v", "1", "-q:v", "3", still},
	} {
		if out, err := exec.Command("ffmpeg",
			append([]string{"-v", "error"}, args...)...).CombinedOutput(); err != nil {
			return "", "", "", fmt.Errorf("make a stage: %w\n%s", err, out)
		}
	}
	picture, err := os.ReadFile(still)
	if err != nil {
		return "", "", "", err
	}
	page := "<title>" + slidesTitle +
		"</title><body style='margin:0;background:#000'><img style='width:100vw;height:100vh;object-fit:contain' src='data:image/jpeg;base64," + base64.StdEncoding.EncodeToString(picture) + "'>" +
		// a tab on which nothing moves sends nothing
		"<i id=n style='position:fixed;right:0;bottom:0;width:2px;height:2px'></i><script>setInterval(() => n.style.background = Date.now() % 2 ? '#111' : '#000', 100)</script>"
	return camera, voice, "data:text/html;base64," + base64.StdEncoding.EncodeToString([]byte(page)), nil
}

// slidesTitle is the title of the tab that is shared.
const slidesTitle = "Slides of the lecture"

// one takes a picture.
func one(b *hand.Browser, base, to string, v view) error {
	p, err := b.Page(base)
	if err != nil {
		return err
	}
	defer p.Close()
	if err := p.Allow(base); err != nil {
		return err
	}
	if v.narrow {
		if err := p.Size(390, 844); err != nil {
			return err
		}
	}
	if v.night {
		dark := []*emulation.MediaFeature{{Name: "prefers-color-scheme", Value: "dark"}}
		if _, err := chromedp.Call(p.Context(), emulation.SetEmulatedMedia,
			emulation.SetEmulatedMediaParams{Features: dark}); err != nil {
			return err
		}
	}
	if err := errors.Join(p.SignIn(demo.Accounts[v.who].Email, demo.Password), p.Go(v.path),
		p.Wait(v.wait)); err != nil {
		return err
	}
	if v.more != nil {
		if err := v.more(p); err != nil {
			return err
		}
	}
	return p.Picture(filepath.Join(to, v.name+".png"))
}
