package main

import (
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"os"
	"path/filepath"
	"strconv"
	"strings"
)

// change is a file with one thing in it that is other.
type change struct {
	path   string
	line   int
	what   string // the file, the function, and what became of which expression
	source []byte
}

// others are the operators that are put in place of one.
var others = map[token.Token][]token.Token{
	token.LSS: {token.LEQ, token.GEQ}, token.LEQ: {token.LSS, token.GTR}, token.GTR: {token.GEQ, token.LEQ},
	token.GEQ: {token.GTR, token.LSS},
	token.EQL: {token.NEQ}, token.NEQ: {token.EQL}, token.LAND: {token.LOR}, token.LOR: {token.LAND},
	token.ADD: {token.SUB}, token.SUB: {token.ADD}, token.MUL: {token.QUO}, token.QUO: {token.MUL},
}

// changesOf lists what can be changed in a file.
func changesOf(path string) ([]change, error) {
	source, err := os.ReadFile(path)
	if err != nil {
		return nil, fmt.Errorf("read what to change: %w", err)
	}
	set := token.NewFileSet()
	file, err := parser.ParseFile(set, path, source, 0)
	if err != nil {
		return nil, fmt.Errorf("read what to change: %w", err)
	}
	f := &finder{set: set, path: path, source: source}
	for _, d := range file.Decls {
		f.within = ""
		if fn, ok := d.(*ast.FuncDecl); ok {
			f.within = fn.Name.Name
		}
		ast.Inspect(d, f.visit)
	}
	return f.out, nil
}

type finder struct {
	set    *token.FileSet
	path   string
	source []byte
	within string // the function
	out    []change
}

func (f *finder) visit(n ast.Node) bool {
	switch x := n.(type) {
	case *ast.ImportSpec:
		return false
	case *ast.GenDecl:
		return x.Tok != token.CONST // what was chosen is chosen; that it is heeded is tested where it is used
	case *ast.ArrayType:
		return false
	case *ast.BinaryExpr:
		if text(x.X) || text(x.Y) {
			return true // strings are put together, not counted
		}
		for _, op := range others[x.Op] {
			f.replace(x, x.OpPos, x.Op.String(), op.String())
		}
	case *ast.UnaryExpr:
		if x.Op == token.SUB || x.Op == token.NOT {
			f.replace(x, x.OpPos, x.Op.String(), "")
		}
	case *ast.BasicLit:
		if n, err := strconv.ParseInt(x.Value, 0, 64); err == nil && x.Kind == token.INT {
			f.replace(x, x.Pos(), x.Value, strconv.FormatInt(n+1, 10))
		}
	case *ast.IfStmt:
		f.check(x.Cond)
	case *ast.CaseClause:
		for _, c := range x.List {
			if condition(c) {
				f.check(c)
			}
		}
	case *ast.Ident:
		switch x.Name {
		case "true":
			f.replace(x, x.Pos(), "true", "false")
		case "false":
			f.replace(x, x.Pos(), "false", "true")
		case "min":
			f.replace(x, x.Pos(), "min", "max")
		case "max":
			f.replace(x, x.Pos(), "max", "min")
		}
	}
	return true
}

// check drops a check, as if it never held.
func (f *finder) check(cond ast.Expr) {
	from, to := f.at(cond.Pos()), f.at(cond.End())
	was := string(f.source[from:to])
	// Its parts are still used, so that it compiles.
	f.put(cond, from, to, "("+was+") && false", was, "never")
}

// condition reports whether the case of a switch is one of its own, and no value.
func condition(x ast.Expr) bool {
	switch x := x.(type) {
	case *ast.BinaryExpr:
		return others[x.Op] != nil && x.Op != token.ADD && x.Op != token.SUB && x.Op != token.MUL && x.Op != token.QUO
	case *ast.UnaryExpr:
		return x.Op == token.NOT
	}
	return false
}

// text reports whether an expression is a string by its looks.
func text(x ast.Expr) bool {
	switch x := x.(type) {
	case *ast.BasicLit:
		return x.Kind == token.STRING
	case *ast.BinaryExpr:
		return text(x.X) || text(x.Y)
	}
	return false
}

func (f *finder) at(p token.Pos) int { return f.set.Position(p).Offset }

// replace puts a word in place of another one at a position within an expression.
func (f *finder) replace(x ast.Expr, at token.Pos, old, by string) {
	from, to := f.at(x.Pos()), f.at(x.End())
	was := string(f.source[from:to])
	within := f.at(at) - from
	became := was[:within] + by + was[within+len(old):]
	f.put(x, from, to, became, was, became)
}

func (f *finder) put(x ast.Expr, from, to int, by, was, became string) {
	source := append(append(append([]byte{}, f.source[:from]...), by...), f.source[to:]...)
	line := f.set.Position(x.Pos()).Line
	whole := strings.TrimSpace(strings.Split(string(f.source), "\n")[line-1])
	what := fmt.Sprintf("%s/%s %s: %s -> %s in %s", filepath.Base(filepath.Dir(f.path)), filepath.Base(f.path),
		f.within, one(was), one(became), whole)
	f.out = append(f.out, change{path: f.path, line: line, what: what, source: source})
}

// one is code on one line.
func one(code string) string { return strings.Join(strings.Fields(code), " ") }
