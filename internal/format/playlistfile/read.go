package playlistfile

import (
	"bytes"
	"encoding/csv"
	"encoding/xml"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/google/uuid"

	"latelantern/internal/format/sheetcell"
)

// Read reads a list in XSPF or CSV, whichever it is. Headings stand before what they head. Its errors are ErrBroken,
// ErrEmpty and ErrLong.
func Read(b []byte) (List, error) {
	b = bytes.TrimPrefix(bytes.TrimSpace(b), []byte("\xef\xbb\xbf"))
	if !utf8.Valid(b) {
		return List{}, ErrBroken
	}
	read := readSheet
	if bytes.HasPrefix(b, []byte("<")) {
		read = readXSPF
	}
	l, err := read(b)
	if err != nil {
		return List{}, err
	}
	if len(l.Lines) == 0 {
		return List{}, ErrEmpty
	}
	if len(l.Lines) > MostLines {
		return List{}, ErrLong
	}
	return l, nil
}

// below adds a line below a heading, which is added before it where it begins.
func (l *List) below(heading string, x Line, last *string) {
	if heading != *last && heading != "" {
		l.Lines = append(l.Lines, Line{Heading: heading})
	}
	*last = heading
	l.Lines = append(l.Lines, x)
}

func readXSPF(b []byte) (List, error) {
	var in xspf
	d := xml.NewDecoder(bytes.NewReader(b)) // which knows no entities but those of XML itself
	if err := d.Decode(&in); err != nil {
		return List{}, fmt.Errorf("%w: %w", ErrBroken, err)
	}
	if in.XMLName.Space != namespace || in.XMLName.Local != "playlist" {
		return List{}, ErrBroken
	}
	out := List{Title: flat(in.Title), About: flat(in.About)}
	last := ""
	for _, t := range in.Tracks {
		x := Line{Title: flat(t.Title), Address: strings.TrimSpace(t.Location),
			Recording: recordingOf(t.Identifier, t.Location), Length: time.Duration(t.Duration) * time.Millisecond}
		out.below(flat(t.Album), x, &last)
	}
	return out, nil
}

func flat(s string) string { return strings.Join(strings.Fields(s), " ") }

func readSheet(b []byte) (List, error) {
	r := csv.NewReader(bytes.NewReader(b))
	r.FieldsPerRecord = -1
	if head, _, _ := bytes.Cut(b, []byte("\n")); bytes.Count(head, []byte(";")) > bytes.Count(head, []byte(",")) {
		r.Comma = ';'
	}
	head, err := r.Read()
	if err != nil {
		return List{}, fmt.Errorf("%w: %w", ErrBroken, err)
	}
	at := map[string]int{}
	for i, h := range head {
		at[strings.ToLower(strings.TrimSpace(h))] = i
	}
	if !slices.ContainsFunc([]string{"recording", "address"}, func(c string) bool { _, has := at[c]; return has }) {
		return List{}, ErrBroken
	}
	var out List
	last := ""
	for {
		row, err := r.Read()
		if err == io.EOF {
			return out, nil
		}
		if err != nil {
			return List{}, fmt.Errorf("%w: %w", ErrBroken, err)
		}
		cell := func(column string) string {
			i, has := at[column]
			if !has || i >= len(row) {
				return ""
			}
			return sheetcell.AsItWas(flat(row[i]))
		}
		x := Line{Title: cell("title"), Course: cell("course"), Address: cell("address")}
		x.Recording = recordingOf(cell("recording"), x.Address)
		if x.Title == "" && x.Address == "" && x.Recording == uuid.Nil {
			continue // an empty line
		}
		out.below(cell("heading"), x, &last)
		if len(out.Lines) > 2*MostLines {
			return List{}, ErrLong
		}
	}
}
