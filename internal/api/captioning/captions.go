package captioning

import (
	"context"
	"math"
	"net/http"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/core/caption"
	"latelantern/internal/core/fault"
	"latelantern/internal/format/captionfile"
	"latelantern/internal/roster"
	"latelantern/internal/words"
)

// CaptionsInfo is what is known of the captions of a recording in one language.
type CaptionsInfo struct {
	Language  string     `json:"language" doc:"BCP 47"`
	State     string     `json:"state" enum:"waiting,making,ready,failed" doc:"of its draft"`
	Fault     *page.Said `json:"fault,omitempty" doc:"why the draft could not be made yet"`
	DraftedBy string     `json:"drafted_by" doc:"name of the captioner; empty for what came otherwise"`
	Draft     bool       `json:"draft" doc:"nobody but a captioner stands for it yet"`
	Share     int        `json:"share" doc:"per cent of the draft that is made"`
	Lines     int        `json:"lines"`
	Corrected int        `json:"corrected"`
	Proposals int        `json:"proposals" doc:"how many lines readers think should say something else"`
	Looked    bool       `json:"looked" doc:"someone has looked at it"`
	Shown     bool       `json:"shown" doc:"those who watch may read it"`
	CanUndo   bool       `json:"can_undo"`
	CanRedo   bool       `json:"can_redo"`
}

func captionsInfo(c words.Captions) CaptionsInfo {
	out := CaptionsInfo{Language: c.Language, State: c.State, DraftedBy: c.DraftedBy, Draft: c.Draft(), Share: c.Share,
		Lines: c.Lines, Corrected: c.Corrected, Proposals: c.Proposed, Looked: c.Looked, Shown: c.Shown,
		CanUndo: c.Undo, CanRedo: c.Redo}
	if c.Fault != "" {
		why := page.Say(fault.Say(c.Fault))
		out.Fault = &why
	}
	return out
}

// CaptionList is all captions of a recording.
type CaptionList struct {
	Captions []CaptionsInfo `json:"captions" nullable:"false"`
	Language string         `json:"language" doc:"of the course"`
	Drafts   bool           `json:"drafts" doc:"there is a captioner for it"`
}

// CaptionPage is the captions of a recording in one language, line by line.
type CaptionPage struct {
	CaptionsInfo
	Text     []CaptionLine `json:"text" nullable:"false"`
	Speakers []string      `json:"speakers" nullable:"false"`
	Places   int           `json:"places,omitempty" doc:"in how many places something was replaced"`

	Proposed []page.ProposedLine `json:"proposed" nullable:"false" doc:"what readers think that lines should say"`
}

// CaptionLine is one line of captions.
type CaptionLine struct {
	ID uuid.UUID `json:"id" format:"uuid"`
	page.Span
	Text      string  `json:"text"`
	Speaker   string  `json:"speaker,omitempty"`
	Corrected bool    `json:"corrected,omitempty"`
	Words     []int64 `json:"words,omitempty" doc:"when each word begins; none where that is not known"`
	Unsure    []int   `json:"unsure,omitempty" nullable:"false" doc:"which of its words, from 0 on, the captioner was hardly sure of"`
}

// OfCaptions is the input of operations about captions in one language.
type OfCaptions struct {
	edge.OfRecording
	Language string `path:"language" maxLength:"35"`
}

// OfLine is the input of operations about a line of captions.
type OfLine struct {
	OfCaptions
	Line uuid.UUID `path:"line" format:"uuid"`
}

type correctInput struct {
	OfLine
	Body struct {
		Seen    string  `json:"seen" doc:"the text as it was seen; when someone has changed it meanwhile, nothing is kept"`
		Text    *string `json:"text,omitempty" doc:"without any, the line goes"`
		Speaker *string `json:"speaker,omitempty"`
		All     bool    `json:"all,omitempty" doc:"rename who speaks in all lines of the same speaker"`
	}
}

type splitLineInput struct {
	OfLine
	Body struct {
		At int `json:"at" minimum:"0" doc:"place in the text, in characters"`
	}
}

