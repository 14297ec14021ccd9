package main

import (
	"context"
	"io"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"latelantern/internal/assemble"
	"latelantern/internal/core/texts"
	"latelantern/internal/testdb"
)

func TestMain(m *testing.M) { testdb.Main(m) }

// printed is what do writes to standard output.
func printed(t *testing.T, do func() error) (string, error) {
	t.Helper()
	r, w, err := os.Pipe()
	if err != nil {
		t.Fatal(err)
	}
	before := os.Stdout
	os.Stdout = w
	err = do()
	os.Stdout = before
	w.Close()
	b, err2 := io.ReadAll(r)
	if err2 != nil {
		t.Fatal(err2)
	}
	return string(b), err
}

// TestTheFirstCoordinator is named from the command line, and can be named again when the
// first address was lost.
func TestTheFirstCoordinator(t *testing.T) {
	ctx := context.Background()
	t.Setenv("LATE_LANTERN_DATABASE", testdb.DSN(t))
	t.Setenv("LATE_LANTERN_MEDIA", filepath.Join(t.TempDir(), "media"))
	t.Setenv("LATE_LANTERN_URL", "https://lectures.college.example")
	t.Setenv("LATE_LANTERN_SECURE_COOKIES", "on")
	key := regexp.MustCompile(`(?m)^https://lectures\.college\.example/welcome/(\S+)$`)
	var keys []string
	for range 2 {
		out, err := printed(t, func() error { return nameCoordinator("Ines@College.example", "Ines")(ctx) })
		m := key.FindStringSubmatch(out)
		if err != nil || m == nil {
			t.Fatalf("%q %v", out, err)
		}
		keys = append(keys, m[1])
	}
	settings, err := assemble.FromEnvironment()
	if err != nil {
		t.Fatal(err)
	}
	h, err := assemble.Open(ctx, settings)
	if err != nil {
		t.Fatal(err)
	}
	defer h.Close()
	who, err := h.SignIn.Activate(ctx, keys[1], "kelp and bladder wrack")
	if err != nil {
		t.Fatal(err)
	}
	p, err := h.Roster.Person(ctx, who)
	if err != nil || !p.Coordinator || p.Email != "ines@college.example" {
		t.Errorf("%+v %v", p, err)
	}
	if _, err := h.SignIn.Opens(ctx, keys[0]); err == nil {
		t.Error("the address that was lost still opens")
	}
	if _, err := printed(t, func() error { return nameCoordinator("no address", "Ines")(ctx) }); err == nil ||
		!strings.Contains(texts.English.Error(err), "mail address") {
		t.Errorf("a bad address: %v", err)
	}
}
