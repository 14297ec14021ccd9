package captioner

import (
	"context"
	"encoding/binary"
	"errors"
	"math"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"latelantern/internal/core/caption"
	"latelantern/internal/core/lattice"
	"latelantern/internal/core/span"
	"latelantern/internal/core/wording"
	"latelantern/internal/platform/media"
	"latelantern/internal/standin/transcriber"
)

// silence is so much sound of nothing.
func silence(d time.Duration) []byte { return make([]byte, 2*int(d*Rate/time.Second)) }

// said is a text as a speech synthesiser of the machine says it.
func said(t *testing.T, text string) []byte {
	t.Helper()
	wav := filepath.Join(t.TempDir(), "said.wav")
	if out, err := exec.Command("espeak-ng", "-v", "en-us", "-s", "130", "-w", wav, text).CombinedOutput(); err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	pcm, err := exec.Command("ffmpeg", "-v", "error", "-i", wav, "-ac", "1", "-ar", "16000", "-f", "s16le",
		"-").Output()
	if err != nil {
		t.Fatal(err)
	}
	return append(append(silence(300*time.Millisecond), pcm...), silence(300*time.Millisecond)...)
}

// draft is what a captioner makes of pieces in one session.
func draft(t *testing.T, c Captioner, pieces []Piece, own Own) ([]caption.Word, error) {
	t.Helper()
	s, err := c.Begin(context.Background(), own)
	if err != nil {
		t.Fatal(err)
	}
	made, err := s.Draft(context.Background(), pieces)
	if err2 := s.Close(); err2 != nil {
		t.Error(err2)
	}
	// What is in a draft was heard where it stands, if it carries a meaning; each share is one.
	for _, w := range made.Words {
		if _, tells := c.(Sphinx); tells && wording.Carries(w.Text) &&
			!slices.ContainsFunc(made.Heard,
				func(h lattice.Heard) bool { return h.Word == w.Text && h.Overlaps(w.Span) }) {
			t.Errorf("%q of the draft at %v was not heard", w.Text, w.Start)
		}
	}
	for _, h := range made.Heard {
		if h.Share < leastHeard || h.Share > 1 || !slices.ContainsFunc(pieces, func(p Piece) bool {
			return h.Start >= p.At.Start && h.End <= p.At.Start+length(p.PCM)+time.Second
		}) {
			t.Errorf("heard %+v", h)
		}
	}
	return made.Words, err
}

// TestTheCaptionerThatIsBuiltIn drafts what is said, at its time; with the words of a course it
// knows words that no dictionary has.
func TestTheCaptionerThatIsBuiltIn(t *testing.T) {
	whole, err := Sphinx{}.General()
	if err != nil {
		t.Fatal(err)
	}
	if !slices.IsSortedFunc(whole.Pairs, wording.InOrder) || len(whole.Pairs) < 2_000_000 {
		t.Errorf("%d pairs, out of order", len(whole.Pairs))
	}
	alone := map[string]float64{}
	for i, w := range whole.Words {
		alone[w] = whole.Alone[i]
	}
	if alone["the"] < 0.02 || alone["the"] > 0.1 || alone["of"] < 100*alone["zebra"] {
		t.Fatalf("the: %v, of: %v", alone["the"], alone["of"])
	}
	few := whole.Within(5000, func(w string) bool { return w == "harbour" })
	if n := len(few.Words); n < 5000 || n > 5003 {
		t.Fatalf("%d of 5000 words", n)
	}
	plain := wording.NewModel(nil, few)
	if p := plain.Likely("york", "new"); p < 0.05 || p < 100*plain.Likely("york", "old") {
		t.Errorf("york after new: %v, after old: %v", p, plain.Likely("york", "old"))
	}
	var lines [][]string
	for range 5 {
		lines = append(lines,
			wording.Lines("The fennamore rises twice a day. Measure the fennamore at the harbour.")...)
	}
	pieces := []Piece{{At: span.Span{Start: 10 * time.Second}, PCM: said(t, "measure the fennamore at the harbour")},
		{At: span.Span{Start: 60 * time.Second}, PCM: silence(time.Second)},
		{At: span.Span{Start: 70 * time.Second}, PCM: said(t, "the fennamore rises twice a day")}}
	words, err := draft(t, Sphinx{}, pieces, Own{Model: wording.NewModel(lines, few)})
	if err != nil {
		t.Fatal(err)
	}
	text, second := "", ""
	for i, w := range words {
		if w.End <= w.Start || i > 0 && w.Start < words[i-1].Start {
			t.Errorf("word %d is %+v", i, w)
		}
		if w.Start < 60*time.Second {
			text += w.Text + " "
		} else {
			second += w.Text + " "
		}
	}
	if strings.Count(text+second, "fennamore") != 2 || !strings.Contains(text, "harbour") ||
		!strings.Contains(second, "twice a day") {
		t.Errorf("drafted %q and %q", text, second)
	}
	if first := words[0].Start; first < 10*time.Second || first > 10*time.Second+700*time.Millisecond {
		t.Errorf("the first word is at %v", first)
	}
	// Without the words of the course the word that nobody knows is not found, and all the rest is.
	words, err = draft(t, Sphinx{}, pieces[:1], Own{})
	if err != nil || len(words) < 3 {
		t.Fatalf("%v %v", words, err)
	}
	for _, w := range words {
		if w.Text == "fennamore" {
			t.Error("a word that is in no dictionary was found without being told of")
		}
	}
	if s := (Sphinx{}); !s.Speaks("en-GB") || s.Speaks("de") {
		t.Error("it speaks English alone")
	}
}

