package words

import (
	"context"
	"errors"
	"fmt"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/event"
	"latelantern/internal/core/naming"
	"latelantern/internal/platform/postgres"
)

// Course is what a course says about its words.
type Course struct {
	Language string // BCP 47, in which it is held
	Drafts   bool   // captions of its recordings are drafted by themselves
	Glossary string // a term a line
}

// MaxGlossary is how many characters a glossary may have.
const MaxGlossary = 100_000

// Course is what a course says about its words. Its error is ErrUnknown when there is no such course.
func (s *Service) Course(ctx context.Context, course uuid.UUID) (Course, error) {
	c, err := postgres.One[Course](ctx, s.DB,
		`select language, drafts, glossary from course_setting where course_id = $1`, course)
	if errors.Is(err, pgx.ErrNoRows) {
		return c, ErrUnknown
	}
	if err != nil {
		return c, fmt.Errorf("read the words of a course: %w", err)
	}
	return c, nil
}

// SetCourse keeps what a course says about its words.
func (s *Service) SetCourse(ctx context.Context, course uuid.UUID, c Course) error {
	if !naming.Language(c.Language) {
		return invalid("language", "language", c.Language)
	}
	if n := len([]rune(c.Glossary)); n > MaxGlossary {
		return invalid("glossary.long", "most", MaxGlossary, "n", n)
	}
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const keep = `insert into course_words (course_id, language, drafts, glossary) select id, $2, $3, $4 from course
			where id = $1
			on conflict (course_id)
			do update set language = excluded.language, drafts = excluded.drafts, glossary = excluded.glossary`
		tag, err := tx.Exec(ctx, keep, course, c.Language, c.Drafts, c.Glossary)
		if err != nil {
			return fmt.Errorf("keep the words of a course: %w", err)
		}
		if tag.RowsAffected() == 0 {
			return ErrUnknown
		}
		return postgres.Notify(ctx, tx, postgres.Event{About: event.Timetable, Course: course})
	})
}

// Speaks tells whether there is a captioner for a language.
func (s *Service) Speaks(language string) bool {
	return s.Captioner != nil && s.Captioner.Speaks(language)
}

// CarryCourse has a course say of its words what another does, as a part of tx, unless it says something already.
func (s *Service) CarryCourse(ctx context.Context, tx pgx.Tx, from, to uuid.UUID) error {
	const carry = `insert into course_words (course_id, language, drafts, glossary)
		select $2, language, drafts, glossary from course_words where course_id = $1 on conflict do nothing`
	if _, err := tx.Exec(ctx, carry, from, to); err != nil {
		return fmt.Errorf("carry the words of a course: %w", err)
	}
	return nil
}
