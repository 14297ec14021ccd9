package e2e

import (
	"crypto/sha256"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"strconv"
	"strings"
	"sync"
	"testing"
)

// far is a server at the end of a poor line: it keeps what is appended, and many a request or answer is lost.
type far struct {
	sync.Mutex
	r       *rand.Rand
	poor    float64 // the share of requests of which something is lost
	tracks  map[string]*kept
	markers map[string]int // by how often each came
	refuse  int            // a status for every append, 0 for none
	hold    chan struct{}  // appends wait until it is closed; nil for no wait
	late    int            // how often something came at a place where it is no longer expected
}

type kept struct {
	bytes    []byte
	length   int // -1 while it is not known
	begun    int
	complete bool
}

// lose is how the next request fares: not at all, in its answer, in the midst of its body, with less of it kept than
// came, or well.
func (f *far) lose() string {
	if f.r.Float64() >= f.poor {
		return ""
	}
	return []string{"request", "answer", "half", "short", "busy"}[f.r.IntN(5)]
}

func drop(w http.ResponseWriter) {
	if c, _, err := http.NewResponseController(w).Hijack(); err == nil {
		_ = c.Close()
	}
}

func (f *far) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	body, err := io.ReadAll(r.Body)
	if f.hold != nil && r.Method == http.MethodPatch {
		<-f.hold
	}
	f.Lock()
	defer f.Unlock()
	fate := f.lose()
	if err != nil || fate == "request" {
		drop(w)
		return
	}
	if fate == "busy" {
		w.WriteHeader(http.StatusServiceUnavailable)
		return
	}
	if fate == "half" || fate == "short" {
		body = body[:len(body)/2]
	}
	status := f.do(w, r, body, fate == "half")
	if fate == "answer" || fate == "half" {
		drop(w)
		return
	}
	w.WriteHeader(status)
}

func (f *far) do(w http.ResponseWriter, r *http.Request, body []byte, torn bool) int {
	if strings.Contains(r.URL.Path, "/markers/") {
		f.markers[r.URL.Path]++
		return http.StatusNoContent
	}
	if r.Method == http.MethodPost {
		// The name of the track is that of the capture, so that it is begun once.
		name := fmt.Sprintf("%x", sha256.Sum256([]byte(r.Header.Get("Upload-Metadata"))))[:12]
		for part := range strings.SplitSeq(r.Header.Get("Upload-Metadata"), ",") {
			if k, v, _ := strings.Cut(part, " "); k == "track" {
				name = strings.TrimRight(v, "=")
			}
		}
		if f.tracks[name] == nil {
			f.tracks[name] = &kept{length: -1}
		}
		f.tracks[name].begun++
		w.Header().Set("Location", "/api/append/"+name)
		return http.StatusCreated
	}
	k := f.tracks[strings.TrimPrefix(r.URL.Path, "/api/append/")]
	if k == nil {
		return http.StatusNotFound
	}
	w.Header().Set("Upload-Offset", strconv.Itoa(len(k.bytes)))
	if r.Method == http.MethodHead {
		return http.StatusOK
	}
	if f.refuse != 0 {
		return f.refuse
	}
	if at, _ := strconv.Atoi(r.Header.Get("Upload-Offset")); at != len(k.bytes) {
		f.late++
		return http.StatusConflict
	}
	k.bytes = append(k.bytes, body...)
	if length, err := strconv.Atoi(r.Header.Get("Upload-Length")); err == nil && !torn {
		k.length = length
		k.complete = len(k.bytes) == length
	}
	w.Header().Set("Upload-Offset", strconv.Itoa(len(k.bytes)))
	return http.StatusNoContent
}

// captured keeps a capture of pieces in the database of the page, and gives its name.
const captured = `const keep = await import("/modules/keep.js")
	const id = crypto.randomUUID(), capture = { id, lecture: id, mediaType: "video/webm", began: Date.now() - 5000 }
	const piece = (n) => Uint8Array.from({ length: 1 + ((n * 7919) % 5000) }, (_, i) => (n * 31 + i) & 255)
	let whole = 0
	const put = async (n) => {
		const bytes = piece(n).buffer
		await keep.keepPiece({ capture: id, offset: whole, bytes, until: 1000 * (n + 1) })
		whole += bytes.byteLength
	}
	await keep.keepCapture({ ...capture })
	`

// piecesOf are the bytes that captured keeps.
func piecesOf(n int) (out []byte) {
	for k := range n {
		for i := range 1 + k*7919%5000 {
			out = append(out, byte(k*31+i))
		}
	}
	return out
}

type sent struct {
	ID       string `json:"id"`
	All      bool   `json:"all"`
	Pieces   int    `json:"pieces"`
	Captures int    `json:"captures"`
	Markers  int    `json:"markers"`
	Fault    int    `json:"fault"`
	Back     bool   `json:"back"` // what was told to be safe became less
}

