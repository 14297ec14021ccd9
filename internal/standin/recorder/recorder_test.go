package recorder_test

import (
	"bytes"
	"context"
	"errors"
	"net/http/httptest"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/watchdog"
	"latelantern/internal/door"
	"latelantern/internal/halls"
	"latelantern/internal/recordings"
	"latelantern/internal/standin/recorder"
	"latelantern/internal/testdb"
	"latelantern/internal/testfilm"
	"latelantern/internal/testhouse"
)

func TestMain(m *testing.M) { testdb.Main(m) }

// hall is a hall with a recorder, in which a lecture that captures by itself is on.
type hall struct {
	*testhouse.Stage
	device uuid.UUID
	token  string
	config recorder.Config
	stop   context.CancelFunc
	ended  chan error
}

func newHall(t *testing.T, how recorder.Misbehaviour) *hall {
	t.Helper()
	s := testhouse.New(t)
	server := httptest.NewServer(s.Edge(nil))
	t.Cleanup(server.Close)
	h := &hall{Stage: s}
	all, err := s.Schedule.Halls(t.Context())
	s.Must(err)
	h.token, err = s.Halls.Add(t.Context(), all[0].ID, s.Coordinator, "The recorder of the hall")
	s.Must(err)
	h.device = h.state().ID
	s.Do(`update lecture set hall_id = $2, capture_auto = true, lead_min = 0, tail_min = 0 where id = $1`, s.Lecture,
		all[0].ID)
	film := filepath.Join(t.TempDir(), "lecture.mp4")
	s.Must(testfilm.Film{Length: 12 * time.Second}.Make(t.Context(), film))
	h.config = recorder.Config{Server: server.URL, Token: h.token, Folder: t.TempDir(), Lecture: film,
		Ahead: time.Until(s.Clock.Now()), Beat: time.Second, Misbehave: how}
	return h
}

// on starts the recorder.
func (h *hall) on() *recorder.Device {
	h.T.Helper()
	ctx, stop := context.WithCancel(context.Background())
	d, err := recorder.Open(ctx, h.config)
	h.Must(err)
	h.stop, h.ended = stop, make(chan error, 1)
	ended := h.ended
	go func() { ended <- d.Run(ctx); close(ended) }()
	h.T.Cleanup(func() { // it writes into its folder until it has ended
		stop()
		for range ended {
		}
	})
	return d
}

// off ends it as a power cut does: nothing is closed.
func (h *hall) off() {
	h.T.Helper()
	h.stop()
	h.Must(<-h.ended)
}

func (h *hall) state() halls.State {
	h.T.Helper()
	states, err := h.Halls.States(context.Background())
	h.Must(err)
	for _, s := range states {
		return s
	}
	h.T.Fatal("there is no recorder")
	return halls.State{}
}

// until waits for something.
func (h *hall) until(what string, is func() bool) {
	h.T.Helper()
	for deadline := time.Now().Add(2 * time.Minute); !is(); time.Sleep(50 * time.Millisecond) {
		if time.Now().After(deadline) {
			h.T.Fatalf("waited for %s; the recorder says %+v, the recording %+v", what, h.state(), h.recording())
		}
	}
}

// recording is what is captured of the lecture; nil while nothing is.
func (h *hall) recording() *recordings.Recording {
	h.T.Helper()
	rows, err := h.Schedule.Lecture(context.Background(), h.Lecture)
	h.Must(err)
	if rows[0].RecordingID == nil {
		return nil
	}
	r, err := h.Recordings.Recording(context.Background(), *rows[0].RecordingID)
	h.Must(err)
	return &r
}

// captured waits until so much can be watched.
func (h *hall) captured(d time.Duration) {
	h.T.Helper()
	h.until("so much of a recording: "+d.String(), func() bool { r := h.recording(); return r != nil && r.Length >= d })
}

// over ends the lecture in the plan, and waits until the recording is whole and the disk empty.
func (h *hall) over() *recordings.Recording {
	h.T.Helper()
	h.Do(`update lecture set ends_at = $2 where id = $1`, h.Lecture, h.Clock.Now())
	h.until("the end of the capture",
		func() bool { r := h.recording(); return r != nil && r.State == "ready" && r.StoppedAt != nil })
	h.until("an empty disk", func() bool {
		left, err := filepath.Glob(filepath.Join(h.config.Folder, "tracks", "*"))
		return err == nil && len(left) == 0
	})
	return h.recording()
}

