package blobs

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"iter"
	"maps"
	"os"
	"strings"
	"sync"
	"time"
)

// Memory keeps blobs in memory, for tests: it loses, delays and fails on demand. Its zero value keeps everything.
type Memory struct {
	// Fault is asked before each operation (put, open, range, list, delete, local, append, grow, follow) on a key, and
	// may wait, or give the error with which it fails. Nil lets everything pass.
	Fault func(operation, key string) error
	// Room is how many bytes can be kept; 0 for as many as there are.
	Room int64

	mu    sync.Mutex
	blobs map[string]*grown
}

// grown is one blob. Who has it open goes on reading it after it was replaced or deleted, as with files.
type grown struct {
	mu      sync.Mutex
	bytes   []byte
	changed time.Time
}

func (m *Memory) fault(operation, key string) error {
	if m.Fault == nil {
		return nil
	}
	if err := m.Fault(operation, key); err != nil {
		return fmt.Errorf("%s a blob: %w", operation, err)
	}
	return nil
}

func (m *Memory) find(operation, key string) (*grown, error) {
	key = clean(key)
	if err := m.fault(operation, key); err != nil {
		return nil, err
	}
	m.mu.Lock()
	defer m.mu.Unlock()
	b, ok := m.blobs[key]
	if !ok {
		return nil, fmt.Errorf("%s a blob: %w", operation, ErrNotFound)
	}
	return b, nil
}

func (m *Memory) keep(key string, b *grown) {
	m.mu.Lock()
	defer m.mu.Unlock()
	if m.blobs == nil {
		m.blobs = map[string]*grown{}
	}
	m.blobs[key] = b
}

// Lose forgets a blob, or all below a folder, as a disk that fails does.
func (m *Memory) Lose(key string) {
	key = clean(key)
	m.mu.Lock()
	defer m.mu.Unlock()
	maps.DeleteFunc(m.blobs, func(k string, _ *grown) bool { return k == key || strings.HasPrefix(k, key+"/") })
}

// Put implements Store.
func (m *Memory) Put(key string, r io.Reader) error {
	key = clean(key)
	if err := m.fault("put", key); err != nil {
		return err
	}
	b, err := io.ReadAll(r)
	if err != nil {
		return fmt.Errorf("write a blob: %w", err)
	}
	m.keep(key, &grown{bytes: b, changed: time.Now()})
	return nil
}

// Open implements Store.
func (m *Memory) Open(key string) (Blob, error) {
	b, err := m.find("open", key)
	if err != nil {
		return nil, err
	}
	return &reading{of: b}, nil
}

// Follow implements Log.
func (m *Memory) Follow(key string) (Blob, error) {
	b, err := m.find("follow", key)
	if err != nil {
		return nil, err
	}
	return &reading{of: b}, nil
}

// Range implements Store.
func (m *Memory) Range(key string, offset, length int64) ([]byte, error) {
	b, err := m.find("range", key)
	if err != nil {
		return nil, err
	}
	out := make([]byte, length)
	if _, err := (&reading{of: b}).ReadAt(out, offset); err != nil {
		return nil, fmt.Errorf("read %d bytes of a blob from %d: %w", length, offset, err)
	}
	return out, nil
}

// Size implements Store.
func (m *Memory) Size(key string) int64 {
	m.mu.Lock()
	b, ok := m.blobs[clean(key)]
	m.mu.Unlock()
	if !ok {
		return 0
	}
	return b.size()
}

// List implements Store.
func (m *Memory) List(folder string) iter.Seq2[Entry, error] {
	return func(yield func(Entry, error) bool) {
		if err := m.fault("list", folder); err != nil {
			yield(Entry{}, err)
			return
		}
		m.mu.Lock()
		all := maps.Clone(m.blobs)
		m.mu.Unlock()
		for key, b := range all {
			if folder != "" && !strings.HasPrefix(key, clean(folder)+"/") {
				continue
			}
			b.mu.Lock()
			e := Entry{Key: key, Size: int64(len(b.bytes)), Changed: b.changed}
			b.mu.Unlock()
			if !yield(e, nil) {
				return
			}
		}
	}
}

