package signal

import (
	"encoding/binary"
	"errors"
	"math"
)

// Level is what was heard in one Window.
type Level struct {
	Power float32 // mean square of all channels together, K-weighted (ITU-R BS.1770-4)
	Peak  float32 // true peak of the louder channel; 1 is full scale
}

// Levels are those of windows that follow each other. Whatever is cut, those that are left say
// how loud it is.
type Levels []Level

// Integrated is the gated loudness of BS.1770-4 in LUFS: blocks of 400 ms every 100 ms, an
// absolute gate at -70 LUFS and a relative one 10 LU below; minus infinity for silence.
func (l Levels) Integrated() float64 {
	var blocks []float64
	for i := 4; i <= len(l); i++ {
		q := l[i-4 : i]
		blocks = append(blocks, (float64(q[0].Power)+float64(q[1].Power)+float64(q[2].Power)+float64(q[3].Power))/4)
	}
	gated := func(limit float64) float64 {
		sum, n := 0.0, 0
		for _, b := range blocks {
			if lufs(b) > limit {
				sum, n = sum+b, n+1
			}
		}
		return lufs(sum / math.Max(1, float64(n)))
	}
	const absolute = -70.0
	return gated(max(absolute, gated(absolute)-10))
}

// Peak is the true peak in dBTP; minus infinity for silence.
func (l Levels) Peak() float64 {
	var p float32
	for _, x := range l {
		p = max(p, x.Peak)
	}
	return 20 * math.Log10(float64(p))
}

// What a recording is brought to: a loudness in LUFS, and no peak above a limit in dBTP. What is
// so quiet that it would have to be made louder by more than MostGain is hardly speech.
const (
	Target    = -16.0
	PeakLimit = -1.0
	MostGain  = 20.0
)

// Gain is by how much a recording is made louder or quieter as a whole.
type Gain struct {
	DB       float64
	Loudness float64 // as it is, in LUFS
	Peak     float64 // as it is, in dBTP
	Limited  bool    // by its peak, or since it is so quiet: it stays below the target
}

// Gain is what brings the sound towards the target; ok is false when there is nothing to be heard.
func (l Levels) Gain() (g Gain, ok bool) {
	g.Loudness, g.Peak = l.Integrated(), l.Peak()
	if math.IsInf(g.Loudness, 0) || math.IsNaN(g.Loudness) {
		return Gain{}, false
	}
	want := Target - g.Loudness
	g.DB = min(want, PeakLimit-g.Peak, MostGain)
	g.Limited = g.DB < want
	return g, true
}

// Bytes writes levels as they are kept: two little-endian numbers of 32 bits each, IEEE 754.
func (l Levels) Bytes() []byte {
	out := make([]byte, 0, 8*len(l))
	for _, x := range l {
		out = binary.LittleEndian.AppendUint32(out, math.Float32bits(x.Power))
		out = binary.LittleEndian.AppendUint32(out, math.Float32bits(x.Peak))
	}
	return out
}

// ReadLevels reads what Bytes wrote.
func ReadLevels(b []byte) (Levels, error) {
	if len(b)%8 != 0 {
		return nil, errors.New("levels of an odd length")
	}
	out := make(Levels, len(b)/8)
	for i := range out {
		out[i].Power = math.Float32frombits(binary.LittleEndian.Uint32(b[8*i:]))
		out[i].Peak = math.Float32frombits(binary.LittleEndian.Uint32(b[8*i+4:]))
	}
	return out, nil
}
