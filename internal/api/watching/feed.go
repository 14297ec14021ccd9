package watching

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"log/slog"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"
	lru "github.com/hashicorp/golang-lru/v2"

	"latelantern/internal/api/edge"
	"latelantern/internal/core/viewing"
	"latelantern/internal/feeds"
	"latelantern/internal/format/rss"
	"latelantern/internal/publication"
	"latelantern/internal/recordings"
	"latelantern/internal/roster"
)

// RecordingFeed is one's own feed of what a course shows.
type RecordingFeed struct {
	Lists []FeedList `json:"lists" nullable:"false" doc:"the playlists that a feed can be of"`
	Kinds []FeedKind `json:"kinds" nullable:"false" doc:"the addresses; none where nothing may be taken away"`
	Open  int        `json:"open" doc:"recordings that one can watch here"`
}

// FeedList is a playlist that a feed can be of.
type FeedList struct {
	ID    uuid.UUID `json:"id" format:"uuid"`
	Title string    `json:"title" doc:"empty for the main one of the course"`
}

// FeedKind is a feed of one kind of files.
type FeedKind struct {
	Kind    string `json:"kind" enum:"sound,small,video"`
	Address string `json:"address" doc:"private"`
	Here    int    `json:"here" doc:"recordings that are in it"`
	Waits   int    `json:"waits" doc:"files that are made once an app asks for the feed"`
	Without int    `json:"without" doc:"recordings that one can watch, and not take away like this"`
}

// feedKinds are the kinds of files that a feed can have, the lightest first.
var feedKinds = []string{string(publication.CopySound), string(publication.CopySmall), string(publication.CopyVideo)}

type feedInput struct {
	edge.OfCourse
	List string `query:"list" format:"uuid" doc:"a playlist that the course shows; without it all that it shows"`
}

func (a *API) feedRoutes() {
	var err error
	if a.fed, err = lru.New[string, fedAt](mostFed); err != nil {
		panic(err) // the size is positive
	}
	const path = "/api/courses/{course}/recording-feed"
	edge.On(a.Edge, edge.Members, http.MethodGet, path, "recording-feed", "One's own feed of what a course shows",
		func(ctx context.Context, p roster.Person, in *feedInput) (*edge.Body[RecordingFeed], error) {
			return a.recordingFeed(ctx, p, in, a.Feeds.Key)
		})
	edge.On(a.Edge, edge.Members, http.MethodPost, path, "renew-recording-feed",
		"A new address; the old one no longer works",
		func(ctx context.Context, p roster.Person, in *feedInput) (*edge.Body[RecordingFeed], error) {
			return a.recordingFeed(ctx, p, in, a.Feeds.Renew)
		})
	for _, method := range []string{http.MethodGet, http.MethodHead} {
		a.Plain(edge.Holders, method, "/take/:key/:kind", a.feed)
		a.Plain(edge.Holders, method, "/take/:key/:kind/:file", a.feedFile)
	}
}

func (a *API) recordingFeed(ctx context.Context, p roster.Person, in *feedInput,
	key func(context.Context, feeds.Of) (string, error)) (*edge.Body[RecordingFeed], error) {
	of := feeds.Of{Person: p.ID, Course: in.Course}
	if in.List != "" {
		id, err := uuid.Parse(in.List)
		if err != nil {
			return nil, feeds.ErrUnknown
		}
		of.List = id
	}
	k, err := key(ctx, of)
	if err != nil {
		return nil, err
	}
	x, err := a.feedOf(ctx, of)
	if err != nil {
		return nil, err
	}
	out := RecordingFeed{Lists: x.lists, Kinds: []FeedKind{}, Open: len(x.lines)}
	for _, kind := range feedKinds {
		n := FeedKind{Kind: kind, Address: a.feedAddress(k, kind)}
		for _, l := range x.lines {
			switch l.file(kind) {
			case fileReady:
				n.Here++
			case fileWaits:
				n.Waits++
			default:
				n.Without++
			}
		}
		if n.Here+n.Waits > 0 {
			out.Kinds = append(out.Kinds, n)
		}
	}
	return edge.Answer(out), nil
}

func (a *API) feedAddress(key, kind string) string {
	return a.Public + "/take/" + key + "/" + kind + ".xml"
}

// fedAt is a feed as it was sent: while what it is made of is the same it need not be made anew.
type fedAt struct {
	state, tag string
	until      time.Time
}

// mostFed is of how many feeds it is known what was sent last.
const mostFed = 20_000

