// Package fmp4 reads and writes fragmented MP4 (ISO/IEC 14496-12) with one track: what a
// packaged track, its index and the pieces of a published recording are made of.
package fmp4

import (
	"bufio"
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"io"

	"github.com/Eyevinn/mp4ff/aac"
	"github.com/Eyevinn/mp4ff/avc"
	"github.com/Eyevinn/mp4ff/mp4"

	"latelantern/internal/core/splice"
)

// Init is the head of a track.
type Init struct {
	Raw       []byte // ftyp and moov, without an edit list
	Timescale uint32
	Shift     int64  // what the edit list added to every time, in ticks
	Codec     string // RFC 6381, such as avc1.64001f or mp4a.40.2
	Width     int    // 0 for sound
	Height    int
	Channels  int // of sound; 0 in what was packaged before it was kept
}

// Fragment is one moof with its mdat. Offsets of its samples count from its first byte.
type Fragment struct {
	Raw     []byte
	TfdtAt  int64
	Samples []splice.Sample
}

// maxBox is the largest box taken from a stream. A fragment of two seconds is far below it.
const maxBox = 256 << 20

// Read reads a stream box by box until its end and hands on its head and each whole
// fragment as it comes. It returns the first error of either function, or of the stream;
// a stream that ends inside a box is read up to there without an error.
func Read(r io.Reader, head func(Init) error, fragment func(Fragment) error) error {
	in := bufio.NewReaderSize(r, 64<<10)
	var begun, pending []byte // ftyp before moov; moof before mdat
	var trex *mp4.TrexBox
	var shift int64
	for {
		kind, box, err := next(in)
		if errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) {
			return nil
		}
		if err != nil {
			return err
		}
		switch kind {
		case "ftyp":
			begun = box
		case "moov":
			init, t, err := parseInit(append(begun, box...))
			if err != nil {
				return err
			}
			trex, shift = t, init.Shift
			if err := head(init); err != nil {
				return err
			}
		case "moof":
			pending = box
		case "mdat":
			if trex == nil || pending == nil {
				return errors.New("media data before its description")
			}
			f, err := parseFragment(pending, box, trex, shift)
			if err != nil {
				return err
			}
			if err := fragment(f); err != nil {
				return err
			}
			pending = nil
		}
	}
}

func next(in *bufio.Reader) (kind string, box []byte, err error) {
	var h [16]byte
	if _, err := io.ReadFull(in, h[:8]); err != nil {
		return "", nil, err
	}
	size, head := int64(binary.BigEndian.Uint32(h[:4])), 8
	if size == 1 {
		if _, err := io.ReadFull(in, h[8:16]); err != nil {
			return "", nil, err
		}
		size, head = int64(binary.BigEndian.Uint64(h[8:16])), 16
	}
	if size < int64(head) || size > maxBox {
		return "", nil, fmt.Errorf("a box of %d bytes", size)
	}
	box = make([]byte, size)
	copy(box, h[:head])
	_, err = io.ReadFull(in, box[head:])
	return string(h[4:8]), box, err
}

// decode reads a whole file or head. The library panics on some that lack a box it counts on.
func decode(raw []byte) (f *mp4.File, err error) {
	defer func() {
		if r := recover(); r != nil {
			err = fmt.Errorf("a box is missing: %v", r)
		}
	}()
	return mp4.DecodeFile(bytes.NewReader(raw))
}

func parseInit(raw []byte) (Init, *mp4.TrexBox, error) {
	f, err := decode(raw)
	if err != nil {
		return Init{}, nil, fmt.Errorf("read the head of a track: %w", err)
	}
	if f.Init == nil || f.Init.Moov.Trak == nil || f.Init.Moov.Mvex == nil || f.Init.Moov.Mvex.Trex == nil {
		return Init{}, nil, errors.New("the head of a track is not that of a fragmented file")
	}
	moov := f.Init.Moov
	x := Init{Timescale: moov.Trak.Mdia.Mdhd.Timescale}
	if x.Timescale == 0 {
		return Init{}, nil, errors.New("a track without a timescale")
	}
	if e := moov.Trak.Edts; e != nil && len(e.Elst) > 0 {
		for _, entry := range e.Elst[0].Entries {
			if entry.MediaTime != -1 {
				x.Shift -= entry.MediaTime
				break
			}
			x.Shift += int64(entry.SegmentDuration) * int64(x.Timescale) / int64(max(1, moov.Mvhd.Timescale))
		}
	}
	moov.Trak.Children = without(moov.Trak.Children, "edts")
	moov.Trak.Edts = nil
	stsd := moov.Trak.Mdia.Minf.Stbl.Stsd
	switch {
	case stsd.AvcX != nil && stsd.AvcX.AvcC != nil:
		c := stsd.AvcX.AvcC
		x.Codec = fmt.Sprintf("avc1.%02x%02x%02x", c.AVCProfileIndication, c.ProfileCompatibility, c.AVCLevelIndication)
		x.Width, x.Height = int(stsd.AvcX.Width), int(stsd.AvcX.Height)
	case stsd.Mp4a != nil:
		x.Codec, x.Channels = "mp4a.40.2", channels(stsd.Mp4a)
	default:
		return Init{}, nil, errors.New("a track that is neither H.264 nor AAC")
	}
	var out bytes.Buffer
	if err := f.Init.Encode(&out); err != nil {
		return Init{}, nil, fmt.Errorf("write the head of a track: %w", err)
	}
	x.Raw = out.Bytes()
	return x, moov.Mvex.Trex, nil
}

