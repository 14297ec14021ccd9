package carry_test

import (
	"errors"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/audience"
	"latelantern/internal/carry"
	"latelantern/internal/core/fault"
	"latelantern/internal/core/playlist"
	"latelantern/internal/core/timetable"
	"latelantern/internal/core/viewing"
	"latelantern/internal/playlists"
	"latelantern/internal/schedule"
	"latelantern/internal/testdb"
	"latelantern/internal/testhouse"
	"latelantern/internal/words"
)

func TestMain(m *testing.M) { testdb.Main(m) }

// watching is to watch and nothing else.
const watching = viewing.Uses(viewing.ToWatch)

// taught is a course in which everything is that can be carried, and a later term.
type taught struct {
	*testhouse.Stage
	next     uuid.UUID // the later term
	lit      uuid.UUID // a recording that the main playlist has
	until    time.Time // until when its rule holds
	lectures []schedule.Lecture
}

func (s *taught) scope(course uuid.UUID) audience.Scope { return audience.Scope{Course: course} }

// term is that of the course.
func (s *taught) term() uuid.UUID {
	term, err := s.Schedule.CurrentTerm(s.T.Context())
	s.Must(err)
	return term.ID
}

// all is everything that can be carried, into a course that is made.
func (s *taught) all() carry.Form {
	return carry.Form{From: s.Course, Term: s.next, Code: "COU 1", Title: "A course again", Plan: true, Lists: true,
		Again: true, Rule: true, Staff: true, Settings: true}
}

func teach(t *testing.T) *taught {
	s := &taught{Stage: testhouse.New(t, true)}
	ctx := t.Context()
	term, err := s.Schedule.CurrentTerm(ctx)
	s.Must(err)
	day := func(y int, m time.Month, d int) time.Time { return time.Date(y, m, d, 0, 0, 0, 0, time.UTC) }
	s.next, err = s.Schedule.KeepTerm(ctx, uuid.Nil, schedule.TermForm{Name: "Lent", Zone: "Europe/London",
		Term: timetable.Term{First: day(2027, 2, 1), Last: day(2027, 4, 2),
			Breaks: []timetable.Break{{First: day(2027, 2, 15), Last: day(2027, 2, 19), Name: "Half term"}}}})
	s.Must(err)
	_, err = s.Schedule.AddPlan(ctx, s.Course, s.Lecturer, schedule.PlanForm{Topic: "Ropes",
		Choices: schedule.Choices{Doorway: "ask", OpensMin: 7, CaptureAuto: true, LeadMin: 3, TailMin: 4},
		Plan: timetable.Plan{Weekdays: []time.Weekday{time.Thursday}, Every: 1, At: 14*time.Hour + 30*time.Minute,
			Lasts: 75 * time.Minute, From: term.Plan.First, Times: 11}})
	s.Must(err)
	lectures, err := s.Schedule.Lectures(ctx, []uuid.UUID{s.Course})
	s.Must(err)
	for _, l := range lectures {
		if l.PlanID != nil {
			s.lectures = append(s.lectures, l)
		}
	}
	// Moved, called off and named by hand.
	s.Do(`update lecture set starts_at = starts_at + interval '1 day', ends_at = ends_at + interval '1 day',
		topic = 'Knots' where id = $1`, s.lectures[1].ID)
	s.Do(`update lecture set called_off_at = now() where id = $1`, s.lectures[2].ID)
	s.Must(s.Schedule.SetNaming(ctx, s.Course, "{course}: {subject}"),
		s.Words.SetCourse(ctx, s.Course, words.Course{Language: "de", Drafts: true, Glossary: "bowline"}),
		s.Cuts.SetTrimsEnds(ctx, s.Course, true), s.Capture.SetOriginalDays(ctx, s.Course, 30),
		s.Door.SetNamesSeen(ctx, s.Course, true))
	s.until = time.Date(2026, 10, 22, 0, 0, 0, 0, term.Zone)
	s.Must(s.Audience.SetRule(ctx, s.scope(s.Course), s.Lecturer, &viewing.Rule{Audience: viewing.Groups,
		Groups: []string{"A"}, Uses: watching, Window: viewing.Window{From: viewing.FromLecture,
			Until: viewing.UntilDate, UntilAt: s.until}}))
	s.lists()
	return s
}

