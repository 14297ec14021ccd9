package trimming

import (
	"strings"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/core/caption"
	"latelantern/internal/core/tally"
)

// Bench is what the trim bench shows of a recording.
type Bench struct {
	ID            uuid.UUID        `json:"id" format:"uuid"`
	Course        page.CourseName  `json:"course"`
	Lecture       page.LectureCell `json:"lecture"`
	Week          int              `json:"week"`
	Zone          string           `json:"zone"`
	Title         string           `json:"title" doc:"as kept, or as suggested"`
	Titled        bool             `json:"titled"`
	Description   string           `json:"description"`
	Language      string           `json:"language" doc:"BCP 47; empty for that of the course"`
	Keywords      []string         `json:"keywords" nullable:"false"`
	State         string           `json:"state" enum:"waiting,running,ready,failed"`
	Fault         string           `json:"fault"`
	Source        string           `json:"source" enum:"desk,hall,file"`
	FileName      string           `json:"file_name"`
	Stopped       bool             `json:"stopped"`
	StoredBytes   int64            `json:"stored_bytes"`
	SizeBytes     int64            `json:"size_bytes" doc:"0 while it is not known"`
	LengthMs      int64            `json:"length_ms"`
	ExpectedMs    int64            `json:"expected_ms"`
	OwnCopy       bool             `json:"own_copy" doc:"a foreign file, of which an own copy is made"`
	LeftMs        *int64           `json:"left_ms,omitempty" doc:"until all of it can be watched; none while that is not known"`
	Original      bool             `json:"original" doc:"the file as it came is kept"`
	OriginalUntil *time.Time       `json:"original_until,omitempty" doc:"by the rule of the course; none for as long as the recording"`
	Video         bool             `json:"video"`
	Audio         bool             `json:"audio"`
	Version       uuid.UUID        `json:"version" format:"uuid" doc:"of the cut list; the zero UUID before the first change"`
	Struck        []page.Span      `json:"struck" nullable:"false"`
	Kept          []page.Span      `json:"kept" nullable:"false"`
	Holes         []page.Span      `json:"holes" nullable:"false" doc:"where nothing was captured, as between two parts"`
	SmallState    string           `json:"small_state" enum:",making,ready,failed" doc:"of the small copy for slow lines"`
	SmallShare    int              `json:"small_share" doc:"per cent of it that is made"`
	SecondVideo   bool             `json:"second_video" doc:"there is a second picture beside the first"`
	Markers       []Marker         `json:"markers" nullable:"false" doc:"moments that were flagged while capturing, and pauses"`
	PublishedMs   int64            `json:"published_ms" doc:"length of what is kept"`
	CanUndo       bool             `json:"can_undo"`
	CanRedo       bool             `json:"can_redo"`
	Listed        bool             `json:"listed"`
	Ruled         bool             `json:"ruled"`
	Lit           bool             `json:"lit"`
	Making        bool             `json:"making" doc:"an edition is being made"`
	MakingFault   string           `json:"making_fault"`
	Published     bool             `json:"published" doc:"something of it was published before"`
	Differs       []Differs        `json:"differs" nullable:"false" doc:"what came and cannot be watched"`
	Current       bool             `json:"current" doc:"what is published is what stands here"`
	Media         string           `json:"media" doc:"address of the recording as captured; empty when it cannot be watched"`
	Deleted       bool             `json:"deleted"`
	GoneAt        *time.Time       `json:"gone_at,omitempty" doc:"when it is removed for good, for one in the bin"`
	ByItself      bool             `json:"by_itself" doc:"the ends were trimmed by themselves, as the course says, and nobody has changed that"`
	Led           []page.Span      `json:"led" nullable:"false" doc:"where the second picture leads"`
	Arranged      *Arranged        `json:"arranged,omitempty" doc:"the last split or join, as long as it can be undone"`
}

// Differs says that less of a track can be watched than came.
type Differs struct {
	What        string `json:"what" enum:"pictures,sound,file"`
	CameMs      int64  `json:"came_ms"`
	WatchableMs int64  `json:"watchable_ms"`
}

