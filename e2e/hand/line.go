package hand

import (
	"fmt"
	"time"

	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/chromedp"
)

// Line makes the line of a tab as slow as so many bits a second each way, with answers that begin late; 0 bits a second
// is as fast as it is.
func (p *Page) Line(bits float64, late time.Duration) error {
	return p.then(func() error {
		if _, err := chromedp.Call(p.ctx, network.Enable, network.EnableParams{}); err != nil {
			return fmt.Errorf("slow the line: %w", err)
		}
		c := &network.Conditions{Latency: float64(late.Milliseconds()), DownloadThroughput: bits / 8,
			UploadThroughput: bits / 8}
		if bits == 0 {
			c.DownloadThroughput, c.UploadThroughput = -1, -1
		}
		_, err := chromedp.Call(p.ctx, network.EmulateNetworkConditionsByRule,
			network.EmulateNetworkConditionsByRuleParams{MatchedNetworkConditions: []*network.Conditions{c}})
		if err != nil {
			return fmt.Errorf("slow the line: %w", err)
		}
		return nil
	})
}