func TestAModelThatIsNone(t *testing.T) {
	for _, b := range []string{"", "Trie Language Model\x03", "Trie Language Model\x03" + strings.Repeat("\x01", 100),
		strings.Repeat("x", 1<<20)} {
		if _, err := general([]byte(b)); !errors.Is(err, errTrie) {
			t.Errorf("%d bytes: %v", len(b), err)
		}
	}
	whole, err := os.ReadFile(Sphinx{}.at("en-us.lm.bin"))
	if err != nil {
		t.Fatal(err)
	}
	for _, cut := range []int{40, 1000, 800_000, 2_000_000, len(whole) - 500_000, len(whole) - 1} {
		if _, err := general(whole[:cut]); !errors.Is(err, errTrie) {
			t.Errorf("cut off after %d bytes: %v", cut, err)
		}
	}
	const unigrams = 19 + 17 + 3<<18
	for _, at := range []int{20, 24, 28, 32, unigrams + 3, unigrams + 8, unigrams + 20} {
		b := slices.Clone(whole)
		b[at], b[at+1] = 0x7f, 0x7f
		if _, err := general(b); !errors.Is(err, errTrie) {
			t.Errorf("other bytes at %d: %v", at, err)
		}
	}
	if _, err := (Sphinx{Model: t.TempDir()}).General(); !errors.Is(err, media.ErrNoTool) {
		t.Errorf("no model at all: %v", err)
	}
}

func TestSoundsOfWords(t *testing.T) {
	for ipa, want := range map[string]string{"tˈaɪdəl": "T AY D AH L", "skˈɛɹi": "S K EH R IY", "tʃˈɜːtʃ": "CH ER CH",
		"": "", "ʘ": ""} {
		if got := arpabet(ipa); got != want {
			t.Errorf("%s is %q, want %q", ipa, got, want)
		}
	}
	lines, err := spellOut(context.Background(), []string{"fennamore", "skerry"})
	if err != nil || len(lines) != 2 || !strings.HasPrefix(lines[0], "fennamore F EH") ||
		!strings.HasPrefix(lines[1], "skerry S K") {
		t.Errorf("%q %v", lines, err)
	}
}

