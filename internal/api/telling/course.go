package telling

import (
	"cmp"
	"context"
	"net/http"
	"slices"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/news"
	"latelantern/internal/roster"
)

// NewsPage is what a course could tell its students, and what it told them.
type NewsPage struct {
	Recordings []NewsLine   `json:"recordings" nullable:"false" doc:"lit for the course, the latest lectures first"`
	Planned    []ToTellLine `json:"planned" nullable:"false" doc:"of which students are told as soon as they can watch"`
	Template   string       `json:"template" doc:"what the course writes; empty for what the college writes"`
	Past       []PastNews   `json:"past" nullable:"false" doc:"the latest first, twenty at most"`
}

// NewsLine is a recording of which students could be told.
type NewsLine struct {
	Recording uuid.UUID `json:"recording_id" format:"uuid"`
	Title     string    `json:"title"`
	Week      int       `json:"week"`
	LengthMs  int64     `json:"length_ms"`
	Silent    bool      `json:"silent,omitempty" doc:"somebody said that nobody need be told"`
	New       int       `json:"new" doc:"students who can watch it and were not told of it"`
	Told      int       `json:"told" doc:"students who were told"`
}

// ToTellLine is a recording of which students are told as soon as any of them can watch it.
type ToTellLine struct {
	Recording uuid.UUID `json:"recording_id" format:"uuid"`
	Title     string    `json:"title"`
}

// PastNews is what a course told once.
type PastNews struct {
	ID      uuid.UUID `json:"id" format:"uuid"`
	At      time.Time `json:"at"`
	By      string    `json:"by" doc:"a name; empty for someone who is gone"`
	Titles  []string  `json:"titles" nullable:"false"`
	People  int       `json:"people"`
	Waits   int       `json:"waits" doc:"mails that are still to go"`
	Sent    int       `json:"sent"`
	Refused int       `json:"refused"`
}

// NewsText is what a course tells its students.
type NewsText struct {
	Recordings []uuid.UUID `json:"recordings" format:"uuid" nullable:"false" maxItems:"200" doc:"in their order"`
	Template   string      `json:"template,omitempty" doc:"empty for what the course writes"`
}

// NewsEffect is whom a course would tell.
type NewsEffect struct {
	People int       `json:"people" doc:"who would be told"`
	Now    int       `json:"now" doc:"mails that would go at once"`
	Later  int       `json:"later" doc:"mails that would go when their readers want the next"`
	Next   time.Time `json:"next" doc:"when the last of those goes"`
	NoMail []NewsWhy `json:"no_mail" nullable:"false" doc:"who would be told in the product alone, and why"`
	None   []NewsWhy `json:"none" nullable:"false" doc:"students who would be told of nothing, and why"`
}

// NewsWhy is a reason and whom it holds for.
type NewsWhy struct {
	Why   string   `json:"why"`
	Names []string `json:"names" nullable:"false"`
}

// NewsTold is what was told.
type NewsTold struct {
	ID uuid.UUID `json:"id" format:"uuid"`
}

// NewsKept is what is left of something that was taken back.
type NewsKept struct {
	Kept int `json:"kept" doc:"students to whom its mail has gone; they keep it"`
}

type newsInput struct {
	edge.OfCourse
	Body NewsText
}

type templateInput struct {
	edge.OfCourse
	Body struct {
		Template string `json:"template"`
	}
}

type plannedInput struct {
	edge.OfCourse
	Of uuid.UUID `path:"of" format:"uuid" doc:"the recording"`
}

type silentInput struct {
	edge.OfCourse
	Body struct {
		Recordings []uuid.UUID `json:"recordings" format:"uuid" nullable:"false" minItems:"1" maxItems:"200"`
		Silent     bool        `json:"silent" doc:"false: they are to be told after all"`
	}
}

type toldInput struct {
	edge.OfCourse
	News uuid.UUID `path:"news" format:"uuid"`
}

func (a *API) courseRoutes() {
	edge.On(a.Edge, edge.Staff, http.MethodGet, "/api/courses/{course}/news", "course-news",
		"What a course could tell its students", func(ctx context.Context, _ roster.Person,
			in *edge.OfCourse) (*edge.Body[NewsPage], error) {
			return a.courseNews(ctx, in.Course)
		})
	edge.On(a.Edge, edge.Staff, http.MethodPost, "/api/courses/{course}/news/preview", "preview-news",
		"Whom telling the students of recordings would reach, and whom not and why",
		func(ctx context.Context, _ roster.Person, in *newsInput) (*edge.Body[NewsEffect], error) {
			m, err := a.message(ctx, in)
			if err != nil {
				return nil, err
			}
			ids := make([]uuid.UUID, len(m.Recordings))
			for i, x := range m.Recordings {
				ids[i] = x.ID
			}
			readers, err := a.News.Readers(ctx, in.Course, ids)
			return edge.Answer(effect(readers, a.Clock.Now())), err
		})
	edge.On(a.Edge, edge.Staff, http.MethodPost, "/api/courses/{course}/news", "tell-students",
		"Tell the students of a course who can watch them of recordings that are new to them",
		func(ctx context.Context, p roster.Person, in *newsInput) (*edge.Body[NewsTold], error) {
			m, err := a.message(ctx, in)
			if err != nil {
				return nil, err
			}
			id, err := a.News.Tell(ctx, p.ID, m)
			return edge.Answer(NewsTold{id}), err
		}, edge.Changes("news"))
	edge.On(a.Edge, edge.Staff, http.MethodPost, "/api/courses/{course}/news/{news}/undo", "take-news-back",
		"Take back what was told, but for those to whom its mail has gone",
		func(ctx context.Context, _ roster.Person, in *toldInput) (*edge.Body[NewsKept], error) {
			kept, err := a.News.TakeBack(ctx, in.Course, in.News)
			return edge.Answer(NewsKept{kept}), err
		}, edge.Changes("news"))
	edge.On(a.Edge, edge.Staff, http.MethodDelete, "/api/courses/{course}/news/planned/{of}", "forget-planned-news",
		"Not tell the students of a recording after all",
		func(ctx context.Context, _ roster.Person, in *plannedInput) (*edge.Empty, error) {
			return nil, a.News.Forget(ctx, in.Course, in.Of)
		}, edge.Changes("news"))
	edge.On(a.Edge, edge.Staff, http.MethodPut, "/api/courses/{course}/news/silent", "set-news-silent",
		"Say that the students of a course need not be told of recordings",
		func(ctx context.Context, p roster.Person, in *silentInput) (*edge.Empty, error) {
			return nil, a.News.SetSilent(ctx, in.Course, p.ID, in.Body.Recordings, in.Body.Silent)
		})
	edge.On(a.Edge, edge.Staff, http.MethodPut, "/api/courses/{course}/news/template", "set-news-template",
		"Change what a course writes to its students",
		func(ctx context.Context, _ roster.Person, in *templateInput) (*edge.Empty, error) {
			return nil, a.News.SetTemplate(ctx, in.Course, in.Body.Template)
		}, edge.Changes("news"))
}

