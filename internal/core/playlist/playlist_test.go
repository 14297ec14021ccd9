package playlist

import (
	"reflect"
	"testing"
)

func TestMove(t *testing.T) {
	order := []string{"a", "b", "c", "d"}
	for _, c := range []struct {
		item, before string
		want         []string
	}{
		{"d", "a", []string{"d", "a", "b", "c"}},
		{"a", "c", []string{"b", "a", "c", "d"}},
		{"b", "", []string{"a", "c", "d", "b"}},
		{"b", "b", order},
		{"x", "a", nil},
		{"a", "x", nil},
	} {
		got, err := Move(order, c.item, c.before)
		if !reflect.DeepEqual(got, c.want) || (err != nil) != (c.want == nil) {
			t.Errorf("%s before %q: %v %v, want %v", c.item, c.before, got, err, c.want)
		}
	}
	if !reflect.DeepEqual(order, []string{"a", "b", "c", "d"}) {
		t.Error("the given order was changed")
	}
}

func TestGaps(t *testing.T) {
	if got := Gaps(6, []int{1, 2, 2, 4, 9}); !reflect.DeepEqual(got, []int{3, 5, 6}) {
		t.Errorf("gaps %v", got)
	}
	if got := Gaps(2, nil); !reflect.DeepEqual(got, []int{1, 2}) {
		t.Errorf("with nothing there, gaps %v", got)
	}
	if got := Gaps(0, nil); len(got) != 0 {
		t.Errorf("before the first week: %v", got)
	}
}
