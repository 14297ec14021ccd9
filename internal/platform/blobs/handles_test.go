package blobs_test

import (
	"errors"
	"fmt"
	"io"
	"strings"
	"sync"
	"testing"

	"latelantern/internal/platform/blobs"
)

// TestHandlesAreEachForOneUse: many who read the same blob at once each read what they look for; what is given back is
// used again, and no more than so many stay open.
func TestHandlesAreEachForOneUse(t *testing.T) {
	each(t, func(t *testing.T, k blobs.Keeper) {
		const files, most = 12, 5
		for i := range files {
			content := strings.NewReader(strings.Repeat(fmt.Sprint(i%10), 1000))
			if err := k.Put(fmt.Sprint("pack/", i), content); err != nil {
				t.Fatal(err)
			}
		}
		h := blobs.NewHandles(k, most)
		var all sync.WaitGroup
		for i := range 50 {
			all.Go(func() {
				for n := range 40 {
					file, at := (i+n)%files, int64(n*7)
					b, done, err := h.Take(fmt.Sprint("pack/", file))
					if err != nil {
						t.Error(err)
						return
					}
					if got, err := b.Seek(at, io.SeekStart); err != nil || got != at {
						t.Errorf("at %d of %d (%v)", got, at, err)
					}
					rest, err := io.ReadAll(b)
					if err != nil || string(rest) != strings.Repeat(fmt.Sprint(file%10), 1000-int(at)) {
						t.Errorf("blob %d from %d has %d bytes (%v)", file, at, len(rest), err)
					}
					done()
				}
			})
		}
		all.Wait()
		if n := h.Idle(); n == 0 || n > most {
			t.Errorf("%d stay open", n)
		}
		first, done, err := h.Take("pack/1")
		if err != nil {
			t.Fatal(err)
		}
		done()
		again, done, err := h.Take("pack/1")
		if err != nil || again != first {
			t.Errorf("it is opened anew (%v)", err)
		}
		done()
		if _, _, err := h.Take("pack/none"); !errors.Is(err, blobs.ErrNotFound) {
			t.Errorf("what is not there: %v", err)
		}
	})
}
