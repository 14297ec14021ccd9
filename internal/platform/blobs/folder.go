package blobs

import (
	"errors"
	"fmt"
	"io"
	"io/fs"
	"iter"
	"os"
	"path/filepath"
	"syscall"
)

// Folder keeps each blob as a file below one folder, so that what was kept survives a power cut.
type Folder struct {
	root string
}

// Open uses the folder root, which it makes if it is not there.
func Open(root string) (*Folder, error) {
	// Tools that read files run elsewhere.
	root, err := filepath.Abs(root)
	if err != nil {
		return nil, fmt.Errorf("find the folder for media: %w", err)
	}
	if err := os.MkdirAll(root, 0o750); err != nil {
		return nil, fmt.Errorf("make the folder for media: %w", err)
	}
	return &Folder{root}, nil
}

func (d *Folder) path(key string) string {
	return filepath.Join(d.root, filepath.FromSlash(clean(key)))
}

// Put implements Store.
func (d *Folder) Put(key string, r io.Reader) error {
	path := d.path(key)
	if err := os.MkdirAll(filepath.Dir(path), 0o750); err != nil {
		return fmt.Errorf("make a folder for a blob: %w", err)
	}
	f, err := os.CreateTemp(filepath.Dir(path), Unfinished+"*")
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

// Append implements Log.
func (d *Folder) Append(key string, offset int64, b []byte) error {
	path := d.path(key)
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

// Grow implements Log.
func (d *Folder) Grow(key string) (Growing, error) {
	path := d.path(key)
	if err := os.MkdirAll(filepath.Dir(path), 0o750); err != nil {
		return nil, fmt.Errorf("make a folder for a blob: %w", err)
	}
	f, err := os.Create(path)
	if err != nil {
		return nil, fmt.Errorf("begin a blob: %w", err)
	}
	return f, nil
}

// Open implements Store.
func (d *Folder) Open(key string) (Blob, error) {
	f, err := os.Open(d.path(key))
	if errors.Is(err, fs.ErrNotExist) {
		return nil, fmt.Errorf("open a blob: %w", ErrNotFound)
	}
	if err != nil {
		return nil, fmt.Errorf("open a blob: %w", err)
	}
	return f, nil
}

// Follow implements Log.
func (d *Folder) Follow(key string) (Blob, error) { return d.Open(key) }

// Range implements Store.
func (d *Folder) Range(key string, offset, length int64) ([]byte, error) {
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

// Size implements Store.
func (d *Folder) Size(key string) int64 {
	info, err := os.Stat(d.path(key))
	if err != nil {
		return 0
	}
	return info.Size()
}

// Free implements Keeper.
func (d *Folder) Free() (int64, error) {
	var s syscall.Statfs_t
	if err := syscall.Statfs(d.root, &s); err != nil {
		return 0, fmt.Errorf("read the free room: %w", err)
	}
	return int64(s.Bavail) * s.Bsize, nil
}

// List implements Store. What a Put left that was killed is listed too, so that it can be deleted.
func (d *Folder) List(folder string) iter.Seq2[Entry, error] {
	root := d.root
	if folder != "" {
		root = d.path(folder)
	}
	return func(yield func(Entry, error) bool) {
		err := filepath.WalkDir(root, func(path string, e fs.DirEntry, err error) error {
			if errors.Is(err, fs.ErrNotExist) || err == nil && e.IsDir() {
				return nil
			}
			if err != nil {
				return err
			}
			info, err := e.Info()
			if errors.Is(err, fs.ErrNotExist) {
				return nil // it was deleted meanwhile
			}
			key, wrong := filepath.Rel(d.root, path)
			if err := errors.Join(err, wrong); err != nil {
				return err
			}
			if !yield(Entry{Key: filepath.ToSlash(key), Size: info.Size(), Changed: info.ModTime()}, nil) {
				return fs.SkipAll
			}
			return nil
		})
		if err != nil {
			yield(Entry{}, fmt.Errorf("list blobs: %w", err))
		}
	}
}

// Delete implements Store.
func (d *Folder) Delete(key string) error {
	if err := os.RemoveAll(d.path(key)); err != nil {
		return fmt.Errorf("remove blobs: %w", err)
	}
	return nil
}

// Local implements Store: the file itself.
func (d *Folder) Local(key string) (string, func(), error) {
	path := d.path(key)
	if _, err := os.Stat(path); errors.Is(err, fs.ErrNotExist) {
		return "", nil, fmt.Errorf("find a blob: %w", ErrNotFound)
	} else if err != nil {
		return "", nil, fmt.Errorf("find a blob: %w", err)
	}
	return path, func() {}, nil
}