// feed sends a feed. One that is as it was when its reader asked last costs one query.
func (a *API) feed(c *gin.Context) {
	key := c.Param("key")
	kind, ok := strings.CutSuffix(c.Param("kind"), ".xml")
	if !ok || !slices.Contains(feedKinds, kind) {
		c.AbortWithStatus(http.StatusNotFound)
		return
	}
	of, state, err := a.Feeds.State(c.Request.Context(), key)
	if err != nil {
		a.noFeed(c, err)
		return
	}
	c.Header("Cache-Control", "private, no-cache")
	c.Header("X-Robots-Tag", "noindex")
	address := a.feedAddress(key, kind)
	last, known := a.fed.Get(address)
	if known && last.state == state && (last.until.IsZero() || a.Clock.Now().Before(last.until)) &&
		strings.Contains(c.GetHeader("If-None-Match"), last.tag) {
		c.Header("ETag", last.tag)
		c.Status(http.StatusNotModified)
		return
	}
	x, err := a.feedOf(c.Request.Context(), of)
	if err == nil {
		err = a.askFiles(c.Request.Context(), x, kind)
	}
	var b bytes.Buffer
	if err == nil {
		err = rss.Write(&b, a.document(x, key, kind))
	}
	if err != nil {
		a.noFeed(c, err)
		return
	}
	sum := sha256.Sum256(b.Bytes())
	tag := `"` + hex.EncodeToString(sum[:16]) + `"`
	a.fed.Add(address, fedAt{state, tag, x.until})
	c.Header("ETag", tag)
	c.Header("Content-Type", rss.Type)
	http.ServeContent(c.Writer, c.Request, "", time.Time{}, bytes.NewReader(b.Bytes()))
}

// noFeed answers that there is no feed, or that it cannot be read now.
func (a *API) noFeed(c *gin.Context, err error) {
	if errors.Is(err, feeds.ErrUnknown) || errors.Is(err, recordings.ErrUnknown) {
		c.AbortWithStatus(http.StatusNotFound)
		return
	}
	slog.Error("a feed cannot be written", "error", err)
	c.Header("Retry-After", "60")
	c.AbortWithStatus(http.StatusServiceUnavailable)
}

// mostMaking is how many files of one feed are made at a time: the house has others to serve.
const mostMaking = 20

// toAsk are the recordings of which files are asked for now, the latest lectures first.
func (x fed) toAsk(kind string) []fedLine {
	var asked []fedLine
	making := 0
	for _, l := range x.lines {
		if l.file(kind) == fileWaits {
			if l.files.Copies[kind].State == "making" {
				making++
			} else {
				asked = append(asked, l)
			}
		}
	}
	slices.SortStableFunc(asked, func(a, b fedLine) int { return b.held.Compare(a.held) })
	return asked[:min(len(asked), max(0, mostMaking-making))]
}

// askFiles has files made that a feed waits for; what is gone meanwhile is left out.
func (a *API) askFiles(ctx context.Context, x fed, kind string) error {
	for _, l := range x.toAsk(kind) {
		err := a.askFile(ctx, l, publication.CopyKind(kind))
		if err != nil && !errors.Is(err, recordings.ErrNotReady) && !errors.Is(err, recordings.ErrUnknown) {
			return err
		}
	}
	return nil
}

func (a *API) askFile(ctx context.Context, l fedLine, kind publication.CopyKind) error {
	r, err := a.Recordings.Recording(ctx, l.id)
	if err != nil {
		return err
	}
	by, err := a.editionCarrier(ctx, l.files.Edition)
	if err != nil {
		return err
	}
	chapters, err := a.Words.Carried(ctx, r, by)
	if err != nil {
		return err
	}
	_, err = a.Publication.AskCopy(ctx, l.files.Edition, kind, chapters)
	return err
}

// document is a feed of one kind of files, with those that are there.
func (a *API) document(x fed, key, kind string) rss.Feed {
	base := a.Public + "/take/" + key + "/"
	out := rss.Feed{Title: x.title, About: x.about, Page: a.Public + "/catch-up", Self: a.feedAddress(key, kind),
		Language: x.language}
	for n, l := range x.lines {
		if l.file(kind) == fileWaits {
			out.Grows = true
		}
		if l.file(kind) != fileReady {
			continue
		}
		id := l.id.String()
		it := rss.Item{Recording: l.id, Title: l.title, About: l.about, Page: a.Public + "/watch/" + id, At: l.held,
			Number: n + 1, File: rss.File{Address: base + kind + "/" + id + fileEnd(kind), Type: copyFiles[kind][1],
				Bytes: l.files.Copies[kind].Bytes}}
		if l.files.Copies[kind].Chapters {
			it.Chapters = base + "chapters/" + id + ".json"
		}
		if l.uses.Has(viewing.TakeText) {
			for _, language := range l.files.Languages {
				it.Captions = append(it.Captions,
					rss.Captions{Language: language, Address: base + "captions/" + id + "." + language + ".vtt"})
			}
		}
		out.Items = append(out.Items, it)
	}
	return out
}
