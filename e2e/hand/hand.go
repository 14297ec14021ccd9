// Package hand works the real interface in headless Chromium as a person would: it finds
// controls by the words on them, waits for what can be seen, and takes pictures.
package hand

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"slices"
	"sync"
	"time"

	"github.com/chromedp/cdproto/browser"
	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/heapprofiler"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/log"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
)

// Browser is a running Chromium with a fresh profile.
type Browser struct {
	ctx  context.Context
	stop func()
}

// Open starts a browser with the given profile folder and further flags.
func Open(ctx context.Context, profile string, flags ...chromedp.ExecAllocatorOption) (*Browser, error) {
	options := append([]chromedp.ExecAllocatorOption{}, chromedp.DefaultExecAllocatorOptions[:]...)
	options = append(options, chromedp.ExecPath("/usr/bin/chromium"), chromedp.DisableGPU,
		chromedp.UserDataDir(profile), chromedp.WindowSize(1280, 800),
		chromedp.Flag("disable-quic", true), chromedp.Flag("disable-component-update", true),
		chromedp.Flag("autoplay-policy", "no-user-gesture-required"))
	if os.Geteuid() == 0 {
		options = append(options, chromedp.NoSandbox)
	}
	options = append(options, flags...)
	allocator, stopAllocator := chromedp.NewExecAllocator(ctx, options...)
	browser, stopBrowser := chromedp.NewContext(allocator)
	b := &Browser{browser, func() { stopBrowser(); stopAllocator() }}
	if err := chromedp.Do(browser); err != nil {
		b.stop()
		return nil, fmt.Errorf("start the browser: %w", err)
	}
	return b, nil
}

// Close ends the browser.
func (b *Browser) Close() { b.stop() }

// Page is one tab. Own cookies make it another person. After something failed, nothing
// more is done, and every call gives that error.
type Page struct {
	ctx     context.Context
	base    string
	close   func()
	fault   error
	browser context.Context
}

// then does the next thing unless something failed before.
func (p *Page) then(do func() error) error {
	if p.fault == nil {
		p.fault = do()
	}
	return p.fault
}

// Page opens a tab for a person of their own, at 1280x800. Paths are below base.
func (b *Browser) Page(base string) (*Page, error) {
	ctx, stop := chromedp.NewContext(b.ctx, chromedp.WithNewBrowserContext())
	p := &Page{ctx: ctx, base: base, close: stop, browser: b.ctx}
	return p, errors.Join(p.leaves(), chromedp.Do(ctx, chromedp.EmulateViewport(1280, 800)))
}

// leaves has the browser leave pages that ask whether one means it.
func (p *Page) leaves() error {
	return chromedp.Listen(p.ctx, func(event any) {
		if e, ok := event.(*page.EventJavascriptDialogOpening); ok && e.Type == page.DialogTypeBeforeunload {
			go func() {
				_, _ = chromedp.Call(p.ctx, page.HandleJavaScriptDialog,
					page.HandleJavaScriptDialogParams{Accept: true})
			}()
		}
	})
}

// Beside opens another tab of the same person.
func (p *Page) Beside() (*Page, error) {
	id := chromedp.FromContext(p.ctx).BrowserContextID
	ctx, stop := chromedp.NewContext(p.browser, chromedp.WithExistingBrowserContext(id))
	b := &Page{ctx: ctx, base: p.base, close: stop, browser: p.browser}
	return b, errors.Join(b.leaves(), chromedp.Do(ctx, chromedp.EmulateViewport(1280, 800)))
}

// Context is for commands that this package has no word for.
func (p *Page) Context() context.Context { return p.ctx }

// Close closes the tab.
func (p *Page) Close() { p.close() }

// leaksTold is after what time the browser has told of pictures that were thrown away and not given back: it looks
// every ten seconds, and says nothing when there are none.
const leaksTold = 11 * time.Second

// Warnings begins to keep what the browser warns of in this tab, and gives the function that says what it was until
// now, after everything nobody needs any more was thrown away.
func (p *Page) Warnings() (func() ([]string, error), error) {
	var lock sync.Mutex
	var told []string
	err := chromedp.Listen(p.ctx, func(event any) {
		e, ok := event.(*log.EventEntryAdded)
		if ok && (e.Entry.Level == log.EntryLevelWarning || e.Entry.Level == log.EntryLevelError) {
			lock.Lock()
			defer lock.Unlock()
			told = append(told, e.Entry.Text)
		}
	})
	return func() ([]string, error) {
		_, err := chromedp.Call(p.ctx, heapprofiler.CollectGarbage, cdp.Empty{})
		err = errors.Join(err, chromedp.Do(p.ctx, chromedp.Sleep(leaksTold)))
		lock.Lock()
		defer lock.Unlock()
		return slices.Clone(told), err
	}, err
}

