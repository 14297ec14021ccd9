// Command slowest runs go test with what it is given, says what failed, and names the ten tests that took longest.
//
//	go run ./bench/slowest -p 2 ./internal/...
package main

import (
	"bufio"
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log"
	"maps"
	"os"
	"os/exec"
	"slices"
	"strings"
)

// event is a line of go test -json (cmd/test2json).
type event struct {
	Action, Package, Test, Output string
	Elapsed                       float64 // seconds
}

// took is a test and how long it took.
type took struct {
	name    string
	seconds float64
}

func main() {
	log.SetFlags(0)
	test := exec.Command("go", append([]string{"test", "-json"}, os.Args[1:]...)...)
	test.Stderr = os.Stderr
	out, err := test.StdoutPipe()
	if err != nil {
		log.Fatal(err)
	}
	if err := test.Start(); err != nil {
		log.Fatal(err)
	}
	slow, failed := follow(out, os.Stdout)
	for _, x := range slow[:min(10, len(slow))] {
		fmt.Printf("%8.1f s  %s\n", x.seconds, x.name)
	}
	for _, x := range failed { // again, where whoever sees the end alone finds it
		fmt.Printf("failed: %s\n", x)
	}
	if err := test.Wait(); err != nil {
		var exit *exec.ExitError
		if errors.As(err, &exit) {
			os.Exit(exit.ExitCode())
		}
		log.Fatal(err)
	}
}

// beginning is how much is said again of a test that failed, in bytes.
const beginning = 1000

// follow prints what packages say, and of tests what those say that fail. It gives how long each test took, the
// slowest first; parts of a test are counted with it; and how what those said begins that failed, or did not end.
func follow(from io.Reader, to io.Writer) (all []took, failed []string) {
	said, last := map[string]*strings.Builder{}, map[string]string{}
	lines := bufio.NewScanner(from)
	lines.Buffer(nil, 16<<20)
	for lines.Scan() {
		var e event
		if err := json.Unmarshal(lines.Bytes(), &e); err != nil {
			fmt.Fprintln(to, lines.Text()) // what the compiler says
			continue
		}
		if e.Test == "" {
			if (e.Action == "output" || e.Action == "build-output") && e.Output != "PASS\n" {
				fmt.Fprint(to, e.Output)
			}
			continue
		}
		name, _, part := strings.Cut(e.Test, "/")
		name = e.Package + " " + name
		if said[name] == nil {
			said[name] = &strings.Builder{}
		}
		if e.Action != "output" && !part {
			last[name] = e.Action
		}
		switch {
		case e.Action == "output":
			said[name].WriteString(e.Output)
		case part:
		case e.Action == "fail":
			fmt.Fprint(to, said[name])
			failed = append(failed, name+"\n"+said[name].String()[:min(beginning, said[name].Len())])
			fallthrough
		case e.Action == "pass":
			all = append(all, took{strings.TrimPrefix(name, "latelantern/"), e.Elapsed})
			delete(said, name)
		}
	}
	// A test that never ended, since the process did.
	for _, name := range slices.Sorted(maps.Keys(said)) {
		if strings.Contains(said[name].String(), "panic") {
			fmt.Fprint(to, said[name])
		}
		if last[name] != "pause" && last[name] != "skip" {
			failed = append(failed, name+", which did not end")
		}
	}
	slices.SortFunc(all, func(a, b took) int { return cmp.Compare(b.seconds, a.seconds) })
	return all, failed
}
