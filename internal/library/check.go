package library

import (
	"errors"
	"fmt"

	"latelantern/internal/format/fmp4"
)

// errMismatch says that a publication does not hold what its plan says.
var errMismatch = errors.New("a publication does not hold what its plan says")

// firstRead is enough for the moof box of nearly every segment.
const firstRead = 2 << 10

// check counts the pictures and the frames of sound that the segments of a rendition hold, as they
// lie on the disk, against its plan. Its error is errMismatch when they differ.
func (s *Service) check(r *Rendition) error {
	for _, rail := range r.Rails() {
		for n, it := range rail.Items {
			if it.Frames == 0 { // a blank
				continue
			}
			held, err := s.count(rail, n)
			if err != nil {
				return fmt.Errorf("%w: segment %d: %w", errMismatch, n, err)
			}
			if held != it.Frames {
				return fmt.Errorf("%w: segment %d holds %d, and should hold %d", errMismatch, n, held, it.Frames)
			}
		}
	}
	return nil
}

func (s *Service) count(rail *Rail, n int) (int, error) {
	it := rail.Items[n]
	if it.Data != nil {
		return fmp4.Count(it.Data, int64(len(it.Data)))
	}
	key := rail.ReelOf(n).Source
	if it.Piece {
		key = rail.ReelOf(n).Pieces
	}
	begin, err := s.Blobs.Range(key, it.Off, min(it.Len, firstRead))
	if err != nil {
		return 0, err
	}
	if size := fmp4.MoofSize(begin); size > int64(len(begin)) && size <= it.Len {
		if begin, err = s.Blobs.Range(key, it.Off, size); err != nil {
			return 0, err
		}
	}
	return fmp4.Count(begin, it.Len)
}
