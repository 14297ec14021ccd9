package texts

import (
	"encoding/json"
	"errors"
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"maps"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"latelantern/internal/core/fault"
)

func TestSentences(t *testing.T) {
	at := time.Date(2026, 10, 5, 9, 7, 0, 0, time.UTC)
	for _, x := range []struct {
		text fault.Text
		want string
	}{
		{fault.Say("cut.turned"), "The end of the stretch lies before its start."},
		{fault.Say("captions.over", "n", 1, "at", fault.Clock(67*time.Second)),
			"One of its lines begins before the line before has ended, at 1:07. They stand on the picture together."},
		{fault.Say("captions.over", "n", 2, "at", fault.Clock(time.Hour+67*time.Second)),
			"2 of its lines begin before the line before has ended, the first at 1:01:07. They stand on the picture together."},
		{fault.Say("plan.before_term", "day", fault.Day{Time: at}),
			"The term begins on 5 October 2026. Choose that day or a later one."},
		{fault.Say("door.not_yet", "course", "TID 210", "opens", fault.Moment{Time: at}),
			"This recording of TID 210 opens on 5 October at 09:07 UTC."},
		{fault.Say("doorway.not_yet", "course", "TID 210", "opens", fault.Hour{Time: at}),
			"The doorway of this lecture of TID 210 opens at 09:07."},
		{fault.Say("door.over", "who", fault.Either{"Ada", "Bo"}),
			"The lecture is over. It can be watched here when Ada or Bo has lit it."},
		{fault.Say("plan.short_breaks", "n", 3, "of", 5, "day", fault.Day{Time: at}, "out",
			fault.Say("plan.left_out", "n", 1, "breaks", "Herring week")),
			"Only 3 of 5 fit in before the term ends on 5 October 2026, and one of its days lies in a break (Herring week). " +
				"Plan it 3 times, begin earlier, or take more days of the week."},
		{fault.Say("roster.plain_email", "email", "{{.x}} <b>"),
			"“{{.x}} <b>” is no mail address. Write it as name@college.example, without a name or signs around it."},
		{fault.Say("pattern.closed"), "There is a } in the pattern without a { before it."},
		{fault.Say("nobody.knows", "n", 2),
			"Something is not as it should be. There is no sentence for it yet: nobody.knows."},
	} {
		if got := English.Say(x.text); got != x.want {
			t.Errorf("%s: %q, not %q", x.text.Code, got, x.want)
		}
	}
}

// TestLanguagesSayTheSame: each has every sentence, with the same places and forms, and writes days in its own way.
func TestLanguagesSayTheSame(t *testing.T) {
	for tag, l := range Languages {
		if len(l.words) != len(English.words) {
			t.Errorf("%s has %d sentences", tag, len(l.words))
		}
		for c, e := range English.words {
			x, ok := l.words[c]
			if !ok || x.Other == "" || (x.One == "") != (e.One == "") || !slices.Equal(named(x), named(e)) {
				t.Errorf("%s in %s: %+v", c, tag, x)
			}
		}
	}
	at := time.Date(2026, 3, 5, 9, 7, 0, 0, time.UTC)
	for want, text := range map[string]fault.Text{
		"Das Semester beginnt am 5. März 2026. Wählen Sie diesen Tag oder einen späteren.": fault.Say("plan.before_term",
			"day", fault.Day{Time: at}),
		"Diese Aufzeichnung von TID 210 öffnet am 5. März um 09:07 UTC.": fault.Say("door.not_yet", "course", "TID 210",
			"opens", fault.Moment{Time: at}),
		"Die Vorlesung ist vorbei. Sie kann hier angesehen werden, wenn Ada oder Bo sie angezündet hat.": fault.Say(
			"door.over", "who", fault.Either{"Ada", "Bo"}),
		"3 geplante Vorlesungen liegen vor diesem Tag. Verlegen Sie sie zuerst.": fault.Say("term.early", "n", 3),
		"Eine geplante Vorlesung liegt vor diesem Tag. Verlegen Sie sie zuerst.": fault.Say("term.early", "n", 1),
	} {
		if got := German.Say(text); got != want {
			t.Errorf("%q, not %q", got, want)
		}
	}
}

func TestWhatAnErrorSays(t *testing.T) {
	inner := fault.Say("title.long", "most", 200, "n", 201)
	var many fault.Faults
	many.Add("name", "person.name")
	many.Add("email", "person.email")
	for _, x := range []struct {
		err  error
		want string
	}{
		{fmt.Errorf("keep a title: %w", fmt.Errorf("%w: %w", fault.Code("library.invalid"), inner)),
			"A title may have 200 characters; this one has 201."},
		{fmt.Errorf("keep: %w", many),
			"Enter a name of at most 200 letters. Enter a mail address such as tavi.brandal@skerry.example."},
		{errors.New("the disk is gone"), "the disk is gone"},
	} {
		if got := English.Error(x.err); got != x.want {
			t.Errorf("%v: %q, not %q", x.err, got, x.want)
		}
	}
}

