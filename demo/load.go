package demo

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"path"
	"slices"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
	"golang.org/x/sync/errgroup"

	"latelantern/internal/assemble"
	"latelantern/internal/audience"
	"latelantern/internal/capture"
	"latelantern/internal/core/caption"
	"latelantern/internal/core/span"
	"latelantern/internal/core/timetable"
	"latelantern/internal/cuts"
	"latelantern/internal/format/captionfile"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/playlists"
	"latelantern/internal/recordings"
	"latelantern/internal/words"
)

//go:embed media
var media embed.FS

// Film is one of the talks of the demonstration as a film, by file, such as "tid-3".
func Film(file string) ([]byte, error) {
	b, err := media.ReadFile(path.Join("media", file+".mp4"))
	if err != nil {
		return nil, fmt.Errorf("read a talk: %w", err)
	}
	return b, nil
}

// Captions are the true captions of a talk.
func Captions(file string) (caption.Sheet, error) {
	b, err := media.ReadFile(path.Join("media", file+".vtt"))
	if err != nil {
		return caption.Sheet{}, fmt.Errorf("open captions: %w", err)
	}
	f, err := captionfile.Read(b)
	if err != nil {
		return caption.Sheet{}, fmt.Errorf("read captions: %w", err)
	}
	return f.Sheet, nil
}

// Loaded tells when a demonstration that has been loaded whole goes on: at its start, or
// after the last thing that was done in it. ok is false when there is none.
func Loaded(ctx context.Context, db *pgxpool.Pool) (at time.Time, ok bool, err error) {
	const query = `select greatest(convert_from(value, 'UTF8')::timestamptz, (select max(started_at)
		from capture), (select max(stopped_at) from capture),
		(select max(made_at) from cut_list), (select max(lit_at) from lighting), (select max(titled_at)
		from recording), (select max(made_at) from viewing_rule), (select max(made_at) from timetable_change))
		from secret where name = 'demo'`
	at, err = postgres.Value[time.Time](ctx, db, query)
	if errors.Is(err, pgx.ErrNoRows) {
		return at, false, nil
	}
	if err != nil {
		return at, false, fmt.Errorf("find the demonstration: %w", err)
	}
	return at, true, nil
}

// loader is the state of loading.
type loader struct {
	h        *assemble.House
	place    *time.Location
	term     uuid.UUID
	halls    map[string]uuid.UUID
	people   map[string]uuid.UUID
	courses  map[string]uuid.UUID
	lectures map[string]map[int]lecture
	night    time.Time // of the evening before, when files came in; zero when only some talks are loaded
}

type lecture struct {
	id     uuid.UUID
	starts time.Time
	ends   time.Time
}

// Load fills an empty database with the demonstration as it stands at the given time. Jobs
// must be running in the house. The talks go through the same code as any capture; with
// some it loads only those, by file.
func Load(ctx context.Context, h *assemble.House, at time.Time, some ...string) error {
	place, err := time.LoadLocation(zone)
	if err != nil {
		return fmt.Errorf("read the zone of the demonstration: %w", err)
	}
	l := &loader{h: h, place: place, halls: map[string]uuid.UUID{}, people: map[string]uuid.UUID{},
		courses: map[string]uuid.UUID{}, lectures: map[string]map[int]lecture{}}
	if err := l.college(ctx, timetable.DayOf(at, place)); err != nil {
		return fmt.Errorf("load the college: %w", err)
	}
	if len(some) == 0 {
		l.night = clockOn(timetable.DayOf(at, place).AddDate(0, 0, -1), 21*time.Hour+14*time.Minute, place)
	}
	for _, c := range courses {
		if c.rule != nil {
			if err := h.Audience.SetRule(ctx, audience.Scope{Course: l.courses[c.code]}, l.people[c.lecturer],
				c.rule); err != nil {
				return fmt.Errorf("load a rule: %w", err)
			}
		}
	}
	for _, c := range courses {
		if err := h.Words.SetCourse(ctx, l.courses[c.code],
			words.Course{Language: "en", Drafts: true, Glossary: Glossaries[c.code]}); err != nil {
			return fmt.Errorf("load a glossary: %w", err)
		}
	}
	work, within := errgroup.WithContext(ctx)
	work.SetLimit(2)
	recordings := make([]uuid.UUID, len(Talks))
	for i, t := range Talks {
		if len(some) > 0 && !slices.Contains(some, t.File) {
			continue
		}
		work.Go(func() (err error) {
			recordings[i], err = l.capture(within, t)
			return err
		})
	}
	if err := work.Wait(); err != nil {
		return fmt.Errorf("load a talk: %w", err)
	}
	for i, t := range Talks {
		if recordings[i] == uuid.Nil {
			continue
		}
		if err := l.finish(ctx, t, recordings[i]); err != nil {
			return fmt.Errorf("finish a talk: %w", err)
		}
	}
	if len(some) == 0 {
		if err := l.elsewhere(ctx); err != nil {
			return fmt.Errorf("load what was made elsewhere: %w", err)
		}
		of := map[string]uuid.UUID{}
		for i, t := range Talks {
			of[t.File] = recordings[i]
		}
		if err := l.sharing(ctx, of); err != nil {
			return fmt.Errorf("share what was captured: %w", err)
		}
		if err := l.traces(ctx, of); err != nil {
			return fmt.Errorf("leave traces of watching: %w", err)
		}
		if err := l.chats(ctx, of); err != nil {
			return fmt.Errorf("leave what was said: %w", err)
		}
		if err := l.toAll(ctx); err != nil {
			return fmt.Errorf("leave questions to all: %w", err)
		}
	}
	const mark = `insert into secret (name, value) values ('demo', convert_to($1::timestamptz::text, 'UTF8'))`
	if _, err := h.DB.Exec(ctx, mark, at); err != nil {
		return fmt.Errorf("mark the demonstration as loaded: %w", err)
	}
	return nil
}

