package e2e

import (
	"context"
	"errors"
	"fmt"
	"io"
	"testing"
	"time"

	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/google/uuid"

	"latelantern/e2e/hand"
	"latelantern/internal/audience"
	"latelantern/internal/capture"
	"latelantern/internal/core/caption"
	"latelantern/internal/core/span"
	"latelantern/internal/cuts"
	"latelantern/internal/platform/postgres"
)

// focused is what has the focus: its name as it is read out, or its words.
const focused = `(e => (e.getAttribute('aria-label') || e.innerText || e.value || e.id || '').trim())(document.activeElement)`

// press goes to a control by tab alone, and presses it with a key.
func press(p *hand.Page, words, key string) error {
	if err := p.Wait(fmt.Sprintf(`[...document.querySelectorAll('button, a, input, select')].some(e => !e.disabled && (e.getAttribute('aria-label') || e.innerText || '').includes(%q))`, words)); err != nil {
		return fmt.Errorf("wait for %q: %w", words, err)
	}
	seen := ""
	for range 150 {
		if err := p.Keys(kb.Tab); err != nil {
			return err
		}
		at, err := hand.Ask[bool](p, fmt.Sprintf("%s.includes(%q)", focused, words))
		if err != nil {
			return err
		}
		if at {
			visible, err := hand.Ask[bool](p, `document.activeElement.matches(':focus-visible')`)
			if err != nil || !visible {
				return errors.Join(err, fmt.Errorf("the focus on %q is not to be seen", words))
			}
			return p.Keys(key)
		}
		name, _ := hand.Ask[string](p, focused)
		seen += name + " | "
	}
	return fmt.Errorf("tab does not lead to %q: %s", words, seen)
}

// TestFromCaptureToPublishedByKeys: a lecture is captured, trimmed, titled, ruled, listed and lit
// without a mouse.
func TestFromCaptureToPublishedByKeys(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s := newStage(t, "tid-1")
	course := s.course("TID 210")
	s.must(s.house.Audience.SetRule(ctx, audience.Scope{Course: course}, uuid.Nil, nil))
	b := chromium(t)
	p := s.person(b, lecturer)
	s.must(p.Wait(`document.querySelectorAll('.lantern').length > 5`), press(p, "nobody has pressed start", kb.Enter),
		press(p, "Camera", " "), p.See("Sound is heard"), p.See("The server answers"),
		press(p, "Start capture", kb.Enter), p.Wait(safe+" >= 6"), press(p, "Stop capture", kb.Enter),
		p.See("it can be watched now"))
	s.must(press(p, "Trim and title it", kb.Enter),
		p.Wait(`document.querySelectorAll('.strip [data-band]').length > 0`),
		p.Wait(`document.querySelector('video')?.readyState > 2`))
	// Keys as quick as a hand makes them: each begins where the one before led.
	s.must(p.Keys("i"+kb.ArrowRight+"ox"), p.See("1 stretch struck"),
		press(p, "Keep this title", kb.Enter), press(p, "Set the viewing rule", kb.Enter),
		p.See("can watch what is lit"), press(p, "Keep this rule", kb.Enter), p.See("This rule holds"),
		press(p, "Back to the recording", kb.Enter),
		press(p, "Put it into the playlist", kb.Enter), press(p, "Light it for TID 210", kb.Enter),
		p.See("24 of 24 of TID 210 can watch"), p.Wait(`document.querySelector('aside .lantern.lit')`))
	id, err := postgres.Value[uuid.UUID](ctx, s.house.DB,
		`select distinct rc.recording_id from recording_capture rc join capture c on c.id = rc.capture_id
			where c.source = 'desk'`)
	s.must(err)
	r, err := s.house.Recordings.Recording(ctx, id)
	s.must(err)
	if r.CutListID == nil || r.EditionID == nil {
		t.Errorf("the cuts are %v, and the edition %v", r.CutListID, r.EditionID)
	}
}

