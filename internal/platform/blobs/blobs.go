// Package blobs keeps bytes by key: what is made once and never changes, and what is appended to.
//
// A key is a relative path of letters, digits, '-', '_', '.' and '/'. Keys are made by this program alone, so one that
// leaves its folder is a fault of the program, and panics. Nobody outside knows where the bytes of a key lie.
package blobs

import (
	"errors"
	"io"
	"iter"
	"path/filepath"
	"strings"
	"time"

	"latelantern/internal/core/fault"
)

// ErrNotFound says that there is no blob under a key.
var ErrNotFound = errors.New("no such blob")

// ErrFull says that there is no room left.
var ErrFull = fault.Code("full")

// Blob is a blob that is read. Of one that grows, what came after an end that was reached can be read later.
type Blob interface {
	io.ReadSeekCloser
	io.ReaderAt
}

// Entry is a blob as it is listed.
type Entry struct {
	Key     string
	Size    int64
	Changed time.Time // by the real time, not that of the college
}

// Store keeps blobs that never change: each is there whole, or not.
type Store interface {
	// Put keeps the whole of r under key. When it returns nil the blob is there whole and stays; until then, and when
	// it fails, what was there is.
	Put(key string, r io.Reader) error
	// Open opens a blob for reading anywhere in it. Its error is ErrNotFound when there is none.
	Open(key string) (Blob, error)
	// Range reads length bytes from offset. Its error is ErrNotFound when there is no blob, and io.EOF or
	// io.ErrUnexpectedEOF when it is shorter.
	Range(key string, offset, length int64) ([]byte, error)
	// Size is the length of a blob in bytes; 0 when there is none.
	Size(key string) int64
	// List goes through all blobs whose keys lie below a folder, "" for all, in no order.
	List(folder string) iter.Seq2[Entry, error]
	// Delete removes a blob, or all that lie below a folder. There may be none.
	Delete(key string) error
	// Local is where a tool finds the bytes of a blob as a file, until done is called. Its error is ErrNotFound when
	// there is none.
	Local(key string) (file string, done func(), err error)
}

// Log keeps blobs that grow.
type Log interface {
	// Append puts b at offset of the blob under key, drops what stood after it, and returns when it is kept for good.
	// The bytes before offset must be there. Its error is ErrFull when there is no room.
	Append(key string, offset int64, b []byte) error
	// Grow begins a blob anew that is read while it grows. What was written is kept for good once Sync returns.
	Grow(key string) (Growing, error)
	// Follow opens a blob that grows for reading. Its error is ErrNotFound when there is none yet.
	Follow(key string) (Blob, error)
}

// Growing is a blob that is written to its end.
type Growing interface {
	io.WriteCloser
	Sync() error
}

// Unfinished begins the last part of the key of what is no blob yet: what a Put left that was killed.
const Unfinished = ".put-"

// Keeper is a whole place for bytes. It may be used by many at once; none of its calls can be given up midway.
type Keeper interface {
	Store
	Log
	// Free is how many bytes there is room for.
	Free() (int64, error)
}

// clean is a key as it is kept. It panics on one that leaves its folder.
func clean(key string) string {
	if !filepath.IsLocal(key) || strings.Contains(key, "\\") {
		panic("a blob key that leaves its folder: " + key)
	}
	return strings.TrimSuffix(key, "/")
}
