// Package slidetext makes sense of what a program read from the picture of a slide: which words
// can be believed, which of them are the title, and in which lines the rest stands.
package slidetext

import (
	"slices"
	"strconv"
	"strings"
	"unicode"
)

// sure is how sure the reader must be of a word, in per cent.
const sure = 55

type line struct {
	words  []string
	height int // of its tallest word
	top    int
}

// Read takes a page in the tab-separated form of Tesseract: level, page, block, paragraph, line,
// word, left, top, width, height, confidence in per cent, text. It gives the title of the slide,
// "" where nothing stands out as one, and the other lines.
func Read(page string) (title, body string) {
	var lines []line
	last := ""
	bottom := 0
	for row := range strings.Lines(page) {
		f := strings.Split(strings.TrimRight(row, "\r\n"), "\t")
		if len(f) != 12 {
			continue
		}
		number := func(i int) int {
			v, _ := strconv.ParseFloat(f[i], 64)
			return int(v)
		}
		if f[0] == "1" {
			bottom = number(7) + number(9)
		}
		word := strings.TrimSpace(f[11])
		if f[0] != "5" || number(10) < sure || !means(word) {
			continue
		}
		if at := strings.Join(f[1:5], " "); at != last || len(lines) == 0 {
			last = at
			lines = append(lines, line{top: number(7)})
		}
		l := &lines[len(lines)-1]
		l.words = append(l.words, word)
		l.height = max(l.height, number(9))
	}
	for i, l := range lines {
		if len(l.words) > 1 && bullet(l.words[0]) {
			lines[i].words = l.words[1:]
		}
	}
	lines = slices.DeleteFunc(lines, func(l line) bool { return letters(l.words) < 2 })
	n := titleLines(lines, bottom)
	join := func(lines []line, by string) string {
		var out []string
		for _, l := range lines {
			out = append(out, strings.Join(l.words, " "))
		}
		return strings.Join(out, by)
	}
	return join(lines[:n], " "), join(lines[n:], "\n")
}

// titleLines is how many of the first lines are the title: those in the upper half that are
// higher than most of the page is; where all are alike, the first.
func titleLines(lines []line, bottom int) int {
	if len(lines) == 0 || bottom > 0 && lines[0].top > bottom/2 && len(lines) > 1 {
		return 0
	}
	heights := make([]int, len(lines))
	for i, l := range lines {
		heights[i] = l.height
	}
	slices.Sort(heights)
	usual := heights[(len(heights)-1)/2]
	first := lines[0].height
	n := 1
	if first*4 >= usual*5 { // it stands out
		for n < len(lines) && n < 3 && lines[n].height*10 >= first*8 {
			n++
		}
		if n == len(lines) {
			n = 1
		}
	}
	return n
}

// means tells whether something was read that is a word or a number, not a mark or a piece of a drawing.
func means(word string) bool {
	good := 0
	for _, r := range word {
		if unicode.IsLetter(r) || unicode.IsDigit(r) {
			good++
		}
	}
	return good > 0 && 2*good >= len([]rune(word))
}

// bullet tells whether the first word of a line is what is made of the dot before a point: a single
// letter that is no word of its own.
func bullet(word string) bool {
	r := []rune(word)
	return len(r) == 1 && unicode.IsLower(r[0]) && !strings.ContainsRune("aioyuéà", r[0])
}

func letters(words []string) int {
	n := 0
	for _, w := range words {
		for _, r := range w {
			if unicode.IsLetter(r) {
				n++
			}
		}
	}
	return n
}

// most is how long the title of a slide may be to be what a lecture is about.
const most = 90

// Tells tells whether the title of a slide says what a lecture is about: some letters, and no more
// than a line.
func Tells(title string) bool {
	return letters(strings.Fields(title)) >= 4 && len([]rune(title)) <= most
}