// TestValuesOnTheWire: a page tells a day from an hour, and writes each in its reader's way.
func TestValuesOnTheWire(t *testing.T) {
	at := time.Date(2026, 10, 5, 9, 7, 0, 0, time.UTC)
	got, err := json.Marshal(fault.Say("x.y", "day", fault.Day{Time: at}, "hour", fault.Hour{Time: at}, "moment",
		fault.Moment{Time: at},
		"clock", fault.Clock(1500*time.Millisecond), "who", fault.Either{"A"}, "inner", fault.Say("x.z"), "n", 3))
	want := `{"code":"x.y","with":{"clock":{"clock":1500},"day":{"day":"2026-10-05"},"hour":{"hour":"09:07"},"inner":{"code":"x.z"},` +
		`"moment":{"moment":"2026-10-05T09:07"},"n":3,"who":{"either":["A"]}}}`
	if err != nil || string(got) != want {
		t.Errorf("%s %v", got, err)
	}
}

// named are the places in a sentence.
func named(e entry) []string {
	set := map[string]bool{}
	for _, form := range []string{e.One, e.Other} {
		for _, m := range place.FindAllStringSubmatch(form, -1) {
			set[m[1]] = true
		}
	}
	return slices.Sorted(maps.Keys(set))
}

var code = regexp.MustCompile(`^[a-z_]+(\.[a-z_]+)?$`)

// TestNoCodeStandsTwice: of two texts for one code the later would be said in place of the first.
func TestNoCodeStandsTwice(t *testing.T) {
	for name, file := range map[string][]byte{"English": english, "German": german} {
		seen := map[string]bool{}
		for _, m := range regexp.MustCompile(`(?m)^  "([\w.]+)":`).FindAllSubmatch(file, -1) {
			if code := string(m[1]); seen[code] {
				t.Errorf("in %s %s stands twice", name, code)
			} else {
				seen[code] = true
			}
		}
		if len(seen) != len(map[string]*Language{"English": English, "German": German}[name].words) {
			t.Errorf("in %s %d codes were found", name, len(seen))
		}
	}
}

// TestCatalogueIsWhole: what the house says is in the catalogue, with all that its sentence names, and nothing else is.
func TestCatalogueIsWhole(t *testing.T) {
	used := map[string]bool{"unworded": true, "fields": true, "input": true, "internal": true}
	set := token.NewFileSet()
	err := filepath.WalkDir("../..", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		file, err := parser.ParseFile(set, path, nil, 0)
		if err != nil {
			return err
		}
		ast.Inspect(file, func(n ast.Node) bool {
			if call, ok := n.(*ast.CallExpr); ok {
				checkCall(t, set, call)
			}
			if lit, ok := n.(*ast.BasicLit); ok && lit.Kind == token.STRING {
				if s, _ := strconv.Unquote(lit.Value); code.MatchString(s) {
					used[s] = true
				}
			}
			return true
		})
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	for c := range English.words {
		reason := strings.HasPrefix(string(c), "door.") || strings.HasPrefix(string(c), "doorway.")
		if !used[string(c)] && !reason {
			t.Errorf("nobody says %s", c)
		}
	}
	if len(English.words) < 250 {
		t.Errorf("only %d sentences", len(English.words))
	}
}

// checkCall looks at a call whose arguments hold a code of the catalogue, and after it names and values.
func checkCall(t *testing.T, set *token.FileSet, call *ast.CallExpr) {
	t.Helper()
	text := func(e ast.Expr) string {
		lit, ok := e.(*ast.BasicLit)
		if !ok || lit.Kind != token.STRING {
			return ""
		}
		s, _ := strconv.Unquote(lit.Value)
		return s
	}
	name := ""
	switch f := call.Fun.(type) {
	case *ast.SelectorExpr:
		name = f.Sel.Name
	case *ast.Ident:
		name = f.Name
	}
	if !slices.Contains([]string{"Say", "Code", "Add", "When", "One", "invalid", "not", "fault", "note", "wrong",
		"plainly"}, name) {
		return
	}
	for i, a := range call.Args {
		c := text(a)
		if !code.MatchString(c) || !strings.Contains(c, ".") {
			continue
		}
		e, ok := English.words[fault.Code(c)]
		if !ok {
			t.Errorf("%s: %s is not in the catalogue", set.Position(a.Pos()), c)
			continue
		}
		var given []string
		for k := i + 1; k < len(call.Args); k += 2 {
			given = append(given, text(call.Args[k]))
		}
		slices.Sort(given)
		for _, place := range named(e) {
			if name != "Code" && !slices.Contains(given, place) {
				t.Errorf("%s: %s names {%s}, which is not given", set.Position(a.Pos()), c, place)
			}
		}
		return
	}
}
