package e2e

import (
	"context"
	"testing"
	"time"

	"github.com/chromedp/chromedp/kb"
	"github.com/google/uuid"

	"latelantern/e2e/hand"
	"latelantern/internal/audience"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/postgres"
)

// TestTheRuleIsASentence: its days are days of the college, its faults are said where they
// are made, and a rule that was kept can be undone.
func TestTheRuleIsASentence(t *testing.T) {
	ctx := context.Background()
	s := newStage(t, "tid-1")
	b := chromium(t)
	p := s.person(b, lecturer)
	course, err := postgres.Value[uuid.UUID](ctx, s.house.DB, `select id from course where code = 'TID 210'`)
	s.must(err)
	before, err := s.house.Audience.Rule(ctx, audience.Scope{Course: course})
	s.must(err)
	day := func(words, text string) error {
		s.must(p.Click(words), p.Click("a day"), p.Wait(`document.querySelector('#choices .el-date-editor input')`))
		return p.Write(map[string]string{"the end of the lecture": "From when",
			"further notice": "Until when"}[words], text+kb.Enter)
	}
	s.must(p.Go("/courses/"+course.String()+"/rule"), p.See("24 of 24 can watch what is lit"),
		p.Click("30 days after term"), p.Click("further notice"))
	// A change that shuts everyone out says so, with names, before it is kept.
	s.must(day("the end of the lecture", "2099-11-02"), p.See("from November 2, 2099"),
		p.See("After this 0 of 24 can watch"), p.See("24 no longer can"), p.Click("Names"), p.See("Can watch less:"))
	// An end before the start is refused in a sentence, and cannot be kept.
	s.must(day("further notice", "2099-11-01"),
		p.See("The end of the rule lies before its start, so nobody could ever watch."),
		p.Wait(`[...document.querySelectorAll('button')].find(b => b.innerText === 'Keep this rule').disabled`))
	if now, err := s.house.Audience.Rule(ctx, audience.Scope{Course: course}); err != nil || now.From != before.From {
		t.Errorf("a rule that was not kept holds: %+v (%v)", now, err)
	}
	s.must(p.Write("Until when", "2099-12-24"+kb.Enter), p.See("until the end of December 24, 2099"),
		p.Click("Keep this rule"), p.See("This rule holds"))
	place, err := time.LoadLocation("Atlantic/Faroe")
	s.must(err)
	now, err := s.house.Audience.Rule(ctx, audience.Scope{Course: course})
	s.must(err)
	if want := time.Date(2099, 11, 2, 0, 0, 0, 0, place); now.From != viewing.FromDate || !now.FromAt.Equal(want) {
		t.Errorf("it begins at %v, not %v", now.FromAt, want)
	}
	if want := time.Date(2099, 12, 25, 0, 0, 0, 0, place); now.Until != viewing.UntilDate || !now.UntilAt.Equal(want) {
		t.Errorf("it ends at %v, not %v", now.UntilAt, want)
	}
	s.must(p.Click("Undo"), p.See("24 of 24 can watch what is lit"), p.See("30 days after term"))
	if now, err := s.house.Audience.Rule(ctx,
		audience.Scope{Course: course}); err != nil || now.From != viewing.FromLecture ||
		now.DaysAfterTerm != before.DaysAfterTerm {
		t.Errorf("undone, the rule is %+v (%v)", now, err)
	}
}

