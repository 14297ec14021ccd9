package notes_test

import (
	"errors"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/fault"
	"latelantern/internal/notes"
	"latelantern/internal/testhouse"
)

// desk is a recording of a minute, and the notes about it.
type desk struct {
	*testhouse.Stage
	recording uuid.UUID
}

func newDesk(t *testing.T) *desk {
	s := testhouse.New(t, true)
	d := &desk{s, s.Bare(s.Lecture, true, &testhouse.Now)}
	s.Do(`update track set packed_ms = 60000`)
	return d
}

func (d *desk) writes(who, id uuid.UUID, at time.Duration, text string) error {
	return d.Notes.Keep(d.T.Context(), notes.Writing{ID: id, Person: who, Recording: d.recording, At: at, Text: text})
}

// reads are the notes of somebody in a recording: when, and what.
func (d *desk) reads(who, recording uuid.UUID) (out []string) {
	d.T.Helper()
	list, err := d.Notes.Of(d.T.Context(), who, recording)
	d.Must(err)
	for _, n := range list {
		out = append(out, n.At.String()+" "+n.Text)
	}
	return out
}

func (d *desk) want(what string, who uuid.UUID, want ...string) {
	d.T.Helper()
	if got := d.reads(who, d.recording); !slices.Equal(got, want) {
		d.T.Errorf("%s: %q, want %q", what, got, want)
	}
}

// TestNotesAreOnesOwn: written once, changed and removed by who wrote them, and read by nobody else.
func TestNotesAreOnesOwn(t *testing.T) {
	d := newDesk(t)
	ctx := t.Context()
	late, early := uuid.New(), uuid.New()
	for range 2 {
		d.Must(d.writes(d.Student, late, 40*time.Second, " Ask \u202ethis "), d.writes(d.Student, early, time.Second, "First"))
	}
	d.want("who wrote them", d.Student, "1s First", "40s Ask this")
	d.want("another student", d.Second)
	d.want("who teaches", d.Lecturer)
	if err := d.writes(d.Second, early, 0, "Mine"); !errors.Is(err, notes.ErrTaken) {
		t.Errorf("another writes over it: %v", err)
	}
	d.Must(d.Notes.Remove(ctx, d.Second, early), d.writes(d.Student, late, 30*time.Second, "Asked"))
	d.want("changed, and removed by another", d.Student, "1s First", "30s Asked")
	for range 2 {
		d.Must(d.Notes.Remove(ctx, d.Student, early))
	}
	d.want("removed", d.Student, "30s Asked")
	for _, text := range []string{" \u200b ", strings.Repeat("x", notes.Longest+1)} {
		if err := d.writes(d.Student, uuid.New(), 0, text); len(fault.All(err)) != 1 {
			t.Errorf("%d letters: %v", len(text), err)
		}
	}
	d.want("after what was refused", d.Student, "30s Asked")
}

// TestNotesKeepTheirMoment where a recording is split, in that part which has it; and behind all that plays they stand
// at its end.
func TestNotesKeepTheirMoment(t *testing.T) {
	d := newDesk(t)
	d.Must(d.writes(d.Student, uuid.New(), 10*time.Second, "a"), d.writes(d.Student, uuid.New(), 50*time.Second, "b"),
		d.writes(d.Student, uuid.New(), time.Hour, "end"))
	d.want("whole", d.Student, "10s a", "50s b", "59.999s end")
	other := d.Bare(d.Later, true, &testhouse.Now)
	d.Do(`delete from recording_capture where recording_id = $1`, other)
	d.Do(`insert into recording_capture (recording_id, capture_id, position, start_ms, from_ms)
		select $1, capture_id, 0, -30000, 30000 from recording_capture where recording_id = $2`, other, d.recording)
	d.Do(`update recording_capture set until_ms = 30000 where recording_id = $1`, d.recording)
	d.want("the first part", d.Student, "10s a")
	if got := d.reads(d.Student, other); !slices.Equal(got, []string{"20s b", "29.999s end"}) {
		t.Errorf("the second part: %q", got)
	}
	nothing := d.Bare(d.Elsewhere, false, nil)
	err := d.Notes.Keep(t.Context(), notes.Writing{ID: uuid.New(), Person: d.Student, Recording: nothing, Text: "x"})
	if !errors.Is(err, notes.ErrNothing) {
		t.Errorf("where nothing plays yet: %v", err)
	}
}

// TestNotesAreNotWithoutEnd: one too many is refused, also of two at once, and one that is there can be changed.
func TestNotesAreNotWithoutEnd(t *testing.T) {
	d := newDesk(t)
	d.Do(`insert into private_note (id, person_id, capture_id, at_ms, text, kept_at)
		select gen_random_uuid(), $1, capture_id, n, 'x', $3 from recording_capture, generate_series(1, $4::int) n
		where recording_id = $2`, d.Student, d.recording, testhouse.Now, notes.Most-1)
	last, done := uuid.New(), make(chan error)
	for range 8 {
		go func() { done <- d.writes(d.Student, uuid.New(), 0, "one more") }()
	}
	kept := 0
	for range 8 {
		switch err := <-done; {
		case err == nil:
			kept++
		case !errors.Is(err, notes.ErrMany):
			t.Error(err)
		}
	}
	if kept != 1 {
		t.Errorf("%d were kept where one could be", kept)
	}
	d.Must(d.writes(d.Second, last, 0, "of another"), d.writes(d.Second, last, 0, "changed"))
	d.Do(`update private_note set id = $1 where id = (select id from private_note where person_id = $2 limit 1)`,
		uuid.Max, d.Student)
	d.Must(d.writes(d.Student, uuid.Max, 0, "changed"))
}
