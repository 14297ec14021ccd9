package questionfile

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"fmt"
	"io"
	"strings"
	"unicode"

	"latelantern/internal/core/toall"
)

// version is what sets the two versions of QTI apart.
type version struct {
	space    string // of items
	manifest string // of the package
	schema   string // its metadata
	number   string
	resource string // the type of an item in it
	third    bool   // names are written in the way of QTI 3
}

// The namespaces and types are those of QTI 2.1 (2012), part 3, and of QTI 3.0 (2022), with IMS Content Packaging 1.2.
var (
	qti2 = version{"http://www.imsglobal.org/xsd/imsqti_v2p1", "http://www.imsglobal.org/xsd/imscp_v1p1",
		"QTIv2.1 Package", "1.0.0", "imsqti_item_xmlv2p1", false}
	qti3 = version{"http://www.imsglobal.org/xsd/imsqtiasi_v3p0", "http://www.imsglobal.org/xsd/qti/qtiv3p0/imscp_v1p1",
		"QTI Package", "3.0.0", "imsqti_item_xmlv3p0", true}
)

// attr is the name of an attribute of QTI 2 in a version.
func (v version) attr(name string) string {
	if !v.third {
		return name
	}
	var b strings.Builder
	for _, r := range name {
		if unicode.IsUpper(r) {
			b.WriteByte('-')
		}
		b.WriteRune(unicode.ToLower(r))
	}
	return b.String()
}

// tag writes elements, names as QTI 2 has them.
type tag struct {
	v   version
	out *xml.Encoder
	err error
}

func (t *tag) do(token xml.Token) {
	if t.err == nil {
		t.err = t.out.EncodeToken(token)
	}
}

// element writes an element with attributes, a name and a value each, and what is in it.
func (t *tag) element(name string, in func(), attrs ...string) {
	if t.v.third && name != "p" {
		name = "qti-" + t.v.attr(name)
	}
	start := xml.StartElement{Name: xml.Name{Local: name}}
	for i := 0; i+1 < len(attrs); i += 2 {
		start.Attr = append(start.Attr, xml.Attr{Name: xml.Name{Local: t.v.attr(attrs[i])}, Value: attrs[i+1]})
	}
	t.do(start)
	if in != nil {
		in()
	}
	t.do(start.End())
}

func (t *tag) text(s string) func() { return func() { t.do(xml.CharData(s)) } }

// letter names the n-th choice.
func letter(n int) string { return string(rune('A' + n)) }

// writeItem writes a question as an item.
func writeItem(w io.Writer, v version, id string, q toall.Question) error {
	if _, err := io.WriteString(w, xml.Header); err != nil {
		return err
	}
	t := &tag{v: v, out: xml.NewEncoder(w)}
	title := q.Text
	if line := []rune(title); len(line) > 60 {
		title = string(line[:59]) + "…"
	}
	cardinality, base := "single", "identifier"
	switch q.Kind {
	case toall.Several:
		cardinality = "multiple"
	case toall.Number:
		base = "float"
	case toall.Words:
		base = "string"
	}
	t.element("assessmentItem", func() {
		t.element("responseDeclaration", func() {
			if len(q.Right) == 0 {
				return
			}
			t.element("correctResponse", func() {
				for _, i := range q.Right {
					t.element("value", t.text(letter(i)))
				}
			})
		}, "identifier", "RESPONSE", "cardinality", cardinality, "baseType", base)
		t.element("itemBody", func() { t.body(q) })
	}, "xmlns", v.space, "identifier", id, "title", strings.Join(strings.Fields(title), " "), "adaptive", "false",
		"timeDependent", "false")
	if t.err != nil {
		return t.err
	}
	return t.out.Close()
}

// body writes what is asked, and how it is answered.
func (t *tag) body(q toall.Question) {
	if !q.Kind.Choose() {
		t.element("p", func() {
			t.do(xml.CharData(q.Text + " "))
			t.element("textEntryInteraction", nil, "responseIdentifier", "RESPONSE")
		})
		return
	}
	most := "1"
	if q.Kind == toall.Several {
		most = fmt.Sprint(len(q.Choices))
	}
	t.element("choiceInteraction", func() {
		t.element("prompt", t.text(q.Text))
		for i, c := range q.Choices {
			t.element("simpleChoice", t.text(c), "identifier", letter(i))
		}
	}, "responseIdentifier", "RESPONSE", "shuffle", "false", "maxChoices", most)
}

type manifestFile struct {
	XMLName    xml.Name   `xml:"manifest"`
	Space      string     `xml:"xmlns,attr"`
	Identifier string     `xml:"identifier,attr"`
	Schema     string     `xml:"metadata>schema"`
	Version    string     `xml:"metadata>schemaversion"`
	Tree       struct{}   `xml:"organizations"`
	Resources  []resource `xml:"resources>resource"`
}

type resource struct {
	Identifier string `xml:"identifier,attr"`
	Type       string `xml:"type,attr"`
	Path       string `xml:"href,attr"`
	File       struct {
		Path string `xml:"href,attr"`
	} `xml:"file"`
}

// writePackage writes questions as a package, an item each.
func writePackage(v version, all []toall.Question) ([]byte, error) {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	m := manifestFile{Space: v.manifest, Identifier: "questions", Schema: v.schema, Version: v.number}
	for i, q := range all {
		id := fmt.Sprintf("question%03d", i+1)
		r := resource{Identifier: id, Type: v.resource, Path: id + ".xml"}
		r.File.Path = r.Path
		m.Resources = append(m.Resources, r)
		w, err := z.Create(r.Path)
		if err != nil {
			return nil, err
		}
		if err := writeItem(w, v, id, q); err != nil {
			return nil, err
		}
	}
	w, err := z.Create("imsmanifest.xml")
	if err != nil {
		return nil, err
	}
	if _, err := io.WriteString(w, xml.Header); err != nil {
		return nil, err
	}
	if err := xml.NewEncoder(w).Encode(m); err != nil {
		return nil, err
	}
	err = z.Close()
	return b.Bytes(), err
}
