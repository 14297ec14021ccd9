package signal

import (
	"slices"
	"time"

	"latelantern/internal/core/span"
)

// quietWithin is how far the nearest silence is looked for.
const quietWithin = 10 * time.Second

// quietest is the level, of 255, up to which little is heard: that of the quietest fifth of a
// recording, or hardly louder.
func quietest(peaks []byte) byte {
	sorted := slices.Clone(peaks)
	slices.Sort(sorted)
	level := int(sorted[len(sorted)/5])
	return byte(min(255, level+level/2+2))
}

// Pauses are the stretches of at least a time in which little is heard.
func Pauses(peaks []byte, least time.Duration) []span.Span {
	if len(peaks) == 0 {
		return nil
	}
	limit := quietest(peaks)
	var out []span.Span
	from := -1
	for i := 0; i <= len(peaks); i++ {
		if i < len(peaks) && peaks[i] <= limit {
			if from < 0 {
				from = i
			}
			continue
		}
		if x := (span.Span{Start: time.Duration(from) * Window, End: time.Duration(i) * Window}); from >= 0 &&
			x.Len() >= least {
			out = append(out, x)
		}
		from = -1
	}
	return out
}

// Quiet is the moment nearest to another at which little is heard: in the middle of at least 200
// ms of what is among the quietest fifth of the recording, or hardly louder. There may be none
// within ten seconds.
func Quiet(peaks []byte, at time.Duration) (time.Duration, bool) {
	if len(peaks) == 0 {
		return 0, false
	}
	limit := quietest(peaks)
	best, found := time.Duration(0), false
	for i := 0; i+1 < len(peaks); i++ {
		moment := time.Duration(i+1) * Window // between two quiet windows
		if peaks[i] <= limit && peaks[i+1] <= limit && (moment-at).Abs() <= quietWithin &&
			(!found || (moment-at).Abs() < (best-at).Abs()) {
			best, found = moment, true
		}
	}
	return best, found
}

// A silence is as long as this at least, of which a little stays at each end when somebody goes over it.
const (
	leastSilence = 1500 * time.Millisecond
	breath       = 300 * time.Millisecond
)

// Silences are the stretches over which who listens can go, of a length in which someone speaks at times; none where
// nobody ever does, as in music.
func Silences(speech span.Set, length time.Duration) []span.Span {
	if speech.Empty() {
		return nil
	}
	var out []span.Span
	for _, x := range span.Of(span.Span{End: length}).Subtract(speech).Spans() {
		if x.Len() >= leastSilence {
			out = append(out, span.Span{Start: x.Start + breath, End: x.End - breath})
		}
	}
	return out
}
