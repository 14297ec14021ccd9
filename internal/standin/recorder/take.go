package recorder

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"os/exec"
	"strconv"
	"sync"
	"syscall"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/platform/tus"
)

// take is what is captured without a break: slides with sound, and who speaks beside them.
type take struct {
	lecture uuid.UUID
	began   time.Time // by the machine's own steady clock
	tracks  []*strand
	stop    context.CancelFunc
	played  sync.WaitGroup
	mu      sync.Mutex
	fault   error // why it ended by itself
}

// begin starts to capture a lecture.
func (d *Device) begin(ctx context.Context, lecture uuid.UUID) (*take, error) {
	ctx, stop := context.WithCancel(ctx)
	t := &take{lecture: lecture, began: time.Now(), stop: stop}
	first := about{Track: uuid.New(), Lecture: lecture, Began: d.clock()}
	second := about{Track: uuid.New(), Lecture: lecture, Began: first.Began, Beside: first.Track}
	slides := d.film.slides
	switch {
	case d.Misbehave.Black:
		slides = d.film.black
	case d.Misbehave.Mute:
		slides = d.film.silent
	}
	for _, x := range []struct {
		about
		film string
	}{{first, slides}, {second, d.film.speaker}} {
		x.Lag = time.Since(t.began)
		if err := d.disk.keep(x.about); err != nil {
			stop()
			return nil, err
		}
		s := d.follow(x.about)
		t.tracks = append(t.tracks, s)
		t.played.Go(func() {
			if err := d.play(ctx, x.film, s); err != nil {
				t.fail(err)
				stop()
			}
		})
	}
	return t, nil
}

func (t *take) fail(err error) {
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.fault == nil {
		t.fault = err
	}
}

// failed is why the take ended by itself; nil while it goes on.
func (t *take) failed() error {
	t.mu.Lock()
	defer t.mu.Unlock()
	return t.fault
}

// play writes a film to the disk in real time, in a loop, until ctx ends.
func (d *Device) play(ctx context.Context, path string, s *strand) error {
	// The sound of the loop is put on an even grid by whoever packages it.
	cmd := exec.CommandContext(ctx, "ffmpeg", "-nostdin", "-v", "error", "-re", "-stream_loop", "-1", "-i", path, "-c",
		"copy", "-f", "matroska", "-cluster_time_limit", "1000", "-flush_packets", "1", "pipe:1")
	cmd.SysProcAttr = &syscall.SysProcAttr{Pdeathsig: syscall.SIGKILL}
	out, err := cmd.StdoutPipe()
	if err != nil {
		return err
	}
	if err := cmd.Start(); err != nil {
		return fmt.Errorf("play a film: %w", err)
	}
	defer func() { _ = cmd.Wait() }()
	defer func() { _ = cmd.Process.Kill() }()
	parts := make(chan []byte, 16)
	go func() {
		defer close(parts)
		for {
			b := make([]byte, 64<<10)
			n, err := out.Read(b)
			if n > 0 {
				parts <- b[:n]
			}
			if err != nil {
				return
			}
		}
	}()
	// What came in a second is forced to the disk at once.
	tick := time.NewTicker(time.Second)
	defer tick.Stop()
	var waiting []byte
	for {
		select {
		case b, more := <-parts:
			waiting = append(waiting, b...)
			if more {
				continue
			}
			if err := s.keep(waiting); err != nil {
				return err
			}
			if ctx.Err() != nil {
				return nil
			}
			return io.ErrUnexpectedEOF
		case <-tick.C:
			if err := s.keep(waiting); err != nil {
				for range parts {
					_ = cmd.Process.Kill() // so that it ends
				}
				return err
			}
			waiting = nil
		}
	}
}

// strand is one track on its way to the server.
type strand struct {
	about
	device *Device
	mu     sync.Mutex
	end    int64 // of what is on the disk
	acked  int64 // of what the server has
	wake   chan struct{}
}

