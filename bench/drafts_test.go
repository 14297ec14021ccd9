package bench

import (
	"context"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/demo"
	"latelantern/internal/assemble"
	"latelantern/internal/core/caption"
	"latelantern/internal/core/wording"
	"latelantern/internal/platform/captioner"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/testhouse"
	"latelantern/internal/words"
)

// found counts how well words were drafted.
type found struct {
	words, wrong   int // of what is said, and how many would have to be changed, added or taken away
	content, got   int // words that carry a meaning, and how many of them stand in the draft
	drafted, right int // such words of the draft, and how many of them are said
	// such words of what is said that a search finds, and how many places it tells for all of them
	search, perhaps     int
	length, spoken, cpu time.Duration
	wall                time.Duration
}

func (f *found) compare(truth, draft []caption.Cue) {
	said, heard := spoken(truth), spoken(draft)
	f.words += len(said)
	f.wrong += distance(said, heard)
	a, b := carrying(said), carrying(heard)
	for w, n := range a {
		f.content += n
		f.got += min(n, b[w])
	}
	for w, n := range b {
		f.drafted += n
		f.right += min(n, a[w])
	}
}

// searched counts the words that carry a meaning which a search finds at the time at which they are said.
func (f *found) searched(b *testing.B, s *testhouse.Stage, recording uuid.UUID, truth, draft []caption.Cue) {
	for w, n := range carrying(spoken(truth)) {
		perhaps, err := s.Words.Perhaps(b.Context(), recording, "en", w)
		s.Must(err)
		f.perhaps += len(perhaps)
		got := 0
		for _, c := range truth {
			times := carrying(wording.Words(c.Text))[w]
			if times == 0 {
				continue
			}
			there, heard := 0, 0
			for _, d := range draft {
				if d.Overlaps(c.Span) {
					there += carrying(wording.Words(d.Text))[w]
				}
			}
			for _, h := range perhaps {
				if h.Word == w && h.Overlaps(c.Span) {
					heard++
				}
			}
			got += min(times, max(there, heard))
		}
		f.search += min(n, got)
	}
}

func spoken(cues []caption.Cue) []string {
	var out []string
	for _, c := range cues {
		out = append(out, wording.Words(c.Text)...)
	}
	return out
}

func carrying(list []string) map[string]int {
	out := map[string]int{}
	for _, w := range list {
		if wording.Carries(w) {
			out[w]++
		}
	}
	return out
}

// distance is how many words must be changed, added or taken away (Levenshtein 1966).
func distance(a, b []string) int {
	row := make([]int, len(b)+1)
	for j := range row {
		row[j] = j
	}
	for i := range a {
		before := row[0]
		row[0] = i + 1
		for j := range b {
			change := before
			if a[i] != b[j] {
				change++
			}
			before = row[j+1]
			row[j+1] = min(change, row[j+1]+1, row[j]+1)
		}
	}
	return row[len(b)]
}

func (f found) report(b *testing.B, how string) {
	per := func(d time.Duration) float64 { return d.Seconds() / f.length.Hours() }
	share := func(n, of int) float64 { return 100 * float64(n) / float64(of) }
	b.Logf("%s: %.0f s of recordings, %.0f s of them spoken; for an hour %.0f CPU s and %.0f s, two at a time; %.1f %% of the words wrong; %.1f %% of the words that carry a meaning found, %.1f %% of those drafted are said; a search for each of them finds %.1f %%, of %d places that it tells where it may be said",
		how, f.length.Seconds(), f.spoken.Seconds(), per(f.cpu), per(f.wall), share(f.wrong, f.words),
		share(f.got, f.content), share(f.right, f.drafted), share(f.search, f.content), f.perhaps)
	b.ReportMetric(share(f.got, f.content), "found_%/"+how)
	b.ReportMetric(share(f.search, f.content), "searched_%/"+how)
	b.ReportMetric(per(f.cpu), "cpu_s/h/"+how)
}