// TestACaptionerBehindAnAddress: words come at their times; one that is down, slow, or answers
// nonsense is told from one that is well.
func TestACaptionerBehindAnAddress(t *testing.T) {
	server := &transcriber.Server{Text: "the tide turns at noon", Key: "a key"}
	web := httptest.NewServer(server)
	defer web.Close()
	s := &Server{Address: web.URL, Key: "a key", Model: "small", Limit: 500 * time.Millisecond}
	piece := Piece{At: span.Span{Start: 5 * time.Second}, PCM: silence(2600 * time.Millisecond)}
	draft := func() (string, error) {
		words, err := draft(t, s, []Piece{piece, {}},
			Own{Language: "en-GB", Terms: []string{"spring tide", "neap tide"}})
		text := ""
		for _, w := range words {
			text += w.Text + "@" + w.Start.String() + " "
		}
		return text, err
	}
	if text, err := draft(); err != nil || text != "the@5s tide@5.5s turns@6s at@6.5s noon@7s " {
		t.Errorf("%q %v", text, err)
	}
	if heard := server.Heard(); len(heard) != 1 ||
		heard[0] != (transcriber.Request{Model: "small", Language: "en", Prompt: "spring tide, neap tide",
			Length: 2600 * time.Millisecond}) {
		t.Errorf("it heard %+v", heard)
	}
	server.Feel(transcriber.Bare)
	if text, err := draft(); err != nil || !strings.HasPrefix(text, "the@5s tide@5.52s ") {
		t.Errorf("without times: %q %v", text, err)
	}
	for mood, want := range map[transcriber.Mood]error{transcriber.Down: ErrDown, transcriber.Slow: ErrDown,
		transcriber.Nonsense: ErrNonsense, transcriber.Beyond: ErrNonsense} {
		server.Feel(mood)
		if _, err := draft(); !errors.Is(err, want) {
			t.Errorf("mood %d: %v", mood, err)
		}
	}
	server.Feel(transcriber.Well)
	s.Key = "another"
	if _, err := draft(); !errors.Is(err, ErrNonsense) {
		t.Errorf("with a wrong key: %v", err)
	}
	s.Address = "http://127.0.0.1:1"
	if _, err := draft(); !errors.Is(err, ErrDown) {
		t.Errorf("where nobody is: %v", err)
	}
}

func TestSoundAsAFile(t *testing.T) {
	b := wav(silence(time.Second))
	le := binary.LittleEndian
	if len(b) != 44+2*Rate || string(b[:4]) != "RIFF" || le.Uint32(b[4:]) != uint32(len(b)-8) ||
		le.Uint32(b[24:]) != Rate || math.Abs(length(b[44:]).Seconds()-1) > 1e-9 {
		t.Errorf("%d bytes: %x", len(b), b[:44])
	}
}

func TestLatticesThatAreNone(t *testing.T) {
	const good = "# getcwd: /this/is/bogus\n#\nFrames 20\n#\nNodes 3 (NODEID WORD STARTFRAME FIRST-ENDFRAME LAST-ENDFRAME)\n0 </s> 15 19 19 ; 0\n1 tide(2) 3 14 16 ; 0\n2 <s> 0 2 15 ; 0\n#\nInitial 2\nFinal 0\n#\nBestSegAscr 0 (NODEID ENDFRAME ASCORE)\n#\nEdges (FROM-NODEID TO-NODEID ASCORE)\n1 0 -400384\n2 1 -183296\nEnd\n"
	l, err := readLattice(strings.NewReader(good))
	if err != nil || len(l.Nodes) != 3 || len(l.Edges) != 2 || l.First != 2 || l.Nodes[1].Word != "tide" ||
		l.Nodes[1].Span != (span.Span{Start: 30 * time.Millisecond, End: 170 * time.Millisecond}) {
		t.Fatalf("%+v (%v)", l, err)
	}
	if h := l.Heard(0, func(string, string) float64 { return 0.1 }); len(h) != 3 || h[1].Word != "tide" ||
		h[1].Share < 0.999 {
		t.Errorf("heard %+v", h)
	}
	for _, bad := range []string{"", "Nodes 1\n", "0 x 1 2 3 ; 0\n", strings.Replace(good, "15 19 19", "15 19 x", 1),
		strings.Replace(good, "15 19 19", "15 19 9", 1), strings.Replace(good, "Initial 2", "Initial 7", 1),
		strings.Replace(good, "2 1 -18", "2 9 -18", 1), strings.Replace(good, "1 0 -400384", "1", 1)} {
		if _, err := readLattice(strings.NewReader(bad)); !errors.Is(err, ErrNonsense) {
			t.Errorf("%q: %v", bad, err)
		}
	}
}