func courseOf(t Talk) course {
	return courses[slices.IndexFunc(courses, func(c course) bool { return c.code == t.Course })]
}

// capture takes a talk in as a file and waits until it is measured.
func (l *loader) capture(ctx context.Context, t Talk) (uuid.UUID, error) {
	f, err := media.Open(path.Join("media", t.File+".mp4"))
	if err != nil {
		return uuid.Nil, fmt.Errorf("open a talk: %w", err)
	}
	defer f.Close()
	info, err := f.Stat()
	if err != nil {
		return uuid.Nil, fmt.Errorf("open a talk: %w", err)
	}
	size := info.Size()
	where := l.lectures[t.Course][t.Week]
	came := where.starts
	if courseOf(t).stages[t.Week] == captured && !l.night.IsZero() {
		came = l.night
	}
	then := l.h.At(clock.Starting(came))
	begun, err := then.Capture.Begin(ctx,
		capture.Start{Lecture: where.id, By: l.people[courseOf(t).lecturer], Source: capture.File,
			FileName: t.File + ".mp4", MediaType: "video/mp4", Length: &size})
	if err != nil {
		return uuid.Nil, err
	}
	if _, err := then.Capture.Append(ctx, begun.Track, 0, nil, f); err != nil {
		return uuid.Nil, err
	}
	if slices.Contains(drafted, t.File) {
		return begun.Recording, l.measured(ctx, begun.Recording)
	}
	sheet, err := Captions(t.File)
	if err != nil {
		return uuid.Nil, err
	}
	if err := l.h.Words.Take(ctx, begun.Recording, "en", l.people[courseOf(t).lecturer], sheet); err != nil {
		return uuid.Nil, err
	}
	return begun.Recording, l.measured(ctx, begun.Recording)
}

// measured waits until a recording has its strip page.
func (l *loader) measured(ctx context.Context, recording uuid.UUID) error {
	return l.until(ctx, func() (bool, error) {
		r, err := l.h.Recordings.Recording(ctx, recording)
		if err != nil || r.State == "failed" {
			return false, errors.Join(err, errors.New("the talk could not be packaged: "+r.Fault))
		}
		_, err = l.h.Recordings.Strip(ctx, recording, r.Length)
		if errors.Is(err, recordings.ErrNotReady) {
			return false, nil
		}
		return err == nil, err
	})
}

// until waits for something that a job does.
func (l *loader) until(ctx context.Context, done func() (bool, error)) error {
	events, cancel := l.h.Events.Subscribe()
	defer cancel()
	limit := time.After(2 * time.Minute)
	for {
		if ok, err := done(); ok || err != nil {
			return err
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-limit:
			return errors.New("a job did not end within two minutes")
		case <-events:
		case <-time.After(200 * time.Millisecond):
		}
	}
}

// finish brings a recording as far as its stage says.
func (l *loader) finish(ctx context.Context, t Talk, id uuid.UUID) error {
	c := courseOf(t)
	by := l.people[c.lecturer]
	how := c.stages[t.Week]
	h := l.h.At(clock.Starting(l.lectures[t.Course][t.Week].ends))
	if how == captured {
		return nil
	}
	r, err := h.Recordings.Recording(ctx, id)
	if err != nil {
		return err
	}
	strip, err := h.Recordings.Strip(ctx, id, r.Length)
	if err != nil {
		return err
	}
	for _, p := range strip.Proposals {
		if err := h.Cuts.Change(ctx, id, by, cuts.Strike, span.Span{Start: p.Start, End: p.End}); err != nil {
			return err
		}
	}
	if how == trimmed {
		return nil
	}
	if err := h.Library.SetTitle(ctx, id, by, t.Topic); err != nil {
		return err
	}
	if how == titled {
		return nil
	}
	main := playlists.Of{Course: l.courses[c.code]}
	if text, ok := c.headings[t.Week]; ok {
		if _, err := h.Playlists.AddHeading(ctx, main, text); err != nil {
			return err
		}
	}
	if err := h.Playlists.Add(ctx, main, nil, id); err != nil {
		return err
	}
	if how == listed {
		return nil
	}
	if err := h.Releases.Light(ctx, l.courses[c.code], id, by); err != nil {
		return err
	}
	if t.File != untold { // in class they were
		if err := h.News.SetSilent(ctx, l.courses[c.code], by, []uuid.UUID{id}, true); err != nil {
			return err
		}
	}
	return l.until(ctx, func() (bool, error) {
		r, err := h.Recordings.Recording(ctx, id)
		return r.Current(), errors.Join(err, faulty(r.MakingFault))
	})
}

// untold is the talk that is lit and of which nobody told the students.
const untold = "alg-1"

func faulty(fault string) error {
	if fault == "" {
		return nil
	}
	return errors.New("an edition could not be made: " + fault)
}
