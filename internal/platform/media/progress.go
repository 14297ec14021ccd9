package media

import (
	"bytes"
	"io"
	"strconv"
	"time"
)

// Progress reads what ffmpeg says of itself with its option -progress, and tells how much is written.
func Progress(done func(time.Duration)) io.Writer { return &progress{done: done} }

type progress struct {
	done func(time.Duration)
	line []byte
}

func (p *progress) Write(b []byte) (int, error) {
	p.line = append(p.line, b...)
	for {
		line, rest, whole := bytes.Cut(p.line, []byte("\n"))
		if !whole {
			return len(b), nil
		}
		if text, ok := bytes.CutPrefix(line, []byte("out_time_us=")); ok {
			if us, err := strconv.ParseInt(string(text), 10, 64); err == nil && us >= 0 {
				p.done(time.Duration(us) * time.Microsecond)
			}
		}
		p.line = rest
	}
}
