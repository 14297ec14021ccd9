package signal

import (
	"slices"
	"time"
)

// quietWithin is how far the nearest silence is looked for.
const quietWithin = 10 * time.Second

// Quiet is the moment nearest to another at which little is heard: in the middle of at least 200
// ms of what is among the quietest fifth of the recording, or hardly louder. There may be none
// within ten seconds.
func Quiet(peaks []byte, at time.Duration) (time.Duration, bool) {
	if len(peaks) == 0 {
		return 0, false
	}
	sorted := slices.Clone(peaks)
	slices.Sort(sorted)
	limit := sorted[len(sorted)/5] + sorted[len(sorted)/5]/2 + 2
	best, found := time.Duration(0), false
	for i := 0; i+1 < len(peaks); i++ {
		moment := time.Duration(i+1) * Window // between two quiet windows
		if peaks[i] <= limit && peaks[i+1] <= limit && (moment-at).Abs() <= quietWithin && (!found || (moment-at).Abs() < (best-at).Abs()) {
			best, found = moment, true
		}
	}
	return best, found
}
