package assemble

import (
	"os/exec"
	"slices"
	"strings"
	"testing"
)

// The rings of the house, from the inside.
var (
	useCases = []string{"roster", "signin", "schedule", "capture", "library", "cuts", "measure", "publication", "sweep",
		"audience", "release", "playlists", "catchup", "door", "presence", "remind", "carry", "halls", "words", "news",
		"feeds", "frames", "chat", "toall", "notes"}
	// What several use-cases read alike is read in one place, which writes nothing.
	readModels = []string{"recordings", "find"}
	edges      = []string{"api", "assemble", "standin"}
)

// ring is which ring a package of ours belongs to, and its name there.
func ring(path string) (ring, name string) {
	rest, ours := strings.CutPrefix(path, "latelantern/")
	if !ours {
		return "", ""
	}
	first, rest, _ := strings.Cut(rest, "/")
	if first != "internal" {
		return "edge", first
	}
	name, _, _ = strings.Cut(rest, "/")
	switch {
	case name == "core" || name == "format" || name == "platform":
		return name, name
	case slices.Contains(useCases, name):
		return "use-case", name
	case slices.Contains(readModels, name):
		return "read model", name
	case slices.Contains(edges, name):
		return "edge", name
	case strings.HasPrefix(name, "test"):
		return "test", name
	}
	return "unknown", name
}

// allowed says which rings each ring may reach, itself apart.
var allowed = map[string][]string{
	"core":       {},
	"format":     {"core"},
	"platform":   {"core"},
	"read model": {"core", "format", "platform"},
	"use-case":   {"core", "format", "platform", "read model"},
	"edge":       {"core", "format", "platform", "read model", "use-case", "edge", "test"},
	"test":       {"core", "format", "platform", "read model", "use-case", "edge", "test"},
}

// pure is what the core may use of others: no input or output, no clock, no database.
var notPure = []string{"os", "os/exec", "net", "net/http", "database/sql", "log", "log/slog", "io/fs", "syscall"}

// pureLibraries are modules that the core may use: they compute and do nothing else.
var pureLibraries = []string{"golang.org/x/text/", "github.com/nicksnyder/go-i18n/"}

func TestArrowsGoInwards(t *testing.T) {
	out, err := exec.Command("go", "list", "-f", "{{.ImportPath}} {{join .Imports \" \"}}", "latelantern/...").Output()
	if err != nil {
		t.Fatal(err)
	}
	lines := strings.Split(strings.TrimSpace(string(out)), "\n")
	if len(lines) < 20 {
		t.Fatalf("only %d packages are listed", len(lines))
	}
	for _, line := range lines {
		words := strings.Fields(line)
		from, name := ring(words[0])
		if from == "unknown" {
			t.Errorf("%s belongs to no ring: put it into one", words[0])
		}
		for _, to := range words[1:] {
			r, n := ring(to)
			switch {
			case r == "" && from == "core":
				pure := slices.ContainsFunc(pureLibraries, func(m string) bool { return strings.HasPrefix(to, m) })
				if slices.Contains(notPure, to) || strings.Contains(to, ".") && !pure {
					t.Errorf("%s uses %s, and the core is pure", words[0], to)
				}
			case r == "":
			case r == from && n == name:
			case from == "use-case" && r == "use-case":
				t.Errorf("%s uses %s: two use-cases share a core type or an interface", words[0], to)
			case !slices.Contains(allowed[from], r):
				t.Errorf("%s uses %s: an arrow from %s to %s", words[0], to, from, r)
			}
		}
	}
}

// TestGroupsOfRoutesKnowOnlyTheEdge: what two of them share is the edge, a page, or who sees what.
func TestGroupsOfRoutesKnowOnlyTheEdge(t *testing.T) {
	const api = "latelantern/internal/api/"
	out, err := exec.Command("go", "list", "-f", "{{.ImportPath}} {{join .Imports \" \"}}", api+"...").Output()
	if err != nil {
		t.Fatal(err)
	}
	// Further in comes first.
	order := []string{"edge", "page", "seen"}
	depth := func(path string) int {
		if n := slices.Index(order, strings.TrimPrefix(path, api)); n >= 0 {
			return n
		}
		return len(order)
	}
	groups := 0
	for line := range strings.Lines(string(out)) {
		words := strings.Fields(line)
		if !strings.HasPrefix(words[0], api) {
			continue
		}
		groups++
		for _, to := range words[1:] {
			if strings.HasPrefix(to, api) && depth(to) >= depth(words[0]) {
				t.Errorf("%s uses %s", words[0], to)
			}
		}
	}
	if groups < 10 {
		t.Errorf("only %d packages below the API are looked at", groups)
	}
}

// TestTheCoreReachesNothing looks at everything below the core, not only at what it names itself.
func TestTheCoreReachesNothing(t *testing.T) {
	out, err := exec.Command("go", "list", "-deps", "latelantern/internal/core/...").Output()
	if err != nil {
		t.Fatal(err)
	}
	for _, dep := range strings.Fields(string(out)) {
		if r, _ := ring(dep); r != "" && r != "core" ||
			slices.Contains([]string{"net", "net/http", "database/sql", "os/exec"}, dep) ||
			strings.Contains(dep, "jackc") || strings.Contains(dep, "gin-gonic") {
			t.Errorf("the core reaches %s", dep)
		}
	}
}