// lists gives the course playlists: its main one with a heading, a recording that is lit, one that is not and one of
// another course; one of its own with a page; one that fills itself; and one of another course that it shows.
func (s *taught) lists() {
	ctx := s.T.Context()
	stopped := testhouse.Now
	s.lit = s.Bare(s.Lecture, true, &stopped)
	dark, other := s.Bare(s.Later, true, &stopped), s.Bare(s.Elsewhere, true, &stopped)
	s.Do(`update track set state = 'ready', packed_ms = 60000`)
	s.LightRow(s.lit, s.Course, nil)
	main := playlists.Of{Course: s.Course}
	_, err := s.Playlists.AddHeading(ctx, main, playlists.Text{Title: "First", About: "How it begins"})
	s.Must(err, s.Playlists.Add(ctx, main, []uuid.UUID{s.Other}, s.lit, dark, other))
	list := func(course uuid.UUID, by playlist.Arranged, title, about string) uuid.UUID {
		kept := playlists.Kept{Title: title, About: about, Arranged: by}
		id, err := s.Playlists.AddList(ctx, course, s.Lecturer, kept)
		s.Must(err)
		return id
	}
	own := list(s.Course, playlist.Hand, "Own", "More")
	_, err = s.Playlists.AddPage(ctx, playlists.Of{Course: s.Course, List: own},
		playlists.Text{Title: "A page", Address: "https://pages.college.example/a"})
	s.Must(err)
	_, err = s.Playlists.AddFile(ctx, playlists.Of{Course: s.Course, List: own}, s.Lecturer, "knots.pdf", -1,
		strings.NewReader(aPDF))
	s.Must(err)
	filled := list(s.Course, playlist.Date, "Filled", "")
	s.Do(`update playlist set fill_course = course_id, filled_by = $2 where id = $1`, filled, s.Lecturer)
	theirs := list(s.Other, playlist.Hand, "Theirs", "")
	s.Do(`insert into playlist_place (playlist_id, course_id, position) values ($1, $2, 9)`, theirs, s.Course)
}

// aPDF is the least that is one.
const aPDF = "%PDF-1.7\ntrailer << >>\n%%EOF\n"

// whole is how much there is of everything that can be carried.
func (s *taught) whole() (out [8]int) {
	for i, table := range []string{"course", "lecture", "plan", "playlist", "playlist_entry", "viewing_rule", "membership",
		"lighting where darkened_at is null"} {
		out[i] = s.Count(`select count(*) from ` + table)
	}
	return out
}

// TestACourseInAnotherTerm: what was said comes, each lecture on its day there; taken back all is as it was.
func TestACourseInAnotherTerm(t *testing.T) {
	s, ctx := teach(t), t.Context()
	before := s.whole()
	said, err := s.Carry.Preview(ctx, s.Lecturer, s.all())
	s.Must(err)
	if got := s.whole(); got != before {
		t.Fatalf("only looked at, there is %v, was %v", got, before)
	}
	done, err := s.Carry.Carry(ctx, s.Lecturer, s.all())
	s.Must(err)
	if done.Plan.Lectures != said.Plan.Lectures || done.Plan.Left != said.Plan.Left || done.Lit != said.Lit ||
		done.Staff != said.Staff || len(done.Lists.Recordings) != len(said.Lists.Recordings) {
		t.Errorf("came %+v, said was %+v", done, said)
	}
	s.planned(done)
	s.listed(done)
	s.set(done)
	s.Must(s.Carry.TakeBack(ctx, done.Course, s.Lecturer, true))
	if got := s.whole(); got != before {
		t.Errorf("taken back there is %v, was %v", got, before)
	}
	if err := s.Carry.TakeBack(ctx, done.Course, s.Lecturer, true); !errors.Is(err, carry.ErrUnknown) {
		t.Errorf("taken back twice: %v", err)
	}
}

// planned wants each lecture on the same day of the same week of teaching, as it was planned.
func (s *taught) planned(done carry.Said) {
	t, ctx := s.T, s.T.Context()
	from, err := s.Schedule.CurrentTerm(ctx)
	s.Must(err)
	to, err := s.Schedule.Term(ctx, s.next)
	s.Must(err)
	list, err := s.Schedule.Lectures(ctx, []uuid.UUID{done.Course})
	s.Must(err)
	if len(list) != 8 || done.Plan.Lectures != 8 || done.Plan.Left != 3 || done.Plan.Plans != 1 {
		t.Fatalf("%d lectures came: %+v", len(list), done.Plan)
	}
	for i, l := range list {
		was := s.lectures[i]
		if a, b := from.Week(was.StartsAt).Number, to.Week(l.StartsAt).Number; a != b || a == 0 {
			t.Errorf("a lecture of week %d is in week %d", a, b)
		}
		topic := "Ropes"
		if i == 1 {
			topic = "Knots"
		}
		if at := l.StartsAt.In(to.Zone); at.Weekday() != time.Thursday || at.Format("15:04") != "14:30" ||
			l.EndsAt.Sub(l.StartsAt) != 75*time.Minute || l.CalledOff || l.Topic != topic || l.Doorway != "ask" ||
			l.OpensMin != 7 || !l.CaptureAuto || l.LeadMin != 3 || l.TailMin != 4 {
			t.Errorf("%+v", l.Dated)
		}
	}
	if !done.Plan.First.Equal(list[0].StartsAt) || !done.Plan.Last.Equal(list[7].StartsAt) || done.Plan.Clashing != 0 {
		t.Errorf("said is %+v", done.Plan)
	}
}

