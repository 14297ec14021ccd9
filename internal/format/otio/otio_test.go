package otio

import (
	"encoding/json"
	"errors"
	"reflect"
	"strings"
	"testing"
	"time"

	"latelantern/internal/core/span"
)

const s = time.Second

var cut = Cut{
	Title: "Spring tides", Source: "0192f5e0-0000-7000-8000-000000000001",
	Media: "https://lectures.college.example/recordings/1", Length: 3600 * s,
	Kept: []span.Span{{Start: 41200 * time.Millisecond, End: 1810 * s},
		{Start: 2408 * s, End: 3482500 * time.Millisecond}},
}

func TestThereAndBack(t *testing.T) {
	b, err := Write(cut)
	if err != nil {
		t.Fatal(err)
	}
	got, err := Read(b)
	if err != nil || !reflect.DeepEqual(got, cut) {
		t.Errorf("%+v %v", got, err)
	}
	var plain map[string]any
	if err := json.Unmarshal(b, &plain); err != nil || plain["OTIO_SCHEMA"] != "Timeline.1" {
		t.Errorf("%v %v", plain["OTIO_SCHEMA"], err)
	}
}

func TestMarkersLieOnWhatIsKept(t *testing.T) {
	c := cut
	c.Markers = []Marker{{60 * s, "here"}, {2000 * s, "struck"}}
	b, err := Write(c)
	if err != nil {
		t.Fatal(err)
	}
	// in both tracks
	if n := strings.Count(string(b), `"Marker.2"`); n != 2 || strings.Contains(string(b), `"struck"`) {
		t.Errorf("%d markers", n)
	}
}

// of is a file with these children in its track of pictures.
func of(children string) string {
	return `{"OTIO_SCHEMA":"Timeline.1","name":"x","tracks":{"OTIO_SCHEMA":"Stack.1","children":[{"OTIO_SCHEMA":"Track.1","kind":"Audio","children":[]},{"OTIO_SCHEMA":"Track.1","kind":"Video","children":[` + children + `]}]}}`
}

func clip(start, long float64, rate string) string {
	n := func(v float64) string { b, _ := json.Marshal(v); return string(b) }
	return `{"OTIO_SCHEMA":"Clip.1","name":"a","source_range":{"OTIO_SCHEMA":"TimeRange.1","start_time":{"OTIO_SCHEMA":"RationalTime.1","rate":` + rate + `,"value":` + n(start) + `},"duration":{"OTIO_SCHEMA":"RationalTime.1","rate":` + rate + `,"value":` + n(long) + `}},"media_reference":{"OTIO_SCHEMA":"MissingReference.1"}}`
}

func TestWhatOthersWrite(t *testing.T) {
	for name, c := range map[string]struct {
		text string
		kept []span.Span
		err  error
	}{
		"clips in pictures": {of(clip(25, 250, "25") + "," + clip(500, 25, "25")),
			[]span.Span{{Start: s, End: 11 * s}, {Start: 20 * s, End: 21 * s}}, nil},
		"a rate that is no number": {of(clip(30, 60, "29.97002997")),
			[]span.Span{{Start: 1001 * time.Millisecond, End: 3003 * time.Millisecond}}, nil},
		"a gap and a transition": {of(`{"OTIO_SCHEMA":"Gap.1"},` + clip(0, 25, "25") +
			`,{"OTIO_SCHEMA":"Transition.1"},` + clip(50, 25, "25")), []span.Span{{End: s}, {Start: 2 * s, End: 3 * s}},
			nil},
		"cut through": {of(clip(0, 25, "25") + "," + clip(25, 25, "25")), []span.Span{{End: 2 * s}},
			nil},
		"a clip that is turned off": {of(clip(0, 25, "25") + "," +
			strings.Replace(clip(50, 25, "25"), `"name"`, `"enabled":false,"name"`, 1)), []span.Span{{End: s}}, nil},
		"another order":               {of(clip(50, 25, "25") + "," + clip(0, 25, "25")), nil, ErrOrder},
		"one over another":            {of(clip(0, 50, "25") + "," + clip(25, 50, "25")), nil, ErrOrder},
		"nothing":                     {of(""), nil, ErrEmpty},
		"a timeline within":           {of(`{"OTIO_SCHEMA":"Stack.1","children":[]}`), nil, ErrNested},
		"something else":              {of(`{"OTIO_SCHEMA":"Sculpture.1"}`), nil, ErrBroken},
		"no rate":                     {of(clip(0, 25, "0")), nil, ErrBroken},
		"below zero":                  {of(clip(-25, 50, "25")), nil, ErrBroken},
		"for ever":                    {of(clip(0, 1e18, "25")), nil, ErrBroken},
		"no timeline":                 {`{"OTIO_SCHEMA":"Clip.1"}`, nil, ErrBroken},
		"no JSON":                     {`OTIO`, nil, ErrBroken},
		"cut off":                     {of(clip(0, 25, "25"))[:200], nil, ErrBroken},
		"a clip that says no stretch": {of(`{"OTIO_SCHEMA":"Clip.1"}`), nil, ErrBroken},
	} {
		got, err := Read([]byte(c.text))
		if !errors.Is(err, c.err) || c.err == nil && !reflect.DeepEqual(got.Kept, c.kept) {
			t.Errorf("%s: %v %v", name, got.Kept, err)
		}
	}
}

func TestClipsOfTwoRecordings(t *testing.T) {
	a, _ := Write(cut)
	other := cut
	other.Source = "another"
	b, _ := Write(other)
	mixed := strings.Replace(string(a), cut.Source, "", 1) // the timeline itself does not say
	mixed = strings.Replace(mixed, cut.Source, other.Source, 1)
	if _, err := Read([]byte(mixed)); !errors.Is(err, ErrManyFile) {
		t.Errorf("%v (%d bytes)", err, len(b))
	}
}

// FuzzRead: what is read is in order, and is the same when it is written and read again.
func FuzzRead(f *testing.F) {
	b, _ := Write(cut)
	f.Add(b)
	f.Add([]byte(of(clip(25, 250, "25"))))
	f.Fuzz(func(t *testing.T, b []byte) {
		c, err := Read(b)
		if err != nil {
			return
		}
		for i, k := range c.Kept {
			if k.Empty() || k.Start < 0 || i > 0 && k.Start < c.Kept[i-1].End {
				t.Fatalf("%v", c.Kept)
			}
		}
		again, err := Write(c)
		if err != nil {
			return // a title that is no text
		}
		if d, err := Read(again); err != nil || !reflect.DeepEqual(d.Kept, c.Kept) {
			t.Errorf("%v %v, not %v", d.Kept, err, c.Kept)
		}
	})
}