// message is what a course is asked to tell, of recordings that are lit for it, each once.
func (a *API) message(ctx context.Context, in *newsInput) (news.Message, error) {
	m := news.Message{Course: in.Course, Template: in.Body.Template}
	list, err := a.lines(ctx, in.Course)
	if err != nil {
		return m, err
	}
	for _, id := range in.Body.Recordings {
		i := slices.IndexFunc(list, func(x NewsLine) bool { return x.Recording == id })
		if i < 0 { // whatever else it is, it is none of theirs to tell
			return m, news.ErrUnknown
		}
		if !slices.ContainsFunc(m.Recordings, func(x news.Named) bool { return x.ID == id }) {
			m.Recordings = append(m.Recordings, news.Named{ID: id, Title: list[i].Title})
		}
	}
	return m, nil
}

// lines are the recordings of which a course could tell its students.
func (a *API) lines(ctx context.Context, course uuid.UUID) ([]NewsLine, error) {
	list, err := a.News.Candidates(ctx, course)
	if err != nil {
		return nil, err
	}
	term, err := a.Schedule.TermOf(ctx, course)
	if err != nil {
		return nil, err
	}
	lectures, err := a.Schedule.Lectures(ctx, []uuid.UUID{course})
	if err != nil {
		return nil, err
	}
	titles := map[uuid.UUID]string{}
	for _, l := range lectures {
		if l.RecordingID != nil {
			titles[*l.RecordingID] = cmp.Or(l.Title, l.SuggestedTitle(term))
		}
	}
	out := []NewsLine{}
	for _, x := range list {
		out = append(out, NewsLine{Recording: x.RecordingID, Title: cmp.Or(titles[x.RecordingID], x.Title, x.Topic),
			Week: term.Week(x.StartsAt).Number, LengthMs: x.LengthMs, Silent: x.Silent,
			New: x.New, Told: x.Told})
	}
	return out, nil
}

func (a *API) courseNews(ctx context.Context, course uuid.UUID) (*edge.Body[NewsPage], error) {
	out := NewsPage{Past: []PastNews{}, Planned: []ToTellLine{}}
	var err error
	if out.Recordings, err = a.lines(ctx, course); err != nil {
		return nil, err
	}
	if out.Template, err = a.News.Template(ctx, course); err != nil {
		return nil, err
	}
	planned, err := a.News.Planned(ctx, course)
	if err != nil {
		return nil, err
	}
	for _, x := range planned {
		out.Planned = append(out.Planned, ToTellLine{x.RecordingID, x.Title})
	}
	past, err := a.News.Past(ctx, course)
	for _, x := range past {
		out.Past = append(out.Past, PastNews{ID: x.ID, At: x.At, By: x.By, Titles: append([]string{}, x.Titles...),
			People: x.People, Waits: x.Waits, Sent: x.Sent, Refused: x.Refused})
	}
	return edge.Answer(out), err
}

// effect sums up what readers would be told.
func effect(readers []news.Reader, now time.Time) NewsEffect {
	out := NewsEffect{NoMail: []NewsWhy{}, None: []NewsWhy{}}
	add := func(to *[]NewsWhy, why news.Why, name string) {
		i := slices.IndexFunc(*to, func(x NewsWhy) bool { return x.Why == string(why) })
		if i < 0 {
			i = len(*to)
			*to = append(*to, NewsWhy{Why: string(why)})
		}
		(*to)[i].Names = append((*to)[i].Names, name)
	}
	for _, r := range readers {
		switch {
		case len(r.Recordings) == 0:
			add(&out.None, cmp.Or(r.Why, news.Told), r.Name)
			continue
		case r.NoMail != "":
			add(&out.NoMail, r.NoMail, r.Name)
		case r.Due.After(now):
			out.Later++
			if r.Due.After(out.Next) {
				out.Next = r.Due
			}
		default:
			out.Now++
		}
		out.People++
	}
	return out
}
