package recordings

import (
	"bytes"
	"fmt"
	"io"

	"latelantern/internal/format/fmp4"
	"latelantern/internal/platform/blobs"
)

// Stream is the segments [from, to) of a packaged track as one stream.
func (s *Reader) Stream(t *Packed, from, to int) (io.ReadCloser, error) {
	f, err := s.Blobs.Open(t.Key + ".mp4")
	if err != nil {
		return nil, err
	}
	a, z := t.Index.Segments[from], t.Index.Segments[to-1]
	return struct {
		io.Reader
		io.Closer
	}{io.MultiReader(bytes.NewReader(t.Init.Raw), io.NewSectionReader(f, a.Off, z.Off+z.Len-a.Off)), f}, nil
}

// Beginning is the first samples of a segment, in order of decoding.
type Beginning struct{ Segment, Samples int }

// Beginnings is a stream of the beginnings of segments. Its times are of no use, but for their order.
func (s *Reader) Beginnings(t *Packed, parts []Beginning) (io.ReadCloser, error) {
	track, err := fmp4.TrackID(t.Init.Raw)
	if err != nil {
		return nil, err
	}
	f, err := s.Blobs.Open(t.Key + ".mp4")
	if err != nil {
		return nil, err
	}
	return &beginnings{t: t, track: track, file: f, parts: parts, rest: t.Init.Raw}, nil
}

type beginnings struct {
	t     *Packed
	track uint32
	file  blobs.Blob
	parts []Beginning
	at    int64
	rest  []byte
}

func (b *beginnings) Close() error { return b.file.Close() }

func (b *beginnings) Read(p []byte) (int, error) {
	if len(b.rest) == 0 {
		if len(b.parts) == 0 {
			return 0, io.EOF
		}
		if err := b.next(); err != nil {
			return 0, err
		}
	}
	n := copy(p, b.rest)
	b.rest = b.rest[n:]
	return n, nil
}

func (b *beginnings) next() error {
	part := b.parts[0]
	b.parts = b.parts[1:]
	seg := b.t.Index.Segments[part.Segment]
	samples := b.t.Index.Samples[seg.First : seg.First+part.Samples]
	last := samples[len(samples)-1]
	data := make([]byte, last.Off+int64(last.Size)-samples[0].Off)
	if _, err := b.file.ReadAt(data, samples[0].Off); err != nil {
		return fmt.Errorf("read the beginning of a segment: %w", err)
	}
	payload := make([]fmp4.Payload, len(samples))
	for i, x := range samples {
		payload[i] = fmp4.Payload{Data: data[x.Off-samples[0].Off:][:x.Size], Dur: x.Dur, Sync: x.Sync}
	}
	raw, tfdtAt, err := fmp4.Write(1, b.track, payload)
	if err == nil {
		err = fmp4.SetTime(raw, tfdtAt, b.at)
	}
	for _, x := range samples {
		b.at += int64(x.Dur)
	}
	b.rest = raw
	return err
}
