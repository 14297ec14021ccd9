package blobs_test

import (
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"
	"testing/iotest"
	"time"

	"latelantern/internal/platform/blobs"
)

// keepers are the places that keep the same promises.
func keepers(t *testing.T) map[string]blobs.Keeper {
	t.Helper()
	folder, err := blobs.Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	return map[string]blobs.Keeper{"a folder": folder, "memory": &blobs.Memory{}}
}

// each runs a test with each of them.
func each(t *testing.T, do func(t *testing.T, k blobs.Keeper)) {
	for name, k := range keepers(t) {
		t.Run(name, func(t *testing.T) { do(t, k) })
	}
}

func content(t *testing.T, k blobs.Keeper, key string) string {
	t.Helper()
	b, err := k.Open(key)
	if err != nil {
		t.Fatal(err)
	}
	defer b.Close()
	all, err := io.ReadAll(b)
	if err != nil {
		t.Fatal(err)
	}
	return string(all)
}

func put(t *testing.T, k blobs.Keeper, key, text string) {
	t.Helper()
	if err := k.Put(key, strings.NewReader(text)); err != nil {
		t.Fatal(err)
	}
}

func TestWhatIsPutIsRead(t *testing.T) {
	each(t, func(t *testing.T, k blobs.Keeper) {
		put(t, k, "a/b/c", "light")
		put(t, k, "a/bb", "")
		if got := content(t, k, "a/b/c"); got != "light" {
			t.Errorf("%q", got)
		}
		if got := content(t, k, "a/bb"); got != "" {
			t.Errorf("%q", got)
		}
		if n := k.Size("a/b/c"); n != 5 {
			t.Errorf("it has %d bytes", n)
		}
		put(t, k, "a/b/c", "dark")
		if got := content(t, k, "a/b/c"); got != "dark" {
			t.Errorf("put again it is %q", got)
		}
	})
}

func TestRanges(t *testing.T) {
	each(t, func(t *testing.T, k blobs.Keeper) {
		put(t, k, "k", "light")
		for _, c := range []struct {
			at, n int64
			want  string
			err   error
		}{
			{0, 5, "light", nil}, {1, 3, "igh", nil}, {4, 1, "t", nil}, {0, 0, "", nil},
			{3, 9, "", io.EOF}, {4, 2, "", io.EOF}, {5, 1, "", io.EOF}, {9, 1, "", io.EOF},
		} {
			got, err := k.Range("k", c.at, c.n)
			if string(got) != c.want || !errors.Is(err, c.err) {
				t.Errorf("%d bytes from %d: %q (%v), want %q (%v)", c.n, c.at, got, err, c.want, c.err)
			}
		}
		b, err := k.Open("k")
		if err != nil {
			t.Fatal(err)
		}
		defer b.Close()
		for _, c := range []struct {
			at     int64
			whence int
			want   string
		}{{3, io.SeekStart, "ht"}, {-4, io.SeekEnd, "ight"}, {-1, io.SeekCurrent, "t"}} {
			_, wrong := b.Seek(c.at, c.whence)
			got, err := io.ReadAll(b)
			if string(got) != c.want || wrong != nil || err != nil {
				t.Errorf("from %d (%d): %q (%v, %v), want %q", c.at, c.whence, got, wrong, err, c.want)
			}
		}
		if _, err := b.Seek(-1, io.SeekStart); err == nil {
			t.Error("it is read before its beginning")
		}
	})
}

