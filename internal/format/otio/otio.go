// Package otio reads and writes cut lists as OpenTimelineIO JSON (the file format of
// OpenTimelineIO 0.15: Timeline.1, Stack.1, Track.1, Clip.1 and .2, Gap.1, RationalTime.1,
// TimeRange.1), so that a lecture can be cut in an editing program, and what was cut there
// taken over.
package otio

import (
	"encoding/json"
	"fmt"
	"math"
	"time"

	"latelantern/internal/core/fault"
	"latelantern/internal/core/span"
)

// Marker is a moment of the source that someone flagged.
type Marker struct {
	At   time.Duration
	Word string
}

// Cut is a cut list: which stretches of a source are kept, in order.
type Cut struct {
	Title  string
	Source string        // by which the recording is known; "" when the file does not say
	Media  string        // address of the recording; may be empty
	Length time.Duration // of the source; 0 when the file does not say
	Kept   []span.Span
	// Markers of the source, those on what is kept.
	Markers []Marker
}

// The ways in which a file can be refused; each is a sentence.
var (
	ErrBroken   = fault.Code("timeline.broken")
	ErrEmpty    = fault.Code("timeline.empty")
	ErrOrder    = fault.Code("timeline.order")
	ErrNested   = fault.Code("timeline.nested")
	ErrManyFile = fault.Code("timeline.many")
)

// rate is that of the times that are written: milliseconds.
const rate = 1000

// own is where the metadata of ours stand.
const own = "late_lantern"

type rational struct {
	Schema string  `json:"OTIO_SCHEMA"`
	Rate   float64 `json:"rate"`
	Value  float64 `json:"value"`
}

type timeRange struct {
	Schema   string   `json:"OTIO_SCHEMA"`
	Start    rational `json:"start_time"`
	Duration rational `json:"duration"`
}

type marker struct {
	Schema string    `json:"OTIO_SCHEMA"`
	Name   string    `json:"name"`
	Color  string    `json:"color"`
	Range  timeRange `json:"marked_range"`
}

type reference struct {
	Schema    string         `json:"OTIO_SCHEMA"`
	URL       string         `json:"target_url,omitempty"`
	Available *timeRange     `json:"available_range"`
	Metadata  map[string]any `json:"metadata"`
}

// item is anything that lies in a timeline.
type item struct {
	Schema     string               `json:"OTIO_SCHEMA"`
	Name       string               `json:"name"`
	Kind       string               `json:"kind,omitempty"`
	Range      *timeRange           `json:"source_range"`
	Children   []item               `json:"children,omitempty"`
	Markers    []marker             `json:"markers"`
	Effects    []any                `json:"effects"`
	Enabled    *bool                `json:"enabled,omitempty"`
	Metadata   map[string]any       `json:"metadata"`
	Reference  *reference           `json:"media_reference,omitempty"`            // Clip.1
	References map[string]reference `json:"media_references,omitempty"`           // Clip.2
	Active     string               `json:"active_media_reference_key,omitempty"` // Clip.2
}

type timeline struct {
	Schema   string         `json:"OTIO_SCHEMA"`
	Name     string         `json:"name"`
	Start    *rational      `json:"global_start_time"`
	Tracks   item           `json:"tracks"`
	Metadata map[string]any `json:"metadata"`
}

func written(d time.Duration) rational {
	return rational{"RationalTime.1", rate, float64(d.Milliseconds())}
}

func rangeOf(s span.Span) timeRange {
	return timeRange{"TimeRange.1", written(s.Start), written(s.Len())}
}

const defaultMedia = "DEFAULT_MEDIA"

// Write is a cut list as a file: a track of pictures and one of sound, with the same clips.
func Write(c Cut) ([]byte, error) {
	whole := rangeOf(span.Span{End: c.Length})
	about := map[string]any{own: map[string]any{"recording": c.Source}}
	track := func(kind, name string) item {
		t := item{Schema: "Track.1", Name: name, Kind: kind, Children: []item{}, Markers: []marker{}, Effects: []any{},
			Metadata: map[string]any{}}
		for n, k := range c.Kept {
			r := rangeOf(k)
			clip := item{Schema: "Clip.2", Name: fmt.Sprintf("%s %d", c.Title, n+1), Range: &r, Markers: []marker{},
				Effects: []any{}, Metadata: map[string]any{}, Active: defaultMedia,
				References: map[string]reference{defaultMedia: {Schema: "ExternalReference.1", URL: c.Media,
					Available: &whole, Metadata: about}}}
			for _, m := range c.Markers {
				if k.Contains(m.At) {
					clip.Markers = append(clip.Markers,
						marker{"Marker.2", m.Word, "GREEN", rangeOf(span.Span{Start: m.At, End: m.At})})
				}
			}
			t.Children = append(t.Children, clip)
		}
		return t
	}
	b, err := json.MarshalIndent(timeline{
		Schema: "Timeline.1", Name: c.Title,
		Metadata: map[string]any{own: map[string]any{"recording": c.Source, "length_ms": c.Length.Milliseconds()}},
		Tracks: item{Schema: "Stack.1", Name: "tracks",
			Children: []item{track("Video", "pictures"), track("Audio", "sound")}, Markers: []marker{},
			Effects: []any{}, Metadata: map[string]any{}},
	}, "", "  ")
	if err != nil {
		return nil, fmt.Errorf("write a timeline: %w", err)
	}
	return b, nil
}

