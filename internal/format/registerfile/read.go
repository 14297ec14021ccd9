package registerfile

import (
	"encoding/csv"
	"errors"
	"io"
	"net/mail"
	"slices"
	"strconv"
	"strings"
	"time"

	"latelantern/internal/core/fault"
	"latelantern/internal/core/presence"
	"latelantern/internal/format/encoded"
	"latelantern/internal/format/sheetcell"
)

// MostBytes and MostLines are the most that a file may have; in base64 it is less than any body may be.
const (
	MostBytes = 700_000
	MostLines = 5000
)

// Why a file is not taken.
const (
	ErrEmpty = fault.Code("register.file_empty")
	ErrLarge = fault.Code("register.file_large")
	ErrRead  = fault.Code("register.file_unread")
	ErrWho   = fault.Code("register.file_who") // no column says who it is
)

// ErrState says of a line that how somebody stands there is no state.
const ErrState = fault.Code("register.file_state")

// Left is a line that is not taken.
type Left struct {
	Line int // in the file, from 1
	Who  string
	Why  fault.Code
}

// Read is what a file says of who was there in the lecture that starts then, in the zone of the college: a sheet as
// Write makes it (RFC 4180; commas, semicolons or tabs), with a first line that names the columns email or name, and as
// far as it has them state, minutes_late, minutes_early, reason, date and starts; or a list without such a line, with
// an address or a name in each. Lines of other lectures are passed over, and
// counted; those without a state where there is a column for it are passed over too.
func Read(data []byte, starts time.Time) (said []presence.Said, left []Left, others int, err error) {
	if len(data) > MostBytes {
		return nil, nil, 0, ErrLarge
	}
	text, _, err := encoded.Text(data)
	if err != nil {
		return nil, nil, 0, ErrRead
	}
	rows, err := rowsOf(text)
	if err != nil {
		return nil, nil, 0, err
	}
	at, named := columns(rows[0].cells)
	_, stated := at["state"]
	if named {
		if _, has := at["email"]; !has {
			if _, has := at["name"]; !has {
				return nil, nil, 0, ErrWho
			}
		}
		rows = rows[1:]
	}
	for _, r := range rows {
		if !named {
			said = append(said, presence.Said{Line: r.line, Who: whoIn(r.cells)})
			continue
		}
		x := r.said(at)
		switch {
		case !r.of(at, starts):
			others++
		case x.Who == "" || x.State == presence.Unknown && stated:
		case x.State != presence.Unknown && !x.State.Valid():
			left = append(left, Left{x.Line, x.Who, ErrState})
		default:
			said = append(said, x)
		}
	}
	if len(said)+len(left)+others == 0 {
		return nil, nil, 0, ErrEmpty
	}
	return said, left, others, nil
}

type row struct {
	line  int
	cells []string
}

// rowsOf are the rows of a sheet in which something stands; at least one.
func rowsOf(text string) ([]row, error) {
	in := csv.NewReader(strings.NewReader(text))
	in.FieldsPerRecord, in.LazyQuotes, in.TrimLeadingSpace = -1, true, true
	head, _, _ := strings.Cut(text, "\n")
	for _, mark := range ";\t" {
		if strings.Count(head, string(mark)) > strings.Count(head, string(in.Comma)) {
			in.Comma = mark
		}
	}
	var out []row
	for {
		cells, err := in.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, ErrRead
		}
		for i, c := range cells {
			cells[i] = sheetcell.AsItWas(strings.TrimSpace(c))
		}
		if !slices.ContainsFunc(cells, func(c string) bool { return c != "" }) {
			continue
		}
		line, _ := in.FieldPos(0)
		if out = append(out, row{line, cells}); len(out) > MostLines {
			return nil, ErrLarge
		}
	}
	if len(out) == 0 {
		return nil, ErrEmpty
	}
	return out, nil
}

// names are those of the columns, and what others call them.
var names = map[string]string{"email": "email", "e-mail": "email", "mail": "email", "name": "name", "state": "state",
	"minutes_late": "minutes_late", "minutes_early": "minutes_early", "reason": "reason", "date": "date",
	"starts": "starts"}

// columns are where each stands; named says whether the row names any.
func columns(cells []string) (at map[string]int, named bool) {
	at = map[string]int{}
	for i, c := range cells {
		if name, known := names[strings.ToLower(c)]; known {
			at[name] = i
		}
	}
	return at, len(at) > 0
}

func (r row) cell(at map[string]int, column string) string {
	if i, has := at[column]; has && i < len(r.cells) {
		return r.cells[i]
	}
	return ""
}

func (r row) said(at map[string]int) presence.Said {
	minutes := func(column string) time.Duration {
		n, err := strconv.Atoi(r.cell(at, column))
		if err != nil || n < 0 {
			return 0
		}
		return time.Duration(min(n, 720)) * time.Minute
	}
	who := r.cell(at, "email")
	if who == "" {
		who = r.cell(at, "name")
	}
	return presence.Said{Line: r.line, Who: who, State: presence.State(strings.ToLower(r.cell(at, "state"))),
		Late: minutes("minutes_late"), Early: minutes("minutes_early"), Reason: r.cell(at, "reason")}
}

// of reports whether a row is about the lecture that starts then: it says so, or nothing else.
func (r row) of(at map[string]int, starts time.Time) bool {
	date, hour := r.cell(at, "date"), r.cell(at, "starts")
	return (date == "" || date == starts.Format(time.DateOnly)) && (hour == "" || hour == starts.Format("15:04"))
}

// whoIn is whom a line of a list names: the address in it, or else all of it.
func whoIn(cells []string) string {
	for _, c := range cells {
		if a, err := mail.ParseAddress(c); err == nil {
			return a.Address
		}
	}
	return strings.Join(strings.Fields(strings.Join(cells, " ")), " ")
}