func TestWhatIsNotThere(t *testing.T) {
	each(t, func(t *testing.T, k blobs.Keeper) {
		put(t, k, "a/b", "x")
		_, opened := k.Open("a/none")
		_, followed := k.Follow("none")
		_, ranged := k.Range("none", 0, 1)
		_, _, local := k.Local("none")
		for what, err := range map[string]error{"open": opened, "follow": followed, "range": ranged, "local": local} {
			if !errors.Is(err, blobs.ErrNotFound) {
				t.Errorf("%s: %v", what, err)
			}
		}
		if n := k.Size("none"); n != 0 {
			t.Errorf("it has %d bytes", n)
		}
		if err := k.Delete("none"); err != nil {
			t.Errorf("delete: %v", err)
		}
		for range k.List("none") {
			t.Error("something is listed below it")
		}
		for _, key := range []string{"../a", "/etc/passwd", "", "a/../../b", `a\b`} {
			func() {
				defer func() {
					if recover() == nil {
						t.Errorf("%q is a key", key)
					}
				}()
				_ = k.Put(key, strings.NewReader(""))
			}()
		}
	})
}

func TestABrokenPutLeavesWhatWas(t *testing.T) {
	each(t, func(t *testing.T, k blobs.Keeper) {
		put(t, k, "k", "old")
		broken := io.MultiReader(strings.NewReader("ne"), iotest.ErrReader(errors.New("broken")))
		if err := k.Put("k", broken); err == nil {
			t.Fatal("a broken source was kept")
		}
		if got := content(t, k, "k"); got != "old" {
			t.Errorf("%q", got)
		}
		if got := keys(t, k, ""); !slices.Equal(got, []string{"k 3"}) {
			t.Errorf("there are %q", got)
		}
	})
}

func keys(t *testing.T, k blobs.Keeper, folder string) []string {
	t.Helper()
	var out []string
	for e, err := range k.List(folder) {
		if err != nil {
			t.Fatal(err)
		}
		if age := time.Since(e.Changed); age < -time.Second || age > time.Minute {
			t.Errorf("%s was changed at %v", e.Key, e.Changed)
		}
		out = append(out, fmt.Sprint(e.Key, " ", e.Size))
	}
	slices.Sort(out)
	return out
}

func TestListAndDelete(t *testing.T) {
	each(t, func(t *testing.T, k blobs.Keeper) {
		for _, key := range []string{"a/1/x", "a/1/y", "a/12/x", "b/1"} {
			put(t, k, key, key)
		}
		for folder, want := range map[string][]string{
			"": {"a/1/x 5", "a/1/y 5", "a/12/x 6", "b/1 3"}, "a": {"a/1/x 5", "a/1/y 5", "a/12/x 6"},
			"a/1": {"a/1/x 5", "a/1/y 5"}, "b/": {"b/1 3"},
		} {
			if got := keys(t, k, folder); !slices.Equal(got, want) {
				t.Errorf("below %q there are %q, want %q", folder, got, want)
			}
		}
		for range k.List("") {
			break // nobody need go to the end
		}
		if err := errors.Join(k.Delete("a/1"), k.Delete("b/1")); err != nil {
			t.Fatal(err)
		}
		if got := keys(t, k, ""); !slices.Equal(got, []string{"a/12/x 6"}) {
			t.Errorf("there are %q", got)
		}
	})
}

// TestALogGrows: it is followed while it does, goes back to an offset that was not acknowledged, and has no holes.
func TestALogGrows(t *testing.T) {
	each(t, func(t *testing.T, k blobs.Keeper) {
		add := func(at int64, text string) error { return k.Append("log/1", at, []byte(text)) }
		if err := add(0, "one "); err != nil {
			t.Fatal(err)
		}
		follow, err := k.Follow("log/1")
		if err != nil {
			t.Fatal(err)
		}
		defer follow.Close()
		read := func(want string) {
			t.Helper()
			if got, err := io.ReadAll(follow); string(got) != want || err != nil {
				t.Errorf("%q came (%v), want %q", got, err, want)
			}
		}
		read("one ")
		read("")
		if err := errors.Join(add(4, "two "), add(8, "half")); err != nil {
			t.Fatal(err)
		}
		read("two half")
		if err := add(8, "3"); err != nil {
			t.Fatal(err)
		}
		if got := content(t, k, "log/1"); got != "one two 3" {
			t.Errorf("it is %q", got)
		}
		if err := add(10, "4"); err == nil {
			t.Error("it has a hole")
		}
		if err := k.Delete("log/1"); err != nil {
			t.Fatal(err)
		}
		if err := add(9, "4"); err == nil {
			t.Error("it goes on where nothing is")
		}
	})
}

