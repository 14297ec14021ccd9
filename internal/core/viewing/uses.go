package viewing

import "slices"

// Use is one thing that a rule lets people do with a recording.
type Use uint8

// The uses. That something is taken away is said of each kind of it by itself.
const (
	ToWatch   Use = 1 << iota
	ToRead        // its captions and transcript
	TakeVideo     // away, as one file
	TakeSmall     // a small copy of it
	TakeSound     // the sound alone
	TakeText      // the transcript
)

// Uses are any of them.
type Uses uint8

// AllUses is what those who teach may do.
const AllUses = Uses(ToWatch | ToRead | TakeVideo | TakeSmall | TakeSound | TakeText)

// WatchRead is to watch, with captions and transcript, and to take nothing away.
const WatchRead = Uses(ToWatch | ToRead)

// Takeaway is everything that is taken away.
const Takeaway = Uses(TakeVideo | TakeSmall | TakeSound | TakeText)

// useNames are the uses as they are kept and written, in their order.
var useNames = []string{"watch", "read", "take_video", "take_small", "take_sound", "take_text"}

// UsesOf are the uses of their names; ok is false when one of them is none.
func UsesOf(names ...string) (u Uses, ok bool) {
	for _, name := range names {
		at := slices.Index(useNames, name)
		if at < 0 {
			return 0, false
		}
		u |= 1 << at
	}
	return u, true
}

// Names are those of the uses, in their order.
func (u Uses) Names() []string {
	out := []string{}
	for i, name := range useNames {
		if u&(1<<i) != 0 {
			out = append(out, name)
		}
	}
	return out
}

// Has reports whether x is among them.
func (u Uses) Has(x Use) bool { return u&Uses(x) != 0 }