// Delete implements Store.
func (m *Memory) Delete(key string) error {
	if err := m.fault("delete", clean(key)); err != nil {
		return err
	}
	m.Lose(key)
	return nil
}

// Local implements Store: a copy as a file, which done removes.
func (m *Memory) Local(key string) (string, func(), error) {
	b, err := m.find("local", key)
	if err != nil {
		return "", nil, err
	}
	f, err := os.CreateTemp("", "late-lantern-blob-")
	if err != nil {
		return "", nil, fmt.Errorf("make a file of a blob: %w", err)
	}
	_, err = io.Copy(f, &reading{of: b})
	if err := errors.Join(err, f.Close()); err != nil {
		return "", nil, errors.Join(fmt.Errorf("make a file of a blob: %w", err), os.Remove(f.Name()))
	}
	return f.Name(), func() { _ = os.Remove(f.Name()) }, nil
}

// Append implements Log.
func (m *Memory) Append(key string, offset int64, b []byte) error {
	key = clean(key)
	if err := m.fault("append", key); err != nil {
		return err
	}
	if free, _ := m.Free(); free < int64(len(b)) {
		return fmt.Errorf("append to a blob: %w", ErrFull)
	}
	x, err := m.find("append", key)
	if errors.Is(err, ErrNotFound) {
		x = &grown{}
		m.keep(key, x)
	} else if err != nil {
		return err
	}
	x.mu.Lock()
	defer x.mu.Unlock()
	if int64(len(x.bytes)) < offset {
		return fmt.Errorf("append to a blob: it holds %d bytes, and byte %d is to be written", len(x.bytes), offset)
	}
	x.bytes, x.changed = append(x.bytes[:offset:offset], b...), time.Now()
	return nil
}

// Grow implements Log.
func (m *Memory) Grow(key string) (Growing, error) {
	key = clean(key)
	if err := m.fault("grow", key); err != nil {
		return nil, err
	}
	b := &grown{changed: time.Now()}
	m.keep(key, b)
	return b, nil
}

// Free implements Keeper.
func (m *Memory) Free() (int64, error) {
	if m.Room == 0 {
		return 1 << 62, nil
	}
	free := m.Room
	for e, err := range m.List("") {
		if err != nil {
			return 0, err
		}
		free -= e.Size
	}
	return max(0, free), nil
}

func (g *grown) size() int64 {
	g.mu.Lock()
	defer g.mu.Unlock()
	return int64(len(g.bytes))
}

// Write implements Growing.
func (g *grown) Write(b []byte) (int, error) {
	g.mu.Lock()
	defer g.mu.Unlock()
	g.bytes, g.changed = append(g.bytes, b...), time.Now()
	return len(b), nil
}

// Sync implements Growing.
func (g *grown) Sync() error { return nil }

// Close implements Growing.
func (g *grown) Close() error { return nil }

// reading is a blob that someone reads.
type reading struct {
	of *grown
	at int64
}

// ReadAt implements Blob.
func (r *reading) ReadAt(b []byte, offset int64) (int, error) {
	r.of.mu.Lock()
	defer r.of.mu.Unlock()
	return bytes.NewReader(r.of.bytes).ReadAt(b, offset)
}

// Read implements Blob.
func (r *reading) Read(b []byte) (int, error) {
	n, err := r.ReadAt(b, r.at)
	r.at += int64(n)
	if n > 0 {
		err = nil
	}
	return n, err
}

// Seek implements Blob.
func (r *reading) Seek(offset int64, whence int) (int64, error) {
	switch whence {
	case io.SeekCurrent:
		offset += r.at
	case io.SeekEnd:
		offset += r.of.size()
	}
	if offset < 0 {
		return 0, errors.New("before the beginning of a blob")
	}
	r.at = offset
	return offset, nil
}

// Close implements Blob.
func (r *reading) Close() error { return nil }
