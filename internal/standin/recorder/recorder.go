// Package recorder is a simulated recorder of a hall: it plays a made-up lecture as two
// pictures and sound, captures it by the plan, keeps it on a disk of its own and sends it as
// docs/recorder-protocol.md says. It can be told to misbehave.
package recorder

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/format/ical"
)

// Misbehaviour is what is wrong with a recorder.
type Misbehaviour struct {
	Mute        bool          // the microphone hears nothing
	Black       bool          // the camera sees nothing
	ClockOff    time.Duration // how far its clock is ahead
	Room        int64         // bytes that its disk holds; 0 for as many as there is room for
	NoLine      bool          // there is no line
	WrongOffset bool          // one piece of five is sent with a wrong offset
}

// Config is what a recorder is set up with.
type Config struct {
	Server    string        // address of the server
	Token     string        // that a coordinator was shown
	Folder    string        // its disk; what is there from before is sent
	Lecture   string        // a film with pictures and sound, which it plays
	Studio    string        // where what it plays is made up; within Folder when empty
	Ahead     time.Duration // how far the clock of the college is ahead of the machine's, in a demonstration
	Beat      time.Duration // between two heartbeats; 5 s
	Misbehave Misbehaviour
	Log       *slog.Logger // nil for none
	Hoard     bool         // nothing that was sent is deleted, so that it can be compared
}

// Device is a recorder.
type Device struct {
	Config
	film    *film
	disk    *disk
	client  *client
	log     *slog.Logger
	ctx     context.Context
	senders sync.WaitGroup

	mu      sync.Mutex
	strands []*strand
	now     *take
	ahead   time.Duration // the clock of the college is so much ahead of its own
	plan    []ical.Lecture
	hand    hand
}

// hand is what people told a recorder to do; it outlives a power cut.
type hand struct {
	Followed uuid.UUID `json:"followed"` // the last order
	Lecture  uuid.UUID `json:"lecture"`  // to capture until Until
	Until    time.Time `json:"until"`
	Stopped  string    `json:"stopped"` // the event of the plan that is not to be captured any more
}

// version is what it says that it is.
const version = "simulated recorder 1"

// Open makes a recorder ready: the film that it plays, and what is on its disk.
func Open(ctx context.Context, c Config) (*Device, error) {
	if c.Beat == 0 {
		c.Beat = 5 * time.Second
	}
	d := &Device{Config: c, client: newClient(c.Server, c.Token), log: c.Log,
		disk: &disk{folder: filepath.Join(c.Folder, "tracks"), room: c.Misbehave.Room}}
	if d.log == nil {
		d.log = slog.New(slog.DiscardHandler)
	}
	d.client.cut.Store(c.Misbehave.NoLine)
	studio := c.Studio
	if studio == "" {
		studio = filepath.Join(c.Folder, "studio")
	}
	for _, f := range []string{d.disk.folder, studio} {
		if err := os.MkdirAll(f, 0o700); err != nil {
			return nil, fmt.Errorf("make the disk of a recorder: %w", err)
		}
	}
	var err error
	if d.film, err = prepare(ctx, c.Lecture, studio, c.Misbehave); err != nil {
		return nil, err
	}
	return d, nil
}

// Line cuts the line to the server, or lets it be again.
func (d *Device) Line(there bool) { d.client.cut.Store(!there) }

// SetToken gives it another token.
func (d *Device) SetToken(token string) { d.client.token.Store(token) }

// SetRoom makes its disk larger or smaller; 0 for as large as there is room for.
func (d *Device) SetRoom(bytes int64) {
	d.disk.mu.Lock()
	d.disk.room = bytes
	d.disk.mu.Unlock()
}

// clock is its own clock, which may be wrong.
func (d *Device) clock() time.Time { return time.Now().Add(d.Ahead + d.Misbehave.ClockOff) }

// collegeTime is the time of the college, as far as it knows.
func (d *Device) collegeTime() time.Time {
	d.mu.Lock()
	defer d.mu.Unlock()
	return d.clock().Add(d.ahead)
}

func (d *Device) file(name string) string { return filepath.Join(d.Folder, name) }

// Run works until ctx ends. Whatever way it ends, what was captured is on its disk, and is
// sent when it runs again.
func (d *Device) Run(ctx context.Context) error {
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	d.ctx = ctx
	if err := d.recall(ctx); err != nil {
		return err
	}
	tick := time.NewTicker(time.Second)
	defer tick.Stop()
	d.hear(ctx)
	// A line that hangs keeps nothing from starting or stopping.
	d.senders.Go(func() { d.talk(ctx) })
	for {
		d.decide(ctx)
		select {
		case <-ctx.Done():
			if d.now != nil {
				d.now.stop()
				d.now.played.Wait()
			}
			d.senders.Wait()
			return nil
		case <-tick.C:
		}
	}
}

// patience is how long it waits for an answer to what it says.
const patience = 5 * time.Second

// talk says again and again how it is and what it sees.
func (d *Device) talk(ctx context.Context) {
	beat := time.NewTicker(d.Beat)
	defer beat.Stop()
	for beats := 1; ; beats++ {
		select {
		case <-ctx.Done():
			return
		case <-beat.C:
		}
		d.hear(ctx)
		if beats%2 == 0 {
			d.show(ctx)
		}
	}
}

// recall reads what is on the disk from before: what was captured until it died is sent.
func (d *Device) recall(ctx context.Context) error {
	if b, err := os.ReadFile(d.file("hand.json")); err == nil {
		if err := json.Unmarshal(b, &d.hand); err != nil {
			return fmt.Errorf("read what a recorder was told: %w", err)
		}
	}
	if b, err := os.ReadFile(d.file("plan.ics")); err == nil {
		d.learn(ctx, b)
	}
	tracks, err := d.disk.tracks()
	if err != nil {
		return err
	}
	for _, a := range tracks {
		if !a.Ended {
			a.Ended = true
			if err := d.disk.keep(a); err != nil {
				return err
			}
		}
		d.follow(a)
	}
	return nil
}