// differs is what a page is told of what came and cannot be watched.
func differs(all []tally.Difference) []Differs {
	out := []Differs{}
	for _, d := range all {
		came, watchable := d.Lengths()
		out = append(out,
			Differs{What: string(d.What), CameMs: came.Milliseconds(), WatchableMs: watchable.Milliseconds()})
	}
	return out
}

// Marker is a moment that someone flagged while capturing, or a pause.
type Marker struct {
	AtMs    int64  `json:"at_ms" minimum:"0" maximum:"604800000"`
	PauseMs int64  `json:"pause_ms,omitempty" minimum:"0" maximum:"604800000" doc:"how long the capture was paused there"`
	Word    string `json:"word,omitempty"`
}

// StripPage is the strip page of a recording.
type StripPage struct {
	WindowMs  int64          `json:"window_ms"`
	Peaks     string         `json:"peaks" doc:"base64; a byte for each window, 255 is full scale, square-root scale"`
	Loudness  *float64       `json:"loudness,omitempty" doc:"LUFS (ITU-R BS.1770)"`
	Slides    []SlideMark    `json:"slides" nullable:"false"`
	Proposals []ProposalMark `json:"proposals" nullable:"false"`
	Cues      []StripCue     `json:"cues" nullable:"false"`
	Pauses    []page.Span    `json:"pauses" nullable:"false" doc:"in which little is heard"`
	FrameMs   float64        `json:"frame_ms" doc:"how long a picture is shown; 0 for none"`
	Gain      *page.GainText `json:"gain,omitempty" doc:"of what is kept; none when it is right as it is"`
}

// StripCue is a line of captions below the sound.
type StripCue struct {
	page.Cue
	Words []int64 `json:"words" nullable:"false" doc:"when each word of the text begins, and when it ends, one after the other"`
}

func stripCue(c caption.Cue) StripCue {
	out := StripCue{page.CueOf(c), []int64{}}
	var texts []string
	for _, w := range c.Spoken() {
		texts = append(texts, w.Text)
		out.Words = append(out.Words, w.Start.Milliseconds(), w.End.Milliseconds())
	}
	out.Text = strings.Join(texts, " ")
	return out
}

// SlideMark is a slide as it first appears.
type SlideMark struct {
	At      int64  `json:"at"`
	Picture string `json:"picture"`
	Text    string `json:"text" doc:"what stands on it, as far as it could be read"`
}

// ProposalMark is a stretch that might be struck.
type ProposalMark struct {
	page.Span
	Why    string `json:"why" enum:"before,false_start,silence,break,tail,after"`
	Struck bool   `json:"struck"`
}

type titleInput struct {
	edge.OfRecording
	Body struct {
		Title string `json:"title"`
	}
}

type descriptionInput struct {
	edge.OfRecording
	Body struct {
		Description string `json:"description"`
	}
}

type cutInput struct {
	edge.OfRecording
	Body struct {
		Cut   string     `json:"cut" enum:"strike,restore,move,silence,lead,follow,as_is,undo,redo"`
		Start int64      `json:"start,omitempty" doc:"milliseconds of source time, for strike and restore; the edge, for move and silence"`
		End   int64      `json:"end,omitempty"`
		From  *uuid.UUID `json:"from,omitempty" format:"uuid" doc:"the version that it is a change of, as the bench says it; when another has changed that meanwhile it is refused"`
	}
}

// Audience is who of a course can watch a recording, and why not.
type Audience struct {
	Course page.CourseName `json:"course"`
	Zone   string          `json:"zone"`
	Can    int             `json:"can"`
	Of     int             `json:"of"`
	Light  string          `json:"light" enum:"dark,part_lit,lit"`
	Seats  []Seat          `json:"seats" nullable:"false"`
}

// Seat is one student of a course.
type Seat struct {
	Person uuid.UUID `json:"person_id" format:"uuid"`
	Name   string    `json:"name"`
	Group  string    `json:"group"`
	Can    bool      `json:"can"`
	Reason string    `json:"reason" enum:"rule,shut_out,not_lit,no_rule,other_group,not_yet,no_longer"`
}

type markerInput struct {
	edge.OfTrack
	Marker uuid.UUID `path:"marker" format:"uuid"`
	Body   Marker
}
