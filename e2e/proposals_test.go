package e2e

import (
	"context"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/google/uuid"

	"latelantern/internal/platform/postgres"
)

// TestProposalsAreTakenOrLeftWithOneKey, and what was left stays left.
func TestProposalsAreTakenOrLeftWithOneKey(t *testing.T) {
	s := newStage(t, "alg-3")
	b := chromium(t)
	p := s.person(b, coordinator)
	id, err := postgres.Value[uuid.UUID](context.Background(), s.house.DB, `select id from recording`)
	s.must(err)
	struck := func() int {
		r, err := s.house.Recordings.Recording(context.Background(), id)
		s.must(err)
		return len(r.Struck.Spans())
	}
	s.must(p.Click("waits for a trim"), p.See("Strike all 3 proposals"),
		p.Wait(`document.querySelectorAll('.margin .open').length === 3`),
		p.Keys(kb.Backspace), p.See("Strike all 2 proposals"))
	if n := struck(); n != 0 {
		t.Errorf("to leave a proposal struck %d", n)
	}
	s.must(p.Keys(kb.Enter), p.See("1 stretch struck"), p.See("Keep this title"))
	if n := struck(); n != 1 {
		t.Errorf("%d are struck", n)
	}
	s.must(p.Go("/recordings/"+id.String()), p.See("after class"),
		p.Wait(`document.querySelectorAll('.margin .open').length === 1 && !document.body.innerText.includes('before the lecture')`),
		p.Click("Strike after class"), p.See("2 stretches struck"), p.Keys("u"), p.See("1 stretch struck"))
}
