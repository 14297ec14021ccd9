package watching

import (
	"cmp"
	"context"
	"net/http"
	"slices"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/audience"
	"latelantern/internal/core/cutlist"
	"latelantern/internal/core/span"
	"latelantern/internal/core/viewing"
	"latelantern/internal/find"
	"latelantern/internal/recordings"
	"latelantern/internal/roster"
)

// Hits are the moments at which something is said or shown, by the recordings that someone can watch.
type Hits struct {
	Zone  string     `json:"zone"`
	Found []HitGroup `json:"found" nullable:"false" doc:"the best first"`
	More  bool       `json:"more" doc:"there are further recordings; further words find fewer"`
}

// HitGroup is a recording in which it was found.
type HitGroup struct {
	RecordingID uuid.UUID  `json:"recording_id" format:"uuid"`
	Course      string     `json:"course" doc:"its code; empty for what is open beside any course"`
	Title       string     `json:"title"`
	StartsAt    *time.Time `json:"starts_at,omitempty"`
	Hits        []HitLine  `json:"hits" nullable:"false" doc:"in their order"`
	Others      int        `json:"others" doc:"how many further hits it has"`
	lecture     uuid.UUID
}

// HitLine is a moment of it.
type HitLine struct {
	At      int64      `json:"at" doc:"in published time"`
	Place   string     `json:"place" enum:"said,slide,chapter"`
	Pieces  []HitPiece `json:"pieces" nullable:"false"`
	Picture string     `json:"picture,omitempty" doc:"the address of what stands on the picture then"`
}

// HitPiece is some of its text.
type HitPiece struct {
	Text string `json:"text"`
	Hit  bool   `json:"hit,omitempty"`
}

type searchInput struct {
	Words string `query:"words" maxLength:"200" doc:"all of them; phrases between quotation marks"`
}

// mostGroups is in how many recordings hits are listed, and mostHits how many of each.
const mostGroups, mostHits = 10, 5

func (a *API) searchRoutes() {
	edge.On(a.Edge, edge.SignedIn, http.MethodGet, "/api/search", "search",
		"Moments at which something is said or shown, of what who asks can watch", a.search)
}

func (a *API) search(ctx context.Context, p roster.Person, in *searchInput) (*edge.Body[Hits], error) {
	term, err := a.Schedule.CurrentTerm(ctx)
	if err != nil {
		return nil, err
	}
	out := Hits{Zone: term.Zone.String(), Found: []HitGroup{}}
	var within, beside []uuid.UUID
	if !p.Coordinator {
		within = []uuid.UUID{}
		parts, err := a.Roster.Memberships(ctx, p.ID)
		if err != nil {
			return nil, err
		}
		for _, m := range parts {
			within = append(within, m.CourseID)
		}
		if beside, err = a.Audience.Opened(ctx, p.ID); err != nil {
			return nil, err
		}
	}
	found, err := a.Find.Speaking(ctx, in.Words, within, beside)
	if err != nil {
		return nil, err
	}
	// What is decided is decided for a few at a time, until there are enough.
	for some := range slices.Chunk(found, mostGroups+1) {
		groups, err := a.hitGroups(ctx, p, in.Words, some)
		if err != nil {
			return nil, err
		}
		if out.Found = append(out.Found, groups...); len(out.Found) > mostGroups {
			break
		}
	}
	if len(out.Found) > mostGroups {
		out.Found, out.More = out.Found[:mostGroups], true
	}
	return edge.Answer(out), a.nameHits(ctx, out.Found)
}

// hitGroups are those of recordings that p can watch, with what p can see of the hits: nothing that was struck, and
// nothing that is said where they may not read it.
func (a *API) hitGroups(ctx context.Context, p roster.Person, words string, found []find.Spoken) ([]HitGroup, error) {
	var ids []uuid.UUID
	lectures := map[uuid.UUID]uuid.UUID{}
	for _, x := range found {
		ids, lectures[x.Recording] = append(ids, x.Recording), x.Lecture
	}
	accesses, err := a.Audience.DecideAll(ctx, p.ID, ids)
	if err != nil {
		return nil, err
	}
	seen, err := a.sights(ctx, p, accesses)
	if err != nil {
		return nil, err
	}
	ids = slices.DeleteFunc(ids, func(id uuid.UUID) bool { return seen[id] == nil })
	moments, err := a.Find.Moments(ctx, words, ids)
	if err != nil {
		return nil, err
	}
	var out []HitGroup
	for _, id := range ids {
		g := HitGroup{RecordingID: id, Course: accesses[id].Code, Hits: []HitLine{}, lecture: lectures[id]}
		for _, m := range moments {
			if m.Recording != id {
				continue
			}
			if hit, ok := seen[id].hit(m); ok {
				if g.Hits = append(g.Hits, hit); len(g.Hits) > mostHits {
					g.Hits, g.Others = g.Hits[:mostHits], g.Others+1
				}
			}
		}
		if len(g.Hits) > 0 {
			out = append(out, g)
		}
	}
	return out, nil
}

