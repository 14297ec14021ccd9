package page

import (
	"time"

	"github.com/google/uuid"

	core "latelantern/internal/core/toall"
	"latelantern/internal/toall"
)

// QuestionText is a question to all as it is written.
type QuestionText struct {
	Kind    core.Kind `json:"kind" enum:"one,several,number,words" doc:"how it is answered"`
	Text    string    `json:"text" maxLength:"20000"`
	Choices []string  `json:"choices" nullable:"false" maxItems:"100" doc:"of what has choices"`
	Right   []int     `json:"right" nullable:"false" maxItems:"100" doc:"which are right, from 0 on; for who is not to learn it yet none"`
}

// QuestionOf is a question as it is written.
func QuestionOf(q core.Question) QuestionText {
	return QuestionText{q.Kind, q.Text, append([]string{}, q.Choices...), append([]int{}, q.Right...)}
}

// Question is what was written.
func (q QuestionText) Question() core.Question {
	return core.Question{Kind: q.Kind, Text: q.Text, Choices: q.Choices, Right: q.Right}
}

// AnswerText is what somebody answers: what the kind of the question asks for.
type AnswerText struct {
	Choices []int    `json:"choices,omitempty" maxItems:"100" doc:"which, from 0 on"`
	Number  *float64 `json:"number,omitempty"`
	Words   string   `json:"words,omitempty" maxLength:"20000"`
}

// AnswerBody is an answer that may have waited for its line.
type AnswerBody struct {
	AnswerText
	AgoMs int64 `json:"ago_ms,omitempty" minimum:"0" doc:"how long ago it was written, if it could not be sent at once"`
}

// AnswerOf is an answer as it is written.
func AnswerOf(a core.Answer) AnswerText { return AnswerText(a) }

// Answer is what was answered.
func (a AnswerText) Answer() core.Answer { return core.Answer(a) }

// ResultBar is how many answered alike.
type ResultBar struct {
	Label string  `json:"label" doc:"a choice, a number or words; empty for a stretch of numbers"`
	From  float64 `json:"from" doc:"of numbers"`
	Until float64 `json:"until" doc:"and without it; the same for one number"`
	Below bool    `json:"below" doc:"and all below"`
	Above bool    `json:"above" doc:"and all above"`
	N     int     `json:"n"`
}

// Results are what answers come to.
type Results struct {
	Answers int         `json:"answers" doc:"in the lecture"`
	Bars    []ResultBar `json:"bars" nullable:"false"`
	Others  int         `json:"others" doc:"words for which there is no bar"`
	Median  *float64    `json:"median,omitempty" doc:"of numbers"`
}

// GivenText is what somebody answered, for those who teach.
type GivenText struct {
	Person uuid.UUID  `json:"person" format:"uuid"`
	Name   string     `json:"name"`
	Guest  bool       `json:"guest"`
	Later  bool       `json:"later" doc:"in the recording"`
	Hidden bool       `json:"hidden" doc:"words that are taken out of what all see"`
	Right  bool       `json:"right"`
	Answer AnswerText `json:"answer"`
}

// AskedQuestion is a question that was put to all, as somebody sees it.
type AskedQuestion struct {
	ID        uuid.UUID    `json:"id" format:"uuid"`
	Question  QuestionText `json:"question"`
	By        string       `json:"by"`
	Opened    time.Time    `json:"opened_at"`
	Closes    time.Time    `json:"closes_at"`
	Timed     bool         `json:"timed" doc:"it is open for a time that is counted down"`
	Open      bool         `json:"open"`
	Shown     bool         `json:"shown" doc:"all see what was answered"`
	Withdrawn bool         `json:"withdrawn" doc:"only those who teach have it still"`
	At        *int64       `json:"at,omitempty" doc:"its moment in the recording, in milliseconds"`
	Mine      *AnswerText  `json:"mine,omitempty" doc:"what who asks answered"`
	Later     bool         `json:"later" doc:"and that in the recording"`
	Right     bool         `json:"right" doc:"and that all of it is right"`
	Results   *Results     `json:"results,omitempty" doc:"for those who teach, and once they are shown for all"`
	Lately    int          `json:"lately" doc:"how many answered it in the recording; for those who teach"`
	Given     []GivenText  `json:"given" nullable:"false" doc:"only for those who teach"`
	Missing   []string     `json:"missing" nullable:"false" doc:"who was there and has not answered; only for those who teach, of the last one"`
}

// AskedOf is a question as a person sees it who teaches or does not, at a moment in what they watch. What is right one
// learns with the results; in a recording also once one has answered oneself.
func AskedOf(a toall.Asked, person uuid.UUID, teaches, recorded bool, at *int64, now time.Time) AskedQuestion {
	out := AskedQuestion{ID: a.ID, Question: QuestionOf(a.Question), By: a.By, Opened: a.Opened, Closes: a.Closes,
		Timed: a.Timed, Open: a.Open().Goes(now), Shown: a.Shown, Withdrawn: a.Withdrawn, At: at, Given: []GivenText{},
		Missing: []string{}}
	mine := a.GivenBy(person)
	learns := teaches || !out.Open && (a.Shown || recorded && mine != nil)
	if mine != nil {
		answer := AnswerOf(mine.Answer)
		out.Mine, out.Later, out.Right = &answer, mine.Later, learns && a.Question.IsRight(mine.Answer)
	}
	if !learns {
		out.Question.Right = []int{}
	}
	if a.Result != nil {
		out.Results = resultsOf(*a.Result)
	}
	if !teaches {
		return out
	}
	for _, g := range a.Given {
		out.Given = append(out.Given, GivenText{Person: g.Person, Name: g.Name, Guest: g.Guest, Later: g.Later,
			Hidden: g.Hidden, Right: a.Question.IsRight(g.Answer), Answer: AnswerOf(g.Answer)})
		if g.Later {
			out.Lately++
		}
	}
	return out
}

func resultsOf(r core.Result) *Results {
	out := &Results{Answers: r.Answers, Bars: []ResultBar{}, Others: r.Others, Median: r.Median}
	for _, b := range r.Bars {
		out.Bars = append(out.Bars, ResultBar{b.Label, b.From, b.Until, b.Below, b.Above, b.N})
	}
	return out
}
