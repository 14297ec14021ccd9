package assemble

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"unicode/utf8"
)

// columns is how wide a line may be; a tab counts as four.
const columns = 120

// TestLinesAreNotWide: but for texts and tags that begin on their line and reach beyond, which are not broken.
func TestLinesAreNotWide(t *testing.T) {
	files := 0
	for _, root := range []string{"bench", "cmd", "demo", "e2e", "internal", "web"} {
		err := filepath.WalkDir(filepath.Join("../..", root), func(path string, d fs.DirEntry, err error) error {
			if d != nil && d.IsDir() && (d.Name() == "node_modules" || d.Name() == "dist") {
				return fs.SkipDir
			}
			if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") {
				return err
			}
			files++
			wide(t, path)
			return nil
		})
		if err != nil {
			t.Fatal(err)
		}
	}
	if files < 200 {
		t.Fatalf("only %d files", files)
	}
}

// wide tells the lines of a file that are too wide.
func wide(t *testing.T, path string) {
	source, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	set := token.NewFileSet()
	file, err := parser.ParseFile(set, path, source, parser.ParseComments)
	if err != nil {
		t.Fatal(err)
	}
	lines := strings.Split(string(source), "\n")
	width := func(line string) int { return utf8.RuneCountInString(line) + 3*strings.Count(line, "\t") }
	texts := map[int]bool{}
	ast.Inspect(file, func(n ast.Node) bool {
		if lit, ok := n.(*ast.BasicLit); ok && lit.Kind == token.STRING {
			from, to := set.Position(lit.Pos()), set.Position(lit.End())
			if from.Line == to.Line && width(lines[to.Line-1][:to.Column-1]) > columns-8 {
				texts[from.Line] = true
			}
		}
		return true
	})
	for i, line := range lines {
		if width(line) > columns && !texts[i+1] && !strings.HasPrefix(line, "//go:") &&
			!strings.HasPrefix(line, "//	") {
			t.Errorf("%s:%d has %d columns", path, i+1, width(line))
		}
	}
}
