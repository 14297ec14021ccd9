package watching

import (
	"context"
	"net/http"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	has "latelantern/internal/catchup"
	"latelantern/internal/core/cutlist"
	"latelantern/internal/roster"
)

type placeInput struct {
	edge.OfRecording
	Body struct {
		Edition uuid.UUID   `json:"edition" format:"uuid" doc:"that is watched"`
		At      int64       `json:"at" minimum:"0" maximum:"604800000" doc:"published time in milliseconds"`
		Played  []page.Span `json:"played,omitempty" nullable:"false" maxItems:"500" doc:"what played since it was last told, in published time"`
		TookMs  int64       `json:"took_ms,omitempty" minimum:"0" maximum:"86400000" doc:"how long that took"`
		AgoMs   int64       `json:"ago_ms,omitempty" minimum:"0" doc:"how long ago they were there, if it could not be told at once"`
	}
}

type knownInput struct {
	edge.OfRecording
	Body struct {
		Known bool `json:"known"`
	}
}

func (a *API) wordRoutes() {
	edge.On(a.Edge, edge.Inside, http.MethodPut, "/api/watch/{recording}/place", "keep-place",
		"Remember where one is, and what one watched", a.keepPlace)
	edge.On(a.Edge, edge.SignedIn, http.MethodPut, "/api/watch/{recording}/known", "set-known",
		"Say that one knows what is in a recording, or take that back", a.setKnown)
}

// mostAgo is how long ago a word can have been said: a browser keeps it until its line is back.
const mostAgo = 365 * 24 * time.Hour

// keepPlace takes the word of a player. It comes every few seconds from each that plays, so what may be watched is
// recalled where it can be.
func (a *API) keepPlace(ctx context.Context, p roster.Person, in *placeInput) (*edge.Empty, error) {
	counts, carrier, err := a.playing(ctx, p, in.Recording, in.Body.Edition)
	if err != nil {
		return nil, err
	}
	w := has.Word{At: carrier.Source(time.Duration(in.Body.At) * time.Millisecond),
		Ago: time.Duration(min(in.Body.AgoMs, mostAgo.Milliseconds())) * time.Millisecond}
	if counts { // what was captured and is not lit is no lecture that one catches up
		w.Played = carrier.SourceSet(page.SetOf(in.Body.Played))
		w.Took = time.Duration(in.Body.TookMs) * time.Millisecond
	}
	if err := a.News.Seen(ctx, p.ID, []uuid.UUID{in.Recording}); err != nil {
		return nil, err
	}
	return nil, a.CatchUp.Keep(ctx, p.ID, in.Recording, w)
}

// playing decides whether p may watch a recording, and gives by what the edition that plays for them carries its times;
// counts is false for what was captured and neither is followed live nor was. Another can have been published since
// they opened it.
func (a *API) playing(ctx context.Context, p roster.Person, recording, edition uuid.UUID) (counts bool,
	_ cutlist.Carrier, _ error) {
	at, err := a.Audience.Recall(ctx, p.ID, recording)
	if err != nil {
		return false, nil, err
	}
	if !at.Watch() || at.Edition == nil {
		x, err := a.open(ctx, p, recording)
		if err != nil {
			return false, nil, err
		}
		if x.edition == edition {
			return edition != uuid.Nil || x.live.Running || x.live.Open, x.Stretches, nil
		}
	}
	if edition == uuid.Nil { // they followed it live, and it is published since
		x, err := a.Recordings.Captured(ctx, recording)
		if err != nil {
			return false, nil, err
		}
		return true, x.Stretches, nil
	}
	carrier, err := a.Publication.Carrier(ctx, recording, edition)
	return true, carrier, err
}

func (a *API) setKnown(ctx context.Context, p roster.Person, in *knownInput) (*edge.Empty, error) {
	if _, err := a.open(ctx, p, in.Recording); err != nil {
		return nil, err
	}
	return nil, a.CatchUp.SetKnown(ctx, p.ID, in.Recording, in.Body.Known)
}