// Size makes the tab another size.
func (p *Page) Size(width, height int64) error {
	return chromedp.Do(p.ctx, chromedp.EmulateViewport(width, height))
}

// patience is how long is waited for something to appear, on a machine that may be busy with other tests.
const patience = 2 * time.Minute

// Go opens a path.
func (p *Page) Go(path string) error {
	return p.then(func() error {
		if err := chromedp.Do(p.ctx, chromedp.Navigate(p.base+path)); err != nil {
			return fmt.Errorf("open %s: %w", path, err)
		}
		return nil
	})
}

// Ask evaluates an expression, which may be a promise.
func Ask[T any](p *Page, expression string) (T, error) {
	return chromedp.Run(p.ctx, chromedp.Evaluate[T](expression, chromedp.EvalAwaitPromise))
}

// Wait waits until an expression is true, and tells what the page shows when that does not happen.
func (p *Page) Wait(expression string) error { return p.WaitFor(expression, patience) }

// WaitFor is Wait with a limit of its own.
func (p *Page) WaitFor(expression string, limit time.Duration) error {
	return p.then(func() error {
		deadline := time.Now().Add(limit)
		for {
			ok, err := Ask[bool](p, "!!("+expression+")")
			if ok && err == nil {
				return nil
			}
			if time.Now().After(deadline) {
				shown, _ := Ask[string](p, `location.pathname + "\n" + document.body.innerText.slice(0, 1500)`)
				return errors.Join(fmt.Errorf("waited %v for %s; the page shows %s", limit, expression, shown), err)
			}
			select {
			case <-p.ctx.Done():
				return p.ctx.Err()
			case <-time.After(50 * time.Millisecond):
			}
		}
	})
}

func quote(s string) string {
	b, err := json.Marshal(s)
	if err != nil {
		panic(err) // a string is always JSON
	}
	return string(b)
}

// See waits until a text can be seen.
func (p *Page) See(text string) error {
	return p.Wait(fmt.Sprintf(`document.body.innerText.includes(%s)`, quote(text)))
}

// find is a control by its words: the first that is seen whose text or label has them, in what lies
// over the page before what lies under it; with fields one into which something is entered.
const find = `((words, fields) => {
	const name = e => [e.getAttribute('aria-label'), e.innerText,
		e.labels && [...e.labels].map(l => l.innerText).join(' '), e.placeholder, e.id].filter(Boolean).join(' ');
	const seen = e => { const r = e.getBoundingClientRect(); return r.width > 0 && r.height > 0 && !e.disabled };
	const buttons = 'button, a, summary, [role=button], [role=menuitem], .el-segmented__item, ';
	const entries = 'input, textarea, select';
	const all = [...document.querySelectorAll((fields ? '' : buttons) + entries)].filter(seen);
	all.sort((a, b) => !!b.closest('[role=dialog]') - !!a.closest('[role=dialog]'));
	return all.find(e => name(e).trim() === words) || all.find(e => name(e).includes(words));
})`

// still is the middle of a control once it has come to rest: a person does not press what moves. From then on the page
// notes what is pressed. It throws when that
// does not happen in so many milliseconds, for what goes away or moves on and on.
const still = `(async (get, patience) => {
	// A tab that is not drawn has no frames.
	const frame = () => new Promise(r => { requestAnimationFrame(r); setTimeout(r, 1000) });
	const until = Date.now() + patience;
	for (let before = '', rests = 0; Date.now() < until;) {
		const e = get();
		e?.scrollIntoView({block: 'center'});
		await frame();
		const r = e?.getBoundingClientRect(), now = r && [r.x, r.y, r.width].join();
		rests = now && now === before ? rests + 1 : 0;
		before = now;
		if (rests === 3) {
			// What is under the mouse may be another once it is pressed: it is looked at as it happens.
			if (!window.pressed) addEventListener('click', ({target}) => {
				window.pressed.hit ||= window.pressed.on.contains(target) || !window.pressed.on.isConnected;
			}, true);
			window.pressed = {on: e, hit: false};
			return [r.x + r.width / 2, r.y + r.height / 2];
		}
	}
	throw new Error(get() ? 'it does not come to rest' : 'it went away');
})`

