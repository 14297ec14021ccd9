package signal

import (
	"time"

	"latelantern/internal/core/span"
)

// Why is what a stretch is that might be struck.
type Why string

// The kinds of proposals.
const (
	Before     Why = "before"      // nothing is said yet
	FalseStart Why = "false_start" // a few words, and then it began anew
	Silence    Why = "silence"     // a long one
	Break      Why = "break"
	Tail       Why = "tail" // a few words long after the last of the lecture
	After      Why = "after"
)

// Proposal is a stretch that might be struck.
type Proposal struct {
	span.Span
	Why Why
}

const (
	minEdge    = 3 * time.Second
	minSilence = 6 * time.Second
	minBreak   = 11500 * time.Millisecond // twelve seconds, as exactly as edges are found
	air        = 700 * time.Millisecond   // left standing before and after speech

	// A false start and a tail are short beside the lecture, and a silence lies between.
	startMost  = 45 * time.Second
	startGap   = 5 * time.Second
	startIn    = 3 * time.Minute // of the first word
	tailMost   = 5 * time.Minute
	tailGap    = 8 * time.Second
	mainAtLast = 8 // times as long as a false start or a tail is the rest
)

// Proposals lists what might be struck of a recording of a length, by what was said in it; in
// order, and none over another.
func Proposals(speech span.Set, length time.Duration) []Proposal {
	spoken := speech.Spans()
	if len(spoken) == 0 {
		return nil
	}
	var out []Proposal
	add := func(why Why, least, from, to time.Duration) {
		if to-from >= least {
			out = append(out, Proposal{span.Span{Start: from, End: to}, why})
		}
	}
	first, last := falseStart(spoken), tail(spoken)
	if first > last {
		first, last = 0, len(spoken)-1
	}
	add(Before, minEdge, 0, spoken[0].Start-air)
	if first > 0 {
		add(FalseStart, minEdge, max(0, spoken[0].Start-air), spoken[first].Start-air)
	}
	for i := first + 1; i <= last; i++ {
		why := Silence
		if spoken[i].Start-spoken[i-1].End > minBreak {
			why = Break
		}
		add(why, minSilence-2*air, spoken[i-1].End+air, spoken[i].Start-air)
	}
	end := spoken[len(spoken)-1].End
	if last < len(spoken)-1 {
		add(Tail, minEdge, spoken[last].End+air, min(length, end+air))
	}
	add(After, minEdge, end+air, length)
	return out
}

// falseStart is the stretch of speech with which the lecture began anew; 0 for none.
func falseStart(spoken []span.Span) int {
	said := time.Duration(0)
	for i := 0; i+1 < len(spoken) && i < 4; i++ {
		said += spoken[i].Len()
		next := spoken[i+1]
		if said > startMost || next.Start-spoken[0].Start > startIn {
			return 0
		}
		if next.Start-spoken[i].End >= startGap && total(spoken[i+1:]) >= mainAtLast*said {
			return i + 1
		}
	}
	return 0
}

// tail is the last stretch of speech of the lecture: what comes after it is little, and later.
func tail(spoken []span.Span) int {
	said := time.Duration(0)
	cut := len(spoken) - 1
	for i := len(spoken) - 1; i > 0; i-- {
		said += spoken[i].Len()
		if spoken[len(spoken)-1].End-spoken[i].Start > tailMost || total(spoken[:i]) < mainAtLast*said {
			break
		}
		if spoken[i].Start-spoken[i-1].End >= tailGap {
			cut = i - 1
		}
	}
	return cut
}

func total(spoken []span.Span) time.Duration { return span.Of(spoken...).Len() }
