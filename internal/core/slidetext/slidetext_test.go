package slidetext

import (
	"fmt"
	"strings"
	"testing"
)

// page is what is read of a slide: a line each of height, place from above, how sure, and words.
func page(lines ...string) string {
	var b strings.Builder
	b.WriteString("level\tpage_num\tblock_num\tpar_num\tline_num\tword_num\tleft\ttop\twidth\theight\tconf\ttext\n1\t1\t0\t0\t0\t0\t0\t0\t1280\t720\t-1\t\n")
	for n, l := range lines {
		var height, top, sure int
		var rest string
		if _, err := fmt.Sscanf(l, "%d %d %d", &height, &top, &sure); err != nil {
			panic(err)
		}
		rest = strings.Join(strings.Fields(l)[3:], " ")
		fmt.Fprintf(&b, "4\t1\t%d\t1\t1\t0\t80\t%d\t500\t%d\t-1\t\n", n+1, top, height)
		for k, w := range strings.Fields(rest) {
			fmt.Fprintf(&b, "5\t1\t%d\t1\t1\t%d\t%d\t%d\t50\t%d\t%d.5\t%s\n", n+1, k+1, 80+60*k, top, height, sure, w)
		}
	}
	return b.String()
}

func TestSlides(t *testing.T) {
	for name, c := range map[string]struct {
		page        string
		title, body string
	}{
		"a title and points": {page("46 109 93 The tidal day", "26 209 95 e High water comes later",
			"24 260 95 e Each day", "15 652 90 TID 210 · week 1"), "The tidal day",
			"High water comes later\nEach day\nTID 210 week 1"},
		"a title over two lines": {page("46 100 93 What a table knows", "44 160 93 and what not",
			"26 260 95 Moon and Sun", "26 300 95 The bay"), "What a table knows and what not", "Moon and Sun\nThe bay"},
		"all lines alike": {page("26 100 93 First", "26 160 93 Second", "26 260 95 Third"), "First",
			"Second\nThird"},
		"one line in the middle": {page("60 340 95 Break until the bell"), "Break until the bell", ""},
		"a picture with a note": {page("20 600 95 Photograph from the slip", "20 640 95 by nobody"), "",
			"Photograph from the slip\nby nobody"},
		"noise":           {page("300 100 20 Wlll", "26 200 90 ~ | —", "30 300 95 x"), "", ""},
		"nothing":         {"", "", ""},
		"no table at all": {"Tesseract says something else\n", "", ""},
		"just sure enough, and hardly longer than a mark": {page("46 100 55 Ebb", "26 200 54 gone", "26 300 95 So",
			"26 400 95 e me"), "Ebb", "So\nme"},
		"a word that is a": {page("46 100 93 A gauge", "26 200 95 a pole and a clock"), "A gauge",
			"a pole and a clock"},
	} {
		if title, body := Read(c.page); title != c.title || body != c.body {
			t.Errorf("%s: %q, %q", name, title, body)
		}
	}
}