// TestTheSheetTakesTheNextStep: light it from the board, and see the lantern change there.
func TestTheSheetTakesTheNextStep(t *testing.T) {
	s := newStage(t, "tid-3")
	b := chromium(t)
	p := s.person(b, lecturer)
	s.must(p.See("waits to be lit"), p.Click("The tide table and its errors"), p.See("dark: nobody enrolled can watch"),
		p.Click("Light it for TID 210"),
		p.See("lit: 24 of 24 can watch"), p.Wait(`document.querySelector('.board .lantern.lit')`), p.Click("Close"),
		p.Wait(`!location.search.includes('lecture')`))
	// Another person's page hears of it without being asked to reload.
	reader := s.person(b, student)
	s.must(reader.Go("/catch-up"), reader.See("The tide table and its errors"))
	course, err := postgres.Value[uuid.UUID](context.Background(), s.house.DB,
		`select id from course where code = 'TID 210'`)
	s.must(err)
	s.must(p.Go("/courses/"+course.String()+"/playlist"), p.Click("Darken The tide table"), p.See("0/24"),
		reader.Wait(`!document.body.innerText.includes('The tide table')`))
}

// TestACaptureWhoseComputerIsGone is ended from another page, and whoever still sends is told.
func TestACaptureWhoseComputerIsGone(t *testing.T) {
	s := newStage(t, "tid-1")
	b := chromium(t)
	p := s.person(b, lecturer)
	s.must(p.Click("nobody has pressed start"), p.Click("Camera"), p.See("Sound is heard"), p.Click("Start capture"),
		p.Wait(safe+" >= 2"))
	other := s.person(b, coordinator)
	lecture, err := postgres.Value[uuid.UUID](context.Background(), s.house.DB,
		`select lecture_id from capture where stopped_at is null`)
	s.must(err)
	s.must(other.Go("/lectures/"+lecture.String()+"/capture"),
		other.See("A capture of this lecture is running already"), other.Click("End the other where it stands"),
		other.Wait(`!document.body.innerText.includes('running already')`),
		p.See("This capture was ended from elsewhere"))
	s.until("what was captured can be watched", func() bool {
		state, err := postgres.Value[string](context.Background(), s.house.DB,
			`select t.state from track t join capture c on c.id = t.capture_id where c.lecture_id = $1`, lecture)
		return err == nil && state == "ready"
	})
}

// TestARuleOfARecordingAlone: changed from the rule of its course, seen by whoever changes it at the same time, and
// given up again.
func TestARuleOfARecordingAlone(t *testing.T) {
	t.Parallel()
	s := newStage(t, "tid-1")
	b := chromium(t)
	id, err := postgres.Value[uuid.UUID](t.Context(), s.house.DB, `select id from recording`)
	s.must(err)
	path := "/courses/" + s.course("TID 210").String() + "/rule?for=" + id.String()
	in := func(days int) time.Time { return s.house.Clock.Now().AddDate(0, 0, days) }
	day := func(p *hand.Page, days int) error {
		s.must(p.Click("the end of the lecture"), p.Click("a day"),
			p.Wait(`document.querySelector('#choices .el-date-editor input')`))
		return p.Write("From when", in(days).Format(time.DateOnly)+kb.Enter)
	}
	alone := func(p *hand.Page) error {
		s.must(p.Go(path), p.See("Everyone in TID 210"), p.Click("For “Two high waters a day” alone"))
		return p.See("As in TID 210. Change a part")
	}
	p, other := s.person(b, lecturer), s.person(b, coordinator)
	s.must(alone(p), alone(other))
	s.clean(p, "the rule of a recording alone")
	s.must(day(p, 7), p.See("After this 0 of 24 can watch"), day(other, 14),
		other.See("from "+in(14).Format("January 2, 2006")), p.Click("Keep this rule"), p.See("This recording has a rule of its own"),
		other.See("Maren Oduya has changed this rule meanwhile."), other.Click("Keep this rule"),
		other.See("This rule holds"), p.See("from "+in(14).Format("January 2, 2006")),
		p.Click("As in TID 210 again"), p.See("As in TID 210. Change a part"), p.See("24 of 24 can watch"),
		p.Click("Undo"), p.See("This recording has a rule of its own"), p.See("0 of 24 can watch"))
	// Whoever comes from the recording is shown the rule that holds for it.
	s.must(other.Go(path), other.See("This recording has a rule of its own"),
		other.Click("For all of TID 210"), other.See("from the end of the lecture"))
}
