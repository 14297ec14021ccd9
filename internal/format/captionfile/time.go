package captionfile

import (
	"errors"
	"fmt"
	"strconv"
	"strings"
	"time"
)

var (
	errTime     = errors.New("this is no time")
	errNegative = errors.New("a time before the beginning")
)

// parseTime reads hours, minutes and seconds apart by colons, hours being optional, and a point or
// a comma before thousandths. Programs leave digits of the last away.
func parseTime(text string) (time.Duration, error) {
	if rest, ok := strings.CutPrefix(text, "-"); ok {
		if d, err := parseTime(rest); err == nil && d > 0 {
			return 0, errNegative
		}
		return 0, errTime
	}
	whole, fraction, _ := strings.Cut(strings.ReplaceAll(text, ",", "."), ".")
	parts := strings.Split(whole, ":")
	if len(parts) < 2 || len(parts) > 3 || len(fraction) > 9 {
		return 0, errTime
	}
	total := time.Duration(0)
	for i, p := range parts {
		n, err := number(p)
		if err != nil || len(p) > 4 || i > 0 && (n > 59 || len(p) != 2) {
			if strings.HasPrefix(p, "-") {
				return 0, errNegative
			}
			return 0, errTime
		}
		total = total*60 + time.Duration(n)
	}
	total *= time.Second
	if fraction != "" {
		n, err := number(fraction)
		if err != nil {
			return 0, errTime
		}
		d := time.Duration(n)
		for range 9 - len(fraction) {
			d *= 10
		}
		total += d.Round(time.Millisecond)
	}
	return total, nil
}

// number reads digits alone.
func number(text string) (uint64, error) {
	if strings.HasPrefix(text, "+") {
		return 0, errTime
	}
	return strconv.ParseUint(text, 10, 31)
}

// stamp is a time as files write it, with a mark before the thousandths.
func stamp(t time.Duration, mark byte) string {
	ms := t.Round(time.Millisecond).Milliseconds()
	return fmt.Sprintf("%02d:%02d:%02d%c%03d", ms/3600_000, ms/60_000%60, ms/1000%60, mark, ms%1000)
}
