package news

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"mime"
	"net/textproto"
	"net/url"
	"strings"
	"time"

	"github.com/emersion/go-message"
	_ "github.com/emersion/go-message/charset" // reports come in whatever their server writes
	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/platform/postgres"
	"latelantern/internal/platform/seal"
)

// ErrNotOurs says that a message is no report that a mail of ours came back.
var ErrNotOurs = errors.New("this is no report of a mail that came back")

// mailID is what a mail is known by, also to whoever sends it back: nobody else can make one.
func (s *Service) mailID(news, person uuid.UUID) string {
	host := "late-lantern"
	if u, err := url.Parse(s.Public); err == nil && u.Hostname() != "" {
		host = u.Hostname()
	}
	return seal.Key(s.Secret, "mail", append(news[:], person[:]...)) + "@" + host
}

// mailOf is of what a mail told whom, by what it is known by.
func (s *Service) mailOf(id string) (news, person uuid.UUID, ok bool) {
	key, _, _ := strings.Cut(strings.Trim(strings.TrimSpace(id), "<>"), "@")
	b, ok := seal.About(key, 32)
	if !ok {
		return uuid.Nil, uuid.Nil, false
	}
	return uuid.UUID(b[:16]), uuid.UUID(b[16:]), seal.Opens(key, s.Secret, "mail", b)
}

// Returned keeps that no mail arrives at an address, by a report of delivery (RFC 3464) that is about a mail of ours
// and says so for good. It gives whose address it is; uuid.Nil for a report of a delay or of success. Its error is
// ErrNotOurs for any other message.
func (s *Service) Returned(ctx context.Context, r io.Reader) (person uuid.UUID, err error) {
	status, id, err := report(io.LimitReader(r, 1<<20))
	if err != nil {
		return uuid.Nil, err
	}
	news, person, ok := s.mailOf(id)
	if !ok {
		return uuid.Nil, ErrNotOurs
	}
	if !strings.HasPrefix(status, "5.") {
		return uuid.Nil, nil
	}
	const went = `select address from news_reader where news_id = $1 and person_id = $2 and mail = 'sent'`
	address, err := postgres.Value[string](ctx, s.DB, went, news, person)
	if errors.Is(err, pgx.ErrNoRows) {
		return uuid.Nil, nil
	}
	if err != nil {
		return uuid.Nil, fmt.Errorf("look up whose mail came back: %w", err)
	}
	return person, s.keepFault(ctx, s.DB, person, address, status)
}

// report reads of a report of delivery the status of its first recipient that is not well, and the Message-ID of what
// it is about.
func report(r io.Reader) (status, id string, err error) {
	m, err := message.Read(r)
	if err != nil && !message.IsUnknownCharset(err) {
		return "", "", errors.Join(ErrNotOurs, err)
	}
	kind, with, err := mime.ParseMediaType(m.Header.Get("Content-Type"))
	if err != nil || kind != "multipart/report" || !strings.EqualFold(with["report-type"], "delivery-status") {
		return "", "", ErrNotOurs
	}
	parts := m.MultipartReader()
	for n := 0; parts != nil && n < 10; n++ {
		part, err := parts.NextPart()
		if err != nil && !message.IsUnknownCharset(err) {
			break
		}
		kind, _, _ := part.Header.ContentType()
		switch kind {
		case "message/delivery-status", "message/global-delivery-status":
			status = failed(part.Body)
		case "message/rfc822", "text/rfc822-headers", "message/global", "message/global-headers":
			head, _ := textproto.NewReader(bufio.NewReader(part.Body)).ReadMIMEHeader()
			id = head.Get("Message-Id")
		}
	}
	if id == "" {
		return "", "", ErrNotOurs
	}
	return status, id, nil
}

// failed is the status of the first recipient to whom it could not be delivered; "" for none.
func failed(body io.Reader) string {
	blocks := textproto.NewReader(bufio.NewReader(body))
	for range 100 { // the first is about the message
		head, err := blocks.ReadMIMEHeader()
		if strings.EqualFold(strings.TrimSpace(head.Get("Action")), "failed") {
			status, _, _ := strings.Cut(strings.TrimSpace(head.Get("Status")), " ")
			return status
		}
		if err != nil {
			return ""
		}
	}
	return ""
}

// Astray is someone at whose address no mail arrives.
type Astray struct {
	PersonID uuid.UUID
	Name     string
	Address  string
	Status   string // RFC 3463, such as 5.1.1
	Since    time.Time
}

// Astray lists whose address takes no mail, the latest first; five hundred at most.
func (s *Service) Astray(ctx context.Context) ([]Astray, error) {
	const query = `select f.person_id, p.name, f.address, f.status, f.since
		from address_fault f join person p on p.id = f.person_id and p.email = f.address
		order by f.since desc, p.name limit 500`
	out, err := postgres.All[Astray](ctx, s.DB, query)
	if err != nil {
		return nil, fmt.Errorf("list where no mail arrives: %w", err)
	}
	return out, nil
}

// TryAgain forgets that no mail arrives at the address of someone. Its error is ErrUnknown.
func (s *Service) TryAgain(ctx context.Context, person uuid.UUID) error {
	tag, err := s.DB.Exec(ctx, `delete from address_fault where person_id = $1`, person)
	if err != nil {
		return fmt.Errorf("forget that no mail arrives: %w", err)
	}
	if tag.RowsAffected() == 0 {
		return ErrUnknown
	}
	return nil
}
