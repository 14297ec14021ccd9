package hand

import (
	"fmt"
	"strings"
	"time"

	"github.com/chromedp/cdproto/target"
	"github.com/chromedp/chromedp"
)

// Opened waits for a page that others of the browser hold or opened, a frame of another site ("iframe") or a window
// ("page"), whose address holds some words. A frame hears no mouse of ours: see Tap.
func (p *Page) Opened(kind, address string) (*Page, error) {
	var there []string
	for deadline := time.Now().Add(patience); time.Now().Before(deadline); time.Sleep(50 * time.Millisecond) {
		all, err := chromedp.Targets(p.ctx)
		if err != nil {
			return nil, fmt.Errorf("list what the browser shows: %w", err)
		}
		there = there[:0]
		for _, it := range all {
			there = append(there, it.Type+" "+it.URL)
			if it.Type == kind && strings.Contains(it.URL, address) {
				return p.attach(it)
			}
		}
	}
	return nil, fmt.Errorf("waited for %s at %s; there are %q", kind, address, there)
}

func (p *Page) attach(it *target.Info) (*Page, error) {
	ctx, stop := chromedp.NewContext(p.ctx, chromedp.WithTargetID(it.TargetID))
	return &Page{ctx: ctx, base: p.base, close: stop, browser: p.browser}, chromedp.Do(ctx)
}

// Tap presses the control with these words without a mouse.
func (p *Page) Tap(words string) error {
	control := find + "(" + quote(words) + ")"
	return p.then(func() error {
		if err := p.Wait(control); err != nil {
			return fmt.Errorf("look for %q: %w", words, err)
		}
		if _, err := Ask[bool](p, control+".click(), true"); err != nil {
			return fmt.Errorf("press %q: %w", words, err)
		}
		return nil
	})
}
