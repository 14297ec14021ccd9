package api_test

import (
	"context"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/core/span"
	"latelantern/internal/cuts"
)

// TestAdmissionToMedia asks for every kind of media by every use, for every part, with an address that holds and one
// that is over, of the edition that is published and of others, under a rule that lets copies be taken and one that
// does not: what is sent is what this table says, and nothing else.
func TestAdmissionToMedia(t *testing.T) {
	ctx := context.Background()
	e := newEdge(t)
	id := e.recording()
	strip := e.Measured(id)
	if len(strip.Slides) == 0 {
		t.Fatal("it has no slides")
	}
	e.everyone(true)
	before := *e.Lit(id).EditionID
	e.Must(e.Cuts.Change(ctx, id, e.Lecturer, cuts.Strike, span.Span{Start: time.Second, End: 2 * time.Second}))
	published := *e.Lit(id).EditionID
	e.copied("student", id)

	streams := []string{"index.m3u8", "listen.m3u8", "pictures.m3u8", "pictures/init-0.mp4", "pictures/0.m4s",
		"sound.m3u8", "sound/0.m4s"}
	slide := fmt.Sprintf("slides/%s-%d.jpg", strip.Slides[0].Track, strip.Slides[0].Picture)
	const copied = "copy/video.mp4"
	people := map[string]uuid.UUID{"student": e.Student, "lecturer": e.Lecturer, "coordinator": e.Coordinator,
		"outsider": e.Outsider, "colleague": e.Colleague}
	staff, enrolled := []string{"lecturer", "coordinator"}, []string{"lecturer", "coordinator", "student"}
	const captured, runs, asPublished, unknown = 'c', 'r', 'p', 'x'
	front := e.Edge(nil)
	sent := 0
	for _, download := range []bool{true, false} {
		e.everyone(download)
		for name, person := range people {
			c := e.as(name)
			for _, use := range []byte{captured, runs, asPublished, unknown} {
				for until, holds := range map[time.Duration]bool{time.Minute: true, -time.Second: false} {
					for edition, current := range map[uuid.UUID]bool{published: true, before: false, uuid.Nil: false,
						uuid.New(): false} {
						admitted := holds &&
							(use == asPublished && current && slices.Contains(enrolled, name) ||
								use == captured && slices.Contains(staff, name))
						address := front.AddressUntil(time.Now().Add(until), edge.Use(use), id, edition, person)
						for _, kind := range slices.Concat(streams, []string{slide, copied}) {
							want := admitted
							switch kind {
							case copied:
								want = admitted && use == asPublished && (download || slices.Contains(staff, name))
							}
							status := c.status(http.MethodGet, strings.TrimSuffix(address, "index.m3u8")+kind, nil)
							if status == http.StatusOK {
								sent++
							}
							if (status == http.StatusOK) != want || !want && status != http.StatusNotFound {
								t.Errorf("%s asks for %s by use %c, of the current edition %v, with an address that holds %v, copies %v: %d",
									name, kind, use, current, holds, download, status)
							}
						}
					}
				}
			}
		}
	}
	if sent < 100 {
		t.Errorf("only %d were sent, which proves little", sent)
	}
	// What lies in the bin is there for nobody.
	e.Must(e.Library.SetDeleted(ctx, id, e.Lecturer, true))
	for _, name := range enrolled {
		for _, use := range []byte{captured, asPublished} {
			address := front.AddressUntil(time.Now().Add(time.Minute), edge.Use(use), id, published, people[name])
			if s := e.as(name).status(http.MethodGet, address, nil); s != http.StatusNotFound {
				t.Errorf("in the bin, for %s by use %c: %d", name, use, s)
			}
		}
	}
}
