package e2e

import (
	"net/http"
	"testing"

	"github.com/mmcdole/gofeed"

	"latelantern/e2e/hand"
)

// TestAnAppFetchesByItself from the address that a student finds on the catch-up page, until they have made another.
func TestAnAppFetchesByItself(t *testing.T) {
	t.Parallel()
	s := newStage(t, "tid-1")
	p := s.person(chromium(t), student)
	const field = `document.querySelector('input[aria-label="Your private address"]')`
	at := func(another string) (address string) {
		s.must(p.Wait(field + ` && ` + field + `.value !== ` + "`" + another + "`"))
		path, err := hand.Ask[string](p, `new URL(`+field+`.value).pathname`)
		s.must(err)
		return s.base() + path
	}
	s.must(p.Go("/catch-up"), p.Click("Private feed"), p.See("One file is still to be made"))
	s.clean(p, "one's own feed")
	sound := at("")
	shown, err := hand.Ask[string](p, field+`.value`)
	s.must(err)
	var item *gofeed.Item
	s.until("the app finds the recording", func() bool {
		feed, err := gofeed.NewParser().ParseURL(sound)
		s.must(err)
		if len(feed.Items) == 1 {
			item = feed.Items[0]
		}
		return item != nil
	})
	if item.Enclosures[0].Type != "audio/mp4" || item.Link[len(item.Link)-36:] != s.theOne().String() {
		t.Errorf("it finds %+v", item)
	}
	s.must(p.Click("Videos"), p.See("One file is still to be made"), p.Click("Sound alone"), p.Click("Close"),
		p.Wait(`![...document.querySelectorAll('.el-overlay')].some(o => o.offsetParent !== null)`),
		p.Click("Private feed"), p.See("One recording is in it."))
	s.must(p.Click("Make a new address"), p.See("This is the new address."))
	renewed := at(shown)
	for address, want := range map[string]int{sound: http.StatusNotFound, renewed: http.StatusOK} {
		answer, err := http.Get(address)
		s.must(err)
		if answer.Body.Close(); answer.StatusCode != want {
			t.Errorf("%s: %d, want %d", address, answer.StatusCode, want)
		}
	}

	// Who teaches finds the feed of a playlist beside its files.
	l := s.person(chromium(t), lecturer)
	s.must(l.Go("/courses/"+s.course("TID 210").String()+"/playlist"), l.Click("Private feed"),
		l.See("Keep it to yourself."))
}
