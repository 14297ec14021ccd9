package accounts

import (
	"bytes"
	"context"
	"net/http"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/core/viewing"
	"latelantern/internal/format/rosterfile"
	"latelantern/internal/roster"
)

// MemberLine is a person of a course, as those who teach it see them.
type MemberLine struct {
	ID        uuid.UUID  `json:"id" format:"uuid"`
	Name      string     `json:"name"`
	Email     string     `json:"email"`
	Role      string     `json:"role" enum:"lecturer,assistant,student"`
	Group     string     `json:"group"`
	Active    bool       `json:"active" doc:"their account can be used"`
	InvitedAt *time.Time `json:"invited_at,omitempty" doc:"when a letter that activates it was last sent"`
}

// CoursePeople is the roster of a course.
type CoursePeople struct {
	People   []MemberLine `json:"people" nullable:"false" doc:"those who teach first"`
	Groups   []string     `json:"groups" nullable:"false"`
	Inactive int          `json:"inactive" doc:"people whose account is not yet active"`
}

// RosterChange is one thing that an import does.
type RosterChange struct {
	Kind   string `json:"kind" enum:"add_person,rename,add_course,enrol,change,take_off"`
	Course string `json:"course"`
	Email  string `json:"email"`
	Before string `json:"before"`
	After  string `json:"after"`
}

// RosterImport is what files do to the roster of a term.
type RosterImport struct {
	People    int              `json:"people" doc:"added"`
	Renamed   int              `json:"renamed"`
	Courses   int              `json:"courses" doc:"added"`
	Enrolled  int              `json:"enrolled"`
	Changed   int              `json:"changed" doc:"whose role or group changes"`
	TakenOff  int              `json:"taken_off"`
	Unchanged int              `json:"unchanged"`
	Speaks    []string         `json:"speaks" nullable:"false" doc:"codes of the courses that the files speak of"`
	Changes   []RosterChange   `json:"changes" nullable:"false" doc:"each one, up to a limit for each kind"`
	Faults    []page.LineFault `json:"faults" nullable:"false" doc:"with any of them nothing is applied; up to a limit"`
	FaultsAll int              `json:"faults_all"`
	Notes     []page.LineFault `json:"notes" nullable:"false" doc:"up to a limit"`
	NotesAll  int              `json:"notes_all"`
	Digest    string           `json:"digest" doc:"of all changes; who applies them names it"`
	Empty     bool             `json:"empty" doc:"nothing would change"`
	Effect    *RosterEffect    `json:"effect,omitempty" doc:"of a look; none when too many students change for it to be worked out"`
}

// RosterEffect is what an import would change of who can watch.
type RosterEffect struct {
	Gain []string `json:"gain" nullable:"false" doc:"names of students who could watch more"`
	Lose []string `json:"lose" nullable:"false" doc:"names of students who could no longer watch what they can watch now"`
}

// RosterFile is a file of an import.
type RosterFile struct {
	Name string `json:"name" maxLength:"300"`
	Data []byte `json:"data" doc:"in base64"`
}

type rosterInput struct {
	page.OfTerm
	Body struct {
		Files  []RosterFile `json:"files" nullable:"false" minItems:"1" maxItems:"20"`
		Digest string       `json:"digest" doc:"of the preview; empty for a preview"`
	}
}

func (in rosterInput) files() []rosterfile.File {
	out := make([]rosterfile.File, len(in.Body.Files))
	for i, f := range in.Body.Files {
		out[i] = rosterfile.File{Name: f.Name, Data: f.Data}
	}
	return out
}

// maxRoster is how many bytes the body of an import can have: all files in base64.
const maxRoster = rosterfile.MaxSize/3*4 + 1<<20

type memberText struct {
	Email string `json:"email"`
	Name  string `json:"name"`
	Role  string `json:"role"`
	Group string `json:"group"`
}

// Invited says how many letters were sent.
type Invited struct {
	Sent int `json:"sent"`
}

type inviteText struct {
	People []uuid.UUID `json:"people,omitempty" doc:"missing for all whose account is not yet active"`
	Again  bool        `json:"again" doc:"also those who were sent a letter before"`
}

// RosterForm says in which form a roster is handed out.
type RosterForm struct {
	Form string `query:"form" enum:"sheet,oneroster" doc:"a plain CSV sheet, or a zip archive of OneRoster 1.2 CSV files"`
}

