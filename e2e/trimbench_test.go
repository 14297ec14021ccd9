package e2e

import (
	"context"
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/google/uuid"

	"latelantern/e2e/hand"
	"latelantern/internal/core/span"
	"latelantern/internal/cuts"
	"latelantern/internal/platform/postgres"
)

// text is what the page says.
func text(p *hand.Page) string {
	said, _ := hand.Ask[string](p, `document.body.innerText`)
	return said
}

// shiftEnter presses both.
func shiftEnter(p *hand.Page) error {
	return p.Press(kb.Enter, hand.Shift)
}

// TestTrimmingByKeysAlone: all proposals at once, edges by a picture, a tenth and to a silence, each
// heard as it will be published; then titled and taken out as a timeline, and brought in again.
func TestTrimmingByKeysAlone(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s := newStage(t, "alg-3")
	b := chromium(t)
	p := s.person(b, coordinator)
	id, err := postgres.Value[uuid.UUID](ctx, s.house.DB, `select id from recording`)
	s.must(err)
	by, err := postgres.Value[uuid.UUID](ctx, s.house.DB, `select id from person where coordinator`)
	s.must(err)
	struck := func() []span.Span {
		r, err := s.house.Recordings.Recording(ctx, id)
		s.must(err)
		return r.Struck.Spans()
	}
	await := func(what string, ok func([]span.Span) bool) (x []span.Span) {
		t.Helper()
		s.until(what, func() bool { x = struck(); return ok(x) })
		return x
	}
	s.must(p.Go("/recordings/"+id.String()), p.See("Strike all 3 proposals"),
		p.Wait(`document.querySelector('video')?.readyState > 2`), shiftEnter(p), p.See("3 stretches struck"))
	before := await("all proposals", func(x []span.Span) bool { return len(x) == 3 })
	// The playhead stands at the beginning: the nearest edge is where the lecture begins.
	edge := before[0].End
	frame, err := s.house.Recordings.Frame(ctx, id)
	s.must(err)
	frame = frame.Round(time.Millisecond)
	for _, x := range []struct {
		keys string
		by   time.Duration
	}{{"]", frame}, {"]]]", 3 * frame}, {"[", -frame}, {"=", 100 * time.Millisecond}, {"-", -100 * time.Millisecond}} {
		s.must(p.Keys(x.keys))
		edge += x.by
		await(x.keys, func(x []span.Span) bool { return x[0].End == edge })
	}
	s.must(p.Keys("n"))
	await("to a silence", func(x []span.Span) bool {
		return x[0].End != edge || strings.Contains(text(p), "lies in a silence already")
	})
	s.must(p.Keys("n"), p.See("This edge lies in a silence already"))
	edge = struck()[0].End
	s.must(p.Keys("}}"))
	edge += 2 * time.Second
	await("two seconds on", func(x []span.Span) bool { return x[0].End == edge })
	s.must(p.Keys("n"))
	quiet := await("to a silence", func(x []span.Span) bool { return x[0].End != edge })
	if d := (quiet[0].End - edge).Abs(); d > 10*time.Second {
		t.Errorf("the nearest silence is %v away", d)
	}
	// To hear it plays a second from the join on, and stops there by itself.
	_, err = hand.Ask[bool](p,
		`document.querySelector('video').addEventListener('playing', () => (window.played = true), { once: true }) ?? true`)
	s.must(err, p.Keys("h"), p.Wait(`window.played && document.querySelector('video').paused`))
	at, err := hand.Ask[float64](p, `document.querySelector('video').currentTime`)
	if want := quiet[0].End.Seconds() + 1; err != nil || at < want-0.05 || at > want+0.05 {
		t.Errorf("it was heard up to %v, not %v (%v)", at, want, err)
	}
	s.clean(p, "a trimmed lecture")
	// Out as a timeline, changed, and in again.
	out, err := hand.Ask[string](p, `fetch('/api/recordings/`+id.String()+`/timeline.otio').then(r => r.text())`)
	s.must(err)
	var timeline map[string]any
	if err := json.Unmarshal([]byte(out), &timeline); err != nil || timeline["OTIO_SCHEMA"] != "Timeline.1" {
		t.Fatalf("%v %.80s", err, out)
	}
	folder := t.TempDir()
	file := func(name, text string) string {
		path := filepath.Join(folder, name)
		s.must(os.WriteFile(path, []byte(text), 0o600))
		return path
	}
	s.must(s.house.Cuts.Change(ctx, id, by, cuts.Restore, span.Span{End: time.Hour}))
	s.must(p.Give("bring one in", file("cut.otio", out)), p.See("Its cuts are taken over"),
		p.See("3 stretches struck"),
		p.Give("bring one in", file("other.otio", strings.ReplaceAll(out, id.String(), uuid.NewString()))),
		p.See("This timeline is of another recording"),
		p.Give("bring one in", file("broken.otio", out[:90])), p.See("This cannot be read as OpenTimelineIO"),
		p.See("3 stretches struck"), p.Click("Undo"))
}

// TestTwoOnOneBench: whoever comes second is told who was first, and chooses.
func TestTwoOnOneBench(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s := newStage(t, "alg-3")
	b := chromium(t)
	p := s.person(b, coordinator)
	id, err := postgres.Value[uuid.UUID](ctx, s.house.DB, `select id from recording`)
	s.must(err)
	by, err := postgres.Value[uuid.UUID](ctx, s.house.DB, `select id from person where name = 'Tobias Hallgrim'`)
	s.must(err)
	// This page hears of nothing that others do.
	_, err = chromedp.Call(p.Context(), page.AddScriptToEvaluateOnNewDocument,
		page.AddScriptToEvaluateOnNewDocumentParams{Source: `window.EventSource = class { close() {} }`})
	s.must(err, p.Go("/recordings/"+id.String()), p.See("Strike all 3 proposals"),
		p.Wait(`document.querySelectorAll('.margin .open').length === 3`))
	s.must(s.house.Cuts.Change(ctx, id, by, cuts.Strike, span.Span{Start: 30 * time.Second, End: 33 * time.Second}))
	s.must(p.Keys(kb.Enter), p.See("Tobias Hallgrim changed the cuts at"), p.See("1 stretch struck"))
	s.clean(p, "two on one bench")
	s.must(p.Click("Make mine as well"), p.See("2 stretches struck"),
		p.Wait(`!/changed the cuts/.test(document.body.innerText)`))
	r, err := s.house.Recordings.Recording(ctx, id)
	if err != nil || len(r.Struck.Spans()) != 2 {
		t.Errorf("%v %v", r.Struck.Spans(), err)
	}
}