// landed is whether what was pressed is the control that was meant, or one that took its place. A page that has gone
// elsewhere since was pressed.
const landed = `(p => !p || p.hit)(window.pressed)`

// presses is how often a control is pressed that moves away as the mouse goes down.
const presses = 3

// Click presses the control with these words, as a mouse does.
func (p *Page) Click(words string) error {
	return p.then(func() error {
		control := find + "(" + quote(words) + ")"
		if err := p.Wait(control); err != nil {
			return fmt.Errorf("look for %q: %w", words, err)
		}
		for range presses {
			at, err := Ask[[2]float64](p, fmt.Sprintf("%s(() => %s, %d)", still, control, patience.Milliseconds()))
			if err != nil {
				return fmt.Errorf("look for %q where it was seen: %w", words, err)
			}
			if err := chromedp.Do(p.ctx, chromedp.MouseClickXY(at[0], at[1])); err != nil {
				return fmt.Errorf("press %q: %w", words, err)
			}
			// A page that is just leaving answers nothing: it was pressed.
			if hit, err := Ask[bool](p, landed); hit || err != nil {
				return nil
			}
		}
		return fmt.Errorf("press %q: something else is there", words)
	})
}

// Drag moves the mouse from one point to another with the button down.
func (p *Page) Drag(fromX, fromY, toX, toY float64) error {
	return p.then(func() error {
		return chromedp.Do(p.ctx, chromedp.DragAndDropXY(fromX, fromY, toX, toY, 8))
	})
}

// Write puts text into the field with these words in place of what is there.
func (p *Page) Write(words, text string) error {
	return p.then(func() error {
		control := find + "(" + quote(words) + ", true)"
		if err := p.Wait(control); err != nil {
			return fmt.Errorf("look for %q: %w", words, err)
		}
		if _, err := Ask[bool](p, `(e => { e.focus(); e.select(); return true })(`+control+`)`); err != nil {
			return fmt.Errorf("enter %q: %w", words, err)
		}
		return p.Keys(text)
	})
}

// Set chooses in the control with these words: the option of a list by its text or a part of it, or a date.
func (p *Page) Set(words, choice string) error {
	return p.then(func() error {
		control := find + "(" + quote(words) + ", true)"
		if err := p.Wait(control); err != nil {
			return fmt.Errorf("look for %q: %w", words, err)
		}
		const set = `(async (e, choice) => {
			const list = e.closest('.el-select'), frame = () => new Promise(r => requestAnimationFrame(r));
			if (list) {
				list.scrollIntoView({block: 'center'});
				list.querySelector('.el-select__wrapper').click();
				for (const until = Date.now() + 5000; Date.now() < until; await frame()) {
					const all = [...document.querySelectorAll('[role=option]')]
						.filter(o => o.getBoundingClientRect().height > 0);
					const option = all.find(o => o.innerText.trim() === choice) ||
						all.find(o => o.innerText.includes(choice));
					option?.click();
					if (option) return true;
				}
				return false;
			}
			const option = e.options && [...e.options].find(o => o.text === choice);
			e.focus();
			if (e.closest('.el-date-editor')) {
				const [y, m, d] = choice.split('-');
				choice = e.placeholder.replace('yyyy', y).replace('mm', m).replace('dd', d);
			}
			e.value = option ? option.value : choice;
			e.dispatchEvent(new Event('input', {bubbles: true}));
			e.dispatchEvent(new Event('change', {bubbles: true}));
			return e.value !== '' || choice === '';
		})`
		done, err := Ask[bool](p, set+"("+control+", "+quote(choice)+")")
		if err == nil && !done {
			err = fmt.Errorf("%q cannot be chosen", choice)
		}
		if err != nil {
			return fmt.Errorf("choose in %q: %w", words, err)
		}
		return nil
	})
}

// Focus puts the focus on an element, once it is there.
func (p *Page) Focus(selector string) error {
	if err := p.Wait(fmt.Sprintf("document.querySelector(%q)", selector)); err != nil {
		return err
	}
	_, err := Ask[bool](p, fmt.Sprintf("(e => (e.focus(), true))(document.querySelector(%q))", selector))
	return err
}

