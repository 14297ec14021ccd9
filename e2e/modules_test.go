package e2e

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"testing"
	"time"

	"latelantern/e2e/hand"
	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/fingerprint"
	"latelantern/internal/core/span"
)

// modulesFolder has the modules of the front end that are tested by themselves.
const modulesFolder = "../web/modules"

// modulePage is an empty page that can load them, from a server that answers everything else with other.
func modulePage(t *testing.T, other http.Handler) (*hand.Page, string) {
	t.Helper()
	if _, err := os.Stat(filepath.Join(modulesFolder, ".built")); err != nil {
		t.Fatal("the modules are not built: make web/modules/.built")
	}
	mux := http.NewServeMux()
	mux.Handle("/modules/", http.StripPrefix("/modules/", http.FileServer(http.Dir(modulesFolder))))
	mux.HandleFunc("/{$}", func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "text/html")
		fmt.Fprint(w, "<!doctype html><title>modules</title>")
	})
	if other != nil {
		mux.Handle("/api/", other)
	}
	server := httptest.NewServer(mux)
	t.Cleanup(server.Close)
	browser, err := hand.Open(context.Background(), t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(browser.Close)
	p, err := browser.Page(server.URL)
	if err != nil {
		t.Fatal(err)
	}
	if err := p.Go("/"); err != nil {
		t.Fatal(err)
	}
	return p, server.URL
}

// in evaluates the body of an asynchronous function in a page, with what it is given under the name given.
func in[T any](t *testing.T, p *hand.Page, given any, body string) T {
	t.Helper()
	b, err := json.Marshal(given)
	if err != nil {
		t.Fatal(err)
	}
	out, err := hand.Ask[T](p, fmt.Sprintf("(async (given) => { %s })(%s)", body, b))
	if err != nil {
		t.Fatal(err)
	}
	return out
}

// TestThePageComputesAsTheCoreDoes: prints of files, and the way between what plays and what is kept of it, each by
// what the core says of the same.
func TestThePageComputesAsTheCoreDoes(t *testing.T) {
	p, _ := modulePage(t, nil)
	t.Run("prints", func(t *testing.T) {
		const whole = fingerprint.Windows * fingerprint.Window
		for _, size := range []int64{0, 1, 1000, whole - 1, whole, whole + 1, whole + 12345, 3*whole + 7} {
			b := make([]byte, size)
			for i := range b {
				b[i] = byte(i * 31 >> 3)
			}
			path := filepath.Join(t.TempDir(), "file")
			if err := os.WriteFile(path, b, 0o600); err != nil {
				t.Fatal(err)
			}
			f, err := os.Open(path)
			if err != nil {
				t.Fatal(err)
			}
			want, err := fingerprint.Print(size, f)
			if err != nil {
				t.Fatal(err)
			}
			_ = f.Close()
			got := in[string](t, p, size, `const b = new Uint8Array(given)
				for (let i = 0; i < given; i++) b[i] = (i * 31) >> 3
				return (await import("/modules/fingerprint.js")).fingerprint(new Blob([b]))`)
			if got != fmt.Sprintf("%x", want) {
				t.Errorf("of %d bytes: %s, want %x", size, got, want)
			}
		}
	})
	t.Run("what is kept", func(t *testing.T) {
		type stretch struct {
			Start int64 `json:"start"`
			End   int64 `json:"end"`
		}
		type vector struct {
			Kept   []stretch `json:"kept"`
			At     int64     `json:"at"`
			Length int64     `json:"length"`
			To     int64     `json:"to"`
			Source int64     `json:"source"`
			Jump   int64     `json:"jump"` // -1 for none
		}
		var all []vector
		r := rand.New(rand.NewPCG(1, 2))
		for range 2000 {
			var spans []span.Span
			for range 1 + r.IntN(4) {
				a := time.Duration(r.IntN(100)) * time.Millisecond
				spans = append(spans, span.Span{Start: a, End: a + time.Duration(1+r.IntN(30))*time.Millisecond})
			}
			kept := span.Of(spans...)
			by := cutlist.CarrierOf(kept)
			at := time.Duration(r.IntN(140)) * time.Millisecond
			v := vector{At: at.Milliseconds(), Length: by.Length().Milliseconds(), Jump: -1}
			to, _ := by.Moment(at)
			v.To, v.Source = to.Milliseconds(), by.Source(at).Milliseconds()
			for _, k := range kept.Spans() {
				v.Kept = append(v.Kept, stretch{k.Start.Milliseconds(), k.End.Milliseconds()})
				if v.Jump < 0 && k.Start > at && !kept.Contains(at) {
					v.Jump = k.Start.Milliseconds()
				}
			}
			all = append(all, v)
		}
		wrong := in[[]json.RawMessage](t, p, all, `const m = await import("/modules/kept.js")
			return given
				.map((v) => ({ v, length: m.lengthOf(v.kept), to: m.toKept(v.kept, v.at),
					source: m.toSource(v.kept, v.at),
					jump: m.jump(v.kept, v.at) ?? -1 }))
				.filter((x) => x.length !== x.v.length || x.to !== x.v.to || x.source !== x.v.source ||
					x.jump !== x.v.jump)`)
		for _, x := range wrong[:min(3, len(wrong))] {
			t.Errorf("%s", x)
		}
		t.Logf("%d of %d differ", len(wrong), len(all))
	})
}
