package fmp4

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"

	"github.com/Eyevinn/mp4ff/mp4"
)

// Count is how many samples a fragment of a length in bytes says it holds, read from its beginning
// alone: begin must hold its moof box. It fails when the samples do not fill the fragment.
func Count(begin []byte, length int64) (samples int, err error) {
	if len(begin) < 8 || string(begin[4:8]) != "moof" {
		return 0, errors.New("a fragment that does not begin with its moof box")
	}
	size := int64(binary.BigEndian.Uint32(begin))
	if size > int64(len(begin)) {
		return 0, fmt.Errorf("a moof box of %d bytes, of which %d were read", size, len(begin))
	}
	box, err := mp4.DecodeBox(0, bytes.NewReader(begin[:size]))
	if err != nil {
		return 0, fmt.Errorf("read a fragment: %w", err)
	}
	moof, ok := box.(*mp4.MoofBox)
	if !ok || moof.Traf == nil {
		return 0, errors.New("a fragment without a track")
	}
	filled := size + 8
	for _, run := range moof.Traf.Truns {
		run.AddSampleDefaultValues(moof.Traf.Tfhd, nil)
		for _, s := range run.Samples {
			filled += int64(s.Size)
			samples++
		}
	}
	if filled != length {
		return samples, fmt.Errorf("a fragment of %d bytes whose samples fill %d", length, filled)
	}
	return samples, nil
}

// MoofSize is how long the moof box is with which a fragment begins, in bytes; 0 when it begins otherwise.
func MoofSize(begin []byte) int64 {
	if len(begin) < 8 || string(begin[4:8]) != "moof" {
		return 0
	}
	return int64(binary.BigEndian.Uint32(begin))
}
