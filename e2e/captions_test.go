package e2e

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp/kb"
	"github.com/google/uuid"

	"latelantern/e2e/hand"
	"latelantern/internal/core/caption"
	"latelantern/internal/core/span"
	"latelantern/internal/platform/postgres"
)

// lineOf is the text area of line n of the captions.
func lineOf(n int) string { return fmt.Sprintf("document.querySelectorAll('.lines textarea')[%d]", n) }

// TestCaptionsAreCorrected: a file comes in with its faults said, a line is heard and corrected, a
// speaker gets a name, words are found and replaced, and students read what is let be.
func TestCaptionsAreCorrected(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s := newStage(t, "tid-1")
	id, err := postgres.Value[uuid.UUID](ctx, s.house.DB, `select id from recording`)
	s.must(err)
	// What a captioner would have drafted: all of it by nobody.
	_, err = s.house.DB.Exec(ctx, `delete from caption; `)
	s.must(err)
	b := chromium(t)
	p := s.person(b, lecturer)
	s.must(p.Go("/recordings/"+id.String()+"/captions"), p.See("There are no captions yet"))
	s.clean(p, "no captions")

	folder := t.TempDir()
	file := func(name, text string) string {
		path := filepath.Join(folder, name)
		s.must(os.WriteFile(path, []byte(text), 0o600))
		return path
	}
	bad := file("bad.vtt", "WEBVTT\n\n00:00:05.000 --> 00:00:04.000\nx\n")
	late := file("late.srt",
		"1\r\n00:00:12,000 --> 00:00:15,000\r\nThe tied rises\r\ntwice a day\r\n\r\n2\r\n00:00:15,500 --> 00:00:18,000\r\nand the tied falls\r\n\r\n3\r\n00:00:18,500 --> 00:00:21,000\r\nsays the harbour caf\xe9\r\n")
	s.must(p.Click("Bring a file in"), p.See("as any program writes them"), p.Give("Choose a file", bad),
		p.See("A line ends at 0:04, before it begins at 0:05"), p.See("Nothing was changed"))
	s.clean(p, "a file with faults")
	s.must(p.Give("Choose a file", late), p.See("It was read as Latin-1"), p.See("The tied rises"))
	if list, err := s.house.Words.Captions(ctx, id); err != nil || len(list) > 0 {
		t.Errorf("taken before it was said so: %+v (%v)", list, err)
	}
	s.must(p.Click("Take it all the same"), p.See("Taken: 3 lines"),
		p.Wait(lineOf(2)+".value === 'says the harbour café'"),
		p.Wait(`document.querySelector('video')?.readyState > 1`))
	s.clean(p, "captions")

	// A line is heard when one comes to it, and the next after it is kept.
	s.must(p.Wait(`![...document.querySelectorAll('.el-overlay')].some(o => o.checkVisibility())`),
		p.Focus(".lines textarea"),
		p.Wait(`!document.querySelector('video').paused && document.querySelector('video').currentTime > 11.7`),
		p.Wait(`document.querySelector('video').paused && document.querySelector('video').currentTime > 14.9 && document.querySelector('video').currentTime < 15.6`))
	s.must(p.Keys(kb.End+" indeed"), p.Keys(kb.Enter), p.Wait("document.activeElement === "+lineOf(1)),
		p.Wait(`!document.querySelector('video').paused && document.querySelector('video').currentTime > 15.3`))
	first := func() string {
		lines, err := s.house.Words.Lines(ctx, id, "en")
		s.must(err)
		var out []string
		for _, l := range lines {
			out = append(out, strings.TrimPrefix(l.Speaker+": "+l.Flat(), ": "))
		}
		return strings.Join(out, " | ")
	}
	kept := func(want string) {
		t.Helper()
		limit := time.After(20 * time.Second)
		for first() != want {
			select {
			case <-limit:
				t.Fatalf("kept is %q, want %q", first(), want)
			case <-time.After(50 * time.Millisecond):
			}
		}
	}
	kept("The tied rises twice a day indeed | and the tied falls | says the harbour café")
	// Who speaks; in all their lines at once.
	s.must(p.Write("Who speaks", "Marit"), p.Keys(kb.Enter))
	kept("The tied rises twice a day indeed | Marit: and the tied falls | says the harbour café")
	s.must(p.Focus(".lines li:nth-child(3) textarea"), p.Write("Who speaks", "Marit"), p.Keys(kb.Enter),
		p.See("in all 2 lines of Marit"), p.Write("Who speaks", "Marit Skarholm"), p.Keys(kb.Enter))
	kept("The tied rises twice a day indeed | Marit Skarholm: and the tied falls | Marit Skarholm: says the harbour café")
	// Found and replaced, counted first; and undone.
	s.must(p.Write("find-words", "tied"), p.See("in 2 places"), p.Write("Replace with", "tide"), p.Click("Replace all"),
		p.See("Replaced in 2 places"))
	kept("The tide rises twice a day indeed | Marit Skarholm: and the tide falls | Marit Skarholm: says the harbour café")
	s.must(p.Click("Undo"))
	kept("The tied rises twice a day indeed | Marit Skarholm: and the tied falls | Marit Skarholm: says the harbour café")
	s.must(p.Click("Redo"))
	kept("The tide rises twice a day indeed | Marit Skarholm: and the tide falls | Marit Skarholm: says the harbour café")
	// Parted at the cursor, with a key.
	s.must(p.Wait(lineOf(1)+".value === 'and the tide falls'"), p.Focus(".lines li:nth-child(2) textarea"),
		p.Wait(lineOf(1)+".setSelectionRange(8, 8) === undefined"),
		p.Press(kb.Enter, hand.Ctrl), p.Wait("document.querySelectorAll('.lines li').length === 4"))
	kept("The tide rises twice a day indeed | Marit Skarholm: and the | Marit Skarholm: tide falls | Marit Skarholm: says the harbour café")
	// Another changed a line meanwhile: what was written is said, and nobody's words are lost.
	lines, err := s.house.Words.Lines(ctx, id, "en")
	s.must(err, p.Focus(".lines li:nth-child(4) textarea"), p.Keys(kb.End+"!"))
	other := "says the harbour inn"
	_, err = s.house.DB.Exec(ctx, `update cue set text = $2 where id = $1`, lines[3].ID, other)
	s.must(err, p.Keys(kb.Enter), p.See("what you wrote was: “says the harbour café!”"),
		p.Wait(lineOf(3)+".value === 'says the harbour inn'"))
	s.clean(p, "captions, corrected")

	// On the bench the words are found and marked; a hit is selected.
	s.must(p.Go("/recordings/"+id.String()), p.Wait(`document.querySelectorAll('.strip [data-band]').length > 0`),
		p.Keys("f"), p.Wait(`document.activeElement.type === "search"`), p.Write("Find in this lecture", "TIDE falls"),
		p.Keys(kb.Enter), p.See("1 place"), p.Wait(`document.querySelectorAll('.strip .hit').length === 1`),
		p.See("said 0:"))
	s.clean(p, "found on the bench")

	// Students read them, on the picture too.
	reader := s.person(b, student)
	open := func() error {
		return errors.Join(reader.Go("/watch/"+id.String()),
			reader.Wait(`document.querySelector('video')?.readyState > 1`))
	}
	s.must(open(), reader.See("Transcript"), reader.See("Marit Skarholm: "), reader.Click("Captions on the picture"),
		reader.Click("The tide rises"),
		reader.Wait(`/twice a day/.test(document.querySelector('.caption')?.innerText ?? '')`))
	s.clean(reader, "watched with captions")
	at := func(where string) {
		t.Helper()
		s.must(reader.Wait(`document.querySelector('.caption` + where + `')`))
	}
	s.must(reader.Set("Size of captions", "Large letters"), reader.Set("Place of captions", "At the top"))
	at(".large.above")
	s.must(open(), reader.Click("The tide rises"))
	at(".large.above") // this browser remembers
	s.must(reader.Set("Place of captions", "Under the picture"),
		reader.Wait(`/twice a day/.test(document.querySelector('.under.large')?.innerText ?? '')`),
		reader.Click("The tide rises"), reader.Keys("c"), reader.Wait(`!document.querySelector('.under')`))

	// A reader proposes what a line should say; with one press it says so, and with another it does not.
	s.must(reader.Click("Correct what is said now"), reader.Write("What the line should say", "The tide rises twice a day"),
		reader.Click("Propose it"), reader.See("You proposed “The tide rises twice a day”"))
	s.clean(reader, "a line is proposed")
	s.must(p.Go("/recordings/"+id.String()), p.See("one line that readers would change"),
		p.Go("/recordings/"+id.String()+"/captions"), p.See("line that readers would change"))
	s.clean(p, "a line that a reader would change")
	s.must(p.Click("Leave the line"), p.See("It still says"), reader.Wait(`!document.querySelector('.propose li')`),
		p.Click("Undo"), reader.See("You proposed “The tide rises twice a day”"), p.Click("Take it"), p.See("It now says"))
	kept("The tide rises twice a day | Marit Skarholm: and the | Marit Skarholm: tide falls | " +
		"Marit Skarholm: says the harbour inn")
	s.must(reader.Wait(`!document.querySelector('.propose li')`))
	s.must(p.Go("/recordings/"+id.String()+"/captions"), p.Click("Take them back from those who watch"),
		p.See("Those who watch do not see them"), open())
	if there, err := hand.Ask[bool](reader, `/Transcript/.test(document.body.innerText)`); err != nil || there {
		t.Errorf("what was taken back can still be read (%v)", err)
	}
}

