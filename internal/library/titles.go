package library

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/event"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/naming"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/recordings"
)

// Retitle is another title for a recording.
type Retitle struct {
	Recording uuid.UUID
	Seen      string // the title as it was seen; "" for none of its own
	Title     string // "" to have none of its own again
}

// ErrTitle says that someone else has given a recording another title meanwhile.
var ErrTitle = fault.One("titles", "title.other")

// SetTitles gives many recordings their titles: all, or none. Its errors are ErrTitle, ErrUnknown
// and ErrInvalid.
func (s *Service) SetTitles(ctx context.Context, by uuid.UUID, list []Retitle) error {
	list = slices.Clone(list)
	// Always in the same order, so that two who do the same wait for each other.
	slices.SortFunc(list, func(a, b Retitle) int { return strings.Compare(a.Recording.String(), b.Recording.String()) })
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		for _, x := range list {
			title := x.Title
			if title != "" {
				var err error
				if title, err = naming.Clean(title); err != nil {
					return fmt.Errorf("%w: %w", ErrInvalid, err)
				}
			}
			const update = `update recording set title = $2, titled_by = case when $2 = '' then null
				else $4::uuid end, titled_at = case when $2 = '' then null else $5::timestamptz end
				where id = $1 and title = $3`
			tag, err := tx.Exec(ctx, update, x.Recording, title, x.Seen, by, s.Clock.Now())
			if err != nil {
				return fmt.Errorf("change a title: %w", err)
			}
			if tag.RowsAffected() == 0 {
				return ErrTitle
			}
			if err := recordings.Tell(ctx, tx, event.Recording, x.Recording); err != nil {
				return err
			}
		}
		return nil
	})
}

// MaxKeywords is how many keywords a recording may have.
const MaxKeywords = 30

// SetAbout keeps in which language a recording is held, "" for that of its course, and its keywords.
func (s *Service) SetAbout(ctx context.Context, id uuid.UUID, language string, keywords []string) error {
	var wrong fault.Faults
	wrong.When(language != "" && !naming.Language(language), "language", "language", "language", language)
	clean := []string{}
	for _, k := range keywords {
		k = strings.Join(strings.Fields(k), " ")
		if k == "" || slices.ContainsFunc(clean, func(x string) bool { return strings.EqualFold(x, k) }) {
			continue
		}
		wrong.When(len([]rune(k)) > 60, "keywords", "keyword.long")
		clean = append(clean, k)
	}
	wrong.When(len(clean) > MaxKeywords, "keywords", "keyword.many", "most", MaxKeywords, "n", len(clean))
	if err := wrong.Err(); err != nil {
		return err
	}
	return s.change(ctx, id, `update recording set language = $2, keywords = $3 where id = $1`, language, clean)
}
