package door

import (
	"context"
	"fmt"
	"strings"
	"unicode/utf8"

	"latelantern/internal/core/fault"
	"latelantern/internal/platform/postgres"
)

// MaxNotice is how many characters the sentence of a college may have.
const MaxNotice = 400

// Notice is what the college says to everyone who is captured; "" while it has no sentence of
// its own.
func (s *Service) Notice(ctx context.Context) (string, error) {
	text, err := postgres.Value[string](ctx, s.DB, `select capture_notice from college`)
	if err != nil {
		return "", fmt.Errorf("read what the college says: %w", err)
	}
	return text, nil
}

// SetNotice keeps what the college says. Its error can be fault.Faults.
func (s *Service) SetNotice(ctx context.Context, text string) error {
	text = strings.Join(strings.Fields(text), " ")
	var wrong fault.Faults
	wrong.When(utf8.RuneCountInString(text) > MaxNotice, "capture_notice", "notice.long", "most", MaxNotice)
	if err := wrong.Err(); err != nil {
		return err
	}
	if _, err := s.DB.Exec(ctx, `update college set capture_notice = $1`, text); err != nil {
		return fmt.Errorf("keep what the college says: %w", err)
	}
	return nil
}
