package sharing

import (
	"time"

	"github.com/google/uuid"

	"latelantern/internal/audience"
	"latelantern/internal/core/viewing"
)

// OpeningList is to whom a recording, or a playlist, is open beside any course.
type OpeningList struct {
	Title    string        `json:"title" doc:"of the recording, or the playlist: empty for the main one"`
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

	List *ListOpened `json:"list,omitempty" doc:"of a link to a playlist"`
}

// ListOpened counts the recordings of a playlist by what its link does.
type ListOpened struct {
	Open   int `json:"open" doc:"it opens them"`
	Dark   int `json:"dark" doc:"it opens them once they are lit for the course"`
	Others int `json:"others" doc:"it never does: who makes it does not teach their courses"`
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
