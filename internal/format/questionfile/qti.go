package questionfile

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"path"
	"slices"
	"strings"

	"latelantern/internal/core/fault"
	"latelantern/internal/core/toall"
)

// node is an element of XML with what stands in it, in order. Names are as QTI 2 has them: those of QTI 3 are written
// in another way alone.
type node struct {
	name string
	attr map[string]string
	in   []any // *node or string
}

// deepest and mostNodes hold an item to what an item can be.
const (
	deepest   = 64
	mostNodes = 5000
)

// outside are elements that show, run or bring in what is not in the file.
var outside = []string{"img", "picture", "object", "embed", "audio", "video", "source", "track", "iframe", "script",
	"include", "stylesheet", "link", "a", "mediaInteraction", "customInteraction", "portableCustomInteraction"}

// camel is a name of QTI 3 as QTI 2 has it: qti-choice-interaction is choiceInteraction.
func camel(name string) string {
	parts := strings.Split(strings.TrimPrefix(name, "qti-"), "-")
	for i, p := range parts[1:] {
		if p != "" {
			parts[i+1] = strings.ToUpper(p[:1]) + p[1:]
		}
	}
	return strings.Join(parts, "")
}

// parse reads a document. Its errors are ErrBroken and ErrOutside.
func parse(b []byte) (*node, error) {
	d := xml.NewDecoder(bytes.NewReader(b)) // which knows no entities but those of XML itself
	open := []*node{{}}
	for n := 0; ; {
		token, err := d.Token()
		if err == io.EOF {
			break
		}
		if err != nil {
			return nil, fmt.Errorf("%w: %w", ErrBroken, err)
		}
		above := open[len(open)-1]
		switch x := token.(type) {
		case xml.StartElement:
			if n++; n > mostNodes || len(open) > deepest {
				return nil, ErrBroken
			}
			of, err := element(x)
			if err != nil {
				return nil, err
			}
			above.in = append(above.in, of)
			open = append(open, of)
		case xml.EndElement:
			open = open[:len(open)-1]
		case xml.CharData:
			above.in = append(above.in, string(x))
		case xml.Directive:
			return nil, ErrOutside
		case xml.ProcInst:
			if x.Target != "xml" {
				return nil, ErrOutside
			}
		}
	}
	for _, x := range open[0].in {
		if root, ok := x.(*node); ok {
			return root, nil
		}
	}
	return nil, ErrBroken
}

func element(x xml.StartElement) (*node, error) {
	of := &node{name: camel(x.Name.Local), attr: map[string]string{}}
	if slices.Contains(outside, of.name) {
		return nil, ErrOutside
	}
	for _, a := range x.Attr {
		name := camel(a.Name.Local)
		if name == "src" || name == "href" || name == "data" {
			return nil, ErrOutside
		}
		of.attr[name] = a.Value
	}
	return of, nil
}

// all are the elements of those names in n, however deep.
func (n *node) all(names ...string) (out []*node) {
	for _, x := range n.in {
		if of, ok := x.(*node); ok {
			if slices.Contains(names, of.name) {
				out = append(out, of)
			}
			out = append(out, of.all(names...)...)
		}
	}
	return out
}

// text is what is written in n, apart from some elements.
func (n *node) text(apart ...string) string {
	var b strings.Builder
	var write func(*node)
	write = func(n *node) {
		for _, x := range n.in {
			switch x := x.(type) {
			case string:
				b.WriteString(x)
			case *node:
				if slices.Contains(apart, x.name) {
					continue
				}
				if slices.Contains([]string{"p", "div", "br", "li", "h1", "h2", "h3", "td", "prompt"}, x.name) {
					b.WriteByte(' ')
				}
				write(x)
			}
		}
	}
	write(n)
	return strings.Join(strings.Fields(b.String()), " ")
}

// The interactions that are read.
var interactions = []string{"choiceInteraction", "textEntryInteraction", "extendedTextInteraction"}

// item reads one item of QTI.
func (r *reading) item(name string, b []byte) error {
	root, err := parse(b)
	if err != nil {
		return err
	}
	if root.name != "assessmentItem" {
		return ErrBroken
	}
	if name == "" {
		name = root.attr["identifier"]
	}
	if title := root.attr["title"]; title != "" {
		name = title
	}
	bodies, found := root.all("itemBody"), root.all(interactions...)
	if len(bodies) != 1 || len(found) != 1 {
		r.left = append(r.left, Left{name, fault.Say("questionfile.kind")})
		return nil
	}
	return r.add(name, itemOf(root, bodies[0], found[0]))
}

// itemOf is the question of an item with one interaction.
func itemOf(root, body, asks *node) toall.Question {
	q := toall.Question{Kind: toall.Words, Text: body.text("rubricBlock", "simpleChoice")}
	var declared *node
	for _, d := range root.all("responseDeclaration") {
		if d.attr["identifier"] == asks.attr["responseIdentifier"] {
			declared = d
		}
	}
	if declared != nil && slices.Contains([]string{"float", "integer"}, declared.attr["baseType"]) {
		q.Kind = toall.Number
	}
	if asks.name != "choiceInteraction" {
		return q
	}
	q.Kind = toall.One
	if most, said := asks.attr["maxChoices"]; said && most != "1" ||
		declared != nil && declared.attr["cardinality"] == "multiple" && !said {
		q.Kind = toall.Several
	}
	var right []string
	if declared != nil {
		for _, c := range declared.all("correctResponse") {
			for _, v := range c.all("value") {
				right = append(right, v.text())
			}
		}
	}
	for i, c := range asks.all("simpleChoice") {
		q.Choices = append(q.Choices, c.text("feedbackInline"))
		if slices.Contains(right, c.attr["identifier"]) {
			q.Right = append(q.Right, i)
		}
	}
	return q
}

// archive reads the items of a content package. What is no item in it is passed over, unless it is all that is there.
func (r *reading) archive(b []byte) error {
	z, err := zip.NewReader(bytes.NewReader(b), int64(len(b)))
	if err != nil {
		return fmt.Errorf("%w: %w", ErrBroken, err)
	}
	left := int64(MostBytes)
	for _, f := range z.File {
		if strings.ToLower(path.Ext(f.Name)) != ".xml" || path.Base(f.Name) == "imsmanifest.xml" {
			continue
		}
		in, err := f.Open()
		if err != nil {
			return fmt.Errorf("%w: %w", ErrBroken, err)
		}
		data, err := io.ReadAll(io.LimitReader(in, left+1))
		in.Close()
		if err != nil {
			return fmt.Errorf("%w: %w", ErrBroken, err)
		}
		if left -= int64(len(data)); left < 0 {
			return ErrLong
		}
		if err := r.item(path.Base(f.Name), data); err != nil && !errors.Is(err, ErrBroken) {
			return err
		} else if err != nil {
			r.left = append(r.left, Left{path.Base(f.Name), fault.Say("questionfile.item")})
		}
		if len(r.left) > MostQuestions {
			return ErrLong
		}
	}
	return nil
}
