package capture

import (
	"bufio"
	"bytes"
	"errors"
	"io"
	"strconv"
	"strings"
	"time"

	"latelantern/internal/core/tally"
)

// ledger counts what the tool reads of a source, packet by packet, in the same reading in which the
// track is packaged: the checksums of the tool's framecrc, a line for each packet.
type ledger struct {
	pictures, sound tally.Track
	streams         []*ledgerStream
}

// ledgerStream is one stream that is counted.
type ledgerStream struct {
	to       *tally.Track
	num, den int64 // of its ticks, in seconds
	pending  map[int64]bool
}

// ledgerArgs are the output of the tool that a ledger reads.
func ledgerArgs(h how, pipe string) []string {
	var args []string
	if h.probe.Video != nil {
		args = append(args, "-map", "0:V:0")
	}
	if h.probe.Audio != nil {
		args = append(args, "-map", "0:a:0")
	}
	return append(args, "-c", "copy", "-t", longest, "-avoid_negative_ts", "disabled", "-f", "framecrc", pipe)
}

func newLedger(h how) *ledger {
	l := new(ledger)
	if h.probe.Video != nil {
		l.streams = append(l.streams, &ledgerStream{to: &l.pictures, num: 1, den: 1, pending: map[int64]bool{}})
	}
	if h.probe.Audio != nil {
		l.streams = append(l.streams, &ledgerStream{to: &l.sound, num: 1, den: 1, pending: map[int64]bool{}})
	}
	return l
}

// length is how far what was read reaches.
func (l *ledger) length() time.Duration { return max(l.pictures.Last, l.sound.Last) }

// read reads lines until the end of r. What it does not understand it leaves out.
func (l *ledger) read(r io.Reader) error {
	in := bufio.NewReaderSize(r, 64<<10)
	for {
		line, err := in.ReadSlice('\n')
		if errors.Is(err, bufio.ErrBufferFull) { // the extra data of a stream
			continue
		}
		l.line(line)
		if err != nil {
			if errors.Is(err, io.EOF) {
				return nil
			}
			return err
		}
	}
}

// discarded is the flag of a packet that is to be decoded and not shown.
const discarded = 0x4

func (l *ledger) line(b []byte) {
	if text, ok := bytes.CutPrefix(b, []byte("#tb ")); ok { // "#tb 0: 1/1000"
		n, base, _ := strings.Cut(strings.TrimSpace(string(text)), ": ")
		num, den, _ := strings.Cut(base, "/")
		i, err := strconv.Atoi(n)
		a, err2 := strconv.ParseInt(num, 10, 64)
		d, err3 := strconv.ParseInt(den, 10, 64)
		if errors.Join(err, err2, err3) == nil && i >= 0 && i < len(l.streams) && d > 0 {
			l.streams[i].num, l.streams[i].den = a, d
		}
		return
	}
	var f [8]string
	fields := bytes.Split(b, []byte{','})
	if len(fields) < 6 || b[0] == '#' {
		return
	}
	for i := range min(len(fields), len(f)) {
		f[i] = strings.TrimSpace(string(fields[i]))
	}
	i, err := strconv.Atoi(f[0])
	if err != nil || i < 0 || i >= len(l.streams) {
		return
	}
	at, err := strconv.ParseInt(f[2], 10, 64)
	if err != nil { // no time of its own: when it is decoded
		if at, err = strconv.ParseInt(f[1], 10, 64); err != nil {
			return
		}
	}
	for _, more := range f[6:] {
		if text, ok := strings.CutPrefix(more, "F=0x"); ok {
			if flags, err := strconv.ParseInt(text, 16, 64); err == nil && flags&discarded != 0 {
				return
			}
		}
	}
	l.streams[i].add(at)
}

// lookBack is of how many packets it is known whether another has the same time: pictures of one
// time are one that is shown.
const lookBack = 64

func (s *ledgerStream) add(at int64) {
	if s.pending[at] {
		return
	}
	if len(s.pending) > lookBack {
		clear(s.pending)
	}
	s.pending[at] = true
	seconds := float64(at) * float64(s.num) / float64(s.den)
	s.to.Add(time.Duration(seconds * float64(time.Second)))
}
