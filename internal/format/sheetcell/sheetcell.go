// Package sheetcell makes cells of CSV files (RFC 4180) safe in a spreadsheet, which computes what looks like a formula
// instead of showing it.
package sheetcell

import "strings"

// formula begins what a spreadsheet would compute.
const formula = "=+-@\t\r"

// Harmless keeps a cell from being taken for a formula: a quotation mark before it says that it is text.
func Harmless(s string) string {
	if rest := strings.TrimLeft(s, "'"); rest != "" && strings.ContainsRune(formula, rune(rest[0])) {
		return "'" + s
	}
	return s
}

// AsItWas takes the mark of Harmless away again, and no other.
func AsItWas(s string) string {
	if rest, marked := strings.CutPrefix(s, "'"); marked && Harmless(rest) == s {
		return rest
	}
	return s
}