func (a *API) rosterRoutes() {
	edge.On(a.Edge, edge.Teachers, http.MethodPost, "/api/terms/{term}/roster/preview", "preview-roster",
		"What an import would do",
		func(ctx context.Context, p roster.Person, in *rosterInput) (*edge.Body[RosterImport], error) {
			if _, err := a.Schedule.Term(ctx, in.Term); err != nil {
				return nil, err
			}
			x, err := a.Roster.PreviewImport(ctx, in.Term, p, in.files())
			return edge.Answer(rosterImport(x)), err
		}, edge.UpTo(maxRoster))
	edge.On(a.Edge, edge.Teachers, http.MethodPost, "/api/terms/{term}/roster", "import-roster",
		"Apply an import, all of it or nothing",
		func(ctx context.Context, p roster.Person, in *rosterInput) (*edge.Body[RosterImport], error) {
			if _, err := a.Schedule.Term(ctx, in.Term); err != nil {
				return nil, err
			}
			x, err := a.Roster.ApplyImport(ctx, in.Term, p, in.files(), in.Body.Digest)
			return edge.Answer(rosterImport(x)), err
		}, edge.UpTo(maxRoster), edge.Changes("roster"))
	type termForm struct {
		page.OfTerm
		RosterForm
	}
	edge.On(a.Edge, edge.Coordinators, http.MethodGet, "/api/terms/{term}/roster", "export-roster",
		"The roster of a term as a file",
		func(ctx context.Context, _ roster.Person, in *termForm) (*page.Download, error) {
			return a.exportRoster(ctx, in.Term, nil, in.Form, "")
		})
	type courseForm struct {
		edge.OfCourse
		RosterForm
	}
	edge.On(a.Edge, edge.Staff, http.MethodGet, "/api/courses/{course}/roster", "export-course-roster",
		"The roster of a course as a file",
		func(ctx context.Context, _ roster.Person, in *courseForm) (*page.Download, error) {
			c, err := a.Schedule.Course(ctx, in.Course)
			if err != nil {
				return nil, err
			}
			return a.exportRoster(ctx, c.TermID, &in.Course, in.Form, c.Code)
		})
	a.memberRoutes()
}

// memberRoutes adds what is done to the roster of one course.
func (a *API) memberRoutes() {
	people := func(ctx context.Context, course uuid.UUID, err error) (*edge.Body[CoursePeople], error) {
		if err != nil {
			return nil, err
		}
		return a.coursePeople(ctx, course)
	}
	const path = "/api/courses/{course}/people"
	edge.On(a.Edge, edge.Staff, http.MethodGet, path, "course-people", "The roster of a course",
		func(ctx context.Context, _ roster.Person, in *edge.OfCourse) (*edge.Body[CoursePeople], error) {
			return people(ctx, in.Course, nil)
		})
	type enrolInput struct {
		edge.OfCourse
		Body memberText
	}
	edge.On(a.Edge, edge.Staff, http.MethodPost, path, "enrol", "Give someone a role in a course, or change it",
		func(ctx context.Context, p roster.Person, in *enrolInput) (*edge.Body[CoursePeople], error) {
			_, err := a.Roster.Enrol(ctx, p, in.Course, roster.PersonForm{Email: in.Body.Email, Name: in.Body.Name},
				viewing.Role(in.Body.Role), in.Body.Group)
			return people(ctx, in.Course, err)
		}, edge.Changes("role"))
	type ofMember struct {
		edge.OfCourse
		Person uuid.UUID `path:"person" format:"uuid"`
	}
	edge.On(a.Edge, edge.Staff, http.MethodDelete, path+"/{person}", "take-off",
		"Take someone off the roster of a course",
		func(ctx context.Context, p roster.Person, in *ofMember) (*edge.Body[CoursePeople], error) {
			return people(ctx, in.Course, a.Roster.TakeOff(ctx, p, in.Course, in.Person))
		}, edge.Changes("role"))
	type inviteInput struct {
		edge.OfCourse
		Body inviteText
	}
	edge.On(a.Edge, edge.Staff, http.MethodPost, "/api/courses/{course}/invitations", "invite-people",
		"Send people of a course a letter that activates their account",
		func(ctx context.Context, _ roster.Person, in *inviteInput) (*edge.Body[Invited], error) {
			n, err := a.SignIn.Invite(ctx, &in.Course, in.Body.People, in.Body.Again)
			return edge.Answer(Invited{n}), err
		})
}

