package signal

import "time"

// Picture is a small grey picture and its moment.
type Picture struct {
	At   time.Duration
	Grey []byte // one byte a pixel; all pictures of a recording have the same size
}

// The shape of a change of slide: a part of the picture differs clearly. A pointer, a
// cursor or the grain of a camera does not reach it.
const (
	differs     = 24    // of 255, per pixel
	changed     = 0.015 // share of the pixels
	leastApart  = 2 * time.Second
	mostPerHour = 240 // slide pictures; beyond that the picture is a film
)

// Changes gives the numbers of the pictures with which a new slide begins; the first
// picture always does. Where pictures change all the time, as with a camera, only the
// largest changes are given.
func Changes(pictures []Picture) []int {
	if len(pictures) == 0 {
		return nil
	}
	share := make([]float64, len(pictures))
	for i := 1; i < len(pictures); i++ {
		share[i] = difference(pictures[i-1].Grey, pictures[i].Grey)
	}
	length := pictures[len(pictures)-1].At - pictures[0].At
	most := max(12, int(float64(mostPerHour)*length.Hours()))
	for limit := changed; ; limit *= 1.5 {
		out := []int{0}
		for i := 1; i < len(pictures); i++ {
			if share[i] >= limit && pictures[i].At-pictures[out[len(out)-1]].At >= leastApart {
				out = append(out, i)
			}
		}
		if len(out) <= most || limit > 1 {
			return out
		}
	}
}

func difference(a, b []byte) float64 {
	if len(a) != len(b) || len(a) == 0 {
		return 1
	}
	n := 0
	for i := range a {
		if d := int(a[i]) - int(b[i]); d > differs || d < -differs {
			n++
		}
	}
	return float64(n) / float64(len(a))
}
