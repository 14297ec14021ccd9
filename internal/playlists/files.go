package playlists

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"path"
	"slices"
	"strings"
	"time"
	"unicode"

	"github.com/gabriel-vasile/mimetype"
	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"latelantern/internal/core/fault"
	"latelantern/internal/platform/blobs"
	"latelantern/internal/platform/postgres"
)

// MostFile is how many bytes a file in a playlist has at most.
const MostFile = 100 << 20

// looked is by how many of its first bytes the kind of a file is found.
const looked = 64 << 10

// fileKinds are the kinds of files that are taken: slides, texts, sheets, pictures and archives of them, by the media
// type that is found in their bytes or its parents.
var fileKinds = []string{
	"application/pdf", "image/png", "image/jpeg", "image/webp", "image/gif", "text/csv", "text/rtf",
	"application/vnd.oasis.opendocument.presentation", "application/vnd.oasis.opendocument.text",
	"application/vnd.oasis.opendocument.spreadsheet", "application/vnd.oasis.opendocument.graphics",
	"application/vnd.openxmlformats-officedocument.presentationml.presentation",
	"application/vnd.openxmlformats-officedocument.wordprocessingml.document",
	"application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
	"application/msword", "application/vnd.ms-powerpoint", "application/vnd.ms-excel", "application/x-ole-storage",
	"application/zip", "application/epub+zip",
}

func init() { mimetype.SetLimit(looked) }

// File is a file that stands in a playlist.
type File struct {
	ID    uuid.UUID
	Name  string // as it came, without folders
	Kind  string // its media type
	Bytes int64
	Blob  uuid.UUID
}

// fileKey is where the bytes of a file lie.
func fileKey(blob uuid.UUID) string { return "playlist/" + blob.String() }

// kindOf is the media type of what begins with b, if it is one that is taken. Plain text is taken as such, a page or a
// script is not.
func kindOf(b []byte) (string, bool) {
	found := mimetype.Detect(b)
	if found.Is("text/plain") {
		return "text/plain", true
	}
	for _, kind := range fileKinds {
		if found.Is(kind) {
			return kind, true
		}
	}
	return "", false
}