// Keys presses keys, one after another.
func (p *Page) Keys(keys string) error { return chromedp.Do(p.ctx, chromedp.KeyEvent(keys)) }

// Held while a key is pressed.
const (
	Ctrl  = chromedp.ModifierCtrl
	Shift = chromedp.ModifierShift
)

// Press presses keys while others are held.
func (p *Page) Press(keys string, held ...chromedp.Modifier) error {
	return chromedp.Do(p.ctx, chromedp.KeyEvent(keys, chromedp.KeyModifiers(held...)))
}

// SignIn signs in by the form.
func (p *Page) SignIn(email, password string) error {
	return p.then(func() error {
		return p.then(func() error {
			if err := p.Go("/sign-in"); err != nil {
				return err
			}
			return errors.Join(p.Write("email", email), p.Write("password", password), p.Click("Sign in"),
				p.Wait(`location.pathname !== "/sign-in"`))
		})
	})
}

// settled waits until fonts and pictures are there, nothing comes or goes any more, which takes no ten seconds, and two
// frames were drawn.
const settled = `document.fonts.ready
	.then(() => Promise.all([...document.images].map(i =>
		i.complete || new Promise(r => { i.onload = i.onerror = r }))))
	.then(async () => {
		const moves = () => document.querySelector('[class*="-leave-active"], [class*="-enter-active"]');
		const until = Date.now() + 10000;
		while (moves() && Date.now() < until) await new Promise(r => setTimeout(r, 50));
	})
	.then(() => new Promise(r => requestAnimationFrame(() => requestAnimationFrame(() => r(true)))))`

// Picture takes a picture of what is to be seen.
func (p *Page) Picture(path string) error {
	return p.then(func() error {
		// nothing is pointed at
		if err := chromedp.Do(p.ctx, chromedp.MouseEvent(input.DispatchMouseEventTypeMouseMoved, 1, 1)); err != nil {
			return fmt.Errorf("move the mouse away: %w", err)
		}
		if _, err := Ask[bool](p, settled); err != nil {
			return fmt.Errorf("wait for the page to settle: %w", err)
		}
		png, err := chromedp.Run(p.ctx, chromedp.CaptureScreenshot())
		if err != nil {
			return fmt.Errorf("take a picture: %w", err)
		}
		return os.WriteFile(path, png, 0o644)
	})
}

// Finding is something that axe objects to.
type Finding struct {
	ID     string `json:"id"`
	Help   string `json:"help"`
	Target string `json:"target"`
}

// Axe runs the accessibility checks of axe-core, whose script is source, on the page: all
// of WCAG 2.2 A and AA.
func (p *Page) Axe(source string) ([]Finding, error) {
	if _, err := Ask[bool](p, source+"; true"); err != nil {
		return nil, fmt.Errorf("load axe: %w", err)
	}
	return p.axe(`['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice']`)
}

// Contrast runs the check of colours again, on a page that Axe has seen.
func (p *Page) Contrast() ([]Finding, error) {
	return p.axe(`{ type: 'rule', values: ['color-contrast', 'link-in-text-block'] }`)
}

func (p *Page) axe(only string) ([]Finding, error) {
	if _, err := Ask[bool](p, settled); err != nil {
		return nil, err
	}
	return Ask[[]Finding](p,
		`axe.run(document, { runOnly: `+only+` }).then(r => r.violations.flatMap(v => v.nodes.map(n => ({
		id: v.id, help: v.help, target: n.target.join(' ') + ' ' + n.html.slice(0,
			160) + ' ' + (n.any[0]?.message ?? '') }))))`)
}

// Allow lets the pages of an origin use camera and microphone.
func (p *Page) Allow(origin string) error {
	for _, name := range []string{"camera", "microphone"} {
		_, err := chromedp.CallBrowser(p.Context(), browser.SetPermission, browser.SetPermissionParams{
			Permission: &browser.PermissionDescriptor{Name: name}, Setting: browser.PermissionSettingGranted,
			Origin:           origin,
			BrowserContextID: chromedp.FromContext(p.Context()).BrowserContextID,
		})
		if err != nil {
			return fmt.Errorf("allow the %s: %w", name, err)
		}
	}
	return nil
}
