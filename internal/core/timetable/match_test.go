package timetable

import (
	"strings"
	"testing"
	"time"
)

// The college of these tests is two hours ahead of UTC.
var shore = time.FixedZone("shore", 2*3600)

func at(clock string) time.Time {
	t, err := time.ParseInLocation("2006-01-02 15:04", "2026-10-12 "+clock, shore)
	if err != nil {
		panic(err)
	}
	return t
}

// monday is a day of the term: two lectures at ten in two halls, and others around them.
var monday = []Slot{
	{ID: "tid", Code: "TID 210", Hall: "Kelp Hall", Start: at("10:00"), End: at("11:00")},
	{ID: "boa", Code: "BOA 140", Hall: "Boathouse 2", Start: at("10:00"), End: at("11:00")},
	{ID: "alg", Code: "ALG 118", Hall: "Kelp Hall", Start: at("11:00"), End: at("12:00")},
	{ID: "sig", Code: "SIG 305", Hall: "Net Loft", Start: at("14:00"), End: at("15:30")},
}

func TestMatches(t *testing.T) {
	hour := time.Hour
	for _, c := range []struct {
		name string
		e    Evidence
		want string // the likeliest, its reading, and ! when it is sure
	}{
		{"by its own time, when only one lecture is held", Evidence{Inside: at("14:02"), Length: 85 * time.Minute},
			"sig inside !"},
		{"by its own time and the hall in its name",
			Evidence{Inside: at("10:03"), Length: 50 * time.Minute, Words: "kelp_hall-0042.mp4"}, "tid inside !"},
		{"by its own time and the course in its folder",
			Evidence{Inside: at("10:03"), Length: 50 * time.Minute, Words: "BOA140/video.mov"}, "boa inside !"},
		{"two lectures at that time, and nothing to tell them apart",
			Evidence{Inside: at("10:03"), Length: 50 * time.Minute, Words: "video.mp4"}, "boa inside"},
		{"a hall in which nothing is held then", Evidence{Inside: at("14:02"), Length: hour, Words: "Boathouse 2.mp4"},
			"sig inside"},
		{"the course of another lecture in its name", Evidence{Inside: at("14:02"), Length: hour, Words: "ALG 118.mp4"},
			"sig inside"},
		{"a date code", Evidence{Length: 80 * time.Minute, Words: "20261012_140155.mkv"}, "sig name !"},
		{"a date code, the day first in folders", Evidence{Length: hour, Words: "2026-10-12/Net Loft/14.00.mkv"},
			"sig day !"},
		{"a date and no clock", Evidence{Length: hour, Words: "lecture 2026-10-12.mp4"}, "boa day"},
		{"a date and a course", Evidence{Length: hour, Words: "sig305 2026-10-12.mp4"}, "sig day !"},
		{"its own time is when it ended", Evidence{Inside: at("15:28"), Length: 85 * time.Minute}, "sig inside_end"},
		{"its own time is when it ended, and its name says the hall",
			Evidence{Inside: at("15:28"), Length: 85 * time.Minute, Words: "Net Loft"}, "sig inside_end !"},
		{"its own time is the clock on the wall",
			Evidence{Inside: at("14:02").Add(2 * hour), Length: 20 * time.Minute, Words: "net-loft"},
			"sig inside_wall !"},
		{"only the date of the file", Evidence{Modified: at("15:31"), Length: 85 * time.Minute, Words: "a.mp4"},
			"sig file"},
		{"the date of the file, and the course",
			Evidence{Modified: at("15:31"), Length: 85 * time.Minute, Words: "SIG 305.mp4"}, "sig file !"},
		{"begun ten minutes before", Evidence{Inside: at("13:50"), Length: 110 * time.Minute}, "sig inside !"},
		{"the second half alone", Evidence{Inside: at("14:50"), Length: 40 * time.Minute}, "sig inside !"},
		{"left running all afternoon", Evidence{Inside: at("13:58"), Length: 6 * hour}, "sig inside !"},
		{"two lectures in one", Evidence{Inside: at("10:00"), Length: 2 * hour, Words: "Kelp Hall"}, "tid inside"},
		{"a length that is not known", Evidence{Inside: at("14:10")}, "sig inside !"},
		{"in the evening", Evidence{Inside: at("20:00"), Length: hour}, ""},
		{"another day", Evidence{Inside: at("14:00").AddDate(0, 0, -3), Length: hour}, ""},
		{"nothing known of it", Evidence{}, ""},
		{"its name and its own time do not agree",
			Evidence{Inside: at("14:02"), Length: 50 * time.Minute, Words: "20261012_1103.mp4"}, "sig inside"},
	} {
		got := ""
		if m := Matches(c.e, shore, monday); len(m) > 0 {
			got = m[0].ID + " " + string(m[0].By)
			if m[0].Sure {
				got += " !"
			}
			for _, other := range m[1:] {
				if other.Sure {
					t.Errorf("%s: %s is sure as well", c.name, other.ID)
				}
			}
		}
		if got != c.want {
			t.Errorf("%s: %q, not %q", c.name, got, c.want)
		}
	}
}

