package edge

import (
	"bytes"
	"errors"

	"latelantern/internal/core/fault"

	"github.com/danielgtaylor/huma/v2"
	"github.com/jackc/pgx/v5/pgconn"
)

// errNUL says that a text holds U+0000, which no text that people write does and PostgreSQL cannot keep.
var errNUL = fault.Code("nul")

// plainJSON reads JSON (RFC 8259) as usual, but none in which any text holds U+0000.
var plainJSON = huma.Format{Marshal: huma.DefaultJSONFormat.Marshal, Unmarshal: func(data []byte, v any) error {
	if holdsNUL(data) {
		return errNUL
	}
	return huma.DefaultJSONFormat.Unmarshal(data, v)
}}

// holdsNUL reports whether a text in JSON holds U+0000. There it can only stand escaped: as a backslash, which is
// itself not escaped, before u0000.
func holdsNUL(data []byte) bool {
	escape := []byte(`\u0000`)
	for at := 0; ; {
		n := bytes.Index(data[at:], escape)
		if n < 0 {
			return false
		}
		at += n
		slashes := 1
		for at-slashes >= 0 && data[at-slashes] == '\\' {
			slashes++
		}
		if slashes%2 == 1 {
			return true
		}
		at += len(escape)
	}
}

// unkept reports whether the database refused a text for its characters: the last line behind what is refused
// before, for texts that come in files.
func unkept(err error) bool {
	var p *pgconn.PgError
	return errors.As(err, &p) && (p.Code == "22021" || p.Code == "22P05")
}

// speaksOfNUL reports whether err is what plainJSON says of a text with U+0000.
func speaksOfNUL(err error) bool {
	var d huma.ErrorDetailer
	return errors.Is(err, errNUL) || errors.As(err, &d) && d.ErrorDetail().Message == errNUL.Error()
}
