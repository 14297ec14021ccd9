package words

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/caption"
	"latelantern/internal/core/span"
	"latelantern/internal/platform/postgres"
)

// Line is a line of captions, on the clock of a recording.
type Line struct {
	caption.Cue
	ID        uuid.UUID
	Corrected bool // a person wrote it, or changed it
}

// row is a line as it is kept, on the clock of its capture.
type row struct {
	ID             uuid.UUID
	CaptureID      uuid.UUID
	StartMs, EndMs int64
	Text, Speaker  string
	Words          []int32
	Name, Settings string
	Markup, Before string
	Corrected      bool
}

const rowSQL = `select id, capture_id, start_ms, end_ms, text, speaker, words, name, settings, markup, before, corrected
	from cue `

const ms = time.Millisecond

// cue is a line as it is read, on a clock of which that of its capture begins at start.
func (r row) cue(start time.Duration) caption.Cue {
	at := start + time.Duration(r.StartMs)*ms
	c := caption.Cue{Span: span.Span{Start: at, End: start + time.Duration(r.EndMs)*ms}, Text: r.Text,
		Speaker: r.Speaker,
		As:      caption.Written{Name: r.Name, Settings: r.Settings, Markup: r.Markup, Before: r.Before}}
	if texts := strings.Fields(r.Text); len(r.Words) == 2*len(texts) {
		for i, t := range texts {
			c.Words = append(c.Words,
				caption.Word{Span: span.Span{Start: at + time.Duration(r.Words[2*i])*ms,
					End: at + time.Duration(r.Words[2*i+1])*ms}, Text: t})
		}
	}
	return c
}

// rowOf is a line as it is kept.
func rowOf(l Line, capture uuid.UUID, start time.Duration) row {
	c := l.Cue
	r := row{ID: l.ID, CaptureID: capture, StartMs: (c.Start - start).Milliseconds(),
		EndMs: (c.End - start).Milliseconds(), Text: c.Text, Speaker: c.Speaker,
		Name: c.As.Name, Settings: c.As.Settings, Markup: c.As.Markup, Before: c.As.Before, Corrected: l.Corrected}
	r.EndMs = max(r.EndMs, r.StartMs+1)
	if len(c.Words) == len(strings.Fields(c.Text)) {
		for _, w := range c.Words {
			r.Words = append(r.Words, int32((w.Start - c.Start).Milliseconds()),
				int32((w.End - c.Start).Milliseconds()))
		}
	}
	return r
}

// Lines lists the captions of a recording in a language, in order.
func (s *Service) Lines(ctx context.Context, recording uuid.UUID, language string) ([]Line, error) {
	return s.lines(ctx, s.DB, recording, language)
}

func (s *Service) lines(ctx context.Context, q postgres.Querier, recording uuid.UUID, language string) ([]Line, error) {
	pieces, err := s.Recordings.Layout(ctx, q, recording)
	if err != nil {
		return nil, err
	}
	rows, err := postgres.All[row](ctx, q,
		rowSQL+`where language = $2 and capture_id in (select capture_id from recording_capture where recording_id = $1)
			order by start_ms, id`, recording, language)
	if err != nil {
		return nil, fmt.Errorf("read captions: %w", err)
	}
	of := map[uuid.UUID][]row{}
	for _, r := range rows {
		of[r.CaptureID] = append(of[r.CaptureID], r)
	}
	out := []Line{}
	seen := map[uuid.UUID]bool{}
	for _, p := range pieces {
		for _, r := range of[p.Capture] {
			c := r.cue(p.Start)
			at := c.Intersect(p.At)
			// A line that lies over the end of a piece belongs to the first that shows some of it.
			if at.Empty() || seen[r.ID] {
				continue
			}
			seen[r.ID] = true
			c.Span = at
			out = append(out, Line{c, r.ID, r.Corrected})
		}
	}
	slices.SortStableFunc(out, func(a, b Line) int { return int(a.Start - b.Start) })
	return out, nil
}

// Read lists the captions of a recording in a language as they are read: with the words of which their captioner was
// hardly sure.
func (s *Service) Read(ctx context.Context, recording uuid.UUID, language string) ([]Line, error) {
	lines, err := s.Lines(ctx, recording, language)
	if err == nil {
		err = s.doubt(ctx, s.DB, recording, language, lines)
	}
	return lines, err
}

// Main is the language whose captions stand for a recording where only one can: the one of its
// course, else the first there is; "" for none.
func (s *Service) Main(ctx context.Context, recording uuid.UUID) (string, error) {
	const query = `select coalesce((select p.language from caption p join release e on e.recording_id = $1 and e.own
		join course_setting k on k.course_id = e.course_id
		where p.capture_id in (select capture_id from recording_capture where recording_id = $1)
		order by p.language <> k.language, p.language limit 1), '')`
	l, err := postgres.Value[string](ctx, s.DB, query, recording)
	if err != nil {
		return "", fmt.Errorf("find the language of captions: %w", err)
	}
	return l, nil
}

// Cues are lines without what only we know of them.
func Cues(lines []Line) []caption.Cue {
	out := make([]caption.Cue, len(lines))
	for i, l := range lines {
		out[i] = l.Cue
	}
	return out
}

// Shown lists the captions that those who watch may read: in a language, or with "" in that of the
// course, else the first there is; and all languages that there are.
func (s *Service) Shown(ctx context.Context, recording uuid.UUID,
	language string) (cues []caption.Cue, in string, all []string, err error) {
	if in, all, err = s.ShownIn(ctx, recording, language); err != nil || in == "" {
		return nil, "", nil, err
	}
	lines, err := s.Read(ctx, recording, in)
	return Cues(lines), in, all, err
}

// ShownIn is the language in which Shown lists captions, "" for none, and all that there are.
func (s *Service) ShownIn(ctx context.Context, recording uuid.UUID, language string) (in string, all []string,
	err error) {
	list, err := s.Captions(ctx, recording)
	if err != nil {
		return "", nil, err
	}
	for _, c := range list {
		if c.Shown && c.Lines > 0 {
			all = append(all, c.Language)
		}
	}
	if len(all) == 0 {
		return "", nil, nil
	}
	if language == "" {
		if language, err = s.Main(ctx, recording); err != nil {
			return "", nil, err
		}
	}
	if !slices.Contains(all, language) {
		language = all[0]
	}
	return language, all, nil
}