// TestADraftSaysSo on the board, on the bench and where it is corrected; students do not see it
// until someone lets them.
func TestADraftSaysSo(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s := newStage(t, "tid-1")
	id, err := postgres.Value[uuid.UUID](ctx, s.house.DB, `select id from recording`)
	s.must(err)
	cues := []caption.Cue{{Span: span.Span{Start: 12 * time.Second, End: 15 * time.Second}, Text: "stand on the sleep"}}
	s.must(s.house.Words.Take(ctx, id, "en", uuid.Nil, caption.Sheet{Cues: cues}))
	_, err = s.house.DB.Exec(ctx, `update caption set drafted_by = 'a captioner', shown_at = null, looked_at = null`)
	s.must(err)
	_, err = s.house.DB.Exec(ctx, `update cue set corrected = false`)
	s.must(err)
	b := chromium(t)
	p := s.person(b, lecturer)
	s.must(p.Go("/board"), p.See("are a draft that nobody has looked at"))
	s.clean(p, "the board with a draft")
	s.must(p.Click("are a draft that nobody has looked at"), p.See("A draft that a captioner made"),
		p.See("0 of 1 lines corrected"))
	s.clean(p, "a draft")
	reader := s.person(b, student)
	s.must(reader.Go("/watch/"+id.String()), reader.Wait(`document.querySelector('video')?.readyState > 1`))
	if there, err := hand.Ask[bool](reader, `/sleep/.test(document.body.innerText)`); err != nil || there {
		t.Errorf("a draft can be read by those who watch (%v)", err)
	}
	s.must(p.Click("Leave it a draft"), p.See("It stays a draft"), p.Go("/board"),
		p.Wait(`document.querySelectorAll('.lantern').length > 5 && !/are a draft/.test(document.body.innerText)`))
	s.must(p.Go("/recordings/"+id.String()), p.Click("Open the captions"), p.Click("Let those who watch read them"),
		p.See("Those who watch can read them"), reader.Go("/watch/"+id.String()), reader.See("stand on the sleep"))
	// A search on the bench finds what may have been said as well.
	_, err = s.house.DB.Exec(ctx,
		`insert into heard select capture_id, language, 14000, 14500, 'slip', 0.31 from caption`)
	s.must(err, p.Go("/recordings/"+id.String()), p.Wait(`document.querySelectorAll('.strip [data-band]').length > 0`),
		p.Write("Find in this lecture", "slip"), p.See("nothing found, 1 where it may have been said"),
		p.Wait(`document.querySelectorAll('.strip .hit.perhaps').length === 1`), p.Keys(kb.Enter),
		p.See("perhaps said 0:14: slip (31 %)"))
	s.clean(p, "perhaps found on the bench")
	// The words of the course.
	course := s.course("TID 210")
	s.must(p.Go("/courses/"+course.String()), p.Click("Words"),
		p.Wait(`document.querySelector('#glossary')?.value.includes('neap tide')`))
	s.clean(p, "the words of a course")
	s.must(p.Focus("#glossary"), p.Press(kb.End, hand.Ctrl), p.Keys("selkie\n"), p.Focus("#course-language"),
		p.See("Kept."), p.See("21 terms"))
	w, err := s.house.Words.Course(ctx, course)
	if err != nil || !strings.HasSuffix(w.Glossary, "selkie\n") {
		t.Errorf("kept is %q (%v)", w.Glossary, err)
	}
}

