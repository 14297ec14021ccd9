package pace

import (
	"testing"
	"time"
)

func TestLeft(t *testing.T) {
	for _, c := range []struct {
		name              string
		done, whole, took time.Duration
		left              time.Duration
		ok                bool
	}{
		{"half of it", 30 * time.Minute, time.Hour, 10 * time.Minute, 10 * time.Minute, true},
		{"a tenth of it", 6 * time.Minute, time.Hour, time.Minute, 9 * time.Minute, true},
		{"all of it", time.Hour, time.Hour, time.Minute, 0, true},
		{"longer than it said", 61 * time.Minute, time.Hour, time.Minute, 0, true},
		{"hardly begun", time.Minute, time.Hour, 5 * time.Second, 0, false},
		{"in no time", 30 * time.Minute, time.Hour, 900 * time.Millisecond, 0, false},
		{"nothing yet", 0, time.Hour, time.Minute, 0, false},
		{"the least that tells", 1, 49, time.Second, 48 * time.Second, true},
		{"none of hardly anything", 0, 49, time.Second, 0, false},
		{"all of the least", 1, 1, time.Second, 0, true},
		{"a fiftieth", time.Minute, 50 * time.Minute, 10 * time.Second, 490 * time.Second, true},
		{"less than a fiftieth", 50 * time.Second, 2550 * time.Second, 10 * time.Second, 0, false},
		{"a whole that is not known", time.Minute, 0, time.Minute, 0, false},
	} {
		if left, ok := Left(c.done, c.whole, c.took); left != c.left || ok != c.ok {
			t.Errorf("%s: %v %v", c.name, left, ok)
		}
	}
}
