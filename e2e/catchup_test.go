package e2e

import (
	"context"
	"fmt"
	"testing"
	"time"

	"github.com/chromedp/chromedp/kb"
	"github.com/google/uuid"

	"latelantern/demo"
	"latelantern/e2e/hand"
	"latelantern/internal/catchup"
	"latelantern/internal/core/chapter"
	"latelantern/internal/core/span"
	"latelantern/internal/cuts"
	"latelantern/internal/platform/postgres"
)

// watched is up to where the student watched the one recording without a gap, in milliseconds of its source, from a
// moment on.
func (s *stage) watched(from time.Duration) time.Duration {
	s.t.Helper()
	const query = `select coalesce(max(upper(r)), 0)::bigint from watched w join person p on p.id = w.person_id,
		unnest(w.ranges) r where p.email = $1 and lower(r) <= $2 and upper(r) > $2`
	ms, err := postgres.Value[int64](context.Background(), s.house.DB, query, demo.Accounts[student].Email,
		from.Milliseconds()+1500)
	s.must(err)
	return time.Duration(ms) * time.Millisecond
}

// now is where the video stands.
func (s *stage) now(p *hand.Page) time.Duration {
	s.t.Helper()
	at, err := hand.Ask[float64](p, `document.querySelector('video').currentTime`)
	s.must(err)
	return time.Duration(at * float64(time.Second))
}

// TestAStudentCatchesUp: what is missed is said with the one press that goes on; what plays fills the line, also while
// the server is away; a seek fills nothing; what one knows is done, and can be taken back; all of it by keys.
func TestAStudentCatchesUp(t *testing.T) {
	ctx := context.Background()
	s := newStage(t, "tid-1")
	id := s.theOne()
	r, err := s.house.Recordings.Recording(ctx, id)
	s.must(err)
	begins := r.Kept().Spans()[0].Start
	s.must(s.house.Words.SetChapters(ctx, id, uuid.Nil, r.Kept(), r.Length, nil,
		[]chapter.Chapter{{At: begins, Title: "The Moon pulls"}, {At: begins + 40*time.Second, Title: "Range"}}))
	b := chromium(t)
	p := s.person(b, student)
	s.must(p.Go("/catch-up"), p.See("to catch up, in one recording"),
		p.Wait(`document.querySelector('.had[role=img]')?.ariaLabel.startsWith('Missed: 0:00–')`))

	// What fits into a minute is its beginning.
	s.must(p.Click("What fits into the time I have"), p.Write("I have", "1"), p.See("its beginning"),
		p.See("After it"), p.Write("I have", "40"), p.See("is all you miss"))

	// One press goes on with it.
	s.must(p.Click("Begin with Two high waters a day"), p.Wait(`document.querySelector('video')?.readyState > 2`),
		p.Press("k"), plays(p), p.Wait(`document.querySelector('video').currentTime > 4`), p.Press("k"),
		p.Wait(`document.querySelector('video').paused`), p.Wait(`document.querySelector('.had .watched')`))
	s.until("what played is known", func() bool { return s.watched(begins) >= begins+3*time.Second })
	if at, known := s.now(p), s.watched(begins)-begins; known > at+time.Second {
		t.Errorf("%v are known to be watched of %v", known, at)
	}

	// Gone elsewhere, it counts only what plays there; without the server that waits in the browser.
	s.must(p.Press("l"), p.Press("l"), p.Press("l"), p.Press("k"), plays(p))
	from := s.now(p)
	s.kill()
	s.must(p.Wait(`document.querySelector('video').currentTime > `+seconds(from+2*time.Second)), p.Press("k"))
	upTo := s.now(p)
	s.must(p.Wait(`JSON.parse(localStorage['late-lantern-played']).length === 1`))
	s.start()
	s.until("what played without the server is known as well", func() bool {
		return s.watched(begins+from) >= begins+upTo-time.Second
	})
	s.must(p.Wait(`JSON.parse(localStorage['late-lantern-played']).length === 0`))
	if gap := s.watched(begins); gap >= begins+from-4*time.Second {
		t.Errorf("what was gone over counts as watched: up to %v", gap-begins)
	}

	// Keys: the chapter that comes next, the missed stretch, and what the keys are.
	s.must(p.Press("]"), p.Wait(`document.querySelector('video').currentTime > 35`), p.Press("["),
		p.Wait(`document.querySelector('video').currentTime < 2`),
		p.Wait(`document.querySelector('.scrub').ariaValueText.endsWith('The Moon pulls')`),
		p.Press("?"), p.See("Next missed stretch"), p.Press(kb.Escape), p.Wait(shut))
	s.must(p.Go("/watch/"+id.String()), p.See("Begins at 0:0"),
		p.Wait(`(v => v?.value > 3000 && v.value < 9000)(document.querySelector('.scrub'))`), p.Press("n"),
		p.Wait(`document.querySelector('video').currentTime > 15`))

	s.must(p.Go("/catch-up"), p.See("Go on with Two high waters a day, at 0:0"),
		p.Focus(`[aria-label^="I know this: Two"]`), p.Press(kb.Enter), p.See("you know this"),
		p.See("You have all of the one recording that you can watch."), p.Click("Take back"), p.See("Go on with"))
	s.clean(p, "the catch-up page")
}

