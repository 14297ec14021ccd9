package signal

import "math"

// LoudRate is the sample rate of the sound whose loudness is measured, in samples a second.
const LoudRate = 48000

// Loudness is the gated measurement of ITU-R BS.1770-4: K-weighting of each channel, blocks of
// 400 ms every 100 ms, an absolute gate at -70 LUFS and a relative one 10 LU below. It takes up
// to two channels, which weigh the same. Feed it with Write; the zero value is ready.
type Loudness struct {
	channels [2]weighing
	ready    bool
	quarter  float64   // energy of the 100 ms under way, of all channels
	n        int       // samples of it
	quarters []float64 // mean square of each 100 ms
}

type weighing struct{ shelf, pass biquad }

// Write takes one sample of each channel, between -1 and 1; of a single channel only the first.
func (l *Loudness) Write(channels ...float64) {
	if !l.ready {
		for i := range l.channels {
			l.channels[i].shelf, l.channels[i].pass = kWeighting(LoudRate)
		}
		l.ready = true
	}
	for i, v := range channels {
		c := &l.channels[i]
		w := c.pass.step(c.shelf.step(v))
		l.quarter += w * w
	}
	if l.n++; l.n == LoudRate/10 {
		l.quarters = append(l.quarters, l.quarter/float64(l.n))
		l.quarter, l.n = 0, 0
	}
}

// Integrated is the loudness of all that was written in LUFS; minus infinity for silence.
func (l *Loudness) Integrated() float64 {
	var blocks []float64
	for i := 4; i <= len(l.quarters); i++ {
		q := l.quarters[i-4 : i]
		blocks = append(blocks, (q[0]+q[1]+q[2]+q[3])/4)
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
	return gated(gated(-70) - 10)
}

func lufs(meanSquare float64) float64 { return -0.691 + 10*math.Log10(meanSquare) }

// biquad is a filter of second order, in transposed direct form II.
type biquad struct {
	b0, b1, b2, a1, a2 float64
	z1, z2             float64
}

func (f *biquad) step(x float64) float64 {
	y := f.b0*x + f.z1
	f.z1 = f.b1*x - f.a1*y + f.z2
	f.z2 = f.b2*x - f.a2*y
	return y
}

// highPass and lowPass are Butterworth filters of second order (bilinear transform).
func highPass(hz, rate float64) biquad {
	k := math.Tan(math.Pi * hz / rate)
	a0 := 1 + math.Sqrt2*k + k*k
	return biquad{b0: 1 / a0, b1: -2 / a0, b2: 1 / a0, a1: 2 * (k*k - 1) / a0, a2: (1 - math.Sqrt2*k + k*k) / a0}
}

func lowPass(hz, rate float64) biquad {
	k := math.Tan(math.Pi * hz / rate)
	a0 := 1 + math.Sqrt2*k + k*k
	return biquad{b0: k * k / a0, b1: 2 * k * k / a0, b2: k * k / a0, a1: 2 * (k*k - 1) / a0, a2: (1 - math.Sqrt2*k + k*k) / a0}
}

// kWeighting gives the two filters of BS.1770-4, annex 1, for a sample rate.
func kWeighting(rate float64) (shelf, pass biquad) {
	const gain, q1, f1, q2, f2 = 3.999843853973347, 0.7071752369554196, 1681.974450955533, 0.5003270373238773, 38.13547087602444
	k := math.Tan(math.Pi * f1 / rate)
	vh := math.Pow(10, gain/20)
	vb := math.Pow(vh, 0.4996667741545416)
	a0 := 1 + k/q1 + k*k
	shelf = biquad{b0: (vh + vb*k/q1 + k*k) / a0, b1: 2 * (k*k - vh) / a0, b2: (vh - vb*k/q1 + k*k) / a0, a1: 2 * (k*k - 1) / a0, a2: (1 - k/q1 + k*k) / a0}
	k = math.Tan(math.Pi * f2 / rate)
	a0 = 1 + k/q2 + k*k
	pass = biquad{b0: 1, b1: -2, b2: 1, a1: 2 * (k*k - 1) / a0, a2: (1 - k/q2 + k*k) / a0}
	return shelf, pass
}
