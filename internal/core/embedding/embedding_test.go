package embedding

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"

	"latelantern/internal/core/fault"
)

func TestSite(t *testing.T) {
	for text, want := range map[string]string{
		"https://courses.college.example":          "https://courses.college.example",
		" HTTPS://Courses.College.example:443/a?b": "https://courses.college.example",
		"courses.college.example":                  "https://courses.college.example",
		"https://courses.college.example:8443/":    "https://courses.college.example:8443",
		"https://*.college.example":                "https://*.college.example",
		"http://localhost:8080":                    "http://localhost:8080",
		"http://127.0.0.1:80":                      "http://127.0.0.1",
		"https://192.0.2.7":                        "https://192.0.2.7",

		"http://courses.college.example": "", "ftp://courses.college.example": "", "https://": "", "*": "", "https:": "",
		"https://*.example": "", "https://example": "", "https://a b.example": "", "javascript://a.example/": "",
		"https://a.example; script-src *": "", "https://a.example 'unsafe-inline'": "", "https://me@a.example": "",
		"https://a.example:0": "", "https://a.example:99999": "", "https://a.*.example": "", "https://-a.example": "",
		"https://" + strings.Repeat("a.", 130) + "example": "", "data:text/html,x": "", "https://a.example,b.example": "",
	} {
		got, ok := Site(text)
		if got != want || ok != (want != "") {
			t.Errorf("%q is the site %q (%v), want %q", text, got, ok, want)
		}
		if again, _ := Site(got); ok && again != got {
			t.Errorf("%q is kept as %q, and that as %q", text, got, again)
		}
	}
}

func TestSites(t *testing.T) {
	got, err := Sites([]string{"b.example", "", "https://a.example/", "https://b.example"})
	if err != nil || !slices.Equal(got, []string{"https://a.example", "https://b.example"}) {
		t.Errorf("they are %q (%v)", got, err)
	}
	if got := Ancestors(got); got != "frame-ancestors 'self' https://a.example https://b.example" {
		t.Errorf("a page says %q", got)
	}
	if got := Ancestors(nil); got != "frame-ancestors 'self'" {
		t.Errorf("without any a page says %q", got)
	}
	var faults fault.Faults
	if _, err := Sites([]string{"a.example", "nonsense", "*"}); !errors.As(err, &faults) || len(faults) != 2 ||
		faults[0].Field != "sites" || faults[0].Text.Code != "embedding.site" {
		t.Errorf("with two that are none: %v", err)
	}
	var many []string
	for n := range MostSites + 1 {
		many = append(many, fmt.Sprintf("https://s%d.example", n))
	}
	if _, err := Sites(many[1:]); err != nil {
		t.Errorf("%d sites: %v", MostSites, err)
	}
	if _, err := Sites(many); !errors.As(err, &faults) || faults[0].Text.Code != "embedding.many" {
		t.Errorf("%d sites: %v", MostSites+1, err)
	}
}

// TestWithin: a frame is never larger than there is room, as long as that is enough for a player, and its picture is
// always 16 by 9.
func TestWithin(t *testing.T) {
	for room, want := range map[Size]Size{
		{}: {640, 438}, {800, 0}: {800, 528}, {0, 348}: {480, 348}, {800, 348}: {480, 348}, {480, 2000}: {480, 348},
		{9000, 9000}: {1920, 1158}, {10, 10}: {320, 258}, {-5, -5}: {640, 438}, {0, 5000}: {1920, 1158},
	} {
		if got := Within(room.Width, room.Height); got != want {
			t.Errorf("in %v it is %v, want %v", room, got, want)
		}
	}
}

func TestCode(t *testing.T) {
	address := `https://lantern.example/embed/recordings/1?a=1&b="x"`
	for _, size := range Usual {
		code := Code(address, size)
		if !strings.HasPrefix(code, `<iframe src="https://lantern.example/embed/recordings/1?a=1&amp;b=&#34;x&#34;" title=`) {
			t.Errorf("the code is %s", code)
		}
		fixed := fmt.Sprintf(`width="%d" height="%d"`, size.Width, size.Height)
		if fluid := size == (Size{}); strings.Contains(code, fixed) == fluid ||
			strings.Contains(code, "aspect-ratio:3/2") != fluid {
			t.Errorf("of the size %v: %s", size, code)
		}
	}
}
