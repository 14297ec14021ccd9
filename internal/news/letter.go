package news

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5/pgconn"

	"latelantern/internal/core/fault"
	"latelantern/internal/core/news"
	"latelantern/internal/core/texts"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/mail"
	"latelantern/internal/platform/postgres"
)

// execer is a pool or a transaction.
type execer interface {
	Exec(ctx context.Context, sql string, args ...any) (pgconn.CommandTag, error)
}

// addressee is someone to whom a mail goes, and what stands in it.
type addressee struct {
	PersonID              uuid.UUID
	Name, Email, Language string
	Unseen                int // recordings of which they were told and that they have not seen
	waits                 []uuid.UUID
	of                    []uuid.UUID // courses that told them of it
	courses               []section
}

// section is what a course tells one person.
type section struct {
	Code, Title, Template string
	recordings            []told
}

// told is a recording as it stands in a mail.
type told struct {
	ID     uuid.UUID
	Title  string
	Length time.Duration
}

// waiting is a recording of which a mail that waits is to tell someone; one that cannot be told any more has no ID.
type waiting struct {
	PersonID, NewsID, CourseID uuid.UUID
	Code, Course, Template     string
	RecordingID                *uuid.UUID
	Title                      string
	LengthMs                   int64
}

const waitingSQL = `select x.person_id, n.id as news_id, n.course_id, k.code, k.title as course,
	coalesce(nullif(n.template, ''), c.template, '') as template, r.id as recording_id,
	coalesce(nr.title, '') as title, coalesce(ed.length_ms, 0) as length_ms
	from news_reader x join news n on n.id = x.news_id join course k on k.id = n.course_id
	left join course_news c on c.course_id = n.course_id
	left join lateral unnest(x.unseen) u(id) on true
	left join news_recording nr on nr.news_id = n.id and nr.recording_id = u.id
	left join recorded r on r.id = nr.recording_id left join edition ed on ed.id = r.edition_id
	where x.person_id = any($1) and x.mail = 'waits' and n.made_at <= $2
	order by x.person_id, n.made_at, n.id, nr.position`

const addresseeSQL = `select p.id as person_id, p.name, p.email, p.language,
	(select count(*) from news_reader t cross join unnest(t.unseen) u(id) join recording r on r.id = u.id
		where t.person_id = p.id and r.deleted_at is null)::int as unseen
	from person_account p left join news_wish w on w.person_id = p.id
	where p.id = any($1) and p.email <> '' and not p.closed and coalesce(w.often, 'daily') <> 'never'
	and not exists (select 1 from address_fault f where f.person_id = p.id and f.address = p.email)`

// read is what is to be told to some people, in their order: of what they can watch now, and have not seen meanwhile.
func (s *Service) read(ctx context.Context, people []uuid.UUID) ([]addressee, error) {
	rows, err := postgres.All[waiting](ctx, s.DB, waitingSQL, people, s.Clock.Now().Add(-Grace))
	if err != nil {
		return nil, fmt.Errorf("read what is to be told: %w", err)
	}
	known, err := postgres.All[struct {
		PersonID              uuid.UUID
		Name, Email, Language string
		Unseen                int
	}](ctx, s.DB, addresseeSQL, people)
	if err != nil {
		return nil, fmt.Errorf("read to whom it is told: %w", err)
	}
	can, err := s.can(ctx, rows, people)
	if err != nil {
		return nil, err
	}
	by := map[uuid.UUID]*addressee{}
	for _, x := range known {
		by[x.PersonID] = &addressee{PersonID: x.PersonID, Name: x.Name, Email: x.Email, Language: x.Language,
			Unseen: x.Unseen}
	}
	for _, x := range rows {
		a := by[x.PersonID]
		if a == nil { // nobody who can be written to any more
			a = &addressee{PersonID: x.PersonID}
			by[x.PersonID] = a
		}
		if !slices.Contains(a.waits, x.NewsID) {
			a.waits, a.of = append(a.waits, x.NewsID), append(a.of, x.CourseID)
		}
		if x.RecordingID != nil && can[x.CourseID][*x.RecordingID][x.PersonID] == viewing.ByRule {
			a.add(x)
		}
	}
	var out []addressee
	for _, id := range people {
		if a := by[id]; a != nil && len(a.waits) > 0 {
			out = append(out, *a)
		}
	}
	return out, nil
}

