package sharing

import (
	"cmp"
	"context"
	"encoding/xml"
	"errors"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/core/embedding"
	"latelantern/internal/playlists"
	"latelantern/internal/roster"
)

// Share is how a recording or a playlist is shown on another page, and who can watch it there.
type Share struct {
	Link    string        `json:"link" doc:"its address here"`
	OEmbed  string        `json:"oembed" doc:"where its oEmbed answer is"`
	Codes   []EmbedCode   `json:"codes" nullable:"false" doc:"what a page has in which it is shown, by size"`
	Courses []ShareCourse `json:"courses" nullable:"false" doc:"that show it, of those that the caller teaches"`
	Sites   []string      `json:"sites" nullable:"false" doc:"those that may show it in a frame"`
}

// EmbedCode is what stands in a page that shows something of here.
type EmbedCode struct {
	Width  int    `json:"width" doc:"in CSS pixels; 0 for as wide as there is room"`
	Height int    `json:"height"`
	Code   string `json:"code"`
}

// ShareCourse is how many students of a course can watch something now, of a playlist anything of it.
type ShareCourse struct {
	Code string `json:"code"`
	Can  int    `json:"can"`
	Of   int    `json:"of"`
}

// EmbedSites are other sites that may show what is here in a frame.
type EmbedSites struct {
	Sites []string `json:"sites" nullable:"false" maxItems:"200" doc:"each by its address, as https://courses.example or https://*.example.org"`
}

type shareInput struct {
	edge.OfCourse
	Recording uuid.UUID `query:"recording" format:"uuid" doc:"that the course has"`
	List      uuid.UUID `query:"list" format:"uuid" doc:"or a playlist that it shows"`
}

type sitesInput struct{ Body EmbedSites }

func (a *API) embedRoutes() {
	edge.On(a.Edge, edge.Teachers, http.MethodGet, "/api/embed-sites", "embed-sites",
		"Which other sites may show what is here",
		func(ctx context.Context, _ roster.Person, _ *edge.Empty) (*edge.Body[EmbedSites], error) {
			sites, err := a.Frames.Sites(ctx)
			return edge.Answer(EmbedSites{sites}), err
		})
	edge.On(a.Edge, edge.Coordinators, http.MethodPut, "/api/embed-sites", "set-embed-sites",
		"Say which other sites may show what is here",
		func(ctx context.Context, p roster.Person, in *sitesInput) (*edge.Empty, error) {
			return nil, a.Frames.SetSites(ctx, p.ID, in.Body.Sites)
		}, edge.Changes("embed sites"))
	edge.On(a.Edge, edge.Staff, http.MethodGet, "/api/courses/{course}/share", "share",
		"How a recording or a playlist is shown on another page", a.share)
	a.Plain(edge.Anyone, http.MethodGet, "/api/oembed", a.oembed)
}

func (a *API) share(ctx context.Context, p roster.Person, in *shareInput) (*edge.Body[Share], error) {
	what, err := a.shared(ctx, in)
	if err != nil {
		return nil, err
	}
	out := Share{Link: a.Public + what.link, Codes: []EmbedCode{}, Courses: []ShareCourse{}}
	out.OEmbed = a.Public + "/api/oembed?" + url.Values{"url": {out.Link}}.Encode()
	for _, size := range embedding.Usual {
		out.Codes = append(out.Codes, EmbedCode{size.Width, size.Height, embedding.Code(a.Public+what.frame, size)})
	}
	for _, id := range what.courses {
		// Of courses that they do not teach nobody learns how many there are.
		if err := a.MayStaff(ctx, p, id); errors.Is(err, edge.ErrNotStaff) {
			continue
		} else if err != nil {
			return nil, err
		}
		line, err := a.shareCourse(ctx, id, what.recordings)
		if err != nil {
			return nil, err
		}
		out.Courses = append(out.Courses, line)
	}
	out.Sites, err = a.Frames.Sites(ctx)
	return edge.Answer(out), err
}

// shared is something that is shown elsewhere: where it is, here and for a frame, and who it is for.
type shared struct {
	link, frame         string
	recordings, courses []uuid.UUID
}

