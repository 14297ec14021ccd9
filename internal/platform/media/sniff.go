package media

import (
	"bytes"
	"encoding/binary"
	"errors"
	"strings"
)

// Format is a container as the media tools call it.
type Format string

// The formats that are taken.
const (
	MOV      Format = "mov"
	Matroska Format = "matroska"
	MPEGTS   Format = "mpegts" // also with the four bytes of a time before each packet, as cameras write it
	MPEGPS   Format = "mpeg"   // a program stream
	AVI      Format = "avi"
	ASF      Format = "asf"
	FLV      Format = "flv"
	MXF      Format = "mxf"
	Ogg      Format = "ogg"
	WAV      Format = "wav" // also of more than 4 GB (RF64)
	Wave64   Format = "w64"
	AIFF     Format = "aiff"
	MP3      Format = "mp3"
	FLAC     Format = "flac"
	AAC      Format = "aac" // frames of AAC by themselves (ADTS)
	AC3      Format = "ac3"
	EAC3     Format = "eac3"
)

// formats is what a tool may read at all: a name of ours may be one of several that a reader of the tool has.
const formats = "mov,matroska,mpegts,mpeg,avi,asf,flv,mxf,ogg,wav,w64,aiff,mp3,flac,aac,ac3,eac3"

// SniffLength is how many bytes Sniff wants to see, when there are as many.
const SniffLength = 640

// ErrNoMedia says that bytes are not of a format that can be taken.
var ErrNoMedia = errors.New("not a recording of a format that can be taken")

// Other is something known that is no recording that can be taken; its value names it in the catalogue of sentences.
type Other string

func (o Other) Error() string { return ErrNoMedia.Error() + ": " + string(o) }

// Is makes an Other an ErrNoMedia.
func (o Other) Is(err error) bool { return err == ErrNoMedia }

// What is known, and is no recording.
const (
	Document Other = "document" // a text or slides
	Picture  Other = "picture"
	Archive  Other = "archive"
	Page     Other = "page" // of the web
	List     Other = "list" // names of other files, and none of their bytes
	Notes    Other = "notes"
	Locked   Other = "locked_format" // a format of recordings that no tool here reads
)

// begins are marks that formats begin with, at an offset.
var begins = []struct {
	at   int
	mark string
	is   Format
}{
	{0, "\x1A\x45\xDF\xA3", Matroska}, // EBML (RFC 8794)
	{0, "OggS", Ogg},                  // RFC 3533
	{0, "fLaC", FLAC},                 // RFC 9639
	{0, "FLV\x01", FLV},
	{0, "\x30\x26\xB2\x75\x8E\x66\xCF\x11\xA6\xD9\x00\xAA\x00\x62\xCE\x6C", ASF}, // the GUID of its header object
	{0, "\x06\x0E\x2B\x34\x02\x05\x01\x01\x0D\x01\x02", MXF},                     // SMPTE 377-1, 6.5
	{0, "riff\x2E\x91\xCF\x11\xA5\xD6\x28\xDB\x04\xC1\x00\x00", Wave64},
	{0, "\x00\x00\x01\xBA", MPEGPS}, // ISO/IEC 13818-1, 2.5.3.3
}

// others are marks of what is no recording.
var others = []struct {
	mark string
	is   Other
}{
	{"%PDF-", Document}, {"{\\rtf", Document}, {"\xD0\xCF\x11\xE0\xA1\xB1\x1A\xE1", Document},
	{"\xFF\xD8\xFF", Picture}, {"\x89PNG\r\n", Picture}, {"GIF8", Picture}, {"BM", Picture}, {"II*\x00", Picture},
	{"MM\x00*", Picture},
	{"PK\x03\x04", Archive}, {"7z\xBC\xAF\x27\x1C", Archive}, {"Rar!", Archive}, {"\x1F\x8B", Archive},
	{"#EXTM3U", List}, {"ffconcat", List}, {"[playlist]", List}, {"MThd", Notes}, {".RMF", Locked},
}

// Sniff tells the format of a source from its first bytes, never from its name. Its error is an
// Other for what is known to be something else, and else ErrNoMedia.
func Sniff(b []byte) (Format, error) {
	for _, x := range begins {
		if len(b) >= x.at+len(x.mark) && string(b[x.at:x.at+len(x.mark)]) == x.mark {
			return x.is, nil
		}
	}
	if f := sniffChunks(b); f != "" {
		return f, nil
	}
	for _, x := range others {
		if bytes.HasPrefix(b, []byte(x.mark)) {
			return "", x.is
		}
	}
	if f := sniffFrames(b); f != "" {
		return f, nil
	}
	if text := strings.ToLower(strings.TrimSpace(string(b[:min(len(b), 200)]))); strings.HasPrefix(text,
		"<!doctype html") || strings.HasPrefix(text, "<html") {
		return "", Page
	}
	return "", ErrNoMedia
}

// sniffChunks knows what is made of chunks or boxes with a name.
func sniffChunks(b []byte) Format {
	if len(b) < 12 {
		return ""
	}
	kind := string(b[8:12])
	switch string(b[:4]) {
	case "RIFF", "RF64", "BW64": // EBU Tech 3306, ITU-R BS.2088
		switch kind {
		case "WAVE":
			return WAV
		case "AVI ":
			return AVI
		}
	case "FORM":
		if kind == "AIFF" || kind == "AIFC" {
			return AIFF
		}
	}
	// ISO/IEC 14496-12; what is older than its first box begins with any of the others.
	switch string(b[4:8]) {
	case "ftyp", "moov", "mdat", "wide", "skip", "free", "pnot":
		if size := binary.BigEndian.Uint32(b); size >= 8 || size <= 1 {
			return MOV
		}
	}
	return ""
}

// sniffFrames knows what has no head, but packets or frames one after another.
func sniffFrames(b []byte) Format {
	every := func(from, step int) bool {
		return len(b) > from+2*step && b[from] == 0x47 && b[from+step] == 0x47 && b[from+2*step] == 0x47
	}
	switch {
	case every(0, 188), every(4, 192): // ISO/IEC 13818-1, 2.4.3.2
		return MPEGTS
	case bytes.HasPrefix(b, []byte("ID3")):
		return afterTag(b)
	case len(b) >= 7 && b[0] == 0x0B && b[1] == 0x77: // ETSI TS 102 366, 4.4.1 and E.1.2
		if b[5]>>3 > 10 {
			return EAC3
		}
		return AC3
	case len(b) >= 7 && b[0] == 0xFF && b[1]&0xF6 == 0xF0 && b[2]>>2&0xF < 13: // ISO/IEC 13818-7, 6.2
		return AAC
	// ISO/IEC 11172-3, 2.4.1.3
	case len(b) >= 4 && b[0] == 0xFF && b[1]&0xE0 == 0xE0 && b[1]>>3&3 != 1 && b[1]>>1&3 != 0 && b[2]>>4 != 15 &&
		b[2]>>2&3 != 3:
		return MP3
	}
	return ""
}

// afterTag is what follows the names that a file of sound begins with (ID3v2, its size in four times seven bits).
func afterTag(b []byte) Format {
	if len(b) >= 10 {
		size := int(b[6]&0x7F)<<21 | int(b[7]&0x7F)<<14 | int(b[8]&0x7F)<<7 | int(b[9]&0x7F)
		if size+10 < len(b) {
			if f := sniffFrames(b[size+10:]); f != "" {
				return f
			}
			if bytes.HasPrefix(b[size+10:], []byte("fLaC")) {
				return FLAC
			}
		}
	}
	return MP3
}
