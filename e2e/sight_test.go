package e2e

import (
	"testing"

	"latelantern/demo"
	"latelantern/internal/platform/postgres"
)

// TestTheSightCheck: a lecturer sees a course as one of its students, why something is closed, mends it with one press
// and takes that back; the student hears of each.
func TestTheSightCheck(t *testing.T) {
	t.Parallel()
	s := newStage(t, "tid-1", "tid-3")
	b := chromium(t)
	p, reader := s.person(b, lecturer), s.person(b, student)
	name, err := postgres.Value[string](t.Context(), s.house.DB, `select name from person where email = $1`,
		demo.Accounts[student].Email)
	s.must(err, reader.Go("/catch-up"), reader.See("Two high waters a day"),
		p.Go("/courses/"+s.course("TID 210").String()+"/sight"), p.See("You see TID 210 as A student of TID 210 sees it"),
		p.See("not lit yet"))
	s.clean(p, "a course seen as one of its students")
	s.must(p.Set("Whose eyes", name), p.See("You see TID 210 as "+name+" sees it"), p.See("not lit yet"),
		p.See("They do not see that it is there."))
	const found = `[...document.querySelectorAll('a')].some(a => a.innerText === 'The tide table and its errors')`
	s.must(p.Click("Light it: The tide table"), p.See("The tide table and its errors is lit for TID 210."),
		reader.Wait(found), p.Click("Undo"), p.See("not lit yet"), reader.Wait(`!`+found),
		p.Click("Two high waters a day"), p.Wait(`document.querySelector('video')?.readyState > 1`),
		p.See("They may watch, read along"))
	s.clean(p, "a recording seen as someone else")
	n, err := postgres.Value[int](t.Context(), s.house.DB, `select count(*) from resume_position`)
	if s.must(err); n != 0 {
		t.Errorf("%d places were kept", n)
	}
}

// TestAClosedDoorIsTold: a student's word stands on the board with the press that opens, until it is open.
func TestAClosedDoorIsTold(t *testing.T) {
	t.Parallel()
	s := newStage(t, "tid-1", "tid-3")
	b := chromium(t)
	p, reader := s.person(b, lecturer), s.person(b, student)
	id, err := postgres.Value[string](t.Context(), s.house.DB,
		`select r.id::text from recording r where not exists (select 1 from lighting l where l.recording_id = r.id)`)
	s.must(err, p.Go("/"), p.See("TID 210"), reader.Go("/watch/"+id), reader.Click("Tell who teaches it"),
		reader.See("They are told."))
	s.clean(reader, "a closed door")
	s.must(p.Click("A student could not open TID 210 week 3: it is not lit"), p.Click("Light it: The tide table"),
		p.See("is lit for TID 210."), reader.Wait(`document.querySelector('video')`), p.Go("/"), p.See("TID 210"),
		p.Wait(`!document.body.innerText.includes('could not open')`))
}

// TestTheSightCheckFromTheFrame: of the course at hand, or of one that is chosen.
func TestTheSightCheckFromTheFrame(t *testing.T) {
	t.Parallel()
	s := newStage(t, "tid-1")
	p := s.person(chromium(t), lecturer)
	name, err := postgres.Value[string](t.Context(), s.house.DB, `select name from person where email = $1`,
		demo.Accounts[lecturer].Email)
	s.must(err, p.Go("/"), p.See("TID 210"), p.Click(name), p.Click("See as a student"), p.See("Choose a course"))
	s.clean(p, "whose eyes: a course to choose")
	const band = "You see TID 210 as A student of TID 210 sees it"
	s.must(p.Set("Course", "TID 210 Reading the Tides"), p.See(band),
		p.Go("/courses/"+s.course("TID 210").String()+"/people"), p.See("Take off"), p.Click(name),
		p.Click("See as a student"), p.See(band))
}
