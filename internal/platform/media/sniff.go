package media

import (
	"bytes"
	"encoding/binary"
	"errors"
)

// Format is a container as the media tools call it.
type Format string

const (
	MOV      Format = "mov"
	Matroska Format = "matroska"
	MPEGTS   Format = "mpegts"
	Ogg      Format = "ogg"
	WAV      Format = "wav"
	MP3      Format = "mp3"
	FLAC     Format = "flac"
)

// SniffLength is how many bytes Sniff wants to see, when there are as many.
const SniffLength = 512

// ErrNoMedia says that bytes are not of a format that can be taken.
var ErrNoMedia = errors.New("not a recording of a format that can be taken")

// Sniff tells the format of a source from its first bytes, never from its name.
func Sniff(b []byte) (Format, error) {
	switch {
	case len(b) >= 4 && binary.BigEndian.Uint32(b) == 0x1A45DFA3: // EBML (RFC 8794)
		return Matroska, nil
	case len(b) >= 12 && bytes.Equal(b[4:8], []byte("ftyp")): // ISO/IEC 14496-12
		return MOV, nil
	case bytes.HasPrefix(b, []byte("OggS")):
		return Ogg, nil
	case bytes.HasPrefix(b, []byte("fLaC")):
		return FLAC, nil
	case len(b) >= 12 && bytes.HasPrefix(b, []byte("RIFF")) && bytes.Equal(b[8:12], []byte("WAVE")):
		return WAV, nil
	case bytes.HasPrefix(b, []byte("ID3")), len(b) >= 2 && b[0] == 0xFF && b[1]&0xE6 == 0xE2:
		return MP3, nil
	case len(b) > 376 && b[0] == 0x47 && b[188] == 0x47 && b[376] == 0x47:
		return MPEGTS, nil
	}
	return "", ErrNoMedia
}