// learn takes a plan in.
func (d *Device) learn(ctx context.Context, b []byte) {
	plan, err := ical.Read(ctx, bytes.NewReader(b), ical.Options{Zone: time.UTC})
	if err != nil {
		d.log.Warn("the plan cannot be read", "error", err)
		return
	}
	d.mu.Lock()
	d.plan = plan.Lectures
	d.mu.Unlock()
}

// hear says how it is, hears what it is told, and fetches its plan.
func (d *Device) hear(ctx context.Context) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	b := beat{Now: d.clock().Format(time.RFC3339Nano), Picture: "good", Free: d.disk.free(), Version: version}
	d.mu.Lock()
	now := d.now
	for _, s := range d.strands {
		b.Unsent += s.unsent()
	}
	d.mu.Unlock()
	at := time.Duration(time.Now().UnixNano())
	if now != nil {
		b.Lecture = &now.lecture
		at = time.Since(now.began)
	}
	if !d.Misbehave.Mute {
		level := d.film.level(at)
		b.LevelDB = &level
	}
	if d.Misbehave.Black {
		b.Picture = "black"
	}
	before := time.Now()
	answer, err := d.client.beat(ctx, b)
	if err != nil {
		if !errors.Is(err, errNoLine) && ctx.Err() == nil {
			d.log.Info("the server does not hear", "error", err)
		}
		return
	}
	half := time.Since(before) / 2
	d.mu.Lock()
	d.ahead = answer.Now.Add(half).Sub(d.clock())
	d.mu.Unlock()
	if answer.Order != nil {
		d.obey(*answer.Order)
	}
	if plan, err := d.client.plan(ctx); err == nil {
		d.learn(ctx, plan)
		if err := d.disk.put(d.file("plan.ics"), plan); err != nil {
			d.log.Warn("the plan cannot be kept", "error", err)
		}
	}
}

// show sends a picture of what is seen.
func (d *Device) show(ctx context.Context) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	face := d.film.nothing
	if !d.Misbehave.Black {
		at := time.Duration(time.Now().UnixNano())
		d.mu.Lock()
		if d.now != nil {
			at = time.Since(d.now.began)
		}
		d.mu.Unlock()
		face = d.film.face(at)
	}
	if err := d.client.picture(ctx, face); err != nil && !errors.Is(err, errNoLine) && ctx.Err() == nil {
		d.log.Info("the picture was not taken", "error", err)
	}
}

// obey follows an order, once.
func (d *Device) obey(o order) {
	d.mu.Lock()
	defer d.mu.Unlock()
	if o.ID == d.hand.Followed {
		return
	}
	d.hand.Followed = o.ID
	switch {
	case o.Kind == "start" && o.Lecture != nil && o.Until != nil:
		d.hand.Lecture, d.hand.Until, d.hand.Stopped = *o.Lecture, *o.Until, ""
	case o.Kind == "stop":
		d.hand.Lecture, d.hand.Until = uuid.Nil, time.Time{}
		if d.now != nil {
			d.hand.Stopped = d.now.lecture.String()
		}
	}
	b, err := json.Marshal(d.hand)
	if err == nil {
		err = d.disk.put(d.file("hand.json"), b)
	}
	if err != nil {
		d.log.Warn("an order cannot be kept", "error", err)
	}
}

// wanted is the lecture to capture now, by hand or by the plan; uuid.Nil for none.
func (d *Device) wanted() uuid.UUID {
	now := d.collegeTime()
	d.mu.Lock()
	defer d.mu.Unlock()
	if d.hand.Lecture != uuid.Nil && now.Before(d.hand.Until) {
		return d.hand.Lecture
	}
	for _, e := range d.plan {
		if e.CalledOff || now.Before(e.Start) || !now.Before(e.End) {
			continue
		}
		name, _, _ := strings.Cut(e.UID, "@")
		if id, err := uuid.Parse(name); err == nil && name != d.hand.Stopped {
			return id
		}
	}
	return uuid.Nil
}

// decide starts and stops.
func (d *Device) decide(ctx context.Context) {
	want := d.wanted()
	if d.now != nil && (d.now.lecture != want || d.now.failed() != nil) {
		if err := d.now.failed(); err != nil {
			d.log.Warn("the capture broke off", "error", err)
		}
		d.now.stop()
		d.now.played.Wait()
		for _, s := range d.now.tracks {
			if err := s.close(); err != nil {
				d.log.Warn("the end of a capture cannot be kept", "error", err)
			}
		}
		d.set(nil)
	}
	if d.now != nil || want == uuid.Nil || !d.disk.roomy() {
		return
	}
	t, err := d.begin(ctx, want)
	if err != nil {
		d.log.Warn("a capture cannot begin", "error", err)
		return
	}
	d.set(t)
}

func (d *Device) set(t *take) {
	d.mu.Lock()
	d.now = t
	d.mu.Unlock()
}

// gone is called when all of a track is stored.
func (d *Device) gone(s *strand) {
	d.mu.Lock()
	for i, x := range d.strands {
		if x == s {
			d.strands = append(d.strands[:i], d.strands[i+1:]...)
			break
		}
	}
	d.mu.Unlock()
	if d.Hoard {
		return
	}
	if err := d.disk.forget(s.Track); err != nil {
		d.log.Warn("what was sent cannot be deleted", "error", err)
	}
}