// TestAPoorLineLosesNothing: whatever is lost on the way, each byte is stored once and in its place, each marker
// comes, and only then is anything forgotten.
func TestAPoorLineLosesNothing(t *testing.T) {
	f := &far{tracks: map[string]*kept{}, markers: map[string]int{}}
	p, _ := modulePage(t, f)
	for round := range 12 {
		f.Lock()
		f.r, f.poor = rand.New(rand.NewPCG(uint64(round), 7)), float64(round)*0.05
		f.Unlock()
		pieces := 5 + 6*round
		got := in[sent](t, p, pieces, captured+`const { Sender } = await import("/modules/sender.js")
			let safe = 0, back = false
			const sender = new Sender(capture, (x) => { back ||= x.safe < safe; safe = x.safe })
			const hurry = setInterval(() => sender.poke(), 10) // without waiting longer after each loss
			const done = sender.run()
			for (let n = 0; n < given; n++) {
				await put(n)
				if (n % 5 === 0) 
					await keep.keepMarker({ id: crypto.randomUUID(), capture: id, at: n * 1000, word: "x" })
				if (n % 7 === 0) await new Promise((go) => setTimeout(go, 15))
			}
			capture.total = whole
			const all = await Promise.race([done, new Promise((go) => setTimeout(go, 60_000, false))])
			clearInterval(hurry)
			sender.close()
			return { id, all, back, pieces: (await keep.nextPieces(id, 1000)).length,
				captures: (await keep.captures()).length, markers: (await keep.markersOf(id)).length }`)
		f.Lock()
		var k *kept
		for _, x := range f.tracks {
			k = x
		}
		want := piecesOf(pieces)
		if !got.All || got.Pieces+got.Captures+got.Markers != 0 || got.Back {
			t.Errorf("round %d: %+v", round, got)
		}
		if len(f.tracks) != 1 || string(k.bytes) != string(want) || k.length != len(want) || !k.complete {
			t.Errorf("round %d: %d tracks, %d of %d bytes, %+v", round, len(f.tracks), len(k.bytes), len(want),
				k.length)
		}
		if len(f.markers) != (pieces+4)/5 {
			t.Errorf("round %d: %d markers of %d", round, len(f.markers), (pieces+4)/5)
		}
		f.tracks, f.markers = map[string]*kept{}, map[string]int{}
		f.Unlock()
	}
	if f.late == 0 {
		t.Error("nothing was ever lost")
	}
}

// TestWhatIsRefusedStays in the browser, and what stands in the way for good is told; what does not is tried again.
func TestWhatIsRefusedStays(t *testing.T) {
	f := &far{r: rand.New(rand.NewPCG(1, 1)), tracks: map[string]*kept{}, markers: map[string]int{}}
	p, _ := modulePage(t, f)
	for status, ends := range map[int]bool{400: true, 403: true, 404: true, 410: true, 413: true, 422: true, 401: false,
		408: false, 409: false, 429: false, 500: false, 503: false, 507: false} {
		f.Lock()
		f.refuse = status
		f.Unlock()
		got := in[sent](t, p, 6, captured+`const { Sender } = await import("/modules/sender.js")
			for (let n = 0; n < given; n++) await put(n)
			capture.total = whole
			let fault = 0, tries = 0
			const sender = new Sender(capture, (x) => { fault = x.fault?.status ?? 0; if (++tries > 6) sender.close() })
			const hurry = setInterval(() => sender.poke(), 10)
			const all = await sender.run()
			clearInterval(hurry)
			const left = (await keep.nextPieces(id, 1000)).length
			await keep.forget(id)
			return { id, all, fault, back: tries > 6, pieces: left }`)
		told := status
		if !ends && status != 401 && status != 507 {
			told = 0 // it is only tried again
		}
		if got.All || got.Pieces != 6 || got.Back == ends || got.Fault != told {
			t.Errorf("answered %d: %+v", status, got)
		}
	}
}

// TestWhatADeadPageLeftIsSentOnce, by whichever page comes next, also where two come at once; what was captured ends
// where its pieces do.
func TestWhatADeadPageLeftIsSentOnce(t *testing.T) {
	f := &far{r: rand.New(rand.NewPCG(1, 1)), tracks: map[string]*kept{}, markers: map[string]int{},
		hold: make(chan struct{})}
	p, _ := modulePage(t, f)
	const pieces = 30
	id := in[string](t, p, pieces, captured+`for (let n = 0; n < given; n++) await put(n); return id`)
	other, err := p.Beside()
	if err != nil {
		t.Fatal(err)
	}
	defer other.Close()
	if err := other.Go("/"); err != nil {
		t.Fatal(err)
	}
	const resume = `const { resumeUnsent } = await import("/modules/unsent.js"); await resumeUnsent(); return true`
	in[bool](t, p, nil, resume)
	in[bool](t, other, nil, resume)
	if ok := in[bool](t, other, id,
		`return (await navigator.locks.query()).held.some((l) => l.name.endsWith(given))`); !ok {
		t.Error("nobody sends")
	}
	close(f.hold)
	if !in[bool](t, p, 0, `const keep = await import("/modules/keep.js")
		for (let n = 0; n < 600; n++) {
			if ((await keep.captures()).length === given) return true
			await new Promise((go) => setTimeout(go, 100))
		}
		return false`) {
		t.Error("what was sent is not forgotten")
	}
	f.Lock()
	defer f.Unlock()
	for _, k := range f.tracks {
		if string(k.bytes) != string(piecesOf(pieces)) || !k.complete || k.begun != 1 {
			t.Errorf("%d bytes, begun %d times, complete: %v", len(k.bytes), k.begun, k.complete)
		}
	}
	if len(f.tracks) != 1 || f.late != 0 {
		t.Errorf("%d tracks of %s, %d came twice", len(f.tracks), id, f.late)
	}
}
