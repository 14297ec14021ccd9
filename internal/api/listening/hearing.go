package listening

import (
	"context"
	"fmt"
	"slices"
	"sync"

	"github.com/google/uuid"
	lru "github.com/hashicorp/golang-lru/v2"

	"latelantern/internal/api/edge"
	"latelantern/internal/audience"
	"latelantern/internal/core/event"
	"latelantern/internal/core/viewing"
	"latelantern/internal/door"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/platform/recall"
	"latelantern/internal/roster"
)

// listener is somebody who follows a stream of events: their courses are held in memory, and read again when a roster
// changes, and now and then.
type listener struct {
	person      roster.Person
	coordinator bool
	of          uuid.UUID // the lecture of a guest; uuid.Nil for anyone else
	courses     map[uuid.UUID]viewing.Viewer
}

func (a *API) listener(ctx context.Context, p roster.Person) (*listener, error) {
	l := &listener{person: p}
	if to, guest := edge.GuestOf(ctx); guest {
		l.of = to.Lecture
		return l, nil
	}
	return l, a.readCourses(ctx, l, a.knows)
}

// known is how the courses know somebody.
type known struct {
	coordinator bool
	courses     map[uuid.UUID]viewing.Viewer // never written to: many may hold it
}

// mostKnown is of how many people it is remembered how the courses know them.
const mostKnown = 50_000

// readCourses reads how the courses know a listener now: by what is read anew, or by what is remembered.
func (a *API) readCourses(ctx context.Context, l *listener, by func(context.Context, uuid.UUID) (known, error)) error {
	if l.of != uuid.Nil {
		return nil
	}
	x, err := by(ctx, l.person.ID)
	if err != nil {
		return err
	}
	l.coordinator, l.courses = x.coordinator, x.courses
	return nil
}

// recalls is knows, remembered until something is said that changes it.
func (a *API) recalls(ctx context.Context, person uuid.UUID) (known, error) {
	return a.known.Get(ctx, person, func(ctx context.Context) (recall.Answer[known], error) {
		x, err := a.knows(ctx, person)
		return recall.Answer[known]{Value: x, Subjects: []recall.Subject{recall.Person(person)}}, err
	})
}

func (a *API) knows(ctx context.Context, person uuid.UUID) (known, error) {
	now, err := a.Roster.Person(ctx, person)
	if err != nil {
		return known{}, err
	}
	parts, err := a.Roster.Memberships(ctx, person)
	if err != nil {
		return known{}, err
	}
	out := known{now.Coordinator, make(map[uuid.UUID]viewing.Viewer, len(parts))}
	for _, m := range parts {
		out.courses[m.CourseID] = viewing.Viewer{Coordinator: now.Coordinator, Role: m.Role, Group: m.Group}
	}
	return out, nil
}

// as is how a course knows the listener.
func (l *listener) as(course uuid.UUID) viewing.Viewer {
	if v, ok := l.courses[course]; ok {
		return v
	}
	return viewing.Viewer{Coordinator: l.coordinator}
}

// told is what one event is about, read once for all who listen in this process.
type told struct {
	once     sync.Once
	err      error
	private  bool                // nobody was invited to its lecture
	open     []audience.Released // the recordings by which students learn of a private lecture
	released audience.Released   // the recording that the event names
	live     door.Live
	wasLit   bool    // for the course that is told
	spoken   *spoken // what is new in a chat
}

// tellings are what the last events are about, by their number.
type tellings struct{ of *lru.Cache[uint64, *told] }

func newTellings() *tellings {
	of, err := lru.New[uint64, *told](256)
	if err != nil {
		panic(err) // the size is positive
	}
	return &tellings{of}
}

// about reads what an event is about, or waits for whoever reads it already.
func (a *API) about(ctx context.Context, n postgres.Event) (*told, error) {
	t := new(told)
	if was, there, _ := a.tellings.of.PeekOrAdd(n.Number, t); there {
		t = was
	}
	t.once.Do(func() {
		// Others wait for it too: it does not end with the one who asked first.
		t.err = a.read(context.WithoutCancel(ctx), n, t)
	})
	return t, t.err
}