// nameHits says what the recordings of hits are called, and when their lectures were.
func (a *API) nameHits(ctx context.Context, all []HitGroup) error {
	var ids []uuid.UUID
	for _, g := range all {
		ids = append(ids, g.lecture)
	}
	lectures, err := a.Schedule.LecturesNamed(ctx, ids)
	if err != nil {
		return err
	}
	for i, g := range all {
		for _, l := range lectures {
			if l.ID == g.lecture && (all[i].Title == "" || l.RecordingID != nil && *l.RecordingID == g.RecordingID) {
				all[i].Title, all[i].StartsAt = cmp.Or(l.Title, l.Name()), page.Dated(l.StartsAt, l.Ahead)
			}
		}
	}
	return nil
}

// sighted is what someone sees of a recording: by what its times are carried to them, and what stands on its pictures.
type sighted struct {
	carrier cutlist.Carrier
	slides  []recordings.Slide
	media   string
	reads   bool
}

// sights are what p sees of recordings, without those that they cannot watch, or of which there is nothing to be seen.
func (a *API) sights(ctx context.Context, p roster.Person, accesses map[uuid.UUID]audience.Access,
) (map[uuid.UUID]*sighted, error) {
	editions := editionsOf(accesses)
	published, err := a.Publication.Carriers(ctx, editions)
	if err != nil {
		return nil, err
	}
	for id, x := range accesses {
		if !x.Watch() || x.Edition != nil {
			continue
		}
		r, err := a.Recordings.Recording(ctx, id) // those who teach it see it as it would be published
		if err != nil {
			return nil, err
		}
		published[id] = cutlist.CarrierOf(r.Kept())
	}
	slides, err := a.Recordings.Slides(ctx, published)
	if err != nil {
		return nil, err
	}
	out := map[uuid.UUID]*sighted{}
	for id, c := range published {
		media, captured := a.Address(edge.AsPublished, id, editions[id], p.ID), accesses[id].Edition == nil
		if captured {
			media = a.Address(edge.AsCaptured, id, uuid.Nil, p.ID)
		}
		out[id] = &sighted{carrier: c, slides: slides[id].Slides, media: media,
			reads: captured || accesses[id].Uses.Has(viewing.ToRead)}
	}
	return out, nil
}

// hit is a moment as it is shown; ok is false for what is not.
func (s *sighted) hit(m find.Moment) (HitLine, bool) {
	out := HitLine{Place: string(m.Place), Pieces: []HitPiece{}}
	switch m.Place {
	case find.OnSlide:
		n := slices.IndexFunc(s.slides, func(x recordings.Slide) bool {
			return x.Track == m.Track && x.Picture == m.Picture
		})
		if n < 0 {
			return out, false
		}
		out.At = s.slides[n].AtMs
	case find.InChapter:
		// What stands at its beginning may be struck: it begins where something of it is left.
		until := cmp.Or(m.Until, m.At+7*24*time.Hour)
		stands, ok := s.carrier.Span(span.Span{Start: m.At, End: until})
		if !ok {
			return out, false
		}
		out.At = stands.Start.Milliseconds()
	default:
		at, ok := s.carrier.Moment(m.At)
		if !ok || !s.reads {
			return out, false
		}
		out.At = at.Milliseconds()
	}
	for _, x := range m.Pieces {
		out.Pieces = append(out.Pieces, HitPiece{x.Text, x.Hit})
	}
	for _, x := range s.slides {
		if x.AtMs <= out.At {
			out.Picture = edge.SlideAddress(s.media, x)
		}
	}
	return out, true
}
