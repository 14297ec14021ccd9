package fmp4

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"

	"github.com/Eyevinn/mp4ff/avc"
	"github.com/Eyevinn/mp4ff/mp4"
)

// Payload is one sample to be written: shown when it is decoded.
type Payload struct {
	Data []byte
	Dur  uint32
	Sync bool
}

// Write makes one fragment that begins at decode time 0 and says where that time stands in it.
func Write(sequence, track uint32, samples []Payload) (raw []byte, tfdtAt int64, err error) {
	f, err := mp4.CreateFragment(sequence, track)
	if err != nil {
		return nil, 0, fmt.Errorf("begin a fragment: %w", err)
	}
	for _, s := range samples {
		flags := uint32(mp4.NonSyncSampleFlags)
		if s.Sync {
			flags = mp4.SyncSampleFlags
		}
		f.AddFullSample(mp4.FullSample{Sample: mp4.Sample{Flags: flags, Dur: s.Dur, Size: uint32(len(s.Data))},
			Data: s.Data})
	}
	f.Moof.Traf.Tfdt.Version = 1 // so that its time can be overwritten in place
	var out bytes.Buffer
	if err := f.Encode(&out); err != nil {
		return nil, 0, fmt.Errorf("write a fragment: %w", err)
	}
	tfdtAt, err = timeOf(f.Moof, out.Bytes())
	return out.Bytes(), tfdtAt, err
}

// The bytes before what is in a box, and in a full box before its first field (ISO/IEC 14496-12, 4.2).
const (
	boxHeader     = 8
	fullBoxHeader = 12
)

// timeOf is where the decode time of the first track of a fragment stands in its bytes, which begin with the moof.
func timeOf(m *mp4.MoofBox, raw []byte) (int64, error) {
	at := int64(boxHeader)
	for _, box := range m.Children {
		if box != m.Traf {
			at += int64(box.Size())
			continue
		}
		at += boxHeader
		for _, in := range m.Traf.Children {
			if in != m.Traf.Tfdt {
				at += int64(in.Size())
				continue
			}
			if int(at)+fullBoxHeader+8 > len(raw) || string(raw[at+4:at+boxHeader]) != "tfdt" {
				return 0, errors.New("a fragment whose boxes are not where they say")
			}
			return at + fullBoxHeader, nil
		}
	}
	return 0, errors.New("a fragment without a decode time")
}

// SetTime overwrites the decode time of a fragment in place.
func SetTime(fragment []byte, tfdtAt, ticks int64) error {
	if ticks < 0 || tfdtAt < 0 || tfdtAt+8 > int64(len(fragment)) {
		return fmt.Errorf("set a decode time of %d at byte %d of %d", ticks, tfdtAt, len(fragment))
	}
	binary.BigEndian.PutUint64(fragment[tfdtAt:], uint64(ticks))
	return nil
}

// Parameters are the parameter sets of an H.264 track.
type Parameters struct {
	SPS, PPS [][]byte
}

// Equal reports whether p and o are the same to the byte.
func (p Parameters) Equal(o Parameters) bool {
	same := func(a, b [][]byte) bool { return bytes.Equal(bytes.Join(a, []byte{0}), bytes.Join(b, []byte{0})) }
	return same(p.SPS, o.SPS) && same(p.PPS, o.PPS)
}

func avcOf(raw []byte) (*mp4.InitSegment, *mp4.AvcCBox, error) {
	f, err := decode(raw)
	if err != nil {
		return nil, nil, fmt.Errorf("read the head of a track: %w", err)
	}
	if f.Init == nil || f.Init.Moov.Trak.Mdia.Minf.Stbl.Stsd.AvcX == nil {
		return nil, nil, errors.New("the head of a track without H.264")
	}
	return f.Init, f.Init.Moov.Trak.Mdia.Minf.Stbl.Stsd.AvcX.AvcC, nil
}

// ParametersOf reads the parameter sets in the head of a track.
func ParametersOf(init []byte) (Parameters, error) {
	_, c, err := avcOf(init)
	if err != nil {
		return Parameters{}, err
	}
	return Parameters{c.SPSnalus, c.PPSnalus}, nil
}

// FreeID is a number for a parameter set that none of p has, from 1.
func (p Parameters) FreeID() (int, error) {
	used := map[uint32]bool{}
	for _, n := range p.SPS {
		s, err := avc.ParseSPSNALUnit(n, false)
		if err != nil {
			return 0, fmt.Errorf("read a parameter set: %w", err)
		}
		used[s.ParameterID] = true
	}
	for id := 1; id < 31; id++ {
		if !used[uint32(id)] {
			return id, nil
		}
	}
	return 0, errors.New("no number is free for another parameter set")
}

// WithParameters is init with the parameter sets p besides its own, so that samples of
// both can follow one another.
func WithParameters(init []byte, p Parameters) ([]byte, error) {
	f, c, err := avcOf(init)
	if err != nil {
		return nil, err
	}
	c.SPSnalus = append(c.SPSnalus, p.SPS...)
	c.PPSnalus = append(c.PPSnalus, p.PPS...)
	var out bytes.Buffer
	if err := f.Encode(&out); err != nil {
		return nil, fmt.Errorf("write the head of a track: %w", err)
	}
	return out.Bytes(), nil
}

// TrackID is the number of the one track that init describes.
func TrackID(init []byte) (uint32, error) {
	f, err := decode(init)
	if err != nil || f.Init == nil {
		return 0, fmt.Errorf("read the head of a track: %w", errors.Join(err, errors.New("no track")))
	}
	return f.Init.Moov.Trak.Tkhd.TrackID, nil
}
