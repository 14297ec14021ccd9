// Package mail sends letters by SMTP (RFC 5321).
package mail

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"net"
	"strconv"
	"time"

	gomail "github.com/wneessen/go-mail"
)

// ErrOff says that no mail server is set.
var ErrOff = errors.New("no mail server is set")

// ErrRefused says that the server takes no letters for this address: it is of type *Refused.
var ErrRefused = errors.New("the mail server refuses the address")

// Refused is ErrRefused with what the server says of it.
type Refused struct{ Status string } // RFC 3463, such as 5.1.1

// Error implements error.
func (r *Refused) Error() string { return ErrRefused.Error() + " (" + r.Status + ")" }

// Is makes it ErrRefused.
func (r *Refused) Is(target error) bool { return target == ErrRefused }

// Letter is a message to one person, in plain text.
type Letter struct {
	To      string // a bare address
	Subject string
	Text    string
	ID      string // what it is known by when it comes back (RFC 5322, without brackets); "" for any
	Stop    string // address at which its reader stops letters of this kind with one press (RFC 8058); "" for none
}

// Post sends letters through one server. Its zero value sends none.
type Post struct {
	Server   string // host:port
	From     string // a bare address
	User     string // "" for a server that asks for none
	Password string
	Plain    bool // a server that knows no encryption, such as one on the same machine
}

// On reports whether a server is set.
func (p Post) On() bool { return p.Server != "" }

const patience = 20 * time.Second

// Send hands a letter to the server. Its error is ErrOff when none is set, and ErrRefused.
func (p Post) Send(ctx context.Context, l Letter) error {
	line, err := p.Open(ctx)
	if err != nil {
		return err
	}
	defer line.Close()
	return line.Send(l)
}

// Line is a connection to the server, over which letters go one after another.
type Line struct {
	post   Post
	client *gomail.Client
}

// Open connects to the server. Its error is ErrOff when none is set.
func (p Post) Open(ctx context.Context) (*Line, error) {
	if !p.On() {
		return nil, ErrOff
	}
	host, portText, err := net.SplitHostPort(p.Server)
	if err != nil {
		return nil, fmt.Errorf("read the address of the mail server: %w", err)
	}
	port, err := strconv.Atoi(portText)
	if err != nil {
		return nil, fmt.Errorf("read the port of the mail server: %w", err)
	}
	options := []gomail.Option{gomail.WithPort(port), gomail.WithTimeout(patience),
		gomail.WithTLSPolicy(gomail.TLSMandatory)}
	if p.Plain {
		options = append(options, gomail.WithTLSPolicy(gomail.TLSOpportunistic))
	}
	if p.User != "" {
		options = append(options, gomail.WithSMTPAuth(gomail.SMTPAuthAutoDiscover), gomail.WithUsername(p.User),
			gomail.WithPassword(p.Password))
	}
	c, err := gomail.NewClient(host, options...)
	if err == nil {
		err = c.DialWithContext(ctx)
	}
	if err != nil {
		return nil, fmt.Errorf("reach the mail server: %w", err)
	}
	return &Line{p, c}, nil
}

// Close ends the connection. What was sent stays sent.
func (l *Line) Close() { _ = l.client.Close() }

// Send hands a letter to the server. After ErrRefused others can be sent; after another error none.
func (l *Line) Send(x Letter) error {
	m := gomail.NewMsg(gomail.WithNoDefaultUserAgent())
	from, to := m.FromFormat("Late Lantern", l.post.From), m.To(x.To)
	if from != nil {
		return fmt.Errorf("address a letter: %w", from)
	}
	if to != nil { // it was never one
		return &Refused{"5.1.3"}
	}
	m.Subject(x.Subject)
	if x.ID != "" {
		m.SetMessageIDWithValue(x.ID)
	}
	if x.Stop != "" {
		m.SetListUnsubscribe(x.Stop)
		m.SetListUnsubscribePost()
	}
	m.SetBodyString(gomail.TypeTextPlain, x.Text)
	err := l.client.Send(m)
	var said *gomail.SendError
	switch {
	case err == nil, m.IsDelivered(): // what went wrong then was only to make ready for the next
		return nil
	case errors.As(err, &said) && said.Reason == gomail.ErrSMTPRcptTo && !said.IsTemp():
		return &Refused{cmp.Or(said.EnhancedStatusCode(), "5.0.0")}
	}
	return fmt.Errorf("hand a letter to the mail server: %w", err)
}
