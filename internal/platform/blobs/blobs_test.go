package blobs

import (
	"errors"
	"io"
	"strings"
	"testing"
)

func content(t *testing.T, d *Disk, key string) string {
	t.Helper()
	f, err := d.Open(key)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	b, err := io.ReadAll(f)
	if err != nil {
		t.Fatal(err)
	}
	return string(b)
}

func TestDisk(t *testing.T) {
	d, err := Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	if err := d.Put("a/b/c", strings.NewReader("light")); err != nil {
		t.Fatal(err)
	}
	if got := content(t, d, "a/b/c"); got != "light" {
		t.Errorf("%q", got)
	}
	if b, err := d.Range("a/b/c", 1, 3); string(b) != "igh" || err != nil {
		t.Errorf("%q %v", b, err)
	}
	if _, err := d.Range("a/b/c", 3, 9); err == nil {
		t.Error("read past the end")
	}
	if _, err := d.Open("a/none"); !errors.Is(err, ErrNotFound) {
		t.Errorf("%v", err)
	}
	if err := d.DeleteAll("a"); err != nil || d.Size("a/b/c") != 0 {
		t.Error("still there")
	}
}

func TestAHalfWrittenPutLeavesTheOld(t *testing.T) {
	d, _ := Open(t.TempDir())
	if err := d.Put("k", strings.NewReader("old")); err != nil {
		t.Fatal(err)
	}
	broken := io.MultiReader(strings.NewReader("ne"), errReader{})
	if err := d.Put("k", broken); err == nil {
		t.Fatal("a broken source was kept")
	}
	if got := content(t, d, "k"); got != "old" {
		t.Errorf("%q", got)
	}
}

type errReader struct{}

func (errReader) Read([]byte) (int, error) { return 0, errors.New("line lost") }

func TestWriteAtDropsWhatWasNotAcknowledged(t *testing.T) {
	d, _ := Open(t.TempDir())
	for _, w := range []struct {
		at int64
		b  string
	}{{0, "one"}, {3, "two, unacknowledged"}, {3, "two"}} {
		if err := d.WriteAt("log", w.at, []byte(w.b)); err != nil {
			t.Fatal(err)
		}
	}
	if got := content(t, d, "log"); got != "onetwo" {
		t.Errorf("%q", got)
	}
	if err := d.WriteAt("log", 9, []byte("x")); err == nil {
		t.Error("a hole was written")
	}
}

func TestKeysStayInTheirFolder(t *testing.T) {
	d, _ := Open(t.TempDir())
	for _, key := range []string{"../x", "/etc/passwd", "a/../../x", ""} {
		func() {
			defer func() {
				if recover() == nil {
					t.Errorf("%q was taken", key)
				}
			}()
			d.Path(key)
		}()
	}
}
