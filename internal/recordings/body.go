package recordings

import (
	"fmt"
	"io"
	"sync"

	"latelantern/internal/format/fmp4"
)

// Body is a segment as it is sent: its bytes where they lie, with its time put in.
type Body struct {
	reader *Reader
	of     *Rendition
	n      int
}

// Body is segment n of a rendition. Its error is ErrUnknown when there is none.
func (s *Reader) Body(r *Rendition, n int) (Body, error) {
	if r == nil || n < 0 || n >= len(r.Segments) {
		return Body{}, ErrUnknown
	}
	return Body{s, r, n}, nil
}

// Size is how many bytes it has.
func (b Body) Size() int64 {
	if x := b.of.Segments[b.n]; x.Data != nil {
		return int64(len(x.Data))
	}
	return b.of.Segments[b.n].Len
}

// Bytes reads all of it.
func (b Body) Bytes() ([]byte, error) { return b.reader.Segment(b.of, b.n) }

// buffered is how large a segment is at most that is sent from a buffer; larger ones the system sends from their file,
// where the store and the writer let it.
const buffered = 64 << 10

var buffers = sync.Pool{New: func() any { return new([buffered]byte) }}

// WriteTo implements io.WriterTo. Nothing is written before it is known that there is something to read.
func (b Body) WriteTo(w io.Writer) (int64, error) {
	x := b.of.Segments[b.n]
	if x.Data != nil {
		all, err := b.Bytes()
		if err != nil {
			return 0, err
		}
		n, err := w.Write(all)
		return int64(n), err
	}
	file, done, err := b.reader.handles.Take(b.of.lies(b.n))
	if err != nil {
		return 0, fmt.Errorf("open a segment: %w", err)
	}
	defer done()
	buffer := buffers.Get().(*[buffered]byte)
	defer buffers.Put(buffer)
	begin := x.Len
	if begin > buffered {
		begin = min(x.TfdtAt+8, buffered) // the rest is sent as it lies
	}
	if _, err := file.ReadAt(buffer[:begin], x.Off); err != nil {
		return 0, fmt.Errorf("read a segment: %w", err)
	}
	if err := fmp4.SetTime(buffer[:begin], x.TfdtAt, x.Time); err != nil {
		return 0, err
	}
	n, err := w.Write(buffer[:begin])
	if err != nil || begin == x.Len {
		return int64(n), err
	}
	if _, err := file.Seek(x.Off+begin, io.SeekStart); err != nil {
		return int64(n), fmt.Errorf("read a segment: %w", err)
	}
	rest, err := io.CopyN(w, file, x.Len-begin)
	return int64(n) + rest, err
}