// TestChaptersAreKept: what slides propose is looked at, changed and kept; another's change is not
// lost; students go to a chapter.
func TestChaptersAreKept(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s := newStage(t, "tid-1")
	id, err := postgres.Value[uuid.UUID](ctx, s.house.DB, `select id from recording`)
	s.must(err)
	_, err = s.house.DB.Exec(ctx,
		`insert into slide_text (track_id, at_ms, title) select track_id, (x->>'at')::bigint, 'Slide ' || n
			from strip, jsonb_array_elements(slides) with ordinality as o(x, n)`)
	s.must(err)
	b := chromium(t)
	p := s.person(b, lecturer)
	s.must(p.Go("/recordings/"+id.String()),
		p.Wait(`document.querySelectorAll('.strip [data-band]').length > 0 && document.querySelector('video')?.readyState > 1`), p.See("from markers and slides"), p.Click("Change them"), p.See("Markers and the titles of slides propose them"), p.Wait(`document.querySelectorAll('.el-drawer ol input').length > 2`))
	// What lies half under the bar that stays in place is no smaller for it.
	s.must(p.Wait(`(scrollTo(0, 0), scrollY === 0)`))
	s.clean(p, "chapters")
	r, err := s.house.Recordings.Recording(ctx, id)
	s.must(err)
	before, err := s.house.Words.Chapters(ctx, id, r.Kept())
	s.must(err)
	s.must(p.Focus(".el-drawer ol li:nth-child(2) input"), p.Press("a", hand.Ctrl), p.Keys("The tidal day"),
		p.Click("Keep these chapters"), p.See("Kept."))
	after, err := s.house.Words.Chapters(ctx, id, r.Kept())
	if err != nil || !after.ByHand || len(after.List) != len(before.List) || after.List[1].Title != "The tidal day" ||
		after.List[1].At != before.List[1].At {
		t.Errorf("kept: %+v (%v)", after, err)
	}
	reader := s.person(b, student)
	s.must(reader.Go("/watch/"+id.String()), reader.Wait(`document.querySelector('video')?.readyState > 1`),
		reader.Click("The tidal day"),
		reader.Wait(`document.querySelector('.chapters [aria-current]')?.innerText.includes('The tidal day')`))
	s.clean(reader, "watched with chapters")
	s.must(p.Click("Back to what is proposed"),
		p.Wait(`document.querySelector('.el-drawer ol li:nth-child(2) input').value.startsWith('Slide ')`))
	s.must(p.Click("Undo"),
		p.Wait(`document.querySelector('.el-drawer ol li:nth-child(2) input').value === 'The tidal day'`),
		p.Click("Undo"),
		p.Wait(`document.querySelector('.el-drawer ol li:nth-child(2) input').value.startsWith('Slide ')`),
		p.Click("Redo"),
		p.Wait(`document.querySelector('.el-drawer ol li:nth-child(2) input').value === 'The tidal day'`))
	// What is not kept yet is undone first.
	s.must(p.Click("Remove the chapter at "),
		p.Wait(fmt.Sprintf(`document.querySelectorAll('.el-drawer ol li').length === %d`, len(before.List)-1)),
		p.Click("Undo"),
		p.Wait(fmt.Sprintf(`document.querySelectorAll('.el-drawer ol li').length === %d`, len(before.List))))
}