type replaceInput struct {
	OfCaptions
	Body struct {
		Find  string `json:"find" minLength:"1" maxLength:"200"`
		With  string `json:"with" maxLength:"200"`
		Exact bool   `json:"exact,omitempty" doc:"capitals and accents count"`
		Whole bool   `json:"whole,omitempty" doc:"whole words only"`
	}
}

type findInput struct {
	OfCaptions
	Find  string `query:"find" maxLength:"200" doc:"nothing stands nowhere"`
	Exact bool   `query:"exact" doc:"capitals and accents count"`
	Whole bool   `query:"whole" doc:"whole words only"`
}

// Found is where something stands in captions.
type Found struct {
	Places int         `json:"places" doc:"how often"`
	Lines  []uuid.UUID `json:"lines" nullable:"false" doc:"in which lines, in their order"`
}

type onOffInput struct {
	OfCaptions
	Body struct {
		On bool `json:"on"`
	}
}

// captionsAt is where the captions of a recording are.
const captionsAt = "/api/recordings/{recording}/captions"

func (a *API) captionRoutes() {
	a.lineRoutes()
	const at = captionsAt
	edge.On(a.Edge, edge.Staff, http.MethodGet, at, "captions", "The captions of a recording, by language",
		func(ctx context.Context, _ roster.Person, in *edge.OfRecording) (*edge.Body[CaptionList], error) {
			return a.captionList(ctx, in.Recording)
		})
	edge.On(a.Edge, edge.Staff, http.MethodPut, at+"/{language}/shown", "show-captions",
		"Let those who watch read captions, or not",
		func(ctx context.Context, p roster.Person, in *onOffInput) (*edge.Body[CaptionList], error) {
			if err := a.Words.Show(ctx, in.Recording, in.Language, p.ID, in.Body.On); err != nil {
				return nil, err
			}
			return a.captionList(ctx, in.Recording)
		})
	edge.On(a.Edge, edge.Staff, http.MethodPut, at+"/{language}/looked", "look-at-captions",
		"Leave a draft what it is, having looked at it",
		func(ctx context.Context, p roster.Person, in *onOffInput) (*edge.Body[CaptionList], error) {
			if err := a.Words.Look(ctx, in.Recording, in.Language, p.ID, in.Body.On); err != nil {
				return nil, err
			}
			return a.captionList(ctx, in.Recording)
		})
	edge.On(a.Edge, edge.Staff, http.MethodPost, at+"/{language}/draft", "draft-captions", "Have captions drafted",
		func(ctx context.Context, _ roster.Person, in *OfCaptions) (*edge.Body[CaptionList], error) {
			if err := a.Words.AskForDraft(ctx, in.Recording, in.Language); err != nil {
				return nil, err
			}
			return a.captionList(ctx, in.Recording)
		})
	a.courseWordRoutes()
	a.captionFileRoutes()
}