func (a *API) coursePeople(ctx context.Context, course uuid.UUID) (*edge.Body[CoursePeople], error) {
	list, err := a.Roster.Members(ctx, course)
	if err != nil {
		return nil, err
	}
	groups, err := a.Roster.Groups(ctx, course)
	if err != nil {
		return nil, err
	}
	out := CoursePeople{People: []MemberLine{}, Groups: groups}
	if groups == nil {
		out.Groups = []string{}
	}
	for _, m := range list {
		if !m.Active {
			out.Inactive++
		}
		out.People = append(out.People,
			MemberLine{m.ID, m.Name, m.Email, string(m.Role), m.Group, m.Active, m.InvitedAt})
	}
	return edge.Answer(out), nil
}

// shown is how many lines of each kind an answer lists.
const shown = 500

func rosterImport(x roster.Import) RosterImport {
	out := RosterImport{People: len(x.AddPeople), Renamed: len(x.Rename), Courses: len(x.AddCourses),
		Enrolled: len(x.AddSeats), Changed: len(x.ChangeSeats), TakenOff: len(x.RemoveSeats),
		Unchanged: x.Unchanged, Speaks: x.NamedCourses, Changes: []RosterChange{}, FaultsAll: x.FaultsAll,
		Faults: lineFaults(x.Faults), Notes: lineFaults(x.Notes), NotesAll: x.NotesAll, Digest: x.Digest,
		Empty: x.Empty()}
	if e := x.Effect; e != nil {
		out.Effect = &RosterEffect{Gain: append([]string{}, e.Gain...), Lose: append([]string{}, e.Lose...)}
	}
	if out.Speaks == nil {
		out.Speaks = []string{}
	}
	for _, s := range first(x.RemoveSeats) {
		out.Changes = append(out.Changes,
			RosterChange{"take_off", s.Course, s.Email, seatText(string(s.Role), s.Group), ""})
	}
	for _, c := range first(x.ChangeSeats) {
		out.Changes = append(out.Changes,
			RosterChange{"change", c.To.Course, c.To.Email, seatText(string(c.From.Role), c.From.Group),
				seatText(string(c.To.Role), c.To.Group)})
	}
	for _, r := range first(x.Rename) {
		out.Changes = append(out.Changes, RosterChange{"rename", "", r.Email, r.From, r.To})
	}
	for _, c := range first(x.AddCourses) {
		out.Changes = append(out.Changes, RosterChange{"add_course", c.Code, "", "", c.Title})
	}
	for _, s := range first(x.AddSeats) {
		out.Changes = append(out.Changes,
			RosterChange{"enrol", s.Course, s.Email, "", seatText(string(s.Role), s.Group)})
	}
	for _, p := range first(x.AddPeople) {
		out.Changes = append(out.Changes, RosterChange{"add_person", "", p.Email, "", p.Name})
	}
	return out
}

func first[T any](list []T) []T { return list[:min(len(list), shown)] }

func seatText(role, group string) string {
	if group == "" {
		return role
	}
	return role + ", " + group
}

func lineFaults(list []rosterfile.Fault) []page.LineFault {
	out := []page.LineFault{}
	for _, f := range first(list) {
		out = append(out, page.LineFault{File: f.File, Line: f.Line, Column: f.Column, Said: page.Say(f.Text)})
	}
	return out
}

// exportRoster writes the roster of a term, or of one course of it.
func (a *API) exportRoster(ctx context.Context, term uuid.UUID, course *uuid.UUID,
	form, code string) (*page.Download, error) {
	t, err := a.Schedule.Term(ctx, term)
	if err != nil {
		return nil, err
	}
	entries, err := a.Roster.Entries(ctx, term, course)
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	name := t.Name
	if code != "" {
		name = code
	}
	if form == "oneroster" {
		err = rosterfile.OneRoster(&b,
			rosterfile.Term{ID: t.ID.String(), Name: t.Name, First: page.Day(t.Plan.First),
				Last: page.Day(t.Plan.Last)}, entries)
		return page.File("application/zip", b.Bytes(), name, "roster.zip"), err
	}
	err = rosterfile.Sheet(&b, entries)
	return page.File("text/csv; charset=utf-8", b.Bytes(), name, "roster.csv"), err
}

var rosterProblems = edge.Problems{
	roster.ErrStale:  http.StatusConflict,
	roster.ErrFaulty: http.StatusUnprocessableEntity,
}
