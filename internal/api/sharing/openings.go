package sharing

import (
	"context"
	"net/http"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/audience"
	"latelantern/internal/core/viewing"
	"latelantern/internal/roster"
)

// OpeningList is to whom a recording is open beside any course.
type OpeningList struct {
	Title    string        `json:"title" doc:"of the recording"`
	Zone     string        `json:"zone"`
	Openings []OpeningLine `json:"openings" nullable:"false"`
	Made     *uuid.UUID    `json:"made,omitempty" format:"uuid" doc:"the one that was just made"`
}

// OpeningText is an opening, part by part of its sentence.
type OpeningText struct {
	Kind   string      `json:"kind" enum:"people,everyone,link"`
	Name   string      `json:"name,omitempty" maxLength:"400" doc:"of a link"`
	People []uuid.UUID `json:"people,omitempty" doc:"who is named; of a link nobody"`
	Uses   []string    `json:"uses" nullable:"false" enum:"watch,read,take_video,take_small,take_sound,take_text"`
	Most   *int        `json:"most,omitempty" doc:"people that may come by a link; none for any number"`
	WindowText
}

// OpeningForm is an opening as someone enters it.
type OpeningForm struct {
	OpeningText
	Phrase *string `json:"phrase,omitempty" maxLength:"1000" doc:"of a link: none for as it was, empty for none at all"`
}

func (t OpeningForm) form() audience.OpeningForm {
	return audience.OpeningForm{Kind: audience.Kind(t.Kind), Name: t.Name, People: t.People, Phrase: t.Phrase,
		Most: t.Most, Opening: viewing.Opening{Uses: usesOf(t.Uses), Window: t.window()}}
}

// OpeningLine is an opening as it is.
type OpeningLine struct {
	OpeningText
	ID     uuid.UUID  `json:"id" format:"uuid"`
	Came   []CameLine `json:"came" nullable:"false" doc:"who is named, or came by the link"`
	Phrase bool       `json:"phrase" doc:"a link asks for a pass phrase"`
	Link   string     `json:"link,omitempty"`
	By     string     `json:"by" doc:"name of who made it"`
	At     time.Time  `json:"at"`
	State  string     `json:"state" enum:"not_yet,open,no_longer"`
	Opens  *time.Time `json:"opens,omitempty" doc:"none for at once"`
	Closes *time.Time `json:"closes,omitempty" doc:"none for never"`
}

// CameLine is someone for whom an opening is.
type CameLine struct {
	Person uuid.UUID  `json:"person_id" format:"uuid"`
	Name   string     `json:"name"`
	At     *time.Time `json:"at,omitempty" doc:"when they came by the link"`
}

// PersonName is someone who can be named.
type PersonName struct {
	ID   uuid.UUID `json:"id" format:"uuid"`
	Name string    `json:"name"`
	Mail string    `json:"email"`
}

// OpeningChange is what an opening would change.
type OpeningChange struct {
	Gain  int      `json:"gain" doc:"people who can watch then, and cannot now; of a link nobody knows"`
	Of    int      `json:"of" doc:"people for whom it is"`
	Names []string `json:"names" nullable:"false" doc:"of those who gain, where people are named"`
}

// OfOpening is the input of operations about an opening.
type OfOpening struct {
	edge.OfRecording
	Opening uuid.UUID `path:"opening" format:"uuid"`
}

func (a *API) openingRoutes() {
	const path = "/api/recordings/{recording}/openings"
	type formInput struct {
		edge.OfRecording
		Body OpeningForm
	}
	type changeInput struct {
		OfOpening
		Body OpeningForm
	}
	edge.On(a.Edge, edge.Staff, http.MethodGet, path, "openings", "To whom a recording is open beside any course",
		func(ctx context.Context, _ roster.Person, in *edge.OfRecording) (*edge.Body[OpeningList], error) {
			return a.openings(ctx, in.Recording, nil)
		})
	edge.On(a.Edge, edge.Staff, http.MethodPost, path, "open", "Open a recording beside any course",
		func(ctx context.Context, p roster.Person, in *formInput) (*edge.Body[OpeningList], error) {
			id, err := a.Audience.Open(ctx, in.Recording, p.ID, in.Body.form())
			if err != nil {
				return nil, err
			}
			return a.openings(ctx, in.Recording, &id)
		}, edge.Changes("opening"))
	edge.On(a.Edge, edge.Staff, http.MethodPost, path+"/preview", "preview-opening", "What an opening would change",
		func(ctx context.Context, _ roster.Person, in *formInput) (*edge.Body[OpeningChange], error) {
			x, err := a.Audience.PreviewOpening(ctx, in.Recording, in.Body.form())
			if err != nil {
				return nil, err
			}
			return edge.Answer(OpeningChange{x.Gain, x.Of, namesOf(x.Names)}), nil
		})
	edge.On(a.Edge, edge.Staff, http.MethodPut, path+"/{opening}", "change-opening", "Change an opening",
		func(ctx context.Context, p roster.Person, in *changeInput) (*edge.Body[OpeningList], error) {
			if err := a.Audience.ChangeOpening(ctx, in.Recording, in.Opening, p.ID, in.Body.form()); err != nil {
				return nil, err
			}
			return a.openings(ctx, in.Recording, nil)
		}, edge.Changes("opening"))
	a.openingEnds(path)
}

