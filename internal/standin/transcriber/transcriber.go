// Package transcriber is a small simulated server of transcriptions. It speaks the common form: a
// file posted to /v1/audio/transcriptions, and JSON with words and their times. It understands
// nothing: of each half second of sound it says the next word of a text of its own.
package transcriber

import (
	"encoding/json"
	"net/http"
	"strings"
	"sync"
	"time"
)

// Server is the simulated server. Its zero value says nothing but "word".
type Server struct {
	Text string // its words, said again and again
	Key  string // which callers must know; "" for none

	mu    sync.Mutex
	mood  Mood
	heard []Request
}

// Mood is how it answers.
type Mood int

const (
	Well     Mood = iota
	Down          // as servers do that have too much to do
	Nonsense      // a page where an answer should be
	Slow          // not before the caller loses patience
	Beyond        // with times that lie outside of what was sent
	Bare          // with the text alone, and no times
)

// Request is what came with a file.
type Request struct {
	Model, Language, Prompt string
	Length                  time.Duration
}

// Feel changes how it answers from now on.
func (s *Server) Feel(m Mood) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.mood = m
}

// Heard lists what was asked so far.
func (s *Server) Heard() []Request {
	s.mu.Lock()
	defer s.mu.Unlock()
	return append([]Request(nil), s.heard...)
}

// step is how long each word takes.
const step = 500 * time.Millisecond

// ServeHTTP implements http.Handler.
func (s *Server) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	if r.Method != http.MethodPost || r.URL.Path != "/v1/audio/transcriptions" {
		http.NotFound(w, r)
		return
	}
	if s.Key != "" && r.Header.Get("Authorization") != "Bearer "+s.Key {
		http.Error(w, "who are you?", http.StatusUnauthorized)
		return
	}
	file, header, err := r.FormFile("file")
	if err != nil || !strings.HasSuffix(header.Filename, ".wav") {
		http.Error(w, "no sound", http.StatusBadRequest)
		return
	}
	defer file.Close()
	s.mu.Lock()
	mood := s.mood
	length := time.Duration(header.Size-44) * time.Second / 32000
	s.heard = append(s.heard, Request{r.FormValue("model"), r.FormValue("language"), r.FormValue("prompt"), length})
	s.mu.Unlock()
	switch mood {
	case Down:
		http.Error(w, "too much to do", http.StatusServiceUnavailable)
		return
	case Nonsense:
		_, _ = w.Write([]byte("<!doctype html><title>Hello</title>"))
		return
	case Slow:
		<-r.Context().Done()
		return
	}
	type word struct {
		Word  string  `json:"word"`
		Start float64 `json:"start"`
		End   float64 `json:"end"`
	}
	texts := strings.Fields(s.Text)
	if len(texts) == 0 {
		texts = []string{"word"}
	}
	words := []word{}
	var said []string
	for at := time.Duration(0); at+step <= length; at += step {
		text := texts[len(words)%len(texts)]
		said = append(said, text)
		words = append(words, word{text, at.Seconds(), (at + step - 50*time.Millisecond).Seconds()})
	}
	if mood == Beyond {
		for i := range words {
			words[i].Start += 1e6
			words[i].End += 1e6
		}
	}
	answer := map[string]any{"text": strings.Join(said, " "), "words": words}
	if mood == Bare {
		delete(answer, "words")
	}
	w.Header().Set("Content-Type", "application/json")
	_ = json.NewEncoder(w).Encode(answer)
}
