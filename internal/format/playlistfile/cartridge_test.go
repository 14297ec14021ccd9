package playlistfile

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"io"
	"testing"
)

// TestCartridge: each recording and page is a link of its own, below its heading, and the manifest names each file that
// is there.
func TestCartridge(t *testing.T) {
	b, err := Cartridge(tides)
	if err != nil {
		t.Fatal(err)
	}
	z, err := zip.NewReader(bytes.NewReader(b), int64(len(b)))
	if err != nil {
		t.Fatal(err)
	}
	files := map[string][]byte{}
	for _, f := range z.File {
		r, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		if files[f.Name], err = io.ReadAll(r); err != nil {
			t.Fatal(err)
		}
		lint(t, files[f.Name])
	}
	type item struct {
		Ref   string `xml:"identifierref,attr"`
		Title string `xml:"title"`
		Items []item `xml:"item"`
	}
	var m struct {
		XMLName   xml.Name
		Version   string `xml:"metadata>schemaversion"`
		Title     string `xml:"metadata>lom>general>title>string"`
		Root      item   `xml:"organizations>organization>item"`
		Resources []struct {
			ID   string `xml:"identifier,attr"`
			Type string `xml:"type,attr"`
			File struct {
				Path string `xml:"href,attr"`
			} `xml:"file"`
		} `xml:"resources>resource"`
	}
	if err := xml.Unmarshal(files["imsmanifest.xml"], &m); err != nil {
		t.Fatal(err)
	}
	if m.XMLName.Space != cartridge || m.Version != "1.3.0" || m.Title != tides.Title || len(m.Root.Items) != 2 ||
		m.Root.Items[1].Title != tides.Lines[1].Heading || len(m.Root.Items[1].Items) != 2 {
		t.Errorf("the manifest is %s", files["imsmanifest.xml"])
	}
	if len(m.Resources) != 3 || len(files) != 4 {
		t.Fatalf("%d links in %d files", len(m.Resources), len(files))
	}
	lines := append(tides.Lines[:1:1], tides.Lines[2:]...)
	refs := append([]item{m.Root.Items[0]}, m.Root.Items[1].Items...)
	for n, r := range m.Resources {
		var link webLink
		if err := xml.Unmarshal(files[r.File.Path], &link); err != nil || r.Type != "imswl_xmlv1p3" {
			t.Fatalf("%s: %v", r.File.Path, err)
		}
		if link.XMLName.Space != weblink || link.Title != lines[n].Title || link.URL.Address != lines[n].Address ||
			refs[n].Ref != r.ID || refs[n].Title != link.Title {
			t.Errorf("the link %d is %s, named by %+v", n, files[r.File.Path], refs[n])
		}
	}
	if b, err := Cartridge(List{Title: "Nothing yet"}); err != nil || len(b) == 0 {
		t.Errorf("an empty one: %d bytes, %v", len(b), err)
	}
}
