package capture

import (
	"errors"
	"time"

	"latelantern/internal/core/tally"
	"latelantern/internal/platform/media"
)

// packed is what one run of the packager made.
type packed struct {
	sinks   []*sink
	differs []tally.Difference // although all of it was encoded anew
}

// What makes a run of no use, since the same would be right when it is encoded anew.
var (
	errPicturesDiffer = errors.New("the pictures that can be watched are not those that came")
	errSoundDiffers   = errors.New("the sound that can be heard is not what came")
)

// alone is how much longer than the pictures the sound may be before a picture is shown with it.
const alone = time.Second

// compare holds what can be watched against what came of the source in the same run. What differs is
// to be encoded anew; where it was, it is kept to be told.
func (p *packed) compare(h how, source Source, came *ledger) error {
	for _, k := range p.sinks {
		d := tally.Difference{What: tally.Sound, Came: came.sound, Made: k.tally()}
		rule := tally.Rule{Count: !h.encodeSound}
		encoded, fault := h.encodeSound, errSoundDiffers
		if k.pictures {
			d.What, d.Came = tally.Pictures, came.pictures
			rule = tally.Rule{Count: !h.held(), Fields: h.probe.Video.Interlaced}
			encoded, fault = h.encodePictures, errPicturesDiffer
		}
		switch {
		case tally.Agrees(d.Came, d.Made, rule):
		case !encoded:
			return fault
		default:
			p.differs = append(p.differs, d)
		}
	}
	if d, cut := tally.CutOff(h.probe.Duration, came.length()); source == File && cut && h.says() {
		p.differs = append(p.differs, d)
	}
	if source == File && came.pictures.Frames > 0 && came.sound.Frames > 0 && !h.held() {
		var hold heldFor
		if late := came.pictures.Start; late-came.sound.Start > alone {
			hold.before = late
		}
		if left := came.sound.Last - came.pictures.Last; left > alone && !p.stands(left) {
			hold.after = left
		}
		if hold != (heldFor{}) {
			return hold
		}
	}
	return nil
}

// says reports whether the format of a file says how long it is; others only let it be guessed.
func (h how) says() bool { return h.format == media.MOV || h.format == media.Matroska }

// stands reports whether the last picture is shown that long by itself.
func (p *packed) stands(d time.Duration) bool {
	for _, k := range p.sinks {
		if k.pictures && len(k.index.Samples) > 0 {
			last := k.index.Shown(len(k.index.Samples) - 1)
			return k.index.Time(int64(last.Dur)) >= d-alone
		}
	}
	return false
}

// heldFor says that sound begins before the pictures, or ends after them: for so long the first and the last picture
// are to stand.
type heldFor struct{ before, after time.Duration }

func (h heldFor) Error() string { return "the sound begins before the pictures, or ends after them" }

// tally is what of a packaged track can be watched, but for silence that was laid before its sound.
func (k *sink) tally() tally.Track {
	var t tally.Track
	from := 0
	if k.grid != nil {
		from = k.grid.filled
	}
	for _, s := range k.index.Samples[min(from, len(k.index.Samples)):] {
		t.Add(k.index.Time(s.PTS))
	}
	return t
}