// fileName is a name as it is kept: without folders, on one line, its end kept where it is long.
func fileName(name string) string {
	name = path.Base(strings.ReplaceAll(strings.ToValidUTF8(name, ""), `\`, "/"))
	space := func(r rune) bool { return unicode.IsControl(r) || unicode.IsSpace(r) }
	name = strings.Join(strings.FieldsFunc(name, space), " ")
	letters := []rune(name)
	if end := []rune(path.Ext(name)); len(letters) > mostTitle && len(end) < 20 {
		letters = slices.Concat(letters[:mostTitle-len(end)], end)
	}
	name = string(letters[:min(len(letters), mostTitle)])
	if strings.Trim(name, "./ ") == "" {
		return "file"
	}
	return name
}

// counted counts what is read, and fails once it is more than a file may have.
type counted struct {
	from io.Reader
	n    int64
}

var errLargeFile = fmt.Errorf("%w: %w", ErrInvalid, fault.Say("playlist.file_large", "most", MostFile>>20))

func (c *counted) Read(b []byte) (int, error) {
	n, err := c.from.Read(b)
	c.n += int64(n)
	switch {
	case c.n > MostFile:
		return n, errLargeFile
	case err != nil && !errors.Is(err, io.EOF):
		return n, fmt.Errorf("%w: %w: %w", ErrInvalid, fault.Code("playlist.file_cut"), err)
	}
	return n, err
}

// AddFile puts a file at the end of a playlist, called by its name until it is called something else. length is how
// many bytes are said to come; below 0 for nobody knows. Its error is ErrInvalid for one that is empty, too large, of
// no kind that is taken, or breaks off, and blobs.ErrFull where there is no room; then nothing is kept.
func (s *Service) AddFile(ctx context.Context, of Of, by uuid.UUID, name string, length int64,
	r io.Reader) (id uuid.UUID, err error) {
	if length > MostFile {
		return id, errLargeFile
	}
	// What cannot be is said before all of it was sent.
	err = postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		h, err := s.hold(ctx, tx, of)
		if err != nil {
			return err
		}
		return h.room()
	})
	if err != nil {
		return id, err
	}
	count := &counted{from: r}
	in := bufio.NewReaderSize(count, looked)
	begin, err := in.Peek(looked)
	switch {
	case err != nil && !errors.Is(err, io.EOF):
		return id, err
	case len(begin) == 0:
		return id, fmt.Errorf("%w: %w", ErrInvalid, fault.Code("playlist.file_empty"))
	}
	f := File{ID: uuid.Must(uuid.NewV7()), Name: fileName(name), Blob: uuid.Must(uuid.NewV7())}
	known := false
	if f.Kind, known = kindOf(begin); !known {
		return id, fmt.Errorf("%w: %w", ErrInvalid, fault.Code("playlist.file_kind"))
	}
	if err := s.Blobs.Put(fileKey(f.Blob), in); err != nil {
		return id, fmt.Errorf("keep a file of a playlist: %w", err)
	}
	f.Bytes = count.n
	err = s.edit(ctx, of, func(tx pgx.Tx, h held) error {
		const keep = `insert into playlist_file (id, course_id, blob, name, kind, bytes, made_by, made_at)
			values ($1, $2, $3, $4, $5, $6, $7, $8)`
		if _, err := tx.Exec(ctx, keep, f.ID, h.CourseID, f.Blob, f.Name, f.Kind, f.Bytes, by,
			s.Clock.Now()); err != nil {
			return fmt.Errorf("note a file of a playlist: %w", err)
		}
		id, err = s.insert(ctx, tx, h, f.entry(""))
		return err
	})
	return id, err
}

// entry is a file as an entry of a playlist; without a title it is called by its name.
func (f File) entry(title string) Entry {
	if title == "" {
		title = strings.TrimSuffix(f.Name, path.Ext(f.Name))
	}
	if title == "" {
		title = f.Name
	}
	return Entry{FileID: &f.ID, Title: title}
}

// AddFileAgain puts a file that was taken out of a playlist of a course back at the end of one of its playlists. Its
// error is ErrUnknown for one that is not there any more.
func (s *Service) AddFileAgain(ctx context.Context, of Of, file uuid.UUID, title string) error {
	if title = strings.TrimSpace(title); title != "" {
		var err error
		if title, err = line(title, 1, mostTitle, "playlist.heading"); err != nil {
			return err
		}
	}
	return s.edit(ctx, of, func(tx pgx.Tx, h held) error {
		f, err := fileOf(ctx, tx, of.Course, file)
		if err != nil {
			return err
		}
		_, err = s.insert(ctx, tx, h, f.entry(title))
		return err
	})
}

// fileOf is a file that was put into a playlist of a course, and is not forgotten meanwhile.
func fileOf(ctx context.Context, tx pgx.Tx, course, file uuid.UUID) (File, error) {
	const query = `select id, name, kind, bytes, blob from playlist_file where id = $1 and course_id = $2 for share`
	f, err := postgres.One[File](ctx, tx, query, file, course)
	if errors.Is(err, pgx.ErrNoRows) {
		return f, ErrUnknown
	}
	if err != nil {
		return f, fmt.Errorf("find a file of a playlist: %w", err)
	}
	return f, nil
}

// File is a file that stands in a playlist which a course shows, with its bytes, which are to be closed. Its error is
// ErrUnknown.
func (s *Service) File(ctx context.Context, course, file uuid.UUID) (File, blobs.Blob, error) {
	const query = `select f.id, f.name, f.kind, f.bytes, f.blob from playlist_file f where f.id = $2
		and exists (select 1 from playlist_entry e join shown_playlist x on x.playlist_id = e.playlist_id
			where e.file_id = f.id and x.course_id = $1)`
	f, err := postgres.One[File](ctx, s.DB, query, course, file)
	if errors.Is(err, pgx.ErrNoRows) {
		return f, nil, ErrUnknown
	}
	if err != nil {
		return f, nil, fmt.Errorf("find a file that a course shows: %w", err)
	}
	b, err := s.Blobs.Open(fileKey(f.Blob))
	if err != nil {
		return f, nil, fmt.Errorf("open a file of a playlist: %w", err)
	}
	return f, b, nil
}

// carryFile has a file stand in the playlists of another course too, as a part of tx, and gives it there.
func carryFile(ctx context.Context, tx pgx.Tx, file *uuid.UUID, list uuid.UUID) (*uuid.UUID, error) {
	if file == nil {
		return nil, nil
	}
	id := uuid.Must(uuid.NewV7())
	const same = `insert into playlist_file (id, course_id, blob, name, kind, bytes, made_by, made_at)
		select $1, p.course_id, f.blob, f.name, f.kind, f.bytes, f.made_by, f.made_at
		from playlist_file f, playlist p where f.id = $2 and p.id = $3`
	if _, err := tx.Exec(ctx, same, id, file, list); err != nil {
		return nil, fmt.Errorf("carry a file of a playlist: %w", err)
	}
	return &id, nil
}

// filesKept is how long a file that stands nowhere can be put back.
const filesKept = 30 * 24 * time.Hour

// ForgetFiles forgets the files that have stood nowhere for a long time.
func (s *Service) ForgetFiles(ctx context.Context) error {
	const stands = `exists (select 1 from playlist_entry e where e.file_id = f.id)`
	now := s.Clock.Now()
	for _, step := range []struct {
		do   string
		args []any
	}{
		{`update playlist_file f set left_at = $1 where left_at is null and not ` + stands, []any{now}},
		{`update playlist_file f set left_at = null where left_at is not null and ` + stands, nil},
		{`delete from playlist_file f where left_at < $1 and not ` + stands, []any{now.Add(-filesKept)}},
	} {
		if _, err := s.DB.Exec(ctx, step.do, step.args...); err != nil {
			return fmt.Errorf("forget files that stand in no playlist: %w", err)
		}
	}
	return nil
}
