// Package playlistfile writes and reads playlists as files: XSPF version 1 (the XML Shareable Playlist Format), M3U as
// players have it, in UTF-8, with the tags that they know (EXTINF, PLAYLIST, EXTGRP), and CSV (RFC 4180), with cells
// that no spreadsheet computes, and IMS Common Cartridge 1.3 with web links. XSPF and CSV are read back.
package playlistfile

import (
	"strings"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/core/fault"
)

// Line is a heading, a recording or a page elsewhere.
type Line struct {
	Heading   string        // of a heading; "" for others
	About     string        // a sentence below a heading
	Title     string        // of others
	Address   string        // where it is watched or read
	Recording uuid.UUID     // uuid.Nil for a page elsewhere, and where a file does not say
	Course    string        // the code of its course
	Week      int           // 0 for none
	Date      string        // of its lecture, as 2026-10-06; "" for none
	Length    time.Duration // 0 when it is not known
}

// List is a playlist as a file has it.
type List struct {
	Title, About string
	Lines        []Line
}

// The ways in which a file can be refused; each is a sentence.
var (
	ErrBroken = fault.Code("playlistfile.broken") // neither a list in XML nor one in CSV
	ErrEmpty  = fault.Code("playlistfile.empty")
	ErrLong   = fault.Code("playlistfile.long")
)

// MostLines is how many lines are read.
const MostLines = 2000

// columns are those of a CSV file.
var columns = []string{"heading", "title", "course", "week", "date", "length", "address", "recording"}

// urn begins the identifier of a recording (RFC 9562, 4).
const urn = "urn:uuid:"

// recordingOf is the recording that an identifier or the address of its page names; uuid.Nil for none.
func recordingOf(texts ...string) uuid.UUID {
	for _, t := range texts {
		t = strings.TrimRight(strings.TrimSpace(t), "/")
		at := strings.LastIndexAny(t, "/:")
		if at >= 0 && (strings.HasPrefix(t, urn) || strings.HasSuffix(t[:at], "/watch")) {
			t = t[at+1:]
		}
		if id, err := uuid.Parse(t); err == nil && len(t) == 36 {
			return id
		}
	}
	return uuid.Nil
}