func without(in []mp4.Box, kind string) []mp4.Box {
	var out []mp4.Box
	for _, b := range in {
		if b.Type() != kind {
			out = append(out, b)
		}
	}
	return out
}

func parseFragment(moof, mdat []byte, trex *mp4.TrexBox, shift int64) (Fragment, error) {
	box, err := mp4.DecodeBox(0, bytes.NewReader(moof))
	if err != nil {
		return Fragment{}, fmt.Errorf("read a fragment: %w", err)
	}
	m, ok := box.(*mp4.MoofBox)
	if !ok || m.Traf == nil || m.Traf.Tfdt == nil {
		return Fragment{}, errors.New("a fragment without a track")
	}
	if m.Traf.Tfdt.Version != 1 {
		return Fragment{}, errors.New("a fragment whose decode time has 32 bits")
	}
	at, err := timeOf(m, moof)
	if err != nil {
		return Fragment{}, err
	}
	f := Fragment{Raw: append(moof, mdat...), TfdtAt: at}
	dts := int64(m.Traf.Tfdt.BaseMediaDecodeTime()) + shift
	for _, run := range m.Traf.Truns {
		run.AddSampleDefaultValues(m.Traf.Tfhd, trex)
		off := int64(run.DataOffset)
		for i, s := range run.Samples {
			flags := s.Flags
			if first, ok := run.FirstSampleFlags(); ok && i == 0 {
				flags = first
			}
			if off < 0 || off+int64(s.Size) > int64(len(f.Raw)) {
				return Fragment{}, errors.New("a sample outside its fragment")
			}
			f.Samples = append(f.Samples, splice.Sample{
				Off: off, Size: s.Size, Dur: s.Dur, Sync: flags&0x10000 == 0,
				DTS: dts, PTS: dts + int64(s.CompositionTimeOffset),
			})
			off += int64(s.Size)
			dts += int64(s.Dur)
		}
	}
	return f, nil
}

// channels is how many channels AAC has: its own configuration says it (ISO/IEC 14496-3, 1.6.2.1),
// while what stands in the box is 2 for one channel as well.
func channels(box *mp4.AudioSampleEntryBox) int {
	if e := box.Esds; e != nil && e.DecConfigDescriptor != nil && e.DecConfigDescriptor.DecSpecificInfo != nil {
		config, err := aac.DecodeAudioSpecificConfig(bytes.NewReader(e.DecConfigDescriptor.DecSpecificInfo.DecConfig))
		if err == nil && config.ChannelConfiguration > 0 {
			return int(config.ChannelConfiguration)
		}
	}
	return int(box.ChannelCount)
}

// InBand are the parameter sets of H.264 that stand in the first picture of a fragment, where a
// source repeats them, or changes them (ISO/IEC 14496-10, 7.4.1.2.1).
func InBand(f Fragment) Parameters {
	var p Parameters
	if len(f.Samples) == 0 {
		return p
	}
	first := f.Raw[f.Samples[0].Off:][:f.Samples[0].Size]
	for len(first) > 4 {
		n := int(binary.BigEndian.Uint32(first))
		if n <= 0 || n > len(first)-4 {
			break
		}
		switch unit := first[4 : 4+n]; avc.GetNaluType(unit[0]) {
		case avc.NALU_SPS:
			p.SPS = append(p.SPS, unit)
		case avc.NALU_PPS:
			p.PPS = append(p.PPS, unit)
		}
		first = first[4+n:]
	}
	return p
}

// Size is that of the pictures that are decoded by p, in pixels; 0 when p does not say it.
func (p Parameters) Size() (width, height int) {
	for _, x := range p.SPS {
		if sps, err := avc.ParseSPSNALUnit(x, false); err == nil {
			return int(sps.Width), int(sps.Height)
		}
	}
	return 0, 0
}

// Independent reports whether a fragment of H.264 begins with an IDR picture, so that it
// needs nothing from before (ISO/IEC 14496-10, table 7-1).
func Independent(f Fragment) bool {
	if len(f.Samples) == 0 {
		return false
	}
	s := f.Samples[0]
	b := f.Raw[s.Off : s.Off+int64(s.Size)]
	for len(b) > 4 {
		n := int64(binary.BigEndian.Uint32(b))
		if n < 1 || n > int64(len(b)-4) {
			return false
		}
		switch b[4] & 0x1f {
		case 5:
			return true
		case 1:
			return false
		}
		b = b[4+n:]
	}
	return false
}
