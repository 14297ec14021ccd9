// Package encoded reads text whatever program wrote it.
package encoded

import (
	"bytes"
	"errors"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
	"golang.org/x/text/transform"
)

// What is no text.
var (
	ErrEncoding = errors.New("its encoding is broken")
	ErrBytes    = errors.New("bytes that are no text")
)

// Text is a file as text, without the mark of its encoding: UTF-8, UTF-16 with its mark, or else the encoding of older
// programs of the west (Windows-1252), which western then says.
func Text(b []byte) (text string, western bool, err error) {
	switch {
	case bytes.HasPrefix(b, []byte{0xff, 0xfe}), bytes.HasPrefix(b, []byte{0xfe, 0xff}):
		out, _, err := transform.Bytes(unicode.UTF16(unicode.LittleEndian, unicode.ExpectBOM).NewDecoder(), b)
		if err != nil {
			return "", false, ErrEncoding
		}
		b = out
	case !utf8.Valid(b):
		if bytes.IndexByte(b, 0) >= 0 {
			return "", false, ErrBytes
		}
		if b, err = charmap.Windows1252.NewDecoder().Bytes(b); err != nil {
			return "", false, ErrEncoding
		}
		western = true
	}
	return strings.TrimPrefix(string(b), "\ufeff"), western, nil
}
