package slidetext

import (
	"strings"
	"testing"
)

func TestWhichLinesAreTheTitle(t *testing.T) {
	of := func(all ...int) (lines []line) { // top and height of each
		for i := 0; i < len(all); i += 2 {
			lines = append(lines, line{top: all[i], height: all[i+1], words: []string{"word"}})
		}
		return lines
	}
	for _, c := range []struct {
		name   string
		lines  []line
		bottom int
		want   int
	}{
		{"none", nil, 100, 0},
		{"one, in the lower half", of(90, 10), 100, 1},
		{"two, from the middle on", of(50, 10, 70, 10), 100, 1},
		{"two, below the middle", of(51, 10, 70, 10), 100, 0},
		{"below the middle of an odd height", of(51, 10, 70, 10), 101, 0},
		{"where no page is told", of(51, 10, 70, 10), 0, 1},
		{"of a page of one row", of(1, 10, 2, 10), 1, 0},
		{"all alike", of(0, 10, 20, 10, 40, 10), 100, 1},
		{"two that stand out", of(0, 20, 20, 18, 40, 10, 60, 10, 80, 10), 100, 2},
		{"three", of(0, 20, 10, 18, 20, 18, 40, 10, 60, 10, 70, 10, 80, 10), 100, 3},
		{"never four", of(0, 20, 10, 18, 20, 18, 30, 18, 40, 10, 60, 10, 70, 10, 80, 10, 90, 10), 100, 3},
		{"a second that is a fifth smaller", of(0, 20, 20, 16, 40, 10, 60, 10, 80, 10), 100, 2},
		{"smaller than that", of(0, 20, 20, 15, 40, 10, 60, 10, 80, 10), 100, 1},
		{"it stands out by just a quarter", of(0, 15, 20, 12, 40, 12, 60, 12), 100, 3},
		{"by less", of(0, 14, 20, 12, 40, 12, 60, 12), 100, 1},
		{"two in all, both high", of(0, 20, 20, 19), 100, 1},
		{"three in all, all high", of(0, 20, 20, 19, 40, 18), 100, 1},
		{"what is usual is the lower of the two in the middle", of(0, 12, 10, 9, 20, 20, 30, 20), 100, 1},
		{"the middle of three", of(0, 20, 20, 18, 40, 4), 100, 1},
		{"the middle of five", of(0, 20, 10, 18, 20, 18, 40, 16, 60, 4), 100, 1},
	} {
		if got := titleLines(c.lines, c.bottom); got != c.want {
			t.Errorf("%s: %d", c.name, got)
		}
	}
}

func TestWhatMeansSomething(t *testing.T) {
	for word, want := range map[string]bool{"": false, "a": true, "7": true, "—": false, "a.": true, "a..": false,
		"ab...": false, "ab..": true, "(é)": false, "(éé)": true} {
		if got := means(word); got != want {
			t.Errorf("%q means something: %v", word, got)
		}
	}
	for word, want := range map[string]bool{"e": true, "o": false, "O": false, "oe": false, "": false, "·": false,
		"é": false, "x": true, "7": false} {
		if got := bullet(word); got != want {
			t.Errorf("%q is a bullet: %v", word, got)
		}
	}
	for title, want := range map[string]bool{"": false, "Ebb": false, "Ebb 123": false, "Tide": true, "E b b s": true,
		strings.Repeat("x", most): true, strings.Repeat("x", most+1): false, strings.Repeat("é", most): true} {
		if got := Tells(title); got != want {
			t.Errorf("%q tells: %v", title, got)
		}
	}
}