// Read reads a cut list: the clips of the first track of pictures, or of the first track when
// there is none. Its error is one of those above.
func Read(b []byte) (Cut, error) {
	var t timeline
	if err := json.Unmarshal(b, &t); err != nil {
		return Cut{}, fmt.Errorf("%w: %w", ErrBroken, err)
	}
	if t.Schema != "Timeline.1" || t.Tracks.Schema != "Stack.1" {
		return Cut{}, ErrBroken
	}
	out := Cut{Title: t.Name, Source: recordingIn(t.Metadata)}
	var track *item
	for i := range t.Tracks.Children {
		x := &t.Tracks.Children[i]
		if x.Schema == "Track.1" && (track == nil || track.Kind != "Video" && x.Kind == "Video") {
			track = x
		}
	}
	if track == nil {
		return out, ErrEmpty
	}
	for _, x := range track.Children {
		switch x.Schema {
		case "Clip.1", "Clip.2":
			if x.Enabled != nil && !*x.Enabled {
				continue
			}
			if err := out.add(x); err != nil {
				return out, err
			}
		case "Gap.1", "Transition.1":
		case "Stack.1", "Track.1":
			return out, ErrNested
		default:
			return out, fmt.Errorf("%w: it holds %q", ErrBroken, x.Schema)
		}
	}
	if len(out.Kept) == 0 {
		return out, ErrEmpty
	}
	return out, nil
}

func (c *Cut) add(x item) error {
	ref := x.Reference
	if ref == nil && x.References != nil {
		key := x.Active
		if key == "" {
			key = defaultMedia
		}
		if r, ok := x.References[key]; ok {
			ref = &r
		}
	}
	r := x.Range
	if ref != nil {
		if source := recordingIn(ref.Metadata); source != "" {
			if c.Source != "" && c.Source != source {
				return ErrManyFile
			}
			c.Source = source
		}
		if c.Media == "" {
			c.Media = ref.URL
		} else if ref.URL != "" && ref.URL != c.Media {
			return ErrManyFile
		}
		if ref.Available != nil {
			whole, err := ref.Available.span()
			if err != nil {
				return err
			}
			c.Length = max(c.Length, whole.End)
		}
		if r == nil {
			r = ref.Available
		}
	}
	if r == nil {
		return fmt.Errorf("%w: a clip does not say which stretch it shows", ErrBroken)
	}
	s, err := r.span()
	if err != nil {
		return err
	}
	if s.Empty() {
		return nil
	}
	if n := len(c.Kept); n > 0 {
		switch last := &c.Kept[n-1]; {
		case s.Start < last.End:
			return ErrOrder
		case s.Start == last.End: // a cut through which nothing was taken out
			last.End = s.End
			return nil
		}
	}
	c.Kept = append(c.Kept, s)
	return nil
}

// span is a range in time, rounded to milliseconds.
func (r timeRange) span() (span.Span, error) {
	start, err := r.Start.time()
	if err != nil {
		return span.Span{}, err
	}
	length, err := r.Duration.time()
	if err != nil {
		return span.Span{}, err
	}
	if start < 0 || length < 0 {
		return span.Span{}, fmt.Errorf("%w: a time below zero", ErrBroken)
	}
	return span.Span{Start: start, End: start + length}, nil
}

// longest is the longest time that is believed.
const longest = 1000 * time.Hour

func (r rational) time() (time.Duration, error) {
	if !(r.Rate > 0) || math.IsInf(r.Rate, 0) || math.IsNaN(r.Value) || math.Abs(r.Value/r.Rate) > longest.Seconds() {
		return 0, fmt.Errorf("%w: %v at a rate of %v is no time", ErrBroken, r.Value, r.Rate)
	}
	return time.Duration(math.Round(r.Value/r.Rate*1000)) * time.Millisecond, nil
}

func recordingIn(metadata map[string]any) string {
	ours, _ := metadata[own].(map[string]any)
	id, _ := ours["recording"].(string)
	return id
}