func TestWhatGrowsIsReadMeanwhile(t *testing.T) {
	each(t, func(t *testing.T, k blobs.Keeper) {
		put(t, k, "pack/x", "what was")
		g, err := k.Grow("pack/x")
		if err != nil {
			t.Fatal(err)
		}
		if n := k.Size("pack/x"); n != 0 {
			t.Errorf("begun anew it has %d bytes", n)
		}
		for i, part := range []string{"first ", "second"} {
			if _, err := io.WriteString(g, part); err != nil {
				t.Fatal(err)
			}
			want := "first second"[:6*(i+1)]
			if got := content(t, k, "pack/x"); got != want || k.Size("pack/x") != int64(len(want)) {
				t.Errorf("it is %q, want %q", got, want)
			}
		}
		if err := errors.Join(g.Sync(), g.Close()); err != nil {
			t.Fatal(err)
		}
	})
}

func TestToolsFindAFile(t *testing.T) {
	each(t, func(t *testing.T, k blobs.Keeper) {
		put(t, k, "a/b", "light")
		file, done, err := k.Local("a/b")
		if err != nil {
			t.Fatal(err)
		}
		b, err := os.ReadFile(file)
		if string(b) != "light" || err != nil || !filepath.IsAbs(file) {
			t.Errorf("%s holds %q (%v)", file, b, err)
		}
		done()
		if got := content(t, k, "a/b"); got != "light" {
			t.Errorf("after a tool read it, it is %q", got)
		}
	})
}

func TestManyAtOnce(t *testing.T) {
	each(t, func(t *testing.T, k blobs.Keeper) {
		var all sync.WaitGroup
		for n := range 20 {
			all.Go(func() {
				key := fmt.Sprintf("k/%d", n%5)
				text := strings.Repeat(fmt.Sprint(n%5), 1000)
				if err := k.Put(key, strings.NewReader(text)); err != nil {
					t.Error(err)
				}
				if got := content(t, k, key); got != text {
					t.Errorf("%s is torn", key)
				}
			})
		}
		all.Wait()
		if free, err := k.Free(); free <= 0 || err != nil {
			t.Errorf("there is room for %d bytes (%v)", free, err)
		}
	})
}

// TestMemoryFailsOnDemand: it loses, delays, fails and is full when a test wants that.
func TestMemoryFailsOnDemand(t *testing.T) {
	broken := errors.New("broken")
	var asked []string
	m := &blobs.Memory{Room: 8, Fault: func(operation, key string) error {
		asked = append(asked, operation+" "+key)
		if key == "bad" {
			return broken
		}
		return nil
	}}
	put(t, m, "good", "light")
	for name, err := range map[string]error{
		"put": m.Put("bad", strings.NewReader("x")), "append": m.Append("bad", 0, nil), "delete": m.Delete("bad"),
	} {
		if !errors.Is(err, broken) {
			t.Errorf("%s: %v", name, err)
		}
	}
	if err := m.Append("log", 0, []byte("too much")); !errors.Is(err, blobs.ErrFull) {
		t.Errorf("there is room for 3 bytes, and 8 are appended: %v", err)
	}
	if err := m.Append("log", 0, []byte("fit")); err != nil {
		t.Errorf("there is room for 3 bytes: %v", err)
	}
	if !slices.Contains(asked, "put good") || !slices.Contains(asked, "append log") {
		t.Errorf("it was asked %q", asked)
	}
	m.Lose("good")
	if _, err := m.Open("good"); !errors.Is(err, blobs.ErrNotFound) {
		t.Errorf("it was lost: %v", err)
	}
}
