package capture

import (
	"context"
	"errors"
	"fmt"
	"sync"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/splice"
	"latelantern/internal/format/fmp4"
	"latelantern/internal/platform/blobs"
	"latelantern/internal/platform/postgres"
)

// packing is the state that the sinks of one run share.
type packing struct {
	s       *Service
	ctx     context.Context
	track   uuid.UUID
	gen     string
	every   time.Duration // of the clock at most that often it is told how much there is
	mu      sync.Mutex
	longest time.Duration
	told    time.Time
}

// grown tells everyone that more can be watched.
func (p *packing) grown(length time.Duration) error {
	p.mu.Lock()
	defer p.mu.Unlock()
	if length <= p.longest {
		return nil
	}
	p.longest = length
	if time.Since(p.told) < p.every {
		return nil
	}
	p.told = time.Now()
	return postgres.InTx(p.ctx, p.s.DB, func(tx pgx.Tx) error {
		const update = `update track set pack = $2, packed_ms = $3 where id = $1 and packed_ms <= $3`
		if _, err := tx.Exec(p.ctx, update, p.track, p.gen, length.Milliseconds()); err != nil {
			return fmt.Errorf("keep how much is packaged: %w", err)
		}
		return p.s.notify(p.ctx, tx, "packed", p.track)
	})
}

// sink writes one packaged track and its sidecar.
type sink struct {
	pictures   bool
	grown      func(time.Duration) error // told how much there is
	body, side blobs.Growing
	off        int64
	index      splice.Index
	own        fmp4.Parameters // of the pictures, as their head says
	grid       *grid           // on which sound is laid that is used as it is; else nil
}

func newSink(disk blobs.Keeper, key string, pictures bool, grown func(time.Duration) error) (*sink, error) {
	body, err := disk.Grow(key + ".mp4")
	if err != nil {
		return nil, err
	}
	side, err := disk.Grow(key + ".index")
	if err != nil {
		return nil, errors.Join(err, body.Close())
	}
	return &sink{pictures: pictures, grown: grown, body: body, side: side}, nil
}

func (k *sink) head(x fmp4.Init) error {
	k.index.Timescale = x.Timescale
	if k.grid != nil {
		k.grid.head = x
	}
	if k.pictures {
		var err error
		if k.own, err = fmp4.ParametersOf(x.Raw); err != nil {
			return err
		}
	}
	return fmp4.AppendInit(k.side, x)
}

// take takes a fragment as the tool gives it.
func (k *sink) take(f fmp4.Fragment) error {
	if k.grid == nil || len(f.Samples) == 0 {
		return k.fragment(f)
	}
	laid, err := k.grid.lay(f)
	for _, x := range laid {
		if err == nil {
			err = k.fragment(x)
		}
	}
	return err
}

func (k *sink) fragment(f fmp4.Fragment) error {
	if len(f.Samples) == 0 {
		return nil
	}
	if k.pictures {
		if err := usable(f, k.index.Timescale); err != nil {
			return err
		}
		// Within one head there is one size: a window that is resized while it is captured has two.
		w, h := k.own.Size()
		if v, u := fmp4.InBand(f).Size(); v > 0 && (v != w || u != h) {
			return errChanged
		}
	}
	if !k.pictures {
		if n := len(k.index.Samples); n > 0 && (k.index.Samples[n-1].Dur != k.index.Samples[0].Dur) {
			return splice.ErrUneven
		}
		for _, s := range f.Samples[:len(f.Samples)-1] {
			if s.Dur != f.Samples[0].Dur {
				return splice.ErrUneven
			}
		}
	}
	if err := k.index.Add(splice.Segment{Off: k.off, Len: int64(len(f.Raw)), TfdtAt: f.TfdtAt}, f.Samples); err != nil {
		return err
	}
	if _, err := k.body.Write(f.Raw); err != nil {
		return fmt.Errorf("write a segment: %w", err)
	}
	if err := fmp4.AppendSegment(k.side, k.off, f); err != nil {
		return err
	}
	k.off += int64(len(f.Raw))
	return k.grown(k.index.Duration())
}

// longGroup is the longest group of pictures with which a track is used as it is: nothing can be
// watched before a group has ended, and to cut in it all of it is decoded.
const longGroup = 12 * time.Second

var errLongGroup = errors.New("a group of pictures is very long")

// errChanged says that pictures change their size midway.
var errChanged = errors.New("the pictures change their size midway")

// usable refuses a group of pictures that cannot be used as it is.
func usable(f fmp4.Fragment, timescale uint32) error {
	switch {
	case len(f.Samples) == 0:
		return nil
	case !fmp4.Independent(f):
		return splice.ErrOpenGroup
	case groupLength(f.Samples, timescale) > longGroup:
		return errLongGroup
	}
	return nil
}

// groupLength is how long the pictures of a fragment are shown. A single one is of no group, as
// in a film of slides.
func groupLength(samples []splice.Sample, timescale uint32) time.Duration {
	if len(samples) < 2 || timescale == 0 {
		return 0
	}
	return time.Duration(samples[len(samples)-1].DTS-samples[0].DTS) * time.Second / time.Duration(timescale)
}

func (k *sink) close() error {
	return errors.Join(k.body.Sync(), k.body.Close(), k.side.Sync(), k.side.Close())
}
