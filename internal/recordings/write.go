package recordings

import (
	"fmt"
	"io"
)

// WriteRendition writes an initialization segment and the segments of a rendition one after another. It is for
// renditions of one track.
func (s *Reader) WriteRendition(w io.Writer, r *Rendition) error {
	return s.Write(w, r.Init, r, 0, len(r.Segments))
}

// Write writes an initialization segment and the segments [from, to) of a rendition one after another.
func (s *Reader) Write(w io.Writer, init []byte, r *Rendition, from, to int) error {
	if _, err := w.Write(init); err != nil {
		return fmt.Errorf("write an initialization segment: %w", err)
	}
	for n := from; n < to; n++ {
		b, err := s.Segment(r, n)
		if err != nil {
			return err
		}
		if _, err := w.Write(b); err != nil {
			return fmt.Errorf("write a segment: %w", err)
		}
	}
	return nil
}