// openingEnds are the routes that take openings back, and renew links.
func (a *API) openingEnds(path string) {
	type answer = edge.Body[OpeningList]
	on := func(method, path, id, summary string, do func(context.Context, roster.Person, *OfOpening) error) {
		edge.On(a.Edge, edge.Staff, method, path, id, summary,
			func(ctx context.Context, p roster.Person, in *OfOpening) (*answer, error) {
				if err := do(ctx, p, in); err != nil {
					return nil, err
				}
				return a.openings(ctx, in.Recording, nil)
			}, edge.Changes("opening"))
	}
	on(http.MethodDelete, path+"/{opening}", "take-opening-back", "Take an opening back",
		func(ctx context.Context, p roster.Person, in *OfOpening) error {
			return a.Audience.TakeBack(ctx, in.Recording, in.Opening, p.ID, false)
		})
	on(http.MethodPost, path+"/{opening}/bring-back", "open-again", "Let an opening hold again as before",
		func(ctx context.Context, p roster.Person, in *OfOpening) error {
			return a.Audience.TakeBack(ctx, in.Recording, in.Opening, p.ID, true)
		})
	on(http.MethodPost, path+"/{opening}/renew", "renew-link", "Give a link a new address",
		func(ctx context.Context, p roster.Person, in *OfOpening) error {
			return a.Audience.Renew(ctx, in.Recording, in.Opening, p.ID)
		})
	type findInput struct {
		edge.OfRecording
		Words string `query:"words" maxLength:"100"`
	}
	edge.On(a.Edge, edge.Staff, http.MethodGet, "/api/recordings/{recording}/people", "people-to-name",
		"People with an account whom an opening can name",
		func(ctx context.Context, _ roster.Person, in *findInput) (*edge.Body[[]PersonName], error) {
			found, err := a.Roster.Named(ctx, in.Words)
			if err != nil {
				return nil, err
			}
			out := []PersonName{}
			for _, p := range found {
				out = append(out, PersonName{p.ID, p.Name, p.Email})
			}
			return edge.Answer(out), nil
		})
}

func (a *API) openings(ctx context.Context, recording uuid.UUID, made *uuid.UUID) (*edge.Body[OpeningList], error) {
	list, err := a.Audience.Openings(ctx, recording)
	if err != nil {
		return nil, err
	}
	of, err := edge.OfRecording{Recording: recording}.Belongs(ctx, a.Edge)
	if err != nil {
		return nil, err
	}
	term, err := a.Schedule.TermOf(ctx, of)
	if err != nil {
		return nil, err
	}
	title, err := a.Audience.Title(ctx, audience.Scope{Course: of, Recording: recording})
	if err != nil {
		return nil, err
	}
	out := OpeningList{Title: title, Zone: term.Zone.String(), Openings: []OpeningLine{}, Made: made}
	for _, o := range list {
		out.Openings = append(out.Openings, openingLine(o, a.Clock.Now()))
	}
	return edge.Answer(out), nil
}

func openingLine(o audience.Opening, now time.Time) OpeningLine {
	line := OpeningLine{OpeningText: OpeningText{Kind: string(o.Kind), Name: o.Name, Uses: o.Uses.Names(), Most: o.Most,
		WindowText: windowText(o.Window)}, ID: o.ID, Came: []CameLine{}, Phrase: o.Phrase, Link: o.Link, By: o.By,
		At: o.MadeAt, Closes: o.Closes, State: "open"}
	if !o.Opens.IsZero() {
		line.Opens = &o.Opens
	}
	switch {
	case now.Before(o.Opens):
		line.State = "not_yet"
	case o.Closes != nil && !now.Before(*o.Closes):
		line.State = "no_longer"
	}
	for _, p := range o.People {
		line.Came = append(line.Came, CameLine{p.PersonID, p.Name, p.At})
		if o.Kind == audience.ForPeople {
			line.People = append(line.People, p.PersonID)
		}
	}
	return line
}
