package signal

import "math"

// loudness is the gated measurement of ITU-R BS.1770-4 for one channel: K-weighting, blocks
// of 400 ms every 100 ms, an absolute gate at -70 LUFS and a relative one 10 LU below.
type loudness struct {
	shelf, pass biquad
	ready       bool
	quarter     float64   // energy of the 100 ms under way
	n           int       //
	quarters    []float64 // mean square of each 100 ms
}

func (l *loudness) add(v float64) {
	if !l.ready {
		l.shelf, l.pass = kWeighting(Rate)
		l.ready = true
	}
	w := l.pass.step(l.shelf.step(v))
	l.quarter += w * w
	if l.n++; l.n == Rate/10 {
		l.quarters = append(l.quarters, l.quarter/float64(l.n))
		l.quarter, l.n = 0, 0
	}
}

func (l *loudness) integrated() float64 {
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

// biquad is a second-order filter, direct form II transposed.
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

// kWeighting gives the two filters of BS.1770 for any sample rate. The standard lists
// coefficients for 48 kHz; these are the analogue prototypes that yield them.
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
