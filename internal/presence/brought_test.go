package presence_test

import (
	"errors"
	"slices"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"

	core "latelantern/internal/core/presence"
	"latelantern/internal/presence"
	"latelantern/internal/testhouse"
)

// TestAFileOfWhoWasThere: who is there already and what was set by hand stay, an earlier file gives way, and each file
// is taken back to what stood before it.
func TestAFileOfWhoWasThere(t *testing.T) {
	ctx := t.Context()
	s := testhouse.New(t, true)
	d, at := held(s)
	third, byHand := s.Person("hall", s.Course, "student", ""), s.Person("by hand", s.Course, "student", "")
	after := s.Person("after", s.Course, "student", "")
	stays(s, s.Second, at(20), at(60))
	s.Must(d.Object(ctx, s.Lecture, s.Student, "I was there."),
		d.SetMark(ctx, s.Lecture, byHand, s.Lecturer, &presence.MarkForm{State: core.Excused, Reason: "ill"}))
	states := func(want ...core.State) {
		t.Helper()
		var got []core.State
		for _, who := range []uuid.UUID{s.Student, s.Second, third, byHand, after} {
			got = append(got, entry(s, d, who).Stands().State)
		}
		if !slices.Equal(got, want) {
			t.Errorf("they stand %v, want %v", got, want)
		}
	}
	bring := func(said ...core.Said) presence.Brought {
		t.Helper()
		b, err := d.Bring(ctx, s.Course, s.Lecture, s.Lecturer, said)
		s.Must(err)
		return b
	}
	first := bring(core.Said{Line: 1, Who: "student@college.example"}, core.Said{Line: 2, Who: "second"},
		core.Said{Line: 3, Who: "by hand", State: core.Absent}, core.Said{Line: 4, Who: "Outsider"},
		core.Said{Line: 5, Who: "after"})
	if first.Kept != 2 || first.Stood != 1 || first.ByHand != 1 || len(first.Left) != 1 ||
		first.Left[0] != (presence.LeftLine{Line: 4, Who: "Outsider", Why: core.ErrNobody}) {
		t.Errorf("%+v", first)
	}
	states(core.Present, core.Late, core.Absent, core.Excused, core.Present)
	if e := entry(s, d, s.Student); !e.Mark.ByFile || e.Mark.By != "lecturer" || !e.Word.Settled {
		t.Errorf("%+v %+v", e.Mark, e.Word)
	}
	again := bring(core.Said{Line: 1, Who: "student"}, core.Said{Line: 2, Who: "by hand", State: core.Excused, Reason: "ill"})
	if again.Kept != 0 || again.Stood != 1 || again.ByHand != 1 {
		t.Errorf("the same anew: %+v", again)
	}
	second := bring(core.Said{Who: "student", State: core.Late, Late: 7 * time.Minute}, core.Said{Who: "hall"},
		core.Said{Who: "hall", State: core.Early, Early: 9 * time.Minute, Late: time.Hour},
		core.Said{Who: "second", State: core.Late, Late: 18 * time.Minute},
		core.Said{Who: "after", State: core.Late})
	if second.Kept != 3 || second.Stood != 1 {
		t.Errorf("%+v", second)
	}
	states(core.Late, core.Late, core.Early, core.Excused, core.Late)
	if l := entry(s, d, third).Stands(); l.Early != 9*time.Minute || l.Late != 0 {
		t.Errorf("%+v", l)
	}
	// What a person says after a file stays when that is taken back.
	s.Must(d.SetMark(ctx, s.Lecture, third, s.Lecturer, &presence.MarkForm{State: core.Excused}),
		d.SetMark(ctx, s.Lecture, after, s.Lecturer, &presence.MarkForm{State: core.Excused}),
		d.TakeBack(ctx, s.Course, s.Lecture, second.File))
	states(core.Present, core.Late, core.Excused, core.Excused, core.Excused)
	s.Must(d.TakeBack(ctx, s.Course, s.Lecture, first.File), d.TakeBack(ctx, s.Course, s.Lecture, first.File))
	states(core.Absent, core.Late, core.Excused, core.Excused, core.Excused)
	s.Must(d.TakeBack(ctx, s.Course, s.Lecture, second.File))
	states(core.Absent, core.Late, core.Excused, core.Excused, core.Excused)
	_, nowhere := d.Bring(ctx, s.Course, uuid.New(), s.Lecturer, nil)
	for what, err := range map[string]error{
		"a file of nowhere":        d.TakeBack(ctx, s.Course, s.Lecture, uuid.New()),
		"that of another lecture":  d.TakeBack(ctx, s.Course, s.Later, first.File),
		"a file without a lecture": nowhere,
	} {
		if !errors.Is(err, presence.ErrUnknown) {
			t.Errorf("%s: %v", what, err)
		}
	}
}

// TestTwoFilesAtOnce: each is whole, and the earlier one taken back brings nothing of itself again.
func TestTwoFilesAtOnce(t *testing.T) {
	s := testhouse.New(t, true)
	d, _ := held(s)
	var said []core.Said
	for i := range 20 {
		name := "student " + string(rune('a'+i))
		s.Person(name, s.Course, "student", "")
		said = append(said, core.Said{Line: i + 1, Who: name})
	}
	files := make([]presence.Brought, 4)
	var all sync.WaitGroup
	for i := range files {
		all.Go(func() {
			mine := slices.Clone(said)
			for n := range mine {
				mine[n].State, mine[n].Late = core.Late, time.Duration(i+10)*time.Minute
			}
			var err error
			files[i], err = d.Bring(t.Context(), s.Course, s.Lecture, s.Lecturer, mine)
			if err != nil || files[i].Kept != 20 {
				t.Errorf("%+v (%v)", files[i], err)
			}
		})
	}
	all.Wait()
	if n := s.Count(`select count(distinct brought) from register_mark where ended_at is null`); n != 1 {
		t.Errorf("%d files stand at once", n)
	}
	for _, f := range files {
		all.Go(func() {
			if err := d.TakeBack(t.Context(), s.Course, s.Lecture, f.File); err != nil {
				t.Error(err)
			}
		})
	}
	all.Wait()
	if n := s.Count(`select count(*) from register_mark where ended_at is null`); n != 0 {
		t.Errorf("%d lines stand as files said that were taken back", n)
	}
}
