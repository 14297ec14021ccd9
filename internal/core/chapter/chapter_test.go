package chapter

import (
	"math/rand"
	"reflect"
	"strings"
	"testing"
	"testing/quick"
	"time"

	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/span"
	"latelantern/internal/core/texts"
)

const s = time.Second

func TestProposals(t *testing.T) {
	kept := span.Of(span.Span{Start: 20 * s, End: 300 * s}, span.Span{Start: 400 * s, End: 700 * s})
	markers := []Chapter{{100 * s, "  a question\nfrom the hall "}, {350 * s, "in the break"}, {500 * s, ""}}
	slides := []Chapter{{0, "We begin in a moment"}, {15 * s, "Tides"}, {25 * s, "Too soon after"},
		{95 * s, "Beside the marker"}, {150 * s, "Range"}, {200 * s, "range"}, {310 * s, "Break"},
		{390 * s, "After the break"}, {600 * s, ""}, {650 * s, "Thank you"}}
	got := Propose(markers, slides, kept)
	want := []Chapter{{20 * s, "Tides"}, {100 * s, "a question from the hall"}, {150 * s, "Range"},
		{400 * s, "After the break"}, {650 * s, "Thank you"}}
	if !reflect.DeepEqual(got, want) {
		t.Errorf("%v, want %v", got, want)
	}
	if got := Propose(nil, nil, kept); got != nil {
		t.Errorf("of nothing: %v", got)
	}
}

func TestChaptersOfPeople(t *testing.T) {
	got, err := Check([]Chapter{{5 * s, "b"}, {0, " a  a "}}, 10*s)
	if err != nil || !reflect.DeepEqual(got, []Chapter{{0, "a a"}, {5 * s, "b"}}) {
		t.Errorf("%v %v", got, err)
	}
	for says, list := range map[string][]Chapter{
		"needs a title":        {{0, " "}},
		"within the recording": {{10 * s, "late"}},
		"same moment":          {{s, "a"}, {s, "b"}},
		"120 characters":       {{0, strings.Repeat("x", 121)}},
		"may have 300":         make([]Chapter, 301),
	} {
		if _, err := Check(list, 10*s); err == nil || !strings.Contains(texts.English.Error(err), says) {
			t.Errorf("%s: %v", says, err)
		}
	}
}

// TestChaptersFollowTheCuts: whatever is struck, they stand in order without a gap from the first to
// the end of what is published, each where what is left of it begins.
func TestChaptersFollowTheCuts(t *testing.T) {
	law := func(seed int64) bool {
		r := rand.New(rand.NewSource(seed))
		list := cutlist.New(100*s, span.Set{})
		for range r.Intn(6) {
			from := time.Duration(r.Intn(100)) * s
			if cut, err := list.Strike(span.Span{Start: from, End: from + time.Duration(1+r.Intn(20))*s}); err == nil {
				list = cut
			}
		}
		var chapters []Chapter
		at := time.Duration(0)
		for i := range 1 + r.Intn(12) {
			chapters = append(chapters, Chapter{at, string(rune('a' + i))})
			at += time.Duration(1+r.Intn(15)) * s
		}
		by := list.Carrier()
		got := Carry(chapters, by)
		end := time.Duration(0)
		last := ""
		for _, c := range got {
			if c.Start != end || c.Empty() || c.Title <= last {
				return false
			}
			end, last = c.End, c.Title
		}
		return end == by.Length() &&
			reflect.DeepEqual(Carry(chapters[:1], by), []Published{{span.Span{End: by.Length()}, "a"}})
	}
	if err := quick.Check(law, &quick.Config{MaxCount: 2000}); err != nil {
		t.Error(err)
	}
}
