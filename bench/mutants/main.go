// Command mutants changes comparisons, bounds, signs and checks of packages one by one, runs their tests on each
// change, and says which changes no test noticed.
//
//	go run ./bench/mutants ./internal/core/viewing
//	go run ./internal/testdb/run go run ./bench/mutants ./internal/release   # tests that need PostgreSQL
//	go run ./bench/mutants -every 5 ./internal/core/signal                    # a sample, where tests take long
//
// The tree is not touched: each change is laid over it (go test -overlay). A change that does not compile is not
// counted, one on which the tests do not end is noticed. Survivors that change nothing that anyone could see are
// explained in explained.txt, one a line: what the program prints of it, a tab, and why.
package main

import (
	"bytes"
	"context"
	_ "embed"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"log"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strings"
	"sync"
	"time"
)

//go:embed explained.txt
var explained string

func main() {
	log.SetFlags(0)
	every := flag.Int("every", 1, "try each nth change alone")
	flag.Parse()
	if flag.NArg() == 0 || *every < 1 {
		log.Fatal("mutants [-every N] PACKAGE...")
	}
	known := map[string]bool{}
	for line := range strings.Lines(explained) {
		what, _, _ := strings.Cut(strings.TrimSpace(line), "\t")
		known[what] = true
	}
	failed := false
	for _, name := range flag.Args() {
		packages, err := list(name)
		if err != nil {
			log.Fatal(err)
		}
		for _, p := range packages {
			t, err := try(p, *every, known)
			if err != nil {
				log.Fatal(err)
			}
			fmt.Println(t)
			failed = failed || t.share() > most
		}
	}
	if failed {
		os.Exit(1)
	}
}

// most is the share of changes that may live unexplained, in per cent.
const most = 8

// pkg is a package as go list tells of it.
type pkg struct {
	ImportPath, Dir string
	GoFiles         []string
	TestGoFiles     []string
	XTestGoFiles    []string
}

func list(pattern string) ([]pkg, error) {
	out, err := exec.Command("go", "list", "-json", pattern).Output()
	if err != nil {
		return nil, fmt.Errorf("list %s: %w", pattern, err)
	}
	var all []pkg
	for d := json.NewDecoder(bytes.NewReader(out)); d.More(); {
		var p pkg
		if err := d.Decode(&p); err != nil {
			return nil, fmt.Errorf("read what go list says: %w", err)
		}
		if len(p.TestGoFiles)+len(p.XTestGoFiles) > 0 {
			all = append(all, p)
		}
	}
	return all, nil
}

// tally is what became of the changes of one package.
type tally struct {
	name                  string
	made, lived, forgiven int
}

// share is that of the changes that live unexplained, in per cent.
func (t tally) share() float64 { return 100 * float64(t.lived) / float64(max(1, t.made)) }

func (t tally) String() string {
	return fmt.Sprintf("%s: of %d changes %d live (%.1f %%), and %d are explained", t.name, t.made, t.lived, t.share(),
		t.forgiven)
}

// try makes each nth change of a package in turn, as many at once as there are processors, and prints those that live
// as they are found.
func try(p pkg, every int, known map[string]bool) (tally, error) {
	folder, err := os.MkdirTemp("", "mutants-")
	if err != nil {
		return tally{}, err
	}
	defer os.RemoveAll(folder)
	began := time.Now()
	if fate, out := test(p, folder, "", nil); fate != lives {
		return tally{}, fmt.Errorf("%s fails as it is:\n%s", p.ImportPath, out)
	}
	// Compiling is a part of it; a change that makes the tests take ten times as long is noticed.
	limit = max(20*time.Second, 10*time.Since(began))
	var changes []change
	for _, name := range p.GoFiles {
		of, err := changesOf(filepath.Join(p.Dir, name))
		if err != nil {
			return tally{}, err
		}
		changes = append(changes, of...)
	}
	out := tally{name: p.ImportPath}
	var telling sync.Mutex
	var all sync.WaitGroup
	slots := make(chan int, runtime.NumCPU())
	for n := range cap(slots) {
		slots <- n
	}
	for i, c := range changes {
		if i%every != 0 {
			continue
		}
		slot := <-slots
		all.Go(func() {
			fate, _ := test(p, filepath.Join(folder, fmt.Sprint(slot)), c.path, c.source)
			slots <- slot
			telling.Lock()
			defer telling.Unlock()
			out.count(c, fate, known)
		})
	}
	all.Wait()
	return out, nil
}

// count counts a change, and prints one that lives and is not explained.
func (t *tally) count(c change, f fate, known map[string]bool) {
	if f == broken {
		return
	}
	t.made++
	switch {
	case f != lives:
	case known[c.what]:
		t.forgiven++
	default:
		t.lived++
		fmt.Printf("%s:%d: %s\n", c.path, c.line, c.what)
	}
}

// fate is what the tests say to a change.
type fate int

const (
	lives fate = iota
	noticed
	broken // it does not compile
)

// limit is how long the tests may take.
var limit = 5 * time.Minute

// test runs the tests of a package with a file in place of another one.
func test(p pkg, folder, path string, source []byte) (fate, string) {
	args := []string{"test", "-count=1", "-failfast"}
	if path != "" {
		if err := os.MkdirAll(folder, 0o750); err != nil {
			log.Fatal(err)
		}
		with, overlay := filepath.Join(folder, "changed.go"), filepath.Join(folder, "overlay.json")
		lay, err := json.Marshal(map[string]map[string]string{"Replace": {path: with}})
		if err := errors.Join(err, os.WriteFile(with, source, 0o600), os.WriteFile(overlay, lay, 0o600)); err != nil {
			log.Fatal(err)
		}
		args = append(args, "-overlay", overlay)
	}
	ctx, cancel := context.WithTimeout(context.Background(), limit)
	defer cancel()
	run := exec.CommandContext(ctx, "go", append(args, p.ImportPath)...)
	run.WaitDelay = time.Second
	out, err := run.CombinedOutput()
	switch {
	case err == nil:
		return lives, ""
	case bytes.Contains(out, []byte("[build failed]")), bytes.Contains(out, []byte("[setup failed]")):
		return broken, string(out)
	}
	return noticed, string(out)
}
