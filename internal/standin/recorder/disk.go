package recorder

import (
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"

	"github.com/google/uuid"
)

// about is what is known of a track; it lies beside its pieces.
type about struct {
	Track   uuid.UUID     `json:"track"`
	Lecture uuid.UUID     `json:"lecture"`
	Began   time.Time     `json:"began"` // by the recorder's own clock
	Beside  uuid.UUID     `json:"beside"`
	Lag     time.Duration `json:"lag"`
	Ended   bool          `json:"ended"`
}

// pieceSize is how large a piece of a track becomes. A piece that the server has is deleted.
const pieceSize = 4 << 20

var errDiskFull = errors.New("the disk of the recorder is full")

// disk is the own disk of a recorder: each track is a folder of pieces, named by their offsets.
type disk struct {
	folder string
	mu     sync.Mutex
	room   int64 // bytes it may hold; 0 for as many as there is room for
}

func (d *disk) path(track uuid.UUID, name string) string {
	return filepath.Join(d.folder, track.String(), name)
}

// used is how many bytes of tracks it holds.
func (d *disk) used() int64 {
	var sum int64
	pieces, _ := filepath.Glob(filepath.Join(d.folder, "*", "*.piece"))
	for _, p := range pieces {
		if info, err := os.Stat(p); err == nil {
			sum += info.Size()
		}
	}
	return sum
}

// free is how many bytes there is room for.
func (d *disk) free() int64 {
	d.mu.Lock()
	room := d.room
	d.mu.Unlock()
	if room > 0 {
		return max(0, room-d.used())
	}
	var s syscall.Statfs_t
	if err := syscall.Statfs(d.folder, &s); err != nil {
		return 0
	}
	return int64(s.Bavail) * s.Bsize
}

// roomy reports whether a capture can begin: there is room for some seconds of it.
func (d *disk) roomy() bool {
	d.mu.Lock()
	least := int64(8 << 20)
	if d.room > 0 {
		least = min(least, d.room/2)
	}
	d.mu.Unlock()
	return d.free() >= least
}

// keep writes what is known of a track, so that it is there after a power cut.
func (d *disk) keep(a about) error {
	if err := os.MkdirAll(filepath.Join(d.folder, a.Track.String()), 0o700); err != nil {
		return fmt.Errorf("keep a track: %w", err)
	}
	b, err := json.Marshal(a)
	if err != nil {
		return err
	}
	return d.put(d.path(a.Track, "about.json"), b)
}

// put writes a small file whole.
func (d *disk) put(path string, b []byte) error {
	f, err := os.CreateTemp(filepath.Dir(path), "new")
	if err != nil {
		return err
	}
	defer os.Remove(f.Name())
	_, err = f.Write(b)
	if err = errors.Join(err, f.Sync(), f.Close()); err != nil {
		return err
	}
	return os.Rename(f.Name(), path)
}

// tracks are what is still there.
func (d *disk) tracks() ([]about, error) {
	names, err := filepath.Glob(filepath.Join(d.folder, "*", "about.json"))
	if err != nil {
		return nil, err
	}
	var out []about
	for _, n := range names {
		b, err := os.ReadFile(n)
		if err != nil {
			return nil, err
		}
		var a about
		if err := json.Unmarshal(b, &a); err != nil {
			return nil, fmt.Errorf("read what is known of a track: %w", err)
		}
		out = append(out, a)
	}
	// A second picture can only follow its first.
	slices.SortFunc(out, func(x, y about) int { return strings.Compare(x.Beside.String(), y.Beside.String()) })
	return out, nil
}

func (d *disk) forget(track uuid.UUID) error {
	return os.RemoveAll(filepath.Join(d.folder, track.String()))
}

// pieces are the offsets of the pieces of a track, in order.
func (d *disk) pieces(track uuid.UUID) []int64 {
	names, _ := filepath.Glob(d.path(track, "*.piece"))
	var out []int64
	for _, n := range names {
		if at, err := strconv.ParseInt(strings.TrimSuffix(filepath.Base(n), ".piece"), 10, 64); err == nil {
			out = append(out, at)
		}
	}
	slices.Sort(out)
	return out
}

func (d *disk) piece(track uuid.UUID, at int64) string {
	return d.path(track, fmt.Sprintf("%016d.piece", at))
}

// length is where the bytes of a track end.
func (d *disk) length(track uuid.UUID) int64 {
	all := d.pieces(track)
	if len(all) == 0 {
		return 0
	}
	last := all[len(all)-1]
	info, err := os.Stat(d.piece(track, last))
	if err != nil {
		return last
	}
	return last + info.Size()
}

// append adds bytes at the end of a track and forces them to the disk.
func (d *disk) append(track uuid.UUID, end int64, b []byte) error {
	if d.free() < int64(len(b)) {
		return errDiskFull
	}
	at := end
	if all := d.pieces(track); len(all) > 0 && end-all[len(all)-1] < pieceSize {
		at = all[len(all)-1]
	}
	f, err := os.OpenFile(d.piece(track, at), os.O_CREATE|os.O_WRONLY|os.O_APPEND, 0o600)
	if err != nil {
		return err
	}
	_, err = f.Write(b)
	return errors.Join(err, f.Sync(), f.Close())
}

// read gives up to a million bytes of a track from an offset on; none at its end.
func (d *disk) read(track uuid.UUID, from int64) ([]byte, error) {
	all := d.pieces(track)
	for i := len(all) - 1; i >= 0; i-- {
		if all[i] > from {
			continue
		}
		f, err := os.Open(d.piece(track, all[i]))
		if err != nil {
			return nil, err
		}
		defer f.Close()
		b := make([]byte, 1<<20)
		n, err := f.ReadAt(b, from-all[i])
		if n > 0 || i == len(all)-1 {
			return b[:n], nil
		}
		if err != nil {
			return nil, nil
		}
	}
	if len(all) == 0 {
		return nil, nil
	}
	return nil, fmt.Errorf("the bytes from %d on are no more on the disk", from)
}

// drop deletes the pieces that lie wholly before an offset, but for the last.
func (d *disk) drop(track uuid.UUID, before int64) {
	all := d.pieces(track)
	for i := 0; i+1 < len(all) && all[i+1] <= before; i++ {
		_ = os.Remove(d.piece(track, all[i]))
	}
}
