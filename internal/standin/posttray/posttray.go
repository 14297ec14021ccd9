// Package posttray is a small simulated mail server that ships for demonstrations and tests:
// it takes every letter but those to nobody, delivers none, and shows them on a page of its own.
package posttray

import (
	"errors"
	"fmt"
	"html/template"
	"io"
	"log"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/emersion/go-message/mail"
	"github.com/emersion/go-smtp"
)

// Letter is a letter that arrived.
type Letter struct {
	To, Subject, Text string
	At                time.Time
	ID                string // its Message-ID
	Stop              string // the address at which its reader stops others, if any (RFC 8058)
}

// Tray holds the letters that arrived, each as a file of a folder.
type Tray struct {
	folder string
	server *smtp.Server
	mu     sync.Mutex
	n      int
}

// Open serves SMTP on l and keeps what arrives in a folder, which it makes.
func Open(l net.Listener, folder string) (*Tray, error) {
	if err := os.MkdirAll(folder, 0o700); err != nil {
		return nil, fmt.Errorf("open the post tray: %w", err)
	}
	t := &Tray{folder: folder}
	t.server = smtp.NewServer(smtp.BackendFunc(func(*smtp.Conn) (smtp.Session, error) {
		return &session{tray: t},
			nil
	}))
	t.server.Domain = "post.example"
	t.server.MaxMessageBytes = 1 << 20
	t.server.ReadTimeout, t.server.WriteTimeout = 10*time.Second, 10*time.Second
	t.server.ErrorLog = log.New(io.Discard, "", 0)
	go func() { _ = t.server.Serve(l) }()
	return t, nil
}

// Close stops serving.
func (t *Tray) Close() error { return t.server.Close() }

type session struct {
	tray *Tray
}

func (s *session) Mail(string, *smtp.MailOptions) error { return nil }
func (s *session) Reset()                               {}
func (s *session) Logout() error                        { return nil }

// Nobody is the beginning of addresses that it knows not: a letter to one is refused.
const Nobody = "nobody"

// Rcpt takes every address but those of nobody.
func (s *session) Rcpt(to string, _ *smtp.RcptOptions) error {
	if strings.HasPrefix(to, Nobody) {
		return &smtp.SMTPError{Code: 550, EnhancedCode: smtp.EnhancedCode{5, 1, 1}, Message: "There is no such mailbox."}
	}
	return nil
}

// Data keeps a letter. It is acknowledged when its file is there.
func (s *session) Data(r io.Reader) error {
	b, err := io.ReadAll(r)
	if err != nil {
		return err
	}
	t := s.tray
	t.mu.Lock()
	defer t.mu.Unlock()
	t.n++
	name := fmt.Sprintf("%d-%04d.eml", time.Now().UnixMilli(), t.n)
	return os.WriteFile(filepath.Join(t.folder, name), b, 0o600)
}

// Letters lists what arrived, the newest first.
func (t *Tray) Letters() ([]Letter, error) {
	names, err := filepath.Glob(filepath.Join(t.folder, "*.eml"))
	if err != nil {
		return nil, fmt.Errorf("list the post tray: %w", err)
	}
	slices.Sort(names)
	slices.Reverse(names)
	var out []Letter
	for _, name := range names {
		l, err := read(name)
		if err != nil {
			return nil, err
		}
		out = append(out, l)
	}
	return out, nil
}

func read(name string) (Letter, error) {
	f, err := os.Open(name)
	if err != nil {
		return Letter{}, fmt.Errorf("open a letter: %w", err)
	}
	defer f.Close()
	m, err := mail.CreateReader(f)
	if err != nil {
		return Letter{}, fmt.Errorf("read a letter: %w", err)
	}
	var l Letter
	to, err1 := m.Header.AddressList("To")
	at, err2 := m.Header.Date()
	subject, err3 := m.Header.Subject()
	part, err4 := m.NextPart()
	if err := errors.Join(err1, err2, err3, err4); err != nil {
		return Letter{}, fmt.Errorf("read a letter: %w", err)
	}
	text, err := io.ReadAll(part.Body)
	if err != nil {
		return Letter{}, fmt.Errorf("read a letter: %w", err)
	}
	l.Subject, l.At, l.Text = subject, at, strings.ReplaceAll(string(text), "\r\n", "\n")
	l.ID = m.Header.Get("Message-Id")
	if m.Header.Get("List-Unsubscribe-Post") == "List-Unsubscribe=One-Click" {
		l.Stop = strings.Trim(m.Header.Get("List-Unsubscribe"), "<>")
	}
	if len(to) > 0 {
		l.To = to[0].Address
	}
	return l, nil
}

// page turns addresses in a letter into links, as a mail program does.
var page = template.Must(template.New("tray").Funcs(template.FuncMap{
	"words": func(s string) []string { return strings.SplitAfter(s, "\n") },
	"link":  func(s string) bool { return strings.HasPrefix(s, "http") },
	"trim":  strings.TrimSpace}).Parse(`<!doctype html>
<html lang="en"><meta charset="utf-8"><title>Post tray</title>
<style>body{font:16px/1.5 sans-serif;max-width:46em;margin:2em auto;padding:0 1em;color:#14282b;background:#eef0ee}
article{background:#fff;border:1px solid #c9d2d0;padding:1em 1.4em;margin:1em 0}h2{font-size:1.05em;margin:.2em 0}
small{color:#455}</style>
<h1>Post tray</h1><p>A stand-in for a mail server: what the application sends lands here and goes no further.</p>
{{range .}}<article><small>{{.At.Format "2 January 2006, 15:04"}}
to {{.To}}</small><h2>{{.Subject}}</h2>{{range words .Text}}{{if link .}}<a href="{{trim
.}}">{{.}}</a>{{else}}{{.}}{{end}}<br>{{end}}</article>{{else}}<p>Nothing has been sent yet.</p>{{end}}
`))

// ServeHTTP shows the letters.
func (t *Tray) ServeHTTP(w http.ResponseWriter, _ *http.Request) {
	letters, err := t.Letters()
	if err != nil {
		http.Error(w, "The letters cannot be read.", http.StatusInternalServerError)
		return
	}
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.Header().Set("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'")
	_ = page.Execute(w, letters)
}
