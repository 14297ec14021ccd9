package e2e

import "testing"

// TestACollegeWithoutATerm says so on every view, rather than nothing.
func TestACollegeWithoutATerm(t *testing.T) {
	s := newStage(t, "tid-1")
	b := chromium(t)
	p := s.person(b, coordinator)
	_, err := s.house.DB.Exec(t.Context(), `truncate term cascade`)
	s.must(err)
	for _, path := range []string{"/board", "/capture", "/playlists", "/catch-up"} {
		s.must(p.Go(path), p.See("No term is set up yet"))
	}
}
