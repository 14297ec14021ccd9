package words

import (
	"context"
	"fmt"
	"strings"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/wording"
	"latelantern/internal/platform/captioner"
	"latelantern/internal/platform/postgres"
)

// How often the course's own words count in its model, by where they stand.
const (
	onSlides   = 3 // of this very capture
	inGlossary = 2
)

// leastOwn is how many different words a course must have before a model is made of them.
const leastOwn = 20

// common is how many of the commonest words of the language such a model has besides.
const common = 20_000

// ownWords is what a captioner is told of the course of a capture: its glossary, what stands on the
// slides of this capture, and captions of earlier lectures that people wrote or corrected.
func (s *Service) ownWords(ctx context.Context, capture uuid.UUID, language string) (captioner.Own, error) {
	out := captioner.Own{Language: language}
	const slides = `select x.title || E'\n' || x.body from slide_text x join track t on t.id = x.track_id
		where t.capture_id = $1 order by x.at_ms`
	const glossary = `select k.glossary from course_setting k join release e on e.course_id = k.course_id and e.own
		join recording_capture rc on rc.recording_id = e.recording_id
		where rc.capture_id = $1 and k.language = $2 limit 1`
	const earlier = `select q.text from cue q
		where q.corrected and q.language = $2 and q.capture_id <> $1 and q.capture_id in (
		select oc.capture_id from recording_capture rc join release e on e.recording_id = rc.recording_id and e.own
		join release o on o.course_id = e.course_id and o.own
		join recording_capture oc on oc.recording_id = o.recording_id where rc.capture_id = $1)
		order by q.capture_id desc, q.start_ms limit 20000`
	var lines [][]string
	seen := map[string]bool{}
	take := func(times int, sql string, args ...any) error {
		rows, err := s.DB.Query(ctx, sql, args...)
		if err != nil {
			return fmt.Errorf("read the words of a course: %w", err)
		}
		texts, err := pgx.CollectRows(rows, pgx.RowTo[string])
		if err != nil {
			return fmt.Errorf("read the words of a course: %w", err)
		}
		for _, text := range texts {
			for _, line := range wording.Lines(text) {
				for range times {
					lines = append(lines, line)
				}
				for _, w := range line {
					seen[w] = true
				}
			}
		}
		return nil
	}
	if err := take(onSlides, slides, capture); err != nil {
		return out, err
	}
	if err := take(inGlossary, glossary, capture, language); err != nil {
		return out, err
	}
	if err := take(1, earlier, capture, language); err != nil {
		return out, err
	}
	terms, err := postgres.All[struct{ Glossary string }](ctx, s.DB, glossary, capture, language)
	if err != nil {
		return out, fmt.Errorf("read a glossary: %w", err)
	}
	for _, t := range terms {
		out.Terms = Terms(t.Glossary)
	}
	general, ok := s.Captioner.(interface {
		General() (*wording.Language, error)
	})
	if !ok || len(seen) < leastOwn {
		return out, nil
	}
	whole, err := general.General()
	if err != nil {
		return out, err
	}
	out.Model = wording.NewModel(lines, whole.Within(common, func(word string) bool { return seen[word] }))
	return out, nil
}

// Terms are those of a glossary: one a line, in order, without those that stand twice.
func Terms(glossary string) []string {
	var out []string
	seen := map[string]bool{}
	for line := range strings.Lines(glossary) {
		if term := strings.Join(strings.Fields(line), " "); term != "" && !seen[strings.ToLower(term)] {
			seen[strings.ToLower(term)] = true
			out = append(out, term)
		}
	}
	return out
}
