package posttray

import (
	"context"
	"errors"
	"net"
	"net/http/httptest"
	"strings"
	"testing"

	"latelantern/internal/platform/mail"
)

// TestALetterArrives: the mail adapter and this server speak the same protocol.
func TestALetterArrives(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	tray, err := Open(l, t.TempDir()+"/post")
	if err != nil {
		t.Fatal(err)
	}
	defer tray.Close()
	page := func() string {
		w := httptest.NewRecorder()
		tray.ServeHTTP(w, httptest.NewRequest("GET", "/", nil))
		return w.Body.String()
	}
	if !strings.Contains(page(), "Nothing has been sent yet.") {
		t.Error("an empty tray does not say so")
	}
	post := mail.Post{Server: l.Addr().String(), From: "lantern@skerry.example", Plain: true}
	for _, subject := range []string{"First, with ümlaut", "Second"} {
		if err := post.Send(context.Background(),
			mail.Letter{To: "bo@skerry.example", Subject: subject,
				Text: "Hello <Bo>,\n\nhttp://x.example/welcome/abc\n"}); err != nil {
			t.Fatal(err)
		}
	}
	got, err := tray.Letters()
	if err != nil || len(got) != 2 || got[1].Subject != "First, with ümlaut" || got[0].To != "bo@skerry.example" ||
		!strings.Contains(got[0].Text, "Hello <Bo>,\n\nhttp://x.example/welcome/abc") {
		t.Errorf("%+v %v", got, err)
	}
	if p := page(); !strings.Contains(p, `<a href="http://x.example/welcome/abc">`) ||
		!strings.Contains(p, "Hello &lt;Bo&gt;") {
		t.Errorf("the page shows %s", p)
	}
	// A server that should encrypt and does not gets no letter.
	post.Plain = false
	if err := post.Send(context.Background(),
		mail.Letter{To: "bo@skerry.example", Subject: "x", Text: "y"}); err == nil {
		t.Error("a letter went out without encryption")
	}
	if err := (mail.Post{}).Send(context.Background(), mail.Letter{}); !errors.Is(err, mail.ErrOff) {
		t.Errorf("without a server: %v", err)
	}
	if err := post.Send(context.Background(), mail.Letter{To: "not an address"}); err == nil {
		t.Error("a letter to nobody is sent")
	}
}
