package listening

import (
	"context"
	"encoding/json"
	"fmt"

	"github.com/google/uuid"

	"latelantern/internal/api/page"
	"latelantern/internal/chat"
	core "latelantern/internal/core/chat"
	"latelantern/internal/core/doorway"
	"latelantern/internal/door"
	"latelantern/internal/platform/postgres"
)

// ChatNews is what is new in the chat of a lecture, for whoever has read it up to from.
type ChatNews struct {
	From    int64           `json:"from" doc:"whoever has read fewer changes asks for it"`
	Changes int64           `json:"changes" doc:"up to here"`
	Way     core.Way        `json:"way" enum:"off,teachers,all"`
	Lines   []page.ChatLine `json:"lines" nullable:"false"`
}

// recent is how many of the last changes of a chat go with the word that something is new.
const recent = 5

// spoken is what is new in a chat, written once for all who hear of it in this process.
type spoken struct {
	staff, others []byte
	by            map[uuid.UUID]bool // whose lines they are: these ask, since what is theirs is marked
}

// speak reads what is new in the chat of a lecture.
func (a *API) speak(ctx context.Context, n postgres.Event) (*spoken, error) {
	out := &spoken{by: map[uuid.UUID]bool{}}
	for _, to := range []struct {
		teaches bool
		data    *[]byte
	}{{true, &out.staff}, {false, &out.others}} {
		reader := chat.Reader{Teaches: to.teaches, Of: true}
		x, err := a.Chat.Last(ctx, n.Lecture, reader, recent)
		if err != nil {
			return nil, err
		}
		news := ChatNews{From: x.From, Changes: x.Changes, Way: x.Way, Lines: []page.ChatLine{}}
		for _, l := range x.Lines {
			out.by[l.PersonID] = true
			news.Lines = append(news.Lines, page.ChatLineOf(l, reader, l.AtMs))
		}
		e := eventOf(n)
		e.Chat = &news
		if *to.data, err = json.Marshal(e); err != nil {
			return nil, fmt.Errorf("write what is new in a chat: %w", err)
		}
	}
	return out, nil
}

// place is who is, or is not, in which lecture.
type place struct{ lecture, person uuid.UUID }

// stand is how those stand at the doors of lectures who hear at once that something was said there. Whoever was sent
// out before a line hears nothing of it.
func (a *API) stand(ctx context.Context, places []place) (map[place]door.At, error) {
	by := map[uuid.UUID][]uuid.UUID{}
	for _, p := range places {
		by[p.lecture] = append(by[p.lecture], p.person)
	}
	out := make(map[place]door.At, len(places))
	for lecture, people := range by {
		all, err := a.Door.AllStand(ctx, people, lecture)
		if err != nil {
			return nil, err
		}
		for person, at := range all {
			out[place{lecture, person}] = at
		}
	}
	return out, nil
}

// chatData is the event as a listener is given it who hears that something is new in a chat: with what is new for who
// is in that lecture. It is nil for whoever has to ask.
func (a *API) chatData(ctx context.Context, l *listener, n postgres.Event) ([]byte, error) {
	at, err := a.doors.Ask(ctx, place{n.Lecture, l.person.ID})
	if err != nil || !at.Enter || at.Private {
		return nil, err
	}
	t, err := a.about(ctx, n)
	if err != nil || t.spoken == nil || t.spoken.by[l.person.ID] {
		return nil, err
	}
	if at.Reason == doorway.AsStaff {
		return t.spoken.staff, nil
	}
	return t.spoken.others, nil
}
