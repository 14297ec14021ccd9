// Package blobs keeps bytes on disk so that what was acknowledged survives a power cut.
package blobs

import (
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"syscall"
)

// Disk keeps each blob as a file under one folder. Keys are relative paths of letters,
// digits, '-', '_', '.' and '/'.
type Disk struct {
	root string
}

// Open uses the folder root, which it makes if it is not there.
func Open(root string) (*Disk, error) {
	// Tools that read files run elsewhere.
	root, err := filepath.Abs(root)
	if err != nil {
		return nil, fmt.Errorf("find the folder for media: %w", err)
	}
	if err := os.MkdirAll(root, 0o750); err != nil {
		return nil, fmt.Errorf("make the folder for media: %w", err)
	}
	return &Disk{root}, nil
}

// ErrNotFound says that there is no blob under a key.
var ErrNotFound = errors.New("no such blob")

// ErrFull says that there is no room left.
var ErrFull = errors.New("the server has no room left: what was saved is safe, and the rest waits until there is room again")

// Path is where the blob of key lies, for tools that read files. It panics on a key that
// leaves the folder, since keys are made by this program alone.
func (d *Disk) Path(key string) string {
	if !filepath.IsLocal(key) || strings.Contains(key, "\\") {
		panic("a blob key that leaves its folder: " + key)
	}
	return filepath.Join(d.root, filepath.FromSlash(key))
}

// Put keeps the whole of r under key. When it returns nil the blob is on the disk whole;
// until then nothing is seen of it.
func (d *Disk) Put(key string, r io.Reader) error {
	path := d.Path(key)
	if err := os.MkdirAll(filepath.Dir(path), 0o750); err != nil {
		return fmt.Errorf("make a folder for a blob: %w", err)
	}
	f, err := os.CreateTemp(filepath.Dir(path), ".put-*")
	if err != nil {
		return fmt.Errorf("begin a blob: %w", err)
	}
	defer os.Remove(f.Name())
	if _, err := io.Copy(f, r); err != nil {
		return errors.Join(fmt.Errorf("write a blob: %w", err), f.Close())
	}
	if err := errors.Join(f.Sync(), f.Close()); err != nil {
		return fmt.Errorf("write a blob to the disk: %w", err)
	}
	if err := os.Rename(f.Name(), path); err != nil {
		return fmt.Errorf("name a blob: %w", err)
	}
	return syncFolder(filepath.Dir(path))
}

func syncFolder(path string) error {
	f, err := os.Open(path)
	if err != nil {
		return fmt.Errorf("open a folder of blobs: %w", err)
	}
	if err := errors.Join(f.Sync(), f.Close()); err != nil {
		return fmt.Errorf("write a folder to the disk: %w", err)
	}
	return nil
}

// WriteAt puts b at the offset of the blob under key, drops what stood after it, and
// returns when it is on the disk. Bytes before the offset must already be there.
func (d *Disk) WriteAt(key string, offset int64, b []byte) error {
	path := d.Path(key)
	if err := os.MkdirAll(filepath.Dir(path), 0o750); err != nil {
		return fmt.Errorf("make a folder for a blob: %w", err)
	}
	f, err := os.OpenFile(path, os.O_RDWR|os.O_CREATE, 0o640)
	if err != nil {
		return fmt.Errorf("open a blob: %w", err)
	}
	write := func() error {
		info, err := f.Stat()
		if err != nil {
			return err
		}
		if info.Size() < offset {
			return fmt.Errorf("it holds %d bytes, and byte %d is to be written", info.Size(), offset)
		}
		if err := f.Truncate(offset); err != nil {
			return err
		}
		if _, err := f.WriteAt(b, offset); err != nil {
			return err
		}
		return f.Sync()
	}
	if err := errors.Join(write(), f.Close()); errors.Is(err, syscall.ENOSPC) {
		return fmt.Errorf("append to a blob: %w", ErrFull)
	} else if err != nil {
		return fmt.Errorf("append to a blob: %w", err)
	}
	if offset == 0 {
		return syncFolder(filepath.Dir(path))
	}
	return nil
}

// Create begins a derived blob that is read while it grows. It is not on the disk for
// certain until its Sync returns.
func (d *Disk) Create(key string) (*os.File, error) {
	path := d.Path(key)
	if err := os.MkdirAll(filepath.Dir(path), 0o750); err != nil {
		return nil, fmt.Errorf("make a folder for a blob: %w", err)
	}
	f, err := os.Create(path)
	if err != nil {
		return nil, fmt.Errorf("begin a blob: %w", err)
	}
	return f, nil
}

// Open opens the blob under key for reading anywhere in it. Its error is ErrNotFound when
// there is none.
func (d *Disk) Open(key string) (*os.File, error) {
	f, err := os.Open(d.Path(key))
	if errors.Is(err, fs.ErrNotExist) {
		return nil, fmt.Errorf("open a blob: %w", ErrNotFound)
	}
	if err != nil {
		return nil, fmt.Errorf("open a blob: %w", err)
	}
	return f, nil
}

// Range reads length bytes from offset.
func (d *Disk) Range(key string, offset, length int64) ([]byte, error) {
	f, err := d.Open(key)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	b := make([]byte, length)
	if _, err := f.ReadAt(b, offset); err != nil {
		return nil, fmt.Errorf("read %d bytes of a blob from %d: %w", length, offset, err)
	}
	return b, nil
}

// Size is the length of the blob in bytes; 0 when there is none.
func (d *Disk) Size(key string) int64 {
	info, err := os.Stat(d.Path(key))
	if err != nil {
		return 0
	}
	return info.Size()
}

// Free is how many bytes there is room for.
func (d *Disk) Free() (int64, error) {
	var s syscall.Statfs_t
	if err := syscall.Statfs(d.root, &s); err != nil {
		return 0, fmt.Errorf("read the free room: %w", err)
	}
	return int64(s.Bavail) * s.Bsize, nil
}

// DeleteAll removes every blob whose key begins with the folder prefix.
func (d *Disk) DeleteAll(prefix string) error {
	if err := os.RemoveAll(d.Path(prefix)); err != nil {
		return fmt.Errorf("remove blobs: %w", err)
	}
	return nil
}
