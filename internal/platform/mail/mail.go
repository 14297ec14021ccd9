// Package mail sends letters by SMTP (RFC 5321).
package mail

import (
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

// Letter is a message to one person, in plain text.
type Letter struct {
	To      string // a bare address
	Subject string
	Text    string
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

// Send hands a letter to the server. Its error is ErrOff when none is set.
func (p Post) Send(ctx context.Context, l Letter) error {
	if !p.On() {
		return ErrOff
	}
	host, portText, err := net.SplitHostPort(p.Server)
	if err != nil {
		return fmt.Errorf("read the address of the mail server: %w", err)
	}
	port, err := strconv.Atoi(portText)
	if err != nil {
		return fmt.Errorf("read the port of the mail server: %w", err)
	}
	m := gomail.NewMsg()
	if err := errors.Join(m.FromFormat("Late Lantern", p.From), m.To(l.To)); err != nil {
		return fmt.Errorf("address a letter: %w", err)
	}
	m.Subject(l.Subject)
	m.SetBodyString(gomail.TypeTextPlain, l.Text)
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
	if err != nil {
		return fmt.Errorf("reach the mail server: %w", err)
	}
	if err := c.DialAndSendWithContext(ctx, m); err != nil {
		return fmt.Errorf("hand a letter to the mail server: %w", err)
	}
	return nil
}
