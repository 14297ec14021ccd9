package playlistfile

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"fmt"
	"io"
)

// The namespaces of IMS Common Cartridge 1.3 and of a link in it.
const (
	cartridge = "http://www.imsglobal.org/xsd/imsccv1p3/imscp_v1p1"
	cardLOM   = "http://ltsc.ieee.org/xsd/imsccv1p3/LOM/manifest"
	weblink   = "http://www.imsglobal.org/xsd/imsccv1p3/imswl_v1p3"
)

type manifest struct {
	XMLName    xml.Name   `xml:"http://www.imsglobal.org/xsd/imsccv1p3/imscp_v1p1 manifest"`
	Identifier string     `xml:"identifier,attr"`
	LOM        string     `xml:"xmlns:lom,attr"`
	Schema     string     `xml:"metadata>schema"`
	Version    string     `xml:"metadata>schemaversion"`
	Title      lomTitle   `xml:"metadata>lom:lom"`
	Tree       tree       `xml:"organizations>organization"`
	Resources  []resource `xml:"resources>resource"`
}

type lomTitle struct {
	Text string `xml:"lom:general>lom:title>lom:string"`
}

type tree struct {
	Identifier string `xml:"identifier,attr"`
	Structure  string `xml:"structure,attr"`
	Root       place  `xml:"item"`
}

type place struct {
	Identifier string  `xml:"identifier,attr"`
	Resource   string  `xml:"identifierref,attr,omitempty"`
	Title      string  `xml:"title,omitempty"`
	Below      []place `xml:"item"`
}

type resource struct {
	Identifier string `xml:"identifier,attr"`
	Type       string `xml:"type,attr"`
	File       struct {
		Path string `xml:"href,attr"`
	} `xml:"file"`
}

type webLink struct {
	XMLName xml.Name `xml:"http://www.imsglobal.org/xsd/imsccv1p3/imswl_v1p3 webLink"`
	Title   string   `xml:"title"`
	URL     struct {
		Address string `xml:"href,attr"`
		Target  string `xml:"target,attr"`
	} `xml:"url"`
}

// Cartridge is a list as web links in an IMS Common Cartridge 1.3, which a page of a course elsewhere can take in; what
// stands below a heading is below it there. It holds no recordings and opens none.
func Cartridge(l List) ([]byte, error) {
	m := manifest{Identifier: "cartridge", LOM: cardLOM, Schema: "IMS Common Cartridge", Version: "1.3.0",
		Title: lomTitle{l.Title}, Tree: tree{Identifier: "playlist", Structure: "rooted-hierarchy",
			Root: place{Identifier: "root"}}}
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	at := &m.Tree.Root.Below
	for n, x := range l.Lines {
		id := fmt.Sprintf("entry%d", n+1)
		if x.Heading != "" {
			m.Tree.Root.Below = append(m.Tree.Root.Below, place{Identifier: id, Title: x.Heading})
			at = &m.Tree.Root.Below[len(m.Tree.Root.Below)-1].Below
			continue
		}
		link := webLink{Title: x.Title}
		link.URL.Address, link.URL.Target = x.Address, "_blank"
		r := resource{Identifier: "link" + id, Type: "imswl_xmlv1p3"}
		r.File.Path = "links/" + id + ".xml"
		*at = append(*at, place{Identifier: id, Resource: r.Identifier, Title: x.Title})
		m.Resources = append(m.Resources, r)
		if err := put(z, r.File.Path, link); err != nil {
			return nil, err
		}
	}
	if err := put(z, "imsmanifest.xml", m); err != nil {
		return nil, err
	}
	if err := z.Close(); err != nil {
		return nil, fmt.Errorf("write a cartridge: %w", err)
	}
	return b.Bytes(), nil
}

// put writes an XML document into an archive.
func put(z *zip.Writer, name string, document any) error {
	w, err := z.Create(name)
	if err == nil {
		_, err = io.WriteString(w, xml.Header)
	}
	if err == nil {
		e := xml.NewEncoder(w)
		e.Indent("", "  ")
		err = e.Encode(document)
	}
	if err != nil {
		return fmt.Errorf("write %s of a cartridge: %w", name, err)
	}
	return nil
}