// can decides for all that is to be told, course by course.
func (s *Service) can(ctx context.Context, rows []waiting,
	people []uuid.UUID) (map[uuid.UUID]map[uuid.UUID]map[uuid.UUID]viewing.Reason, error) {
	of := map[uuid.UUID][]uuid.UUID{}
	for _, x := range rows {
		if x.RecordingID != nil && !slices.Contains(of[x.CourseID], *x.RecordingID) {
			of[x.CourseID] = append(of[x.CourseID], *x.RecordingID)
		}
	}
	out := map[uuid.UUID]map[uuid.UUID]map[uuid.UUID]viewing.Reason{}
	for course, recordings := range of {
		reasons, err := s.Audience.Watchers(ctx, s.DB, course, recordings, people)
		if err != nil {
			return nil, err
		}
		out[course] = reasons
	}
	return out, nil
}

// add puts a recording below its course. What the course wrote last holds for all of it.
func (a *addressee) add(x waiting) {
	i := slices.IndexFunc(a.courses, func(c section) bool { return c.Code == x.Code })
	if i < 0 {
		i = len(a.courses)
		a.courses = append(a.courses, section{Code: x.Code, Title: x.Course})
	}
	c := &a.courses[i]
	c.Template = x.Template
	c.recordings = append(c.recordings, told{*x.RecordingID, x.Title, time.Duration(x.LengthMs) * time.Millisecond})
}

// rule stands in a mail between what several courses tell.
const rule = "\n\n————\n\n"

// letter is the mail to someone; false when there is nothing to say to them any more.
func (s *Service) letter(to addressee) (mail.Letter, bool) {
	if to.Email == "" || len(to.courses) == 0 {
		return mail.Letter{}, false
	}
	tongue := texts.Of(to.Language, s.Language)
	var parts, codes []string
	n := 0
	for _, c := range to.courses {
		parts, codes, n = append(parts, s.section(tongue, to, c)), append(codes, c.Code), n+len(c.recordings)
	}
	subject := fault.Say("letter.news_many", "n", n, "courses", strings.Join(codes, ", "))
	if n == 1 {
		subject = fault.Say("letter.news_one", "course", codes[0], "title", to.courses[0].recordings[0].Title)
	}
	stop := s.Public + "/stop/" + s.StopKey(to.PersonID)
	foot := tongue.Say(fault.Say("letter.news_foot", "account", s.Public+"/account", "stop", stop))
	return mail.Letter{To: to.Email, Subject: tongue.Say(subject), Text: strings.Join(parts, rule) + rule + foot,
		ID: s.mailID(to.waits[0], to.PersonID), Stop: stop}, true
}

// section is what one course says.
func (s *Service) section(tongue *texts.Language, to addressee, c section) string {
	template := c.Template
	if strings.TrimSpace(template) == "" {
		template = collegeTemplate(tongue)
	}
	var list []string
	for _, r := range c.recordings {
		list = append(list, tongue.Say(fault.Say("letter.news_line", "title", r.Title, "length", fault.Clock(r.Length),
			"address", s.Public+"/watch/"+r.ID.String())))
	}
	return news.Fill(template, map[news.Word]string{
		news.Name: to.Name, news.Course: c.Code + " " + c.Title, news.Recordings: strings.Join(list, "\n\n"),
		news.Unseen: fmt.Sprint(to.Unseen), news.CatchUp: s.Public + "/catch-up",
	})
}

// collegeTemplate is what the college writes in a language.
func collegeTemplate(tongue *texts.Language) string {
	return tongue.Say(fault.Say("letter.news_text", "name", "{name}", "course", "{course}", "recordings", "{recordings}",
		"unseen", "{unseen}", "catch_up", "{catch_up}"))
}
