package media

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"math"
	"strconv"
	"strings"
	"time"
)

// Reach is how far the packets of an input go.
type Reach struct {
	Length       time.Duration // from the first packet of any stream, or from zero where that is earlier
	Video, Audio Extent        // of the first stream of each; the zero value for none
}

// Extent is from when to when packets of a stream are shown or heard.
type Extent struct{ Start, End time.Duration }

// Readable is what can be read of the input, which for a file that was cut off is less than it says. It
// reads all of it.
func Readable(ctx context.Context, in Input) (Reach, error) {
	args := append([]string{"-v", "error", "-of", "csv=p=0", "-show_entries",
		"packet=codec_type,stream_index,pts_time,duration_time"}, in.guard()...)
	// which say themselves when each packet is: nothing of a thousand tracks need be decoded
	if in.Format == MOV || in.Format == Matroska {
		args = append([]string{"-nofind_stream_info"}, args...)
	}
	cmd, cancel := command(ctx, 30*time.Minute, 10*time.Minute, 0, "ffprobe", append(args, in.Args()...)...)
	defer cancel()
	out, err := cmd.StdoutPipe()
	if err != nil {
		return Reach{}, fmt.Errorf("read the packets of media: %w", err)
	}
	var complaint tail
	cmd.Stderr = &complaint
	if err := cmd.Start(); err != nil {
		return Reach{}, fmt.Errorf("%w: read the packets of media: %w", ErrTool, err)
	}
	all, kinds := reaching{}, map[string]*reaching{}
	lines := bufio.NewScanner(out)
	for lines.Scan() {
		f := strings.Split(lines.Text(), ",") // kind, stream, time, length
		if len(f) < 4 {
			continue
		}
		at, err := strconv.ParseFloat(f[2], 64)
		if err != nil {
			continue
		}
		long, _ := strconv.ParseFloat(f[3], 64)
		all.add(at, long)
		if kinds[f[0]] == nil {
			kinds[f[0]] = &reaching{stream: f[1]}
		}
		if k := kinds[f[0]]; k.stream == f[1] {
			k.add(at, long)
		}
	}
	// A tool that complains of the end of a file has read what came before.
	if err := errors.Join(lines.Err(), cmd.Wait()); err != nil && !all.any {
		return Reach{}, fmt.Errorf("%w: read the packets of media: %w: %s", ErrTool, err, complaint.String())
	}
	// What begins before zero is not shown; what begins later is, from there on.
	zero := max(0, all.first)
	return Reach{Length: seconds(all.last - zero), Video: kinds["video"].extent(zero),
		Audio: kinds["audio"].extent(zero)}, nil
}

// reaching is how far the packets of a stream go, in seconds.
type reaching struct {
	stream      string
	any         bool
	first, last float64
}

func (r *reaching) add(at, long float64) {
	if !r.any {
		r.any, r.first, r.last = true, at, at+long
	}
	r.first, r.last = math.Min(r.first, at), math.Max(r.last, at+long)
}

func (r *reaching) extent(zero float64) Extent {
	if r == nil {
		return Extent{}
	}
	return Extent{Start: seconds(max(0, r.first-zero)), End: seconds(max(0, r.last-zero))}
}

func seconds(s float64) time.Duration { return time.Duration(s * float64(time.Second)) }
