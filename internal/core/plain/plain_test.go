package plain

import (
	"strings"
	"testing"

	"latelantern/internal/core/fault"
)

func TestWhatIsKeptOfAText(t *testing.T) {
	for _, c := range []struct{ name, in, want string }{
		{"as it is", "When is ebb?", "When is ebb?"},
		{"spaces at the ends", "  a  b \t\n", "a  b"},
		{"lines of another system", "a\r\nb\rc", "a\n\nb\nc"},
		{"many empty lines", "a\n\n\n\nb", "a\n\nb"},
		{"control signs", "a\x00b\x1b[31mc\x7f", "ab[31mc"},
		{"signs that turn the direction", "a\u202egnp.exe\u2066b\u2069\u200f", "agnp.exeb"},
		{"signs that do not show", "\ufeffa\u200bb\u00ad", "ab"},
		{"letters that are joined", "می\u200cخواهم", "می\u200cخواهم"},
		{"a family of signs", "👩\u200d👧", "👩\u200d👧"},
		{"what a browser would run", "<script>alert(1)</script>", "<script>alert(1)</script>"},
		{"what is no text", "a\xffb", "ab"},
		{"separators of lines", "a\u2028b", "a\nb"},
	} {
		got, err := Text("text", c.in, 2000)
		if err != nil || got != c.want {
			t.Errorf("%s: %q %v, want %q", c.name, got, err, c.want)
		}
		if again, err := Text("text", got, 2000); err != nil || again != got {
			t.Errorf("%s: cleaned again it is %q %v", c.name, again, err)
		}
	}
	for _, nothing := range []string{"", " \n\t ", "\u202e\u200b", "\u200d\u200c"} {
		got, err := Text("text", nothing, 2000)
		if all := fault.All(err); len(all) != 1 || all[0].Code != "chat.empty" {
			t.Errorf("%q is kept as %q: %v", nothing, got, err)
		}
	}
	if _, err := Text("text", strings.Repeat("ä", 2000), 2000); err != nil {
		t.Errorf("the longest: %v", err)
	}
	_, err := Text("text", strings.Repeat("ä", 10_000), 2000)
	if all := fault.All(err); len(all) != 1 || all[0].Code != "chat.long" {
		t.Errorf("10,000 letters: %v", err)
	}
}

func TestOneLine(t *testing.T) {
	if got, err := Line("text", " a\tb\r\n\n c\u202e\u2028", 6); err != nil || got != "a b c" {
		t.Errorf("%q %v", got, err)
	}
	if _, err := Line("text", "abc def", 6); len(fault.All(err)) != 1 {
		t.Errorf("one letter too many: %v", err)
	}
}
