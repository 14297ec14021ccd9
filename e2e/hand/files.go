package hand

import (
	"context"
	"fmt"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/dom"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
)

// Upload gives files to the control that a selector names.
func (p *Page) Upload(selector string, paths ...string) error {
	return p.then(func() error {
		if err := chromedp.Do(p.ctx, chromedp.SetUploadFiles(chromedp.CSS(selector), paths)); err != nil {
			return fmt.Errorf("give files to %s: %w", selector, err)
		}
		return nil
	})
}

// Give presses the control with these words, and gives files to the dialog of the computer that it opens.
func (p *Page) Give(words string, paths ...string) error {
	return p.then(func() error {
		ctx, stop := context.WithTimeout(p.ctx, patience)
		defer stop()
		field, err := p.asked(ctx, words)
		if err == nil {
			_, err = chromedp.Call(ctx, dom.SetFileInputFiles,
				dom.SetFileInputFilesParams{Files: paths, BackendNodeID: field})
		}
		if err != nil {
			return fmt.Errorf("give files to %q: %w", words, err)
		}
		return nil
	})
}

// asked presses a control, and gives the field for whose files it asks in place of a dialog.
func (p *Page) asked(ctx context.Context, words string) (field cdp.BackendNodeID, err error) {
	fields := make(chan cdp.BackendNodeID, 1)
	err = chromedp.Listen(ctx, func(event any) {
		if e, ok := event.(*page.EventFileChooserOpened); ok {
			fields <- e.BackendNodeID
		}
	})
	if err != nil {
		return field, err
	}
	if _, err := chromedp.Call(ctx, page.SetInterceptFileChooserDialog,
		page.SetInterceptFileChooserDialogParams{Enabled: true}); err != nil {
		return field, err
	}
	if err := p.Click(words); err != nil {
		return field, err
	}
	select {
	case field = <-fields:
		return field, nil
	case <-ctx.Done():
		return field, ctx.Err()
	}
}