// TestTheWholeBench: a slide, words and what lies between pauses are selected by one key each; an
// earlier version is looked at and brought back; the recording is split, and made one again; it
// goes to the bin and comes back.
func TestTheWholeBench(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s := newStage(t, "alg-3")
	b := chromium(t)
	p := s.person(b, coordinator)
	id, err := postgres.Value[uuid.UUID](ctx, s.house.DB, `select id from recording`)
	s.must(err)
	by, err := postgres.Value[uuid.UUID](ctx, s.house.DB, `select id from person where name = 'Tobias Hallgrim'`)
	s.must(err)
	r, err := s.house.Recordings.Recording(ctx, id)
	s.must(err)
	strip, err := s.house.Recordings.Strip(ctx, id, r.Length)
	s.must(err)
	cues := []caption.Cue{{Span: span.Span{Start: 20 * time.Second, End: 23 * time.Second},
		Text: "the first line of words"},
		{Span: span.Span{Start: 23500 * time.Millisecond, End: 26200 * time.Millisecond}, Text: "and the second"}}
	s.must(s.house.Words.Take(ctx, id, "en", by, caption.Sheet{Cues: cues}))
	open := func() error {
		return errors.Join(p.Go("/recordings/"+id.String()),
			p.Wait(`document.querySelectorAll('.strip [data-band]').length > 3 && document.querySelector('video')?.readyState > 1`))
	}
	_, err = chromedp.Call(p.Context(), page.AddScriptToEvaluateOnNewDocument,
		page.AddScriptToEvaluateOnNewDocumentParams{
			Source: `{ const make = AudioContext.prototype.createGain; AudioContext.prototype.createGain = function () { return window.GAIN = make.call(this) } }`})
	s.must(err, open())
	// The sound is played by the gain that the bench says.
	gain := strip.Gain(r.Kept())
	if gain == nil || gain.DB < 1 {
		t.Fatalf("the gain is %+v", gain)
	}
	s.must(p.See(fmt.Sprintf("Played %.1f dB louder", gain.DB)), p.Keys("k"),
		p.Wait(fmt.Sprintf(`window.GAIN && Math.abs(20 * Math.log10(GAIN.gain.value) - %f) < 0.1 && !document.querySelector('video').paused && document.querySelector('video').currentTime > 0.3`, gain.DB)), p.Keys("k"), p.Wait(`document.querySelector('video').paused`))
	// What is selected is told in the status line, in tenths.
	tell := func(x span.Span) string {
		t := func(d time.Duration) string {
			tenths := int64(d / (100 * time.Millisecond))
			return fmt.Sprintf("%d:%02d.%d", tenths/600, tenths/10%60, tenths%10)
		}
		return t(x.Start) + " to " + t(x.End)
	}
	slide := strip.Slides[1]
	at := time.Duration(slide.AtMs)*time.Millisecond + 300*time.Millisecond
	whole := tell(span.Span{Start: time.Duration(slide.AtMs) * time.Millisecond,
		End: time.Duration(strip.Slides[2].AtMs) * time.Millisecond})
	s.must(seek(p, at), p.Keys("s"), p.See(whole))
	word := cues[1]
	s.must(seek(p, word.Start+200*time.Millisecond), p.Keys("w"), p.See(tell(word.Span)), p.Keys("p"),
		p.Wait(fmt.Sprintf(`!document.body.innerText.includes(%q)`, tell(word.Span))), p.Keys(kb.Escape))
	// A slide that is pressed is selected as well.
	at2, err := hand.Ask[[2]float64](p,
		`(r => [r.x + r.width / 2, r.y + r.height / 2])(document.querySelectorAll('.slides img')[1].getBoundingClientRect())`)
	s.must(err, chromedp.Do(p.Context(), chromedp.MouseClickXY(at2[0], at2[1])), p.See(whole), p.Keys(kb.Escape))
	// So are words over which one drags; pressed twice, all of their line.
	place := func(n int) (x, y float64) {
		at, err := hand.Ask[[2]float64](p,
			fmt.Sprintf(`(r => [r.x + r.width / 2, r.y + r.height / 2])(document.querySelectorAll('.words p')[0].children[%d].getBoundingClientRect())`, n))
		s.must(err)
		return at[0], at[1]
	}
	line := cues[0]
	said := line.Spoken()
	x1, y1 := place(0)
	x2, y2 := place(2)
	s.must(p.Drag(x1, y1, x2, y2), p.See(tell(span.Span{Start: said[0].Start, End: said[2].End})),
		p.Wait(`document.querySelectorAll('.words .picked').length >= 3`))
	s.clean(p, "words selected")
	s.must(chromedp.Do(p.Context(), chromedp.MouseClickXY(x2, y2, chromedp.ClickCount(2))), p.See(tell(line.Span)),
		p.Keys(kb.Escape))
	s.must(p.See("30 s to a line"), p.Keys("z"), p.See("20 s to a line"), p.Keys("Z"), p.See("30 s to a line"))

	s.must(s.house.Cuts.Change(ctx, id, by, cuts.Strike, span.Span{Start: 10 * time.Second, End: 12 * time.Second}),
		s.house.Cuts.Change(ctx, id, by, cuts.Strike, span.Span{Start: 20 * time.Second, End: 25 * time.Second}))
	s.must(p.See("2 stretches struck"), p.Keys("v"), p.See("Tobias Hallgrim"), p.See("keeps 0:05.0 that is struck now"),
		p.Click("Look at it"), p.Wait(`document.querySelectorAll('.compared').length === 1`))
	s.clean(p, "versions")
	s.must(p.Click("Bring it back"), p.See("1 stretch struck"), p.Click("Close"),
		p.Wait(`![...document.querySelectorAll('.el-overlay')].some(o => o.checkVisibility())`), p.Click("Undo"),
		p.See("2 stretches struck"))

	half := r.Length / 2
	s.must(seek(p, half), p.Keys("d"), p.See("Where does the rest belong?"))
	s.clean(p, "splitting")
	s.must(p.Click("To this lecture, as a second recording"), p.See("It was split: the rest is"))
	one, err := s.house.Recordings.Recording(ctx, id)
	s.must(err)
	if (one.Length - half).Abs() > 2*time.Second {
		t.Errorf("split at %v, %v is left", half, one.Length)
	}
	s.must(p.Click("Open it"), p.See("This is the rest of"), p.Wait(`document.querySelector('video')?.readyState > 1`))
	s.clean(p, "the rest")
	s.must(p.Click("Undo"), p.See("2 stretches struck"))
	if again, err := s.house.Recordings.Recording(ctx, id); err != nil || again.Length != r.Length {
		t.Errorf("made one again it has %v of %v (%v)", again.Length, r.Length, err)
	}
	s.must(p.Click("Take this recording away"), p.See("lies in the bin"), p.Click("The bin"), p.See("Removed for good"))
	s.clean(p, "the bin")
	s.must(p.Click("Bring back"), p.See("is back"), p.See("The bin is empty"), p.Click("Undo"),
		p.See("Removed for good"), p.Click("Bring back"), p.See("is back"))
	// The same lecture sent once more stands beside it.
	again, err := s.house.Recordings.Recording(ctx, id)
	s.must(err)
	original, err := s.house.Capture.Original(ctx, again.ID)
	s.must(err)
	f, err := original.Open()
	s.must(err)
	defer f.Close()
	size, err := f.Seek(0, io.SeekEnd)
	s.must(err)
	_, err = f.Seek(0, io.SeekStart)
	s.must(err)
	twin, err := s.house.Capture.Begin(ctx,
		capture.Start{Lecture: again.LectureID, By: by, Source: capture.File, FileName: "again.mp4", Length: &size})
	s.must(err)
	_, err = s.house.Capture.Append(ctx, twin.Track, 0, nil, f)
	s.must(err)
	s.must(open(), p.See("is here twice"), p.Click("Look at both"), p.See("Its bytes are the same"),
		p.Wait(`[...document.querySelectorAll('.el-drawer img')].length === 2`))
	s.clean(p, "twins")
	s.must(p.Click("Keep this one: This one"),
		p.Wait(`!document.querySelector('.el-drawer') || !/One of two/.test(document.body.innerText)`),
		p.Wait(`!/is here twice/.test(document.body.innerText)`))
	// What was trimmed by itself is undone with one press.
	_, err = s.house.DB.Exec(ctx,
		`update cut_list set made_by = null
			where id = (select cut_list_id from recording_cuts where recording_id = $1)`, id)
	s.must(err, open(), p.See("The ends were trimmed by themselves"))
	s.clean(p, "trimmed by itself")
	s.must(p.Click("Undo"), p.Wait(`!/trimmed by themselves/.test(document.body.innerText)`))
	n, err := postgres.Value[int](ctx, s.house.DB,
		`select count(*)::int from recording r
			where deleted_at is not null and exists (select 1 from recording_capture where recording_id = r.id)`)
	if err != nil || n != 1 {
		t.Errorf("%d lie in the bin (%v)", n, err)
	}
}
