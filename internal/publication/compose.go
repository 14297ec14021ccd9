package publication

import (
	"bytes"
	"errors"
	"fmt"

	"github.com/google/uuid"

	"latelantern/internal/core/splice"
	"latelantern/internal/format/fmp4"
	"latelantern/internal/recordings"
)

// compose puts a presentation together of a plan and the pieces that were made for it. Its new segments are kept with
// the edition, under names that begin with prefix.
func (s *Service) compose(edition uuid.UUID, prefix string, p plan, made []pieces) (*recordings.Presentation, error) {
	fresh := func(name string) recordings.Fresh {
		return func(track int, segments *bytes.Buffer) (string, error) {
			key := editionKey(edition, fmt.Sprintf("%s%s-%d.mp4", prefix, name, track))
			return key, s.Blobs.Put(key, segments)
		}
	}
	all := [3]*recordings.Composer{
		video:  recordings.Video(fresh("pictures")),
		second: recordings.Video(fresh("second")),
		audio:  recordings.Audio(fresh("sound")),
	}
	for i, r := range p.runs {
		var err error
		if made[i].anew != nil {
			err = s.composeAnew(all[r.in], r, made[i].anew)
		} else {
			err = s.composeRun(all[r.in], r, made[i])
		}
		if err != nil {
			return nil, err
		}
	}
	out := &recordings.Presentation{Ended: true, Length: p.length, Stretches: p.stretches}
	for k, to := range [3]**recordings.Rendition{video: &out.Video, second: &out.SecondVideo, audio: &out.Audio} {
		if p.filled[k] {
			if err := all[k].Fill(p.length, true); err != nil {
				return nil, err
			}
		}
		var err error
		if *to, err = all[k].Done(); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// composeRun puts the steps of a run where they are published. What is encoded for one run may differ in its
// parameters from what is for another: then each has its track.
func (s *Service) composeRun(c *recordings.Composer, r run, made pieces) error {
	t := r.track.Track()
	if made.parameters != nil {
		var err error
		if t.Init, err = fmp4.WithParameters(t.Init, *made.parameters); err != nil {
			return err
		}
		t.Added = true
	}
	track := -1
	for i, step := range r.steps.Steps {
		at := r.at + r.track.Index.Time(step.Out)
		step.Out += r.track.Index.Ticks(r.at)
		x, data, err := s.Recordings.Compose(r.track, step, made.samples[i])
		if err != nil {
			return err
		}
		if i == 0 {
			if err := c.Fill(at, true); err != nil {
				return err
			}
			track = c.Track(t)
		}
		c.Add(x, track, at, data)
	}
	return nil
}

// composeAnew puts a run that was encoded as a whole where it is published.
func (s *Service) composeAnew(c *recordings.Composer, r run, made *recordings.Packed) error {
	if err := c.Fill(r.at, true); err != nil {
		return err
	}
	track := c.Track(made.Track())
	for _, step := range splice.Whole(&made.Index).Steps {
		at := r.at + made.Index.Time(step.Out)
		step.Out += made.Index.Ticks(r.at)
		x, data, err := s.Recordings.Compose(made, step, nil)
		if err != nil {
			return err
		}
		c.Add(x, track, at, data)
	}
	return nil
}

// errMismatch says that a presentation does not hold what its plan says.
var errMismatch = errors.New("an edition does not hold what its plan says")

// check counts the pictures and the frames of sound that the segments of a presentation hold, as they
// lie in the store, against its plan. Its error is errMismatch when they differ.
func (s *Service) check(p *recordings.Presentation) error {
	for _, r := range p.Renditions() {
		for n, x := range r.Segments {
			if x.Frames == 0 { // a blank
				continue
			}
			held, err := s.Recordings.Frames(r, n)
			if err != nil {
				return fmt.Errorf("%w: segment %d: %w", errMismatch, n, err)
			}
			if held != x.Frames {
				return fmt.Errorf("%w: segment %d holds %d, and should hold %d", errMismatch, n, held, x.Frames)
			}
		}
	}
	return nil
}