func (a *API) shared(ctx context.Context, in *shareInput) (shared, error) {
	if in.Recording != uuid.Nil {
		courses, err := a.Audience.CoursesOf(ctx, in.Recording)
		if err == nil && !slices.Contains(courses, in.Course) {
			err = edge.ErrNowhere
		}
		return shared{link: watchLink(in.Recording), frame: recordingFrame(in.Recording),
			recordings: []uuid.UUID{in.Recording}, courses: courses}, err
	}
	of := playlists.Of{Course: in.Course, List: in.List}
	entries, err := a.Playlists.Entries(ctx, of)
	if err != nil {
		return shared{}, err
	}
	out := shared{link: listLink(of), frame: listFrame(of), courses: []uuid.UUID{in.Course}}
	for _, e := range entries {
		if e.RecordingID != nil {
			out.recordings = append(out.recordings, *e.RecordingID)
		}
	}
	return out, nil
}

// Where things are, here and in a frame.
func watchLink(recording uuid.UUID) string      { return "/watch/" + recording.String() }
func recordingFrame(recording uuid.UUID) string { return "/embed/recordings/" + recording.String() }
func listLink(of playlists.Of) string {
	return "/catch-up?" + url.Values{"course": {of.Course.String()}, "list": {nameOf(of)}}.Encode()
}
func listFrame(of playlists.Of) string {
	return "/embed/courses/" + of.Course.String() + "/lists/" + nameOf(of)
}

// mainList names the main playlist of a course in an address.
const mainList = "main"

func nameOf(of playlists.Of) string {
	if of.List == uuid.Nil {
		return mainList
	}
	return of.List.String()
}

// shareCourse counts the students of a course who can watch any of some recordings.
func (a *API) shareCourse(ctx context.Context, course uuid.UUID, recordings []uuid.UUID) (ShareCourse, error) {
	c, err := a.Schedule.Course(ctx, course)
	if err != nil {
		return ShareCourse{}, err
	}
	people, err := a.Audience.Reached(ctx, course, recordings)
	return ShareCourse{Code: c.Code, Can: people.Can, Of: people.Of}, err
}

// OEmbed is the answer for whoever wants to show an address (oEmbed 1.0, 2.3.4): a frame, and nothing of what is in it,
// which those alone learn who may watch it.
type OEmbed struct {
	XMLName      xml.Name `json:"-" xml:"oembed"`
	Version      string   `json:"version" xml:"version"`
	Type         string   `json:"type" xml:"type"`
	ProviderName string   `json:"provider_name" xml:"provider_name"`
	ProviderURL  string   `json:"provider_url" xml:"provider_url"`
	HTML         string   `json:"html" xml:"html"`
	Width        int      `json:"width" xml:"width"`
	Height       int      `json:"height" xml:"height"`
}

// oembed answers for every address that has the form of one of ours, whether anything is there or not.
func (a *API) oembed(c *gin.Context) {
	frame, kind := a.frameOf(c.Query("url"))
	width, _ := strconv.Atoi(c.Query("maxwidth"))
	height, _ := strconv.Atoi(c.Query("maxheight"))
	format := cmp.Or(c.Query("format"), "json")
	switch {
	case frame == "":
		c.Status(http.StatusNotFound)
		return
	case format != "json" && format != "xml":
		c.Status(http.StatusNotImplemented) // as the format has it
		return
	}
	size := embedding.Within(width, height)
	out := OEmbed{Version: "1.0", Type: kind, ProviderName: "Late Lantern", ProviderURL: a.Public,
		HTML: embedding.Code(a.Public+frame, size), Width: size.Width, Height: size.Height}
	if format == "xml" {
		c.Header("Content-Type", "text/xml; charset=utf-8")
		c.Status(http.StatusOK)
		_, _ = c.Writer.WriteString(xml.Header)
		_ = xml.NewEncoder(c.Writer).Encode(out)
		return
	}
	c.JSON(http.StatusOK, out)
}

// frameOf is the address in a frame of what has an address here, and which type of oEmbed that is; "" for none.
func (a *API) frameOf(text string) (frame, kind string) {
	rest, ours := strings.CutPrefix(text, a.Public)
	at, err := url.Parse(rest)
	if !ours || err != nil || !strings.HasPrefix(rest, "/") {
		return "", ""
	}
	if name, watch := strings.CutPrefix(at.Path, "/watch/"); watch {
		id, err := uuid.Parse(name)
		if err != nil {
			return "", ""
		}
		return recordingFrame(id), "video"
	}
	course, err := uuid.Parse(at.Query().Get("course"))
	if at.Path != "/catch-up" || err != nil {
		return "", ""
	}
	of := playlists.Of{Course: course}
	if name := at.Query().Get("list"); name != mainList {
		if of.List, err = uuid.Parse(name); err != nil {
			return "", ""
		}
	}
	return listFrame(of), "rich"
}
