package signal

import "math"

// LoudRate is the sample rate of the sound whose loudness is measured, in samples a second.
const LoudRate = 48000

// Meter measures the Levels of sound of one or two channels, which weigh the same. Feed it with
// Write; the zero value is ready, and one with Levels goes on after them.
type Meter struct {
	Levels   Levels
	channels [2]channel
	ready    bool
	energy   float64 // of the window under way, of all channels
	n        int     // samples of it
}

// channel is one channel under way: its weighing, and its last samples for the peaks between them.
type channel struct {
	shelf, pass biquad
	last        [16]float64
	peak        float64 // of the window under way
	floor       float64 // below which a sample cannot lie beside the peak
}

// Write takes one sample of each channel, between -1 and 1; of a single channel only the first.
func (l *Meter) Write(samples ...float64) {
	if !l.ready {
		for i := range l.channels {
			l.channels[i].shelf, l.channels[i].pass = kWeighting(LoudRate)
		}
		l.ready = true
	}
	for i, v := range samples {
		c := &l.channels[i]
		w := c.pass.step(c.shelf.step(v))
		l.energy += w * w
		c.look(l.n, v)
	}
	if l.n++; l.n == LoudRate/10 {
		level := Level{Power: float32(l.energy / float64(l.n))}
		for i := range samples {
			c := &l.channels[i]
			level.Peak = max(level.Peak, float32(c.peak))
			c.peak, c.floor = 0, c.peak/4
			c.shelf.settle()
			c.pass.settle()
		}
		l.Levels = append(l.Levels, level)
		l.energy, l.n = 0, 0
	}
}

// look finds the peak, between samples too: at four times the rate (BS.1770-4, annex 2), where a
// sample comes near it.
func (c *channel) look(n int, v float64) {
	c.last[n&15] = v
	here := c.last[(n-taps/2)&15]
	a := math.Abs(here)
	if a < 0.7*max(c.peak, c.floor) || a == 0 {
		return
	}
	c.peak = max(c.peak, a)
	for _, phase := range between {
		sum := 0.0
		for k, w := range phase {
			sum += w * c.last[(n-taps+1+k)&15]
		}
		c.peak = max(c.peak, math.Abs(sum))
	}
}

// between are filters that give the sound a quarter, a half and three quarters of a sample after
// the one in their middle.
const taps = 12

var between = func() (out [3][taps]float64) {
	for p := range out {
		at := float64(p+1) / 4
		for k := range taps {
			x := float64(k-taps/2+1) - at
			out[p][k] = math.Sin(math.Pi*x) / (math.Pi * x) * (0.5 + 0.5*math.Cos(math.Pi*x/(taps/2+0.5)))
		}
	}
	return out
}()

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

// settle ends what rings on in a silence, before it comes to numbers so small that a processor
// reckons with them a hundred times as slowly.
func (f *biquad) settle() {
	const nothing = 1e-30
	if math.Abs(f.z1) < nothing && math.Abs(f.z2) < nothing {
		f.z1, f.z2 = 0, 0
	}
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
	return biquad{b0: k * k / a0, b1: 2 * k * k / a0, b2: k * k / a0, a1: 2 * (k*k - 1) / a0,
		a2: (1 - math.Sqrt2*k + k*k) / a0}
}

// kWeighting gives the two filters of BS.1770-4, annex 1, for a sample rate.
func kWeighting(rate float64) (shelf, pass biquad) {
	const gain, q1, f1, q2, f2 = 3.999843853973347, 0.7071752369554196, 1681.974450955533, 0.5003270373238773,
		38.13547087602444
	k := math.Tan(math.Pi * f1 / rate)
	vh := math.Pow(10, gain/20)
	vb := math.Pow(vh, 0.4996667741545416)
	a0 := 1 + k/q1 + k*k
	shelf = biquad{b0: (vh + vb*k/q1 + k*k) / a0, b1: 2 * (k*k - vh) / a0, b2: (vh - vb*k/q1 + k*k) / a0,
		a1: 2 * (k*k - 1) / a0, a2: (1 - k/q1 + k*k) / a0}
	k = math.Tan(math.Pi * f2 / rate)
	a0 = 1 + k/q2 + k*k
	pass = biquad{b0: 1, b1: -2, b2: 1, a1: 2 * (k*k - 1) / a0, a2: (1 - k/q2 + k*k) / a0}
	return shelf, pass
}
