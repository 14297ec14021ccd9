package assemble

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"
)

// writes finds the tables that a statement writes.
var writes = regexp.MustCompile(`(?i)\b(?:insert\s+into|update|delete\s+from)\s+([a-z_]+)`)

// notTables are words that stand where a table could.
var notTables = []string{"set", "of", "skip", "nowait"}

// writers are, by table, the packages below internal whose SQL writes it.
func writers(t *testing.T) map[string][]string {
	t.Helper()
	out := map[string][]string{}
	err := filepath.WalkDir("..", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		name := filepath.ToSlash(filepath.Dir(path))[len("../"):]
		if strings.HasPrefix(name, "test") {
			return nil
		}
		file, err := parser.ParseFile(token.NewFileSet(), path, nil, 0)
		if err != nil {
			return err
		}
		ast.Inspect(file, func(n ast.Node) bool {
			lit, ok := n.(*ast.BasicLit)
			if !ok || lit.Kind != token.STRING {
				return true
			}
			text, err := strconv.Unquote(lit.Value)
			if err != nil {
				t.Fatal(err)
			}
			if !strings.Contains(lit.Value, "`") { // SQL stands in raw strings; a sentence may have these words
				return true
			}
			for _, m := range writes.FindAllStringSubmatch(text, -1) {
				table := strings.ToLower(m[1])
				if !slices.Contains(notTables, table) && !slices.Contains(out[table], name) {
					out[table] = append(out[table], name)
				}
			}
			return true
		})
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	return out
}

// TestEachTableIsWrittenByOnePackage: what a row may become is decided in one place.
func TestEachTableIsWrittenByOnePackage(t *testing.T) {
	all := writers(t)
	if len(all) < 30 {
		t.Fatalf("only %d tables are written", len(all))
	}
	for table, by := range all {
		if len(by) > 1 {
			slices.Sort(by)
			t.Errorf("%s is written by %s: it has one owner", table, strings.Join(by, ", "))
		}
	}
}