// TestByThePlan: a lecture is captured by nobody's hand, with two pictures, and stopped by the
// plan. Meanwhile it is seen how the recorder is.
func TestByThePlan(t *testing.T) {
	t.Parallel()
	h := newHall(t, recorder.Misbehaviour{WrongOffset: true})
	h.on()
	h.captured(4 * time.Second)
	h.until("a picture", func() bool { return h.state().PicturedAt != nil })
	x := h.state()
	if x.Doing != "capturing" || x.LectureID == nil || *x.LectureID != h.Lecture || x.LevelDB == nil ||
		*x.LevelDB < -60 || x.Picture != "good" || x.FreeBytes == 0 || len(x.Troubles(h.Clock.Now())) != 0 {
		t.Errorf("%+v, %v", x, x.Troubles(h.Clock.Now()))
	}
	if b, err := h.Halls.Picture(x.ID); err != nil || !bytes.HasPrefix(b, []byte{0xff, 0xd8}) {
		t.Errorf("its picture: %d bytes, %v", len(b), err)
	}
	running, err := h.Capture.Running(t.Context(), []uuid.UUID{h.Course})
	h.Must(err)
	if running[h.Lecture].By != "The recorder of the hall" {
		t.Errorf("it is captured by %q", running[h.Lecture].By)
	}
	r := h.over()
	if r.Parts != 1 || !r.Video || !r.Audio || !r.SecondVideo || r.Source != "hall" {
		t.Errorf("%+v", r)
	}
	whole, err := h.Recordings.Captured(t.Context(), r.ID)
	h.Must(err)
	if whole.Length < r.Length-time.Second || whole.SecondVideo == nil {
		t.Errorf("%v of %v can be played", whole.Length, r.Length)
	}
}

// TestItDiesAndIsStartedAgain: what it had is stored, and it goes on in the same recording.
func TestItDiesAndIsStartedAgain(t *testing.T) {
	t.Parallel()
	h := newHall(t, recorder.Misbehaviour{})
	h.on()
	h.captured(4 * time.Second)
	h.off()
	time.Sleep(3 * time.Second)
	h.on()
	h.until("a second part", func() bool { return h.recording().Parts == 2 })
	h.captured(12 * time.Second)
	r := h.over()
	if holes := r.Holes.Spans(); r.Parts != 2 || len(holes) != 1 || holes[0].Len() < 2*time.Second {
		t.Errorf("%d parts, holes %v", r.Parts, r.Holes)
	}
}

// TestTheLineIsCut and the token taken back, while it captures: it keeps all of it, and sends
// it when it can again.
func TestTheLineIsCut(t *testing.T) {
	t.Parallel()
	h := newHall(t, recorder.Misbehaviour{})
	d := h.on()
	h.captured(2 * time.Second)
	d.Line(false)
	time.Sleep(4 * time.Second) // the lecture goes on
	if unsent, _ := filepath.Glob(filepath.Join(h.config.Folder, "tracks", "*", "*.piece")); len(unsent) == 0 {
		t.Error("without a line nothing is kept")
	}
	d.Line(true)
	h.captured(8 * time.Second)

	h.Must(h.Halls.TakeBack(t.Context(), h.device, false))
	stored := h.recording().Stored
	time.Sleep(3 * time.Second)
	if more := h.recording().Stored; more > stored+1<<20 {
		t.Errorf("without a token %d bytes came", more-stored)
	}
	token, err := h.Halls.Renew(t.Context(), h.device)
	h.Must(err)
	if _, err := h.Halls.Holder(t.Context(), h.token); !errors.Is(err, halls.ErrUnknown) {
		t.Errorf("the old token: %v", err)
	}
	d.SetToken(token)
	h.captured(14 * time.Second)
	if r := h.over(); r.Parts != 1 || len(r.Holes.Spans()) != 0 {
		t.Errorf("%d parts, holes %v", r.Parts, r.Holes)
	}
}

// TestItsDiskIsFull: without a line its disk fills. What is on it is sent later, and it goes on.
func TestItsDiskIsFull(t *testing.T) {
	t.Parallel()
	h := newHall(t, recorder.Misbehaviour{})
	d := h.on()
	h.captured(2 * time.Second)
	d.Line(false)
	d.SetRoom(900_000)
	time.Sleep(5 * time.Second)
	d.Line(true)
	h.until("a capture that broke off and goes on", func() bool { return h.recording().Parts == 2 })
	if x := h.state(); len(x.Troubles(h.Clock.Now())) == 0 || x.Troubles(h.Clock.Now())[0] != watchdog.LittleDisk {
		t.Errorf("%v", x.Troubles(h.Clock.Now()))
	}
	d.SetRoom(0)
	h.captured(10 * time.Second)
	if r := h.over(); r.Parts < 2 {
		t.Errorf("%d parts", r.Parts)
	}
}

