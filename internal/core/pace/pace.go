// Package pace says how long work goes on that has come some way.
package pace

import "time"

// Left is how long work still takes that has done so much of a whole in the time that it took.
// It is not known (ok is false) before there is something to go by: a second of it, and a
// fiftieth of the whole.
func Left(done, whole time.Duration, took time.Duration) (left time.Duration, ok bool) {
	if done <= 0 || whole <= 0 || took < time.Second || done < whole/50 {
		return 0, false
	}
	if done >= whole {
		return 0, true
	}
	return time.Duration(float64(took) * float64(whole-done) / float64(done)).Round(time.Second), true
}