// lineRoutes adds what is done to single lines; each answers with all of them.
func (a *API) lineRoutes() {
	const at = captionsAt
	type page = edge.Body[CaptionPage]
	then := func(ctx context.Context, in OfCaptions, err error) (*page, error) {
		if err != nil {
			return nil, err
		}
		return a.captionPage(ctx, in)
	}
	edge.On(a.Edge, edge.Staff, http.MethodGet, at+"/{language}", "caption-page",
		"The captions of a recording, line by line",
		func(ctx context.Context, _ roster.Person, in *OfCaptions) (*page, error) {
			return a.captionPage(ctx, *in)
		})
	edge.On(a.Edge, edge.Staff, http.MethodPut, at+"/{language}/lines/{line}", "correct-line",
		"Correct a line of captions, or say who speaks",
		func(ctx context.Context, p roster.Person, in *correctInput) (*page, error) {
			c := words.Correction{Seen: in.Body.Seen, Text: in.Body.Text, Speaker: in.Body.Speaker, All: in.Body.All}
			return then(ctx, in.OfCaptions, a.Words.Correct(ctx, in.Recording, in.Language, in.Line, p.ID, c))
		})
	edge.On(a.Edge, edge.Staff, http.MethodPost, at+"/{language}/lines/{line}/split", "split-line",
		"Part a line of captions",
		func(ctx context.Context, p roster.Person, in *splitLineInput) (*page, error) {
			return then(ctx, in.OfCaptions, a.Words.Split(ctx, in.Recording, in.Language, in.Line, p.ID, in.Body.At))
		})
	edge.On(a.Edge, edge.Staff, http.MethodPost, at+"/{language}/lines/{line}/join", "join-line",
		"Make one line of a line and the next", func(ctx context.Context, p roster.Person, in *OfLine) (*page, error) {
			return then(ctx, in.OfCaptions, a.Words.Join(ctx, in.Recording, in.Language, in.Line, p.ID))
		})
	a.settleRoutes(then)
	edge.On(a.Edge, edge.Staff, http.MethodGet, at+"/{language}/found", "find-words",
		"Where something stands in captions",
		a.findWords)
	edge.On(a.Edge, edge.Staff, http.MethodPost, at+"/{language}/replace", "replace-words",
		"Find and replace in captions",
		a.replaceWords)
	edge.On(a.Edge, edge.Staff, http.MethodPost, at+"/{language}/undo", "undo-captions",
		"Take the last change of captions back",
		func(ctx context.Context, _ roster.Person, in *OfCaptions) (*page, error) {
			return then(ctx, *in, a.Words.Undo(ctx, in.Recording, in.Language))
		})
	edge.On(a.Edge, edge.Staff, http.MethodPost, at+"/{language}/redo", "redo-captions",
		"Make a change of captions again",
		func(ctx context.Context, _ roster.Person, in *OfCaptions) (*page, error) {
			return then(ctx, *in, a.Words.Redo(ctx, in.Recording, in.Language))
		})
}

func (a *API) courseWordRoutes() {
	type wordsInput struct {
		edge.OfCourse
		Body CourseWords
	}
	edge.On(a.Edge, edge.Staff, http.MethodGet, "/api/courses/{course}/words", "course-words", "The words of a course",
		func(ctx context.Context, _ roster.Person, in *edge.OfCourse) (*edge.Body[CourseWords], error) {
			return a.courseWords(ctx, in.Course)
		})
	edge.On(a.Edge, edge.Staff, http.MethodPut, "/api/courses/{course}/words", "set-course-words",
		"Keep the words of a course, and whether captions are drafted",
		func(ctx context.Context, _ roster.Person, in *wordsInput) (*edge.Body[CourseWords], error) {
			if err := a.Words.SetCourse(ctx, in.Course,
				words.Course{Language: in.Body.Language, Drafts: in.Body.Drafts,
					Glossary: in.Body.Glossary}); err != nil {
				return nil, err
			}
			return a.courseWords(ctx, in.Course)
		})
}

// CourseWords is what a course says about its words.
type CourseWords struct {
	Language  string `json:"language" doc:"BCP 47, in which it is held"`
	Drafts    bool   `json:"drafts" doc:"captions of its recordings are drafted by themselves"`
	Glossary  string `json:"glossary" doc:"a term a line"`
	Terms     int    `json:"terms,omitempty" readOnly:"true"`
	Captioner string `json:"captioner,omitempty" readOnly:"true" doc:"the one for this language; none when there is none"`
}

func (a *API) courseWords(ctx context.Context, course uuid.UUID) (*edge.Body[CourseWords], error) {
	c, err := a.Words.Course(ctx, course)
	if err != nil {
		return nil, err
	}
	out := CourseWords{Language: c.Language, Drafts: c.Drafts, Glossary: c.Glossary,
		Terms: len(words.Terms(c.Glossary))}
	if a.Words.Speaks(c.Language) {
		out.Captioner = a.Words.Captioner.Name()
	}
	return edge.Answer(out), nil
}

func (a *API) captionList(ctx context.Context, recording uuid.UUID) (*edge.Body[CaptionList], error) {
	all, err := a.Words.Captions(ctx, recording)
	if err != nil {
		return nil, err
	}
	r, err := a.Recordings.Recording(ctx, recording)
	if err != nil {
		return nil, err
	}
	course, err := a.Words.Course(ctx, r.CourseID)
	if err != nil {
		return nil, err
	}
	out := CaptionList{Captions: []CaptionsInfo{}, Language: course.Language, Drafts: a.Words.Speaks(course.Language)}
	for _, c := range all {
		out.Captions = append(out.Captions, captionsInfo(c))
	}
	return edge.Answer(out), nil
}