// follow sends a track from now on, until all of it is stored.
func (d *Device) follow(a about) *strand {
	s := &strand{about: a, device: d, end: d.disk.length(a.Track), wake: make(chan struct{}, 1)}
	d.mu.Lock()
	d.strands = append(d.strands, s)
	d.mu.Unlock()
	d.senders.Go(func() { s.send(d.ctx) })
	return s
}

// keep puts bytes on the disk.
func (s *strand) keep(b []byte) error {
	if len(b) == 0 {
		return nil
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	if err := s.device.disk.append(s.Track, s.end, b); err != nil {
		return err
	}
	s.end += int64(len(b))
	s.poke()
	return nil
}

func (s *strand) poke() {
	select {
	case s.wake <- struct{}{}:
	default:
	}
}

// close tells that nothing more comes.
func (s *strand) close() error {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.Ended = true
	defer s.poke()
	return s.device.disk.keep(s.about)
}

// unsent is how many bytes are only here.
func (s *strand) unsent() int64 {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.end - s.acked
}

// send sends what there is, and after any failure asks how much the server has and goes on.
func (s *strand) send(ctx context.Context) {
	begun, aligned, wait := false, false, 500*time.Millisecond
	for n := 0; ctx.Err() == nil; {
		all, err := s.step(ctx, &begun, &aligned, n)
		n++
		if all && err == nil {
			s.device.gone(s)
			return
		}
		if err == nil {
			wait = 500 * time.Millisecond
			continue
		}
		if ctx.Err() != nil {
			return
		}
		switch tus.StatusOf(err) {
		case http.StatusConflict: // it asks where to go on, or waits for the first picture
			wait = 300 * time.Millisecond
		case http.StatusNotFound, http.StatusForbidden, http.StatusUnprocessableEntity:
			wait = time.Minute // somebody must do something about it; what is here stays
		}
		if !errors.Is(err, errNoLine) {
			s.device.log.Info("a piece was not taken", "track", s.Track, "error", err)
		}
		aligned = false
		select {
		case <-ctx.Done():
		case <-time.After(wait):
		}
		wait = min(2*wait, 5*time.Second)
	}
}

// step sends one piece, and reports whether all of the track is stored.
func (s *strand) step(ctx context.Context, begun, aligned *bool, n int) (bool, error) {
	c := s.device.client
	if !*begun {
		about := map[string]string{"lecture": s.Lecture.String(), "filetype": "video/x-matroska",
			"track": s.Track.String(), "age_ms": ms(s.device.clock().Sub(s.Began))}
		if s.Beside != uuid.Nil {
			about["beside"], about["lag_ms"] = s.Beside.String(), ms(s.Lag)
		}
		if err := c.begin(ctx, about); err != nil {
			return false, err
		}
		*begun = true
	}
	if !*aligned {
		at, err := c.Stored(ctx, s.Track)
		if err != nil {
			return false, err
		}
		s.mu.Lock()
		s.acked = at
		s.mu.Unlock()
		*aligned = true
	}
	s.mu.Lock()
	at, end, ended := s.acked, s.end, s.Ended
	s.mu.Unlock()
	if at == end && !ended {
		select {
		case <-ctx.Done():
		case <-s.wake:
		}
		return false, ctx.Err()
	}
	b, err := s.device.disk.read(s.Track, at)
	if err != nil {
		return false, err
	}
	last := ended && at+int64(len(b)) == end
	claim := at
	if s.device.Misbehave.WrongOffset && n%5 == 4 {
		claim += 1000
	}
	stored, err := c.Send(ctx, s.Track, claim, b, last)
	if err != nil {
		return false, err
	}
	s.mu.Lock()
	s.acked = stored
	s.mu.Unlock()
	if !s.device.Hoard {
		s.device.disk.drop(s.Track, stored)
	}
	return last && stored == end, nil
}

func ms(d time.Duration) string { return strconv.FormatInt(max(0, d.Milliseconds()), 10) }