// listed wants the playlists in their order, without what is of another course.
func (s *taught) listed(done carry.Said) {
	t, ctx := s.T, s.T.Context()
	lists, err := s.Playlists.Lists(ctx, done.Course)
	s.Must(err)
	var told []string
	for _, l := range lists {
		entries, err := s.Playlists.Entries(ctx, playlists.Of{Course: done.Course, List: l.ID})
		s.Must(err)
		line := l.Title
		for _, e := range entries {
			switch {
			case e.Heading != nil:
				line += " #" + *e.Heading + " " + e.About
			case e.Address != nil:
				line += " @" + e.Title
			case e.FileID != nil:
				_, b, err := s.Playlists.File(ctx, done.Course, *e.FileID)
				s.Must(err, b.Close())
				line += " [" + e.FileName + "]"
			case *e.RecordingID == s.lit:
				line += " lit"
			default:
				line += " dark"
			}
		}
		if l.FillCourse != nil && *l.FillCourse == done.Course {
			line += " filled"
		}
		told = append(told, line)
	}
	if got := strings.Join(told, "|"); got != " #First How it begins lit dark|Own @A page [knots.pdf]|Filled filled" {
		t.Errorf("the playlists are %q", got)
	}
	if x := done.Lists; len(x.Lists) != 2 || x.Headings != 1 || x.Pages != 1 || x.Files != 1 ||
		len(x.Recordings) != 2 || done.Lit != 1 || !slices.Equal(x.Left, []string{"Theirs"}) {
		t.Errorf("said is %+v, %d lit", x, done.Lit)
	}
	if n := s.Count(`select count(*) from released where course_id = $1 and lit`, done.Course); n != 1 {
		t.Errorf("%d are lit", n)
	}
}

// set wants rule, people and settings.
func (s *taught) set(done carry.Said) {
	t, ctx := s.T, s.T.Context()
	rule, err := s.Audience.Rule(ctx, s.scope(done.Course))
	s.Must(err)
	zone := s.until.Location()
	if rule == nil || rule.Until != viewing.UntilDate || !slices.Equal(rule.Groups, []string{"A"}) ||
		rule.UntilAt.In(zone).Weekday() != s.until.Weekday() || rule.UntilAt.In(zone).Year() != 2027 {
		t.Errorf("the rule is %+v", rule)
	}
	term, err := s.Schedule.Term(ctx, s.next)
	s.Must(err)
	old, err := s.Schedule.CurrentTerm(ctx)
	s.Must(err)
	if rule != nil && term.Week(rule.UntilAt).Number != old.Week(s.until).Number {
		t.Errorf("it holds until week %d, and did until week %d", term.Week(rule.UntilAt).Number,
			old.Week(s.until).Number)
	}
	in := s.Count(`select count(*) from membership where course_id = $1`, done.Course)
	if in != 1 || done.Staff != 1 {
		t.Errorf("%d are in it, %d came", in, done.Staff)
	}
	says, err := s.Words.Course(ctx, done.Course)
	s.Must(err)
	trims, err := s.Cuts.TrimsEnds(ctx, done.Course)
	s.Must(err)
	days, err := s.Capture.OriginalDays(ctx, done.Course)
	s.Must(err)
	seen, err := s.Door.NamesSeen(ctx, done.Course)
	s.Must(err)
	names, err := s.Schedule.Namings(ctx, []uuid.UUID{done.Course})
	s.Must(err)
	if says.Glossary != "bowline" || says.Language != "de" || !trims || !seen || days != 30 ||
		names[done.Course] != "{course}: {subject}" {
		t.Errorf("it has set %+v, %v, %v, %d days, %q", says, trims, seen, days, names[done.Course])
	}
}