func (a *API) captionPage(ctx context.Context, in OfCaptions) (*edge.Body[CaptionPage], error) {
	info, err := a.Words.Of(ctx, in.Recording, in.Language)
	if err != nil {
		return nil, err
	}
	lines, err := a.Words.Read(ctx, in.Recording, in.Language)
	if err != nil {
		return nil, err
	}
	out := CaptionPage{CaptionsInfo: captionsInfo(info), Text: []CaptionLine{},
		Speakers: caption.Speakers(words.Cues(lines)), Proposed: []page.ProposedLine{}}
	proposed, err := a.Words.Proposals(ctx, in.Recording, in.Language)
	if err != nil {
		return nil, err
	}
	for _, x := range proposed {
		out.Proposed = append(out.Proposed, page.ProposedLineOf(x))
	}
	for _, l := range lines {
		x := CaptionLine{ID: l.ID, Span: page.Span{Start: l.Start.Milliseconds(), End: l.End.Milliseconds()},
			Text:    l.Text,
			Speaker: l.Speaker, Corrected: l.Corrected, Unsure: page.UnsureOf(l.Cue)}
		for _, w := range l.Words {
			x.Words = append(x.Words, w.Start.Milliseconds())
		}
		out.Text = append(out.Text, x)
	}
	return edge.Answer(out), nil
}

func finding(text string, exact, whole bool) caption.Finding {
	return caption.Finding{Text: text, Exact: exact, Marked: exact, Whole: whole}
}

func (a *API) findWords(ctx context.Context, _ roster.Person, in *findInput) (*edge.Body[Found], error) {
	if _, err := a.Words.Of(ctx, in.Recording, in.Language); err != nil {
		return nil, err
	}
	lines, err := a.Words.Lines(ctx, in.Recording, in.Language)
	if err != nil {
		return nil, err
	}
	out := Found{Lines: []uuid.UUID{}}
	f := finding(in.Find, in.Exact, in.Whole)
	for _, l := range lines {
		if n := len(f.Find(l.Text)); n > 0 {
			out.Places += n
			out.Lines = append(out.Lines, l.ID)
		}
	}
	return edge.Answer(out), nil
}

func (a *API) replaceWords(ctx context.Context, p roster.Person, in *replaceInput) (*edge.Body[CaptionPage], error) {
	places, err := a.Words.Replace(ctx, in.Recording, in.Language, p.ID,
		finding(in.Body.Find, in.Body.Exact, in.Body.Whole), in.Body.With)
	if err != nil {
		return nil, err
	}
	out, err := a.captionPage(ctx, in.OfCaptions)
	if err == nil {
		out.Body.Places = places
	}
	return out, err
}

// Hit is where something that was looked for is said, or stands.
type Hit struct {
	page.Span
	Where string `json:"where" enum:"said,slide,perhaps" doc:"perhaps is what a captioner heard besides what it drafted"`
	Text  string `json:"text"`
	Share int    `json:"share,omitempty" doc:"per cent, how likely it is that it was said, where that is not known"`
}

type searchInput struct {
	edge.OfRecording
	Query string `query:"q" maxLength:"100"`
}

// searchOne looks for words in what is said, in what stands on slides and in what may have been said.
func (a *API) searchOne(ctx context.Context, _ roster.Person, in *searchInput) (*edge.Body[[]Hit], error) {
	found, err := a.Words.Search(ctx, in.Recording, in.Query)
	if err != nil {
		return nil, err
	}
	out := []Hit{}
	for _, h := range found {
		out = append(out,
			Hit{page.Span{Start: h.Start.Milliseconds(), End: h.End.Milliseconds()}, string(h.Where), h.Text,
				int(math.Round(100 * h.Share))})
	}
	return edge.Answer(out), nil
}

var captionProblems = edge.Problems{
	words.ErrUnknown:   http.StatusNotFound,
	words.ErrNothing:   http.StatusConflict,
	words.ErrChanged:   http.StatusConflict,
	words.ErrProposed:  http.StatusConflict,
	words.ErrInvalid:   http.StatusUnprocessableEntity,
	captionfile.ErrNot: http.StatusUnprocessableEntity,
}