func (a *API) read(ctx context.Context, n postgres.Event, t *told) (err error) {
	if n.Lecture != uuid.Nil {
		rows, err := a.Schedule.Lecture(ctx, n.Lecture)
		if err != nil {
			return fmt.Errorf("read the lecture of an event: %w", err)
		}
		t.private = len(rows) > 0 && rows[0].Private
		for _, x := range rows {
			if !t.private || x.RecordingID == nil {
				continue
			}
			r, err := a.Audience.Released(ctx, *x.RecordingID)
			if err != nil {
				return err
			}
			t.open = append(t.open, r)
		}
	}
	if n.About == event.Chat {
		t.spoken, err = a.speak(ctx, n)
		return err
	}
	if n.Recording == uuid.Nil {
		return nil
	}
	if t.released, err = a.Audience.Released(ctx, n.Recording); err != nil {
		return err
	}
	if t.live, err = a.Door.Live(ctx, n.Recording); err != nil {
		return err
	}
	t.wasLit, err = a.Releases.WasLit(ctx, n.Course, n.Recording)
	return err
}

// hears says whether a listener is told of an event, and what of it: what they may not see they do not learn of.
func (a *API) hears(ctx context.Context, l *listener, n postgres.Event) (postgres.Event, bool, error) {
	switch {
	case l.of != uuid.Nil:
		return n, n.Lecture == l.of && (n.About == event.Capture || n.About == event.Doorway || n.About == event.Chat ||
			n.About == event.ToAll ||
			n.About == event.Asked && n.Person == l.person.ID), nil
	case n.About == event.Term || n.About == event.Rule && n.Course == uuid.Nil: // concerns everyone
		return n, true, nil
	case n.About == event.File: // concerns who sent it, and coordinators
		return n, l.coordinator || n.Person == l.person.ID, nil
	}
	v := l.as(n.Course)
	if v.Coordinator || v.Role.Staff() {
		return n, true, nil
	}
	switch n.About {
	case event.Stored, event.Cuts, event.Answers, event.Prepared: // these concern those who teach
		return n, false, nil
	}
	if n.About == event.Asked || n.About == event.Register { // and these whom they are about, whoever that is
		return n, n.Person == l.person.ID, nil
	}
	if n.Lecture == uuid.Nil && n.Recording == uuid.Nil || v.Role == viewing.Nobody && n.Recording == uuid.Nil {
		return n, v.Role != viewing.Nobody, nil
	}
	t, err := a.about(ctx, n)
	if err != nil {
		return n, false, err
	}
	if v.Role == viewing.Nobody {
		n, hears := a.openedHears(l, n, t)
		return n, hears, nil
	}
	n, hears := a.studentHears(l, v, n, t)
	return n, hears, nil
}

// openedHears is hears for someone to whom a recording is, or was, open beside any course: where its course has no part
// in what they are told, they learn that something changed, and of what is open to them what it is about.
func (a *API) openedHears(l *listener, n postgres.Event, t *told) (postgres.Event, bool) {
	if !t.released.WasOpened(l.person.ID, l.person.Guest) {
		return n, false
	}
	if t.released.Door(l.person.ID, l.person.Guest, l.as, a.Clock.Now()).Watch() {
		return postgres.Event{About: n.About, Recording: n.Recording}, true
	}
	return postgres.Event{About: event.Light}, true
}

// studentHears is hears for a student of the course.
func (a *API) studentHears(l *listener, v viewing.Viewer, n postgres.Event, t *told) (postgres.Event, bool) {
	now := a.Clock.Now()
	opens := slices.ContainsFunc(t.open, func(r audience.Released) bool {
		return r.Door(l.person.ID, l.person.Guest, l.as, now).Watch()
	})
	known := viewing.Learns(v, t.private, opens)
	if n.Recording == uuid.Nil {
		return n, known
	}
	if known && t.released.Door(l.person.ID, l.person.Guest, l.as, now).Watch() {
		return n, true
	}
	if known && t.live.Open && !t.live.Alone {
		return n, n.About == event.Capture || n.About == event.Doorway
	}
	// Whoever could open it once learns that something changed in the course, and not what.
	return postgres.Event{About: event.Light, Course: n.Course}, t.wasLit
}
