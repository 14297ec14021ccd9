package watching

import (
	"testing"
	"time"

	"latelantern/internal/core/viewing"
	"latelantern/internal/feeds"
)

// TestFilesAreAskedForInTurn: so many at a time, the latest first, and none that is there, failed or may not be taken.
func TestFilesAreAskedForInTurn(t *testing.T) {
	day := time.Date(2026, 11, 2, 9, 0, 0, 0, time.UTC)
	of := func(state string, uses viewing.Uses, n int) (out []fedLine) {
		for i := range n {
			f := feeds.Files{Has: feeds.Has{Audio: true}, Copies: map[string]feeds.Copy{}}
			if state != "" {
				f.Copies["sound"] = feeds.Copy{State: state}
			}
			out = append(out, fedLine{held: day.AddDate(0, 0, i), uses: uses, files: f})
		}
		return out
	}
	join := func(parts ...[]fedLine) (x fed) {
		for _, p := range parts {
			x.lines = append(x.lines, p...)
		}
		return x
	}
	all := viewing.AllUses
	for name, c := range map[string]struct {
		x    fed
		want int
	}{
		"few":          {join(of("", all, 3), of("ready", all, 5), of("failed", all, 2)), 3},
		"many":         {join(of("", all, 40)), mostMaking},
		"some made":    {join(of("", all, 40), of("making", all, mostMaking-5)), 5},
		"as many made": {join(of("", all, 40), of("making", all, mostMaking+3)), 0},
		"not theirs":   {join(of("", viewing.WatchRead, 4)), 0},
	} {
		got := c.x.toAsk("sound")
		if len(got) != c.want {
			t.Errorf("%s: %d are asked for, want %d", name, len(got), c.want)
		}
		for i := 1; i < len(got); i++ {
			if got[i].held.After(got[i-1].held) {
				t.Errorf("%s: %v comes after %v", name, got[i].held, got[i-1].held)
			}
		}
	}
	if got := join(of("", all, 1)).toAsk("small"); len(got) != 0 {
		t.Error("a small copy is asked for where there is none")
	}
}