// TestALectureThatIsCaptured is proposed, and never taken without asking.
func TestALectureThatIsCaptured(t *testing.T) {
	if m := Matches(Evidence{Inside: at("10:03"), Length: time.Hour}, shore,
		[]Slot{{ID: "a", Start: at("10:00"), End: at("11:00"), Captured: true},
			{ID: "b", Start: at("10:00"), End: at("11:00")}}); len(m) != 2 || m[0].ID != "b" || m[0].Sure {
		t.Errorf("beside one that is not: %+v", m)
	}
	held := []Slot{monday[3]}
	held[0].Captured = true
	if m := Matches(Evidence{Inside: at("14:02"), Length: time.Hour}, shore, held); len(m) != 1 || m[0].Sure {
		t.Errorf("%+v", m)
	}
}

func TestNamedTime(t *testing.T) {
	for _, c := range []struct{ words, want string }{
		{"20261012_100312.mp4", "2026-10-12 10:03:12 clock"},
		{"2026-10-12 10.03.12", "2026-10-12 10:03:12 clock"},
		{"2026-10-12T10:03", "2026-10-12 10:03:00 clock"},
		{"VID-20261012-1003", "2026-10-12 10:03:00 clock"},
		{"rec 2026_10_12 at 10h03", "2026-10-12 10:03:00 clock"},
		{"lecture_2026-10-12", "2026-10-12 00:00:00"},
		{"week 4 (2026-10-12) part 2", "2026-10-12 00:00:00"},
		{"20261350_100312", ""},
		{"2026-02-30", ""},
		{"000020261012999", ""},
		{"video", ""},
		{"", ""},
	} {
		got := ""
		if when, clock, ok := NamedTime(c.words, shore); ok {
			if got = when.Format(time.DateTime); clock {
				got += " clock"
			}
		}
		if got != c.want {
			t.Errorf("%q: %q, not %q", c.words, got, c.want)
		}
	}
}

// FuzzNamedTime: a date that is read stands in the name.
func FuzzNamedTime(f *testing.F) {
	for _, s := range []string{"20261012_100312.mp4", "2026-10-12 at 10h03", "x20000000", "2026-02-29"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, words string) {
		if when, _, ok := NamedTime(words, shore); ok &&
			(!strings.Contains(words, when.Format("2006")) || !strings.Contains(words, when.Format("02"))) {
			t.Errorf("%q is read as %v", words, when)
		}
	})
}

// TestWhatADayAloneSays is left out where a time says more, unless the words speak for it.
func TestWhatADayAloneSays(t *testing.T) {
	for words, want := range map[string]string{
		"2026-10-12 lecture.mp4":   "sig",
		"2026-10-12 Kelp Hall.mp4": "tid alg sig",
		"2026-10-12 alg118.mp4":    "alg sig",
	} {
		var got []string
		e := Evidence{Inside: at("14:02"), Length: 50 * time.Minute, Words: words}
		for _, m := range Matches(e, shore, monday) {
			got = append(got, m.ID)
		}
		if strings.Join(got, " ") != want {
			t.Errorf("%s: %v, want %s", words, got, want)
		}
	}
}
