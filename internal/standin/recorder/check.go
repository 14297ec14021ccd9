package recorder

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"strings"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/format/ical"
	"latelantern/internal/platform/tus"
)

// Check tries a server against docs/recorder-protocol.md with the token of a recorder, and
// writes a line for each thing that it tries. It reports whether all of it held. What it
// captures for the lecture it takes back; with uuid.Nil that is the first lecture of the plan.
func Check(ctx context.Context, server, token string, lecture uuid.UUID, out io.Writer) bool {
	c := checker{client: newClient(server, token), out: out, well: true}
	c.HTTP.Timeout = 10 * time.Second
	c.run(ctx, lecture)
	return c.well
}

type checker struct {
	*client
	out  io.Writer
	well bool
}

// holds notes whether something holds.
func (c *checker) holds(what string, err error) bool {
	if err == nil {
		_, _ = fmt.Fprintf(c.out, "holds  %s\n", what)
		return true
	}
	c.well = false
	_, _ = fmt.Fprintf(c.out, "FAILS  %s: %v\n", what, err)
	return false
}

// want is an error unless err is a refusal with one of these statuses.
func want(err error, statuses ...int) error {
	for _, s := range statuses {
		if tus.StatusOf(err) == s {
			return nil
		}
	}
	return fmt.Errorf("it was answered with %v, want status %v", err, statuses)
}

func offset(got int64, err error, wanted int64) error {
	if err == nil && got != wanted {
		err = fmt.Errorf("the offset is %d, want %d", got, wanted)
	}
	return err
}

func (c *checker) run(ctx context.Context, lecture uuid.UUID) {
	right := c.token.Load().(string)
	c.token.Store("wrong")
	_, err := c.plan(ctx)
	c.holds("a wrong token is refused", want(err, http.StatusUnauthorized))
	c.token.Store(right)

	b, err := c.plan(ctx)
	var plan ical.Calendar
	if err == nil {
		plan, err = ical.Read(ctx, strings.NewReader(string(b)), ical.Options{Zone: time.UTC})
	}
	if err == nil && len(plan.Faults) > 0 {
		err = fmt.Errorf("%+v", plan.Faults[0])
	}
	if !c.holds("the plan is a calendar", err) {
		return
	}
	if len(plan.Lectures) > 0 {
		name, _, _ := strings.Cut(plan.Lectures[0].UID, "@")
		id, err := uuid.Parse(name)
		if c.holds("an event of the plan is named by its lecture", err) && lecture == uuid.Nil {
			lecture = id
		}
	}

	level := -20.0
	now := time.Now()
	answer, err := c.beat(ctx,
		beat{Now: now.Format(time.RFC3339Nano), LevelDB: &level, Picture: "good", Free: 1 << 40, Version: "check"})
	if err == nil && answer.Now.IsZero() {
		err = fmt.Errorf("it does not say what time it is")
	}
	c.holds("a heartbeat is answered with the time", err)
	_, err = c.beat(ctx, beat{Now: "yesterday", Picture: "good", Version: "check"})
	c.holds("a heartbeat without a time is refused", want(err, http.StatusUnprocessableEntity))
	c.holds("what is no picture is refused", want(c.picture(ctx, []byte("no picture")), http.StatusUnprocessableEntity))

	c.holds("a lecture that is not there is refused",
		want(c.begin(ctx, map[string]string{"lecture": uuid.NewString(), "track": uuid.NewString()}),
			http.StatusForbidden, http.StatusNotFound))
	if lecture == uuid.Nil {
		c.holds("there is a lecture to try a capture with",
			fmt.Errorf("the plan is empty; name a lecture of this hall"))
		return
	}
	c.capture(ctx, lecture)
}

// capture tries the resumable append.
func (c *checker) capture(ctx context.Context, lecture uuid.UUID) {
	track := uuid.New()
	about := map[string]string{"lecture": lecture.String(), "track": track.String(), "filetype": "video/x-matroska",
		"age_ms": "0"}
	if !c.holds("a capture begins", c.begin(ctx, about)) {
		return
	}
	c.holds("to begin it again begins nothing twice", c.begin(ctx, about))
	at, err := c.Stored(ctx, track)
	c.holds("nothing is stored at the beginning", offset(at, err, 0))
	first := []byte("\x1a\x45\xdf\xa3 the first bytes")
	at, err = c.Send(ctx, track, 0, first, false)
	c.holds("bytes are appended", offset(at, err, int64(len(first))))
	_, err = c.Send(ctx, track, 0, first, false)
	c.holds("the same bytes again are refused with a conflict", want(err, http.StatusConflict))
	_, err = c.Send(ctx, track, int64(len(first))+7, first, false)
	c.holds("an offset that leaves a gap is refused with a conflict", want(err, http.StatusConflict))
	at, err = c.Stored(ctx, track)
	c.holds("afterwards as much is stored as before", offset(at, err, int64(len(first))))
	at, err = c.Send(ctx, track, int64(len(first)), []byte(" and more"), false)
	c.holds("it goes on from there", offset(at, err, int64(len(first))+9))
	beside := uuid.New()
	c.holds("a second picture begins beside it",
		c.begin(ctx, map[string]string{"lecture": lecture.String(), "track": beside.String(), "beside": track.String(),
			"lag_ms": "12", "age_ms": "0"}))
	c.holds("what was not completed can be taken back", c.Discard(ctx, track))
}