// BenchmarkDrafts drafts the lectures of the demonstration, whose true text is known: with the
// general model alone, and with the words of the course as they stand when a lecture comes in: its
// glossary, its slides, and the captions of earlier weeks.
func BenchmarkDrafts(b *testing.B) {
	ctx := context.Background()
	s := testhouse.NewWith(b, assemble.Settings{Captioner: captioner.Sphinx{}, ReadSlides: true})
	type talk struct {
		demo.Talk
		recording uuid.UUID
		course    uuid.UUID
		truth     caption.Sheet
	}
	var talks []talk
	courses := map[string]uuid.UUID{}
	for _, t := range demo.Talks {
		if courses[t.Course] == uuid.Nil {
			courses[t.Course] = uuid.Must(uuid.NewV7())
			s.Do(`insert into course (id, term_id, code, title) select $1, id, $2, $2 from term`, courses[t.Course],
				t.Course)
			s.Do(`insert into course_words (course_id, language, drafts, glossary) values ($1, 'en', false, $2)`,
				courses[t.Course], demo.Glossaries[t.Course])
		}
		film, err := demo.Film(t.File)
		s.Must(err)
		path := filepath.Join(b.TempDir(), t.File+".mp4")
		s.Must(os.WriteFile(path, film, 0o600))
		truth, err := demo.Captions(t.File)
		s.Must(err)
		id, _ := s.File(s.AddLecture(courses[t.Course], testhouse.Now.AddDate(0, 0, 7*t.Week), t.Topic), path)
		talks = append(talks, talk{t, id, courses[t.Course], truth})
	}
	before := cpu()
	for _, t := range talks {
		s.Measured(t.recording)
	}
	s.Until(func() bool {
		return s.Count(`select count(*) from strip x
			where not exists (select 1 from slides_read y where y.track_id = x.track_id)`) == 0
	})
	b.Logf("taken in, measured and their slides read: %.0f CPU s", (cpu() - before).Seconds())
	// What is done once for each draft, however long, with the words of a course.
	making := cpu()
	whole, err := captioner.Sphinx{}.General()
	s.Must(err)
	session, err := captioner.Sphinx{}.Begin(ctx,
		captioner.Own{Model: wording.NewModel(wording.Lines(demo.Glossaries[talks[0].Course]),
			whole.Within(20_000, func(string) bool { return false }))})
	s.Must(err)
	s.Must(session.Close())
	b.Logf("a model made ready in %.1f CPU s, once for each of %d drafts", (cpu() - making).Seconds(), len(talks))
	for b.Loop() {
		for _, how := range []string{"general", "own"} {
			var f found
			voices := map[string]*found{}
			if how == "general" {
				s.Do(`update course_words set glossary = ''`)
				s.Do(`create table kept_text as select * from slide_text`)
				s.Do(`delete from slide_text`)
			} else {
				for code, id := range courses {
					s.Do(`update course_words set glossary = $2 where course_id = $1`, id, demo.Glossaries[code])
				}
				s.Do(`insert into slide_text select * from kept_text`)
				s.Do(`drop table kept_text`)
			}
			for _, t := range talks {
				s.Do(`delete from caption`)
				for _, e := range talks {
					if how == "own" && e.course == t.course && e.Week < t.Week {
						s.Must(s.Words.Take(ctx, e.recording, "en", s.Lecturer, e.truth))
					}
				}
				from, wall := cpu(), time.Now()
				s.Must(s.Words.AskForDraft(ctx, t.recording, "en"))
				s.Until(func() bool {
					c, err := s.Words.Of(ctx, t.recording, "en")
					s.Must(err)
					if c.Fault != "" {
						b.Fatal(c.Fault)
					}
					return c.State == "ready"
				})
				f.cpu += cpu() - from
				f.wall += time.Since(wall)
				lines, err := s.Words.Lines(ctx, t.recording, "en")
				s.Must(err)
				r, err := s.Recordings.Recording(ctx, t.recording)
				s.Must(err)
				f.length += r.Length
				speech, err := postgres.Value[int64](ctx, s.DB,
					`select sum(upper(x) - lower(x)) from strip, unnest(speech) x
						where track_id in (select t.id from track t join recording_capture rc using (capture_id)
						where rc.recording_id = $1)`, t.recording)
				s.Must(err)
				f.spoken += time.Duration(speech) * time.Millisecond
				f.compare(t.truth.Cues, words.Cues(lines))
				f.searched(b, s, t.recording, t.truth.Cues, words.Cues(lines))
				voice, _, _ := strings.Cut(t.Voice, ":")
				if voices[voice] == nil {
					voices[voice] = &found{}
				}
				voices[voice].compare(t.truth.Cues, words.Cues(lines))
			}
			f.report(b, how)
			for voice, v := range voices {
				b.Logf("%s, voices of %s: %.1f %% of the words wrong, %.1f %% of those that carry a meaning found", how,
					voice, 100*float64(v.wrong)/float64(v.words), 100*float64(v.got)/float64(v.content))
			}
		}
	}
}
