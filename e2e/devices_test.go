package e2e

import (
	"context"
	"fmt"
	"os"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"

	"latelantern/e2e/hand"
)

// stubborn puts a hand on the devices of a page, and sets its clock an hour ahead: what is given
// out is kept, and refused when that is wanted.
const stubborn = `(() => {
	const real = Date.now, ask = MediaDevices.prototype.getUserMedia;
	Date.now = () => real() + 3600e3;
	window.given = {};
	MediaDevices.prototype.getUserMedia = async function(what) {
		const kind = what.video ? 'video' : 'audio';
		if (window.refuses === kind) throw new DOMException('', 'NotReadableError');
		const s = await ask.call(this, what);
		window.given[kind] = s.getTracks()[0];
		return s;
	};
})()`

// asleep stops every process of a browser, as a computer that sleeps does.
func asleep(p *hand.Page, d time.Duration) error {
	pid := chromedp.FromContext(p.Context()).Browser.Process().Pid
	family := []int{pid}
	for i := 0; i < len(family); i++ {
		tasks, _ := os.ReadDir("/proc/" + strconv.Itoa(family[i]) + "/task")
		for _, task := range tasks {
			b, _ := os.ReadFile("/proc/" + strconv.Itoa(family[i]) + "/task/" + task.Name() + "/children")
			for _, child := range strings.Fields(string(b)) {
				if id, err := strconv.Atoi(child); err == nil {
					family = append(family, id)
				}
			}
		}
	}
	for _, id := range family {
		if err := syscall.Kill(id, syscall.SIGSTOP); err != nil {
			return err
		}
	}
	time.Sleep(d)
	for _, id := range family {
		if err := syscall.Kill(id, syscall.SIGCONT); err != nil {
			return err
		}
	}
	return nil
}

// TestDevicesThatFail: in one capture the microphone is unplugged, another program takes the
// camera, the computer sleeps, its clock is an hour off, and a second tab captures as well. Each
// is said at once, the rest goes on, and all of it is one recording.
func TestDevicesThatFail(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s := newStage(t, "none")
	b := chromium(t)
	p := s.person(b, lecturer)
	_, err := chromedp.Call(p.Context(), page.AddScriptToEvaluateOnNewDocument,
		page.AddScriptToEvaluateOnNewDocumentParams{Source: stubborn})
	s.must(err)
	do := func(js string) {
		t.Helper()
		_, err := hand.Ask[bool](p, js+`, true`)
		s.must(err)
	}
	lecture, _ := s.underWay()
	s.must(p.Go("/lectures/"+lecture.String()+"/capture"), p.Click("Camera"), p.See("Sound is heard"),
		p.See("The camera sees something"))
	begun := s.house.Clock.Now()
	s.must(p.Click("Start capture"), p.Wait(safe+" >= 2"))

	do(`given.audio.stop(), given.audio.dispatchEvent(new Event('ended'))`)
	s.must(p.See("The microphone is gone: the picture goes on without it"), p.Wait(safe+" >= 4"))
	do(`refuses = 'audio'`)
	s.must(p.Click("Use the microphone"), p.See("The microphone cannot be opened"))
	do(`refuses = ''`)
	s.must(p.Click("Use the microphone"), p.See("Sound is heard"))

	do(`given.video.dispatchEvent(new Event('mute'))`)
	s.must(p.See("The camera gives no picture: another program may have taken it"), p.See("Close the other program."))
	do(`given.video.dispatchEvent(new Event('unmute'))`)
	s.must(p.See("The camera sees something"))
	do(`given.video.stop(), given.video.dispatchEvent(new Event('ended')), refuses = 'video'`)
	s.must(p.See("The camera is gone: its last picture stands still"), p.Click("Open the camera again"),
		p.See("The camera cannot be opened"))
	do(`refuses = ''`)
	s.must(p.Click("Open the camera again"), p.See("The camera sees something"))

	// Longer than what the desk takes for a computer that stood still.
	s.must(asleep(p, 17*time.Second), p.See("This computer stood still for a while."))
	saved, err := hand.Ask[float64](p, safe)
	s.must(err)

	second, err := p.Beside()
	s.must(err, second.Allow(s.base()), second.Go("/lectures/"+lecture.String()+"/capture"),
		second.See("is running already, from another page or computer"),
		second.See("Sound is heard"), second.Click("Start capture"), second.Wait(safe+" >= 2"))
	s.must(p.Wait(fmt.Sprintf("%s > %v", safe, saved+2)), p.Click("Stop capture"),
		p.See("Another page or computer still captures this lecture."), second.Wait(safe+" >= 4"),
		second.Click("Stop capture"))
	ended := s.house.Clock.Now()
	s.must(second.See("it can be watched now"))

	s.must(p.See("it can be watched now"))
	r, err := s.house.Recordings.Recording(ctx, s.captured())
	s.must(err)
	if r.Parts != 3 || !r.Video || !r.Audio {
		t.Errorf("%d parts, pictures %v, sound %v", r.Parts, r.Video, r.Audio)
	}
	if off := r.StartedAt.Sub(begun).Abs(); off > 30*time.Second {
		t.Errorf("it began %v from when it began, by a clock an hour off", off)
	}
	// Its clock did not stand still with the computer.
	if off := (ended.Sub(r.StartedAt) - r.Length).Abs(); off > 6*time.Second {
		t.Errorf("%v of %v are there", r.Length, ended.Sub(r.StartedAt))
	}
	s.must(p.Click("Trim and title it"), p.Wait(`document.querySelectorAll('.strip [data-band]').length > 0`),
		p.Click("Play"), plays(p))
}