// TestHowAClassCatchesUp is told those who teach it on the bench and on the page of the course, and where they watch
// something again and again the bench leads there.
func TestHowAClassCatchesUp(t *testing.T) {
	ctx := context.Background()
	s := newStage(t, "tid-1")
	id := s.theOne()
	course := s.course("TID 210")
	people, err := postgres.Values[uuid.UUID](ctx, s.house.DB, `select person_id from membership
		where course_id = $1 and role = 'student' order by person_id limit 4`, course)
	s.must(err)
	b := chromium(t)
	p := s.person(b, lecturer)
	s.must(p.Go("/recordings/"+id.String()), p.See("How it is caught up"), p.See("0 of 24 students have caught up"),
		p.See("once three have watched the same"))
	play := func(who uuid.UUID, from, until time.Duration) {
		t.Helper()
		s.must(s.house.CatchUp.Keep(ctx, who, id, catchup.Word{Played: span.Of(span.Span{Start: from, End: until})}))
	}
	for i, who := range people {
		play(who, 0, []time.Duration{time.Hour, time.Hour, 50 * time.Second, 50 * time.Second}[i])
		play(who, 30*time.Second, 40*time.Second)
	}
	s.must(p.Go("/courses/"+course.String()), p.See("2 of 24 students have caught up with it. 2 have begun."),
		p.Go("/recordings/"+id.String()), p.See("How often each stretch was watched again"),
		p.Click("0:30–0:40, 4 times"), p.Wait(`((t) => t > 15 && t < 45)(document.querySelector('video').currentTime)`),
		p.Wait(`document.querySelectorAll('.watched svg .bar').length > 5`))
	s.clean(p, "the bench with how it is caught up")
}

// TestSilencesAreGoneOver: how much it saves is said before, and it counts as watched.
func TestSilencesAreGoneOver(t *testing.T) {
	ctx := context.Background()
	s := newStage(t, "tid-1")
	id := s.theOne()
	by, err := postgres.Value[uuid.UUID](ctx, s.house.DB, `select id from person where email = $1`,
		demo.Accounts[lecturer].Email)
	s.must(err)
	r, err := s.house.Recordings.Recording(ctx, id)
	s.must(err)
	kept := r.Kept().Spans()
	whole := span.Span{Start: kept[0].Start, End: kept[len(kept)-1].End}
	course := s.course("TID 210")
	s.must(s.house.Cuts.Change(ctx, id, by, cuts.Restore, whole), s.house.Releases.Light(ctx, course, id, by))
	s.until("it is published with its break", func() bool {
		r, err := s.house.Recordings.Recording(ctx, id)
		s.must(err)
		return r.Current()
	})
	p := s.person(chromium(t), student)
	s.must(p.Go("/watch/"+id.String()), p.Wait(`document.querySelector('video')?.readyState > 2`),
		p.See("Go over silences, saves"), p.Click("Go over silences"))
	pause := kept[0].Len() + 3*time.Second // the break begins where the first stretch ended
	s.must(p.Wait(`document.querySelector('video').currentTime = `+seconds(pause)), p.Click("Play"),
		p.Wait(`document.querySelector('video').currentTime > `+seconds(pause+12*time.Second)), p.Click("Pause"))
	s.until("what was gone over is known", func() bool {
		return s.watched(whole.Start+pause+6*time.Second) > whole.Start+pause+12*time.Second
	})
}

// seconds is a time as a page counts it.
func seconds(d time.Duration) string { return fmt.Sprintf("%.3f", d.Seconds()) }