// TestItsClockIsOff by 90 seconds, its microphone dead and its camera black: all of that is
// said, and what it captures lies where it was captured.
func TestItsClockIsOff(t *testing.T) {
	t.Parallel()
	h := newHall(t, recorder.Misbehaviour{ClockOff: 90 * time.Second, Mute: true, Black: true})
	begun := h.Clock.Now()
	h.on()
	h.captured(2 * time.Second)
	later := h.Clock.Now().Add(watchdog.MuteFor)
	x := h.state()
	x.HeardAt = &later
	want := []watchdog.Trouble{watchdog.Silent, watchdog.Black, watchdog.ClockOff}
	if got := x.Troubles(later); len(got) != 3 || got[0] != want[0] || got[1] != want[1] || got[2] != want[2] {
		t.Errorf("%v, want %v", got, want)
	}
	if x.ClockMs < 89_000 || x.ClockMs > 91_000 {
		t.Errorf("its clock is %d ms ahead", x.ClockMs)
	}
	r := h.over()
	if off := r.StartedAt.Sub(begun); off < 0 || off > 60*time.Second {
		t.Errorf("it began %v after it was switched on", off)
	}
}

// TestByHand: someone starts it for a lecture that it would not capture by itself, and stops it.
func TestByHand(t *testing.T) {
	t.Parallel()
	h := newHall(t, recorder.Misbehaviour{})
	h.Do(`update lecture set capture_auto = false where id = $1`, h.Lecture)
	h.Do(`update lecture set hall_id = null where id = $1`, h.Elsewhere)
	h.on()
	h.until("a heartbeat", func() bool { return h.state().HeardAt != nil })
	if err := h.Halls.Tell(t.Context(), h.device, h.Coordinator, halls.Start, h.Elsewhere); !errors.Is(err,
		halls.ErrUnknown) {
		t.Errorf("a lecture that is held elsewhere: %v", err)
	}
	h.Must(h.Halls.Tell(t.Context(), h.device, h.Coordinator, halls.Start, h.Lecture))
	h.captured(2 * time.Second)
	h.Must(h.Halls.Tell(t.Context(), h.device, h.Coordinator, halls.Stop, uuid.Nil))
	h.until("the end", func() bool { r := h.recording(); return r.State == "ready" && r.StoppedAt != nil })
	h.until("an order that was followed", func() bool { return h.state().Ordered == nil })
}

// TestTheClassEnds: when someone ends a class for everyone its recorder stops, whatever the plan; not when that was
// taken back.
func TestTheClassEnds(t *testing.T) {
	t.Parallel()
	h := newHall(t, recorder.Misbehaviour{})
	h.on()
	h.captured(2 * time.Second)
	h.Must(h.Door.End(t.Context(), h.Lecture, h.Lecturer), h.Door.TakeBackEnd(t.Context(), h.Lecture))
	due := time.Now().Add(door.Grace)
	h.until("the job of what was taken back", func() bool {
		return h.Count(`select count(*)::int from river_job
		where kind = 'end_class' and state = 'completed'`) == 1
	})
	if r := h.recording(); r.StoppedAt != nil || time.Now().Before(due.Add(-time.Second)) {
		t.Errorf("it stopped though that was taken back: %+v", r)
	}
	h.Must(h.Door.End(t.Context(), h.Lecture, h.Lecturer))
	h.until("the end", func() bool { r := h.recording(); return r.State == "ready" && r.StoppedAt != nil })
	if e, err := h.Door.Ending(t.Context(), h.Lecture); err != nil || e == nil || !e.Over {
		t.Errorf("it ended before its class: %+v %v", e, err)
	}
	// It does not begin again by its plan.
	length := h.recording().Length
	time.Sleep(3 * time.Second)
	if r := h.recording(); r.StoppedAt == nil || r.Length != length {
		t.Errorf("it began again: %+v", r)
	}
}

// TestTheProtocolIsKept by the server, as whoever builds a recorder can check.
func TestTheProtocolIsKept(t *testing.T) {
	t.Parallel()
	h := newHall(t, recorder.Misbehaviour{})
	var out bytes.Buffer
	if !recorder.Check(t.Context(), h.config.Server, h.token, uuid.Nil, &out) ||
		strings.Count(out.String(), "holds ") < 15 {
		t.Errorf("the check says\n%s", &out)
	}
	if r := h.recording(); r != nil {
		t.Errorf("it leaves a recording: %+v", r)
	}
	out.Reset()
	if recorder.Check(t.Context(), h.config.Server, "another", uuid.Nil, &out) ||
		!strings.Contains(out.String(), "FAILS") {
		t.Errorf("with a wrong token the check says\n%s", &out)
	}
}
