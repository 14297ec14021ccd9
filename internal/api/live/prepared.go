package live

import (
	"context"
	"encoding/csv"
	"fmt"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	core "latelantern/internal/core/toall"
	"latelantern/internal/format/questionfile"
	"latelantern/internal/format/sheetcell"
	"latelantern/internal/roster"
	"latelantern/internal/toall"
)

// PreparedQuestion is one that a course keeps to put to all.
type PreparedQuestion struct {
	ID       uuid.UUID         `json:"id" format:"uuid"`
	Question page.QuestionText `json:"question"`
}

// PreparedQuestions are those of a course.
type PreparedQuestions struct {
	Questions []PreparedQuestion `json:"questions" nullable:"false" doc:"in the order in which they were made"`
}

// BroughtQuestions is what was read of a file.
type BroughtQuestions struct {
	Brought int            `json:"brought"`
	Left    []LeftQuestion `json:"left" nullable:"false" doc:"what is left out"`
}

// LeftQuestion is a question of a file that is left out.
type LeftQuestion struct {
	Name string    `json:"name" doc:"of its item, or the number of its line"`
	Why  page.Said `json:"why"`
}

// OfPrepared is the input of operations about a question of a course.
type OfPrepared struct {
	edge.OfCourse
	Question uuid.UUID `path:"question" format:"uuid"`
}

const preparedPath = "/api/courses/{course}/prepared-questions"

func (a *API) preparedRoutes() {
	edge.On(a.Edge, edge.Staff, http.MethodGet, preparedPath, "prepared-questions",
		"The questions that a course keeps to put to all",
		func(ctx context.Context, _ roster.Person, in *edge.OfCourse) (*edge.Body[PreparedQuestions], error) {
			list, err := a.ToAll.Prepared(ctx, in.Course)
			out := PreparedQuestions{Questions: []PreparedQuestion{}}
			for _, x := range list {
				out.Questions = append(out.Questions, PreparedQuestion{x.ID, page.QuestionOf(x.Question)})
			}
			return edge.Answer(out), err
		})
	type prepareInput struct {
		OfPrepared
		Body page.QuestionText
	}
	edge.On(a.Edge, edge.Staff, http.MethodPut, preparedPath+"/{question}", "prepare-question",
		"Keep a question with a course, or change it",
		func(ctx context.Context, p roster.Person, in *prepareInput) (*edge.Empty, error) {
			return nil, a.ToAll.Prepare(ctx, in.Course, p.ID,
				toall.Prepared{ID: in.Question, Question: in.Body.Question()})
		})
	edge.On(a.Edge, edge.Staff, http.MethodDelete, preparedPath+"/{question}", "drop-question",
		"Take a question from a course",
		func(ctx context.Context, _ roster.Person, in *OfPrepared) (*edge.Empty, error) {
			return nil, a.ToAll.Drop(ctx, in.Course, in.Question, false)
		})
	edge.On(a.Edge, edge.Staff, http.MethodPost, preparedPath+"/{question}/bring-back", "bring-back-question",
		"Put a question back that was taken from a course",
		func(ctx context.Context, _ roster.Person, in *OfPrepared) (*edge.Empty, error) {
			return nil, a.ToAll.Drop(ctx, in.Course, in.Question, true)
		})
	type bringQuestionsInput struct {
		edge.OfCourse
		Body struct {
			Data []byte `json:"data" doc:"CSV, an item of QTI 2.1 or 3.0, or a package of them, in base64"`
		}
	}
	edge.On(a.Edge, edge.Staff, http.MethodPost, preparedPath+"-file", "bring-questions", "Keep the questions of a file",
		func(ctx context.Context, p roster.Person, in *bringQuestionsInput) (*edge.Body[BroughtQuestions], error) {
			list, left, err := questionfile.Read(in.Body.Data)
			if err != nil {
				return nil, err
			}
			out := BroughtQuestions{Brought: len(list), Left: []LeftQuestion{}}
			for _, x := range left {
				out.Left = append(out.Left, LeftQuestion{x.Name, page.Say(x.Why)})
			}
			return edge.Answer(out), a.ToAll.Bring(ctx, in.Course, p.ID, list)
		})
	a.questionFileRoutes()
}

// questionFileRoutes adds what goes out as a file.
func (a *API) questionFileRoutes() {
	type questionFileInput struct {
		edge.OfCourse
		Form questionfile.Form `query:"form" required:"true" enum:"csv,qti2,qti3"`
	}
	edge.On(a.Edge, edge.Staff, http.MethodGet, preparedPath+"-file", "prepared-questions-file",
		"The questions of a course as a file",
		func(ctx context.Context, _ roster.Person, in *questionFileInput) (*page.Download, error) {
			list, err := a.ToAll.Prepared(ctx, in.Course)
			if err != nil {
				return nil, err
			}
			course, err := a.Schedule.Course(ctx, in.Course)
			if err != nil {
				return nil, err
			}
			all := make([]core.Question, len(list))
			for i, x := range list {
				all[i] = x.Question
			}
			b, err := questionfile.Write(in.Form, all)
			kind, end := in.Form.Kind()
			return page.File(kind, b, course.Code, "questions"+end), err
		})
	edge.On(a.Edge, edge.Staff, http.MethodGet, "/api/lectures/{lecture}/to-all-file", "to-all-file",
		"What was answered in a lecture, as a sheet", a.toAllFile)
}

// toAllFile is a line for each answer (CSV, RFC 4180).
func (a *API) toAllFile(ctx context.Context, _ roster.Person, in *edge.OfLecture) (*page.Download, error) {
	rows, err := a.Schedule.Lecture(ctx, in.Lecture)
	if err != nil {
		return nil, err
	}
	term, err := a.Schedule.TermOf(ctx, rows[0].CourseID)
	if err != nil {
		return nil, err
	}
	all, err := a.ToAll.In(ctx, in.Lecture, toall.Reader{Teaches: true})
	if err != nil {
		return nil, err
	}
	var b strings.Builder
	w := csv.NewWriter(&b)
	w.UseCRLF = true
	lines := [][]string{{"asked_at", "question", "name", "answered_at", "later", "answer", "right"}}
	for _, q := range all {
		if q.Withdrawn {
			continue
		}
		for _, g := range q.Given {
			right := ""
			if len(q.Question.Right) > 0 {
				right = strconv.FormatBool(q.Question.IsRight(g.Answer))
			}
			lines = append(lines, []string{q.Opened.In(term.Zone).Format(time.RFC3339),
				sheetcell.Harmless(q.Question.Text), sheetcell.Harmless(g.Name),
				g.At.In(term.Zone).Format(time.RFC3339), strconv.FormatBool(g.Later),
				sheetcell.Harmless(answerText(q.Question, g.Answer)), right})
		}
	}
	if err := w.WriteAll(lines); err != nil {
		return nil, fmt.Errorf("write what was answered: %w", err)
	}
	return page.File("text/csv; charset=utf-8", []byte(b.String()), rows[0].SuggestedTitle(term), "answers.csv"), nil
}

// answerText is an answer in one cell.
func answerText(q core.Question, a core.Answer) string {
	if a.Number != nil {
		return strconv.FormatFloat(*a.Number, 'f', -1, 64)
	}
	if !q.Kind.Choose() {
		return a.Words
	}
	var chosen []string
	for _, i := range a.Choices {
		chosen = append(chosen, q.Choices[i])
	}
	return strings.Join(chosen, "; ")
}
