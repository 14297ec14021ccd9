package seal

import "testing"

// TestKeys: a key opens with what it was made of, and with nothing else.
func TestKeys(t *testing.T) {
	secret, about, turn := []byte("secret"), []byte("0123456789abcdef"), []byte{0, 1}
	key := Key(secret, "feed", about, turn)
	got, ok := About(key, len(about))
	if !ok || string(got) != string(about) || !Opens(key, secret, "feed", got, turn) {
		t.Errorf("%s is about %q, %v", key, got, ok)
	}
	for name, opens := range map[string]bool{
		"another secret":    Opens(key, []byte("another"), "feed", about, turn),
		"another purpose":   Opens(key, secret, "guest", about, turn),
		"about another":     Opens(key, secret, "feed", []byte("0123456789abcdeg"), turn),
		"renewed":           Opens(key, secret, "feed", about, []byte{0, 2}),
		"its end cut off":   Opens(key[:len(key)-2], secret, "feed", about, turn),
		"a letter replaced": Opens("_"+key[1:], secret, "feed", about, turn),
	} {
		if opens {
			t.Errorf("%s opens it", name)
		}
	}
	for _, other := range []string{"", "=", key + "A", key[:20], "ä" + key} {
		if _, ok := About(other, len(about)); ok {
			t.Errorf("%q could be a key", other)
		}
	}
}
