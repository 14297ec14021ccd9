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
	"strings"
	"testing"
	"time"

	"latelantern/internal/core/span"
	"latelantern/internal/core/wording"
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
	pcm, err := exec.Command("ffmpeg", "-v", "error", "-i", wav, "-ac", "1", "-ar", "16000", "-f", "s16le", "-").Output()
	if err != nil {
		t.Fatal(err)
	}
	return append(append(silence(300*time.Millisecond), pcm...), silence(300*time.Millisecond)...)
}

// TestTheCaptionerThatIsBuiltIn drafts what is said, at its time; with the words of a course it
// knows words that no dictionary has.
func TestTheCaptionerThatIsBuiltIn(t *testing.T) {
	s := Sphinx{}
	common, err := s.Common(5000)
	if err != nil {
		t.Fatal(err)
	}
	if len(common) != 5000 || common["the"] < 0.02 || common["the"] > 0.1 || common["of"] < common["zebra"] {
		t.Fatalf("%d common words, the: %v", len(common), common["the"])
	}
	var lines [][]string
	for range 5 {
		lines = append(lines, wording.Lines("The fennamore rises twice a day. Measure the fennamore at the harbour.")...)
	}
	pieces := []Piece{{At: span.Span{Start: 10 * time.Second}, PCM: said(t, "measure the fennamore at the harbour")}, {At: span.Span{Start: 60 * time.Second}, PCM: silence(time.Second)}, {At: span.Span{Start: 70 * time.Second}, PCM: said(t, "the fennamore rises twice a day")}}
	words, err := s.Draft(context.Background(), pieces, Own{Model: wording.NewModel(lines, common)})
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
	if strings.Count(text+second, "fennamore") != 2 || !strings.Contains(text, "harbour") || !strings.Contains(second, "twice a day") {
		t.Errorf("drafted %q and %q", text, second)
	}
	if first := words[0].Start; first < 10*time.Second || first > 10*time.Second+700*time.Millisecond {
		t.Errorf("the first word is at %v", first)
	}
	// Without the words of the course the word that nobody knows is not found, and all the rest is.
	words, err = s.Draft(context.Background(), pieces[:1], Own{})
	if err != nil || len(words) < 3 {
		t.Fatalf("%v %v", words, err)
	}
	for _, w := range words {
		if w.Text == "fennamore" {
			t.Error("a word that is in no dictionary was found without being told of")
		}
	}
	if !s.Speaks("en-GB") || s.Speaks("de") {
		t.Error("it speaks English alone")
	}
}

func TestAModelThatIsNone(t *testing.T) {
	for _, b := range []string{"", "Trie Language Model\x03", "Trie Language Model\x03" + strings.Repeat("\x01", 100), strings.Repeat("x", 1<<20)} {
		if _, err := unigrams([]byte(b)); !errors.Is(err, errTrie) {
			t.Errorf("%d bytes: %v", len(b), err)
		}
	}
	if _, err := (Sphinx{Model: t.TempDir()}).Common(5); !errors.Is(err, os.ErrNotExist) {
		t.Errorf("no model at all: %v", err)
	}
}

func TestSoundsOfWords(t *testing.T) {
	for ipa, want := range map[string]string{"tˈaɪdəl": "T AY D AH L", "skˈɛɹi": "S K EH R IY", "tʃˈɜːtʃ": "CH ER CH", "": "", "ʘ": ""} {
		if got := arpabet(ipa); got != want {
			t.Errorf("%s is %q, want %q", ipa, got, want)
		}
	}
	lines, err := spellOut(context.Background(), []string{"fennamore", "skerry"})
	if err != nil || len(lines) != 2 || !strings.HasPrefix(lines[0], "fennamore F EH") || !strings.HasPrefix(lines[1], "skerry S K") {
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
		words, err := s.Draft(context.Background(), []Piece{piece, {}}, Own{Language: "en-GB", Terms: []string{"spring tide", "neap tide"}})
		text := ""
		for _, w := range words {
			text += w.Text + "@" + w.Start.String() + " "
		}
		return text, err
	}
	if text, err := draft(); err != nil || text != "the@5s tide@5.5s turns@6s at@6.5s noon@7s " {
		t.Errorf("%q %v", text, err)
	}
	if heard := server.Heard(); len(heard) != 1 || heard[0] != (transcriber.Request{Model: "small", Language: "en", Prompt: "spring tide, neap tide", Length: 2600 * time.Millisecond}) {
		t.Errorf("it heard %+v", heard)
	}
	server.Feel(transcriber.Bare)
	if text, err := draft(); err != nil || !strings.HasPrefix(text, "the@5s tide@5.52s ") {
		t.Errorf("without times: %q %v", text, err)
	}
	for mood, want := range map[transcriber.Mood]error{transcriber.Down: ErrDown, transcriber.Slow: ErrDown, transcriber.Nonsense: ErrNonsense, transcriber.Beyond: ErrNonsense} {
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
	if len(b) != 44+2*Rate || string(b[:4]) != "RIFF" || le.Uint32(b[4:]) != uint32(len(b)-8) || le.Uint32(b[24:]) != Rate || math.Abs(length(b[44:]).Seconds()-1) > 1e-9 {
		t.Errorf("%d bytes: %x", len(b), b[:44])
	}
}
