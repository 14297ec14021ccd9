package sharing

import (
	"cmp"
	"context"
	"fmt"
	"net/http"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	"latelantern/internal/api/page"
	"latelantern/internal/format/playlistfile"
	"latelantern/internal/playlists"
	"latelantern/internal/roster"
)

type playlistFileInput struct {
	Asked
	Kind string `query:"kind" required:"true" enum:"xspf,m3u,csv,imscc"`
}

type bringInput struct {
	edge.OfCourse
	Body struct {
		Title string `json:"title,omitempty" doc:"of the new playlist; else what the file says"`
		File  string `json:"file" maxLength:"4194304" doc:"XSPF or CSV"`
	}
}

// Brought is a playlist that was made from a file.
type Brought struct {
	List    uuid.UUID     `json:"list_id" format:"uuid"`
	Here    int           `json:"here" doc:"recordings and pages that are in it"`
	Unknown []UnknownLine `json:"unknown" nullable:"false" doc:"lines of the file that are left out, as it has them"`
}

// UnknownLine is a line of a file that names nothing that could be in the playlist, or what is in it already.
type UnknownLine struct {
	Line    int    `json:"line" doc:"which of its recordings and pages, from 1 on"`
	Title   string `json:"title"`
	Address string `json:"address"`
}

func (a *API) playlistFileRoutes() {
	edge.On(a.Edge, edge.Staff, http.MethodGet, "/api/courses/{course}/playlist/file", "playlist-file",
		"A playlist as a file", a.playlistFile)
	edge.On(a.Edge, edge.Staff, http.MethodPost, "/api/courses/{course}/playlists/file", "bring-playlist",
		"Make a playlist from a file", a.bringPlaylist)
}

func (a *API) playlistFile(ctx context.Context, p roster.Person, in *playlistFileInput) (*page.Download, error) {
	shown, err := a.playlist(ctx, p, in.of())
	if err != nil {
		return nil, err
	}
	place, err := time.LoadLocation(shown.Zone)
	if err != nil {
		return nil, fmt.Errorf("find the zone of a course: %w", err)
	}
	list := playlistfile.List{Title: cmp.Or(shown.List.Title, shown.Course.Code+" "+shown.Course.Title),
		About: shown.List.About}
	for _, e := range shown.Entries {
		x := playlistfile.Line{Title: e.Title, Address: e.Address, Length: time.Duration(e.LengthMs) * time.Millisecond}
		switch {
		case e.Heading != nil:
			x = playlistfile.Line{Heading: *e.Heading, About: e.About}
		case e.File != nil:
			x.Address = a.Public + "/api/courses/" + shown.Course.ID.String() + "/playlist/files/" + e.File.ID.String()
		case e.RecordingID != nil:
			x.Recording, x.Address = *e.RecordingID, a.Public+watchLink(*e.RecordingID)
			x.Course, x.Week = cmp.Or(e.From, shown.Course.Code), e.Week
			if e.StartsAt != nil {
				x.Date = e.StartsAt.In(place).Format(time.DateOnly)
			}
		}
		list.Lines = append(list.Lines, x)
	}
	code, name := shown.Course.Code, cmp.Or(shown.List.Title, "playlist")
	switch in.Kind {
	case "xspf":
		b, err := playlistfile.XSPF(list)
		return page.File("application/xspf+xml", b, code, name+".xspf"), err
	case "imscc":
		b, err := playlistfile.Cartridge(list)
		return page.File("application/zip", b, code, name+".imscc"), err
	case "m3u":
		return page.File("audio/x-mpegurl; charset=utf-8", playlistfile.M3U(list), code, name+".m3u8"), nil
	}
	b, err := playlistfile.CSV(list)
	return page.File("text/csv; charset=utf-8", b, code, name+".csv"), err
}

func (a *API) bringPlaylist(ctx context.Context, p roster.Person, in *bringInput) (*edge.Body[Brought], error) {
	list, err := playlistfile.Read([]byte(in.Body.File))
	if err != nil {
		return nil, fmt.Errorf("%w: %w", playlists.ErrInvalid, err)
	}
	var entries []playlists.NewEntry
	var recordings []uuid.UUID
	for _, x := range list.Lines {
		entries = append(entries,
			playlists.NewEntry{Heading: x.Heading, Recording: x.Recording, Title: x.Title, Address: x.Address})
		if x.Recording != uuid.Nil {
			recordings = append(recordings, x.Recording)
		}
	}
	taught, err := a.taught(ctx, p, recordings)
	if err != nil {
		return nil, err
	}
	kept := playlists.Kept{Title: cmp.Or(in.Body.Title, list.Title), About: list.About, Arranged: "hand"}
	id, unknown, err := a.Playlists.Bring(ctx, in.Course, p.ID, kept, entries, taught)
	if err != nil {
		return nil, err
	}
	out := Brought{List: id, Unknown: []UnknownLine{}}
	left := map[int]bool{}
	for _, at := range unknown {
		left[at] = true
	}
	line := 0
	for at, x := range list.Lines {
		if x.Heading != "" {
			continue
		}
		line++
		if left[at] {
			out.Unknown = append(out.Unknown, UnknownLine{line, x.Title, x.Address})
		} else {
			out.Here++
		}
	}
	return edge.Answer(out), nil
}
