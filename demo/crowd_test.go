package demo

import (
	"slices"
	"testing"
)

// TestManyCoursesAreDifferent from each other and from those of the college.
func TestManyCoursesAreDifferent(t *testing.T) {
	codes, titles := crowdTitles(2000)
	for _, c := range courses {
		codes, titles = append(codes, c.code), append(titles, c.title)
	}
	for _, list := range [][]string{codes, titles} {
		slices.Sort(list)
		if n := len(slices.Compact(slices.Clone(list))); n != 2000+len(courses) {
			t.Errorf("%d are different", n)
		}
	}
}
