package media

import (
	"encoding/binary"
	"io"
)

// Unfinished reports whether a MOV file lacks the list of where its pictures and sound lie (moov,
// ISO/IEC 14496-12, 8.2.1), or a part of it, as when it was not copied to its end.
func Unfinished(f io.ReaderAt, size int64) bool {
	var head [16]byte
	for at := int64(0); at+8 <= size; {
		if _, err := f.ReadAt(head[:8], at); err != nil {
			return true
		}
		long, least := int64(binary.BigEndian.Uint32(head[:4])), int64(8)
		switch long {
		case 0: // to the end of the file
			long = size - at
		case 1:
			if _, err := f.ReadAt(head[:16], at); err != nil {
				return true
			}
			long, least = int64(binary.BigEndian.Uint64(head[8:])), 16
		}
		if string(head[4:8]) == "moov" {
			return long > size-at
		}
		if long < least || long > size-at {
			return true
		}
		at += long
	}
	return true
}