// TestIntoACourseThatIsThere: one in which nothing is yet keeps who is in it and what it has set; taken back that
// stays.
func TestIntoACourseThatIsThere(t *testing.T) {
	s, ctx := teach(t), t.Context()
	to, err := s.Schedule.KeepCourse(ctx, uuid.Nil, schedule.CourseForm{Term: s.next, Code: "COU 1", Title: "There"})
	s.Must(err)
	s.Person("newcomer", to, "student", "")
	s.Must(s.Words.SetCourse(ctx, to, words.Course{Language: "en", Glossary: "its own"}),
		s.Audience.SetRule(ctx, s.scope(to), s.Lecturer, &viewing.Rule{Audience: viewing.Everyone, Uses: watching,
			Window: viewing.Window{From: viewing.FromOnce, Until: viewing.UntilEver}}))
	before := s.whole()
	f := s.all()
	f.To, f.Again = to, false
	done, err := s.Carry.Carry(ctx, s.Lecturer, f)
	s.Must(err)
	says, err := s.Words.Course(ctx, to)
	s.Must(err)
	if says.Glossary != "its own" || done.Rule != nil || len(done.Lists.Recordings) != 0 || done.Plan.Lectures != 8 {
		t.Errorf("%+v, and %+v", says, done)
	}
	if _, err := s.Carry.Carry(ctx, s.Lecturer, f); !errors.Is(err, carry.ErrNotBare) {
		t.Errorf("carried twice: %v", err)
	}
	s.Must(s.Carry.TakeBack(ctx, to, s.Lecturer, false))
	before[6]++ // who taught the other teaches this one too
	before[3]++ // its main playlist is there, with nothing in it
	if got := s.whole(); got != before {
		t.Errorf("taken back there is %v, want %v", got, before)
	}
}

// TestTwoCarryAtOnce: of two who carry to the same course one does.
func TestTwoCarryAtOnce(t *testing.T) {
	s, ctx := teach(t), t.Context()
	to, err := s.Schedule.KeepCourse(ctx, uuid.Nil, schedule.CourseForm{Term: s.next, Code: "COU 1", Title: "There"})
	s.Must(err)
	f := s.all()
	f.To = to
	ended := make(chan error, 2)
	for range 2 {
		go func() {
			_, err := s.Carry.Carry(ctx, s.Lecturer, f)
			ended <- err
		}()
	}
	a, b := <-ended, <-ended
	if (a == nil) == (b == nil) || !errors.Is(errors.Join(a, b), carry.ErrNotBare) {
		t.Errorf("%v and %v", a, b)
	}
	if n := s.Count(`select count(*) from lecture where course_id = $1`, to); n != 8 {
		t.Errorf("%d lectures", n)
	}
}

// TestWhatCannotBeCarried changes nothing.
func TestWhatCannotBeCarried(t *testing.T) {
	s, ctx := teach(t), t.Context()
	before := s.whole()
	taken := s.all()
	taken.Term, taken.Code = s.term(), "oth 2"
	same := s.all()
	same.Term, same.Code = s.term(), "NEW 9"
	itself, unknown, none := s.all(), s.all(), s.all()
	itself.To, unknown.From, none.Term = s.Course, uuid.New(), uuid.New()
	for name, c := range map[string]struct {
		form carry.Form
		err  error
	}{
		"a code that is taken": {taken, fault.Code("course.taken")},
		"its own term":         {same, carry.ErrSame},
		"itself":               {itself, carry.ErrNotBare},
		"no course":            {unknown, schedule.ErrUnknown},
		"no term":              {none, schedule.ErrUnknown},
	} {
		_, err := s.Carry.Carry(ctx, s.Lecturer, c.form)
		if said := fault.All(err); !errors.Is(err, c.err) && (len(said) == 0 || said[0].Code != c.err) {
			t.Errorf("%s: %v", name, err)
		}
	}
	if got := s.whole(); got != before {
		t.Errorf("there is %v, was %v", got, before)
	}
	done, err := s.Carry.Carry(ctx, s.Lecturer, s.all())
	s.Must(err)
	if err := s.Carry.TakeBack(ctx, done.Course, s.Lecturer, false); !errors.Is(err, carry.ErrUnknown) {
		t.Errorf("who may not remove courses takes it back: %v", err)
	}
	s.Person("newcomer", done.Course, "student", "")
	if err := s.Carry.TakeBack(ctx, done.Course, s.Lecturer, true); !errors.Is(err, carry.ErrUsed) {
		t.Errorf("with a student: %v", err)
	}
	s.Do(`delete from membership where course_id = $1 and role = 'student'`, done.Course)
	stopped := testhouse.Now
	lectures, err := s.Schedule.Lectures(ctx, []uuid.UUID{done.Course})
	s.Must(err)
	s.Bare(lectures[0].ID, false, &stopped)
	if err := s.Carry.TakeBack(ctx, done.Course, s.Lecturer, true); !errors.Is(err, carry.ErrUsed) {
		t.Errorf("with a recording: %v", err)
	}
}
