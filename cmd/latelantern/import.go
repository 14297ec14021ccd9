package main

import (
	"context"
	"encoding/hex"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	"os"
	"os/signal"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/api/capturing"
	"latelantern/internal/api/planning"
	"latelantern/internal/core/fingerprint"
	"latelantern/internal/core/texts"
	"latelantern/internal/platform/tus"
)

// Who sends is read from the environment, so that no password stands in a list of processes.
const (
	emailName    = "LATE_LANTERN_EMAIL"
	passwordName = "LATE_LANTERN_PASSWORD"
)

// imported is what is printed of a file that was sent.
type imported struct {
	Track     uuid.UUID  `json:"track_id"`
	State     string     `json:"state"` // as in the list of files
	Fault     string     `json:"fault,omitempty"`
	Lecture   *uuid.UUID `json:"lecture_id,omitempty"`
	Recording *uuid.UUID `json:"recording_id,omitempty"`
	Address   string     `json:"address"` // where it is worked on
}

// importFile sends a file to a running server. The code is 1 when it was refused or holds
// nothing that can be watched, 2 when the command was called wrongly.
func importFile(args []string, out, errs io.Writer) int {
	flags := flag.NewFlagSet("import", flag.ContinueOnError)
	flags.SetOutput(errs)
	server := flags.String("server", "http://127.0.0.1:8080", "address of the server")
	course := flags.String("course", "", "code of the course, such as \"TID 210\"")
	lecture := flags.String("lecture", "", "the lecture that the file is of; found by its own time and name when empty")
	again := flags.Bool("again", false, "send it though it is there already")
	flags.Usage = func() {
		fmt.Fprintf(errs,
			"latelantern import FILE --course CODE [--lecture ID]\n\nSends a recording that was made elsewhere, as the person whose address and password are in %s and %s.\nIt can be broken off and called again; then it goes on where it was.\n\n", emailName, passwordName)
		flags.PrintDefaults()
	}
	names, err := apart(flags, args)
	if err != nil {
		return 2
	}
	wrong := func(text string, values ...any) int {
		fmt.Fprintf(errs, "latelantern import: "+text+"\n", values...)
		return 2
	}
	if len(names) != 1 || *course == "" {
		return wrong("name one file and its course, such as lecture.mp4 --course \"TID 210\"")
	}
	of, err := uuid.Parse(*lecture)
	if *lecture != "" && err != nil {
		return wrong("%q names no lecture", *lecture)
	}
	email, password := os.Getenv(emailName), os.Getenv(passwordName)
	if email == "" || password == "" {
		return wrong("set %s and %s to those of who sends it", emailName, passwordName)
	}
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	jar, err := cookiejar.New(nil)
	if err != nil {
		return wrong("%v", err)
	}
	s := sender{Client: tus.Client{Server: strings.TrimSuffix(*server, "/"),
		HTTP: &http.Client{Jar: jar, Timeout: 2 * time.Minute}}, errs: errs}
	done, err := s.send(ctx, names[0], *course, of, *again, email, password)
	if err != nil {
		fmt.Fprintf(errs, "latelantern import: %s\n", refusedBecause(err))
		return 1
	}
	w := json.NewEncoder(out)
	w.SetIndent("", "  ")
	w.SetEscapeHTML(false)
	if err := w.Encode(done); err != nil {
		fmt.Fprintf(errs, "latelantern import: %s\n", texts.English.Error(err))
		return 1
	}
	switch {
	case done.State == "faulty":
		fmt.Fprintf(errs, "All of it is stored, but nothing of it can be watched: %s\n", done.Fault)
		return 1
	case done.Lecture == nil:
		fmt.Fprintf(errs, "All of it is stored. It is not matched to any lecture of %s: choose one on %s\n", *course,
			done.Address)
	}
	return 0
}

// apart takes flags from among names, wherever they stand.
func apart(flags *flag.FlagSet, args []string) (names []string, err error) {
	for {
		if err := flags.Parse(args); err != nil {
			return nil, err
		}
		if flags.NArg() == 0 {
			return names, nil
		}
		names, args = append(names, flags.Arg(0)), flags.Args()[1:]
	}
}

// refusedBecause is an error in a sentence.
func refusedBecause(err error) string {
	var r tus.Refusal
	if errors.As(err, &r) {
		switch r.Kind {
		case "wrong_password":
			return "the address or the password is wrong; nothing was sent"
		case "here":
			return "this file is there already, or is being sent just now; with --again it is sent all the same"
		case "not_staff", "not_yours", "teachers":
			return "you do not teach this course; nothing was sent"
		case "too_large":
			return "this file is larger than can be taken"
		case "full":
			return "the server has no room; what was sent is kept, call it again later"
		}
	}
	return err.Error()
}

// sender sends one file.
type sender struct {
	tus.Client
	errs io.Writer
}

// patience is for how long a server may be away before the command gives up.
const patience = 2 * time.Minute

// piece is how much is sent at once.
const piece = 8 << 20

func (s *sender) send(ctx context.Context, path, code string, lecture uuid.UUID, again bool,
	email, password string) (imported, error) {
	var out imported
	file, err := os.Open(path)
	if err != nil {
		return out, err
	}
	defer file.Close()
	info, err := file.Stat()
	if err != nil {
		return out, err
	}
	if !info.Mode().IsRegular() || info.Size() == 0 {
		return out, fmt.Errorf("%s is empty, or is no file", path)
	}
	print, err := fingerprint.Print(info.Size(), file)
	if err != nil {
		return out, err
	}
	if _, err := s.ask(ctx, http.MethodPost, "/api/sign-in", map[string]string{"email": email, "password": password},
		nil); err != nil {
		return out, err
	}
	course, err := s.course(ctx, code)
	if err != nil {
		return out, err
	}
	if out.Track, err = s.begun(ctx, print); err != nil {
		return out, err
	}
	if out.Track != uuid.Nil && !again && lecture != uuid.Nil {
		if _, err := s.ask(ctx, http.MethodPut, "/api/arrivals/"+out.Track.String()+"/lecture",
			map[string]uuid.UUID{"lecture": lecture}, nil); err != nil {
			return out, err
		}
	}
	if out.Track == uuid.Nil || again {
		about := map[string]string{"source": "file", "filename": filepath.Base(path),
			"words": filepath.Base(filepath.Dir(path)), "course": course.String(), "print": hex.EncodeToString(print),
			"modified_ms": strconv.FormatInt(info.ModTime().UnixMilli(), 10)}
		if lecture != uuid.Nil {
			about["lecture"] = lecture.String()
		}
		if again {
			about["again"] = "yes"
		}
		if out.Track, err = s.Begin(ctx, about, info.Size()); err != nil {
			return out, err
		}
	}
	if err := s.all(ctx, out.Track, file, info.Size()); err != nil {
		return out, err
	}
	return out, s.settle(ctx, &out)
}

// ask sends JSON and reads JSON.
func (s *sender) ask(ctx context.Context, method, path string, in, out any) (http.Header, error) {
	var body []byte
	headers := map[string]string{}
	if in != nil {
		var err error
		if body, err = json.Marshal(in); err != nil {
			return nil, err
		}
		headers["Content-Type"] = "application/json"
	}
	b, h, err := s.Call(ctx, method, path, body, headers)
	if err == nil && out != nil {
		err = json.Unmarshal(b, out)
	}
	return h, err
}

// course is the course with this code, however it is written apart.
func (s *sender) course(ctx context.Context, code string) (uuid.UUID, error) {
	plain := func(text string) string { return strings.ToLower(strings.Join(strings.Fields(text), "")) }
	var list planning.CourseList
	if _, err := s.ask(ctx, http.MethodGet, "/api/courses", nil, &list); err != nil {
		return uuid.Nil, err
	}
	for _, c := range list.Courses {
		if plain(c.Code) == plain(code) {
			return c.ID, nil
		}
	}
	return uuid.Nil, fmt.Errorf("there is no course %s in this term that you are in; nothing was sent", code)
}

// begun is the track of a file that one has begun to send before; uuid.Nil for none.
func (s *sender) begun(ctx context.Context, print []byte) (uuid.UUID, error) {
	var found capturing.FilesHere
	if _, err := s.ask(ctx, http.MethodGet, "/api/files/"+hex.EncodeToString(print), nil, &found); err != nil {
		return uuid.Nil, err
	}
	for _, f := range found.Here {
		if f.Mine && f.Percent < 100 && !f.Deleted {
			return f.Track, nil
		}
	}
	return uuid.Nil, nil
}

// all sends what the server does not have, and goes on when the line or the server comes back.
func (s *sender) all(ctx context.Context, track uuid.UUID, file io.ReaderAt, size int64) error {
	buffer := make([]byte, piece)
	at, known := int64(0), false
	lost := time.Time{}
	for !known || at < size {
		var err error
		if !known {
			at, err = s.Stored(ctx, track)
		} else {
			b := buffer[:min(piece, size-at)]
			if _, err := file.ReadAt(b, at); err != nil {
				return fmt.Errorf("read from byte %d on: %w", at, err)
			}
			at, err = s.Send(ctx, track, at, b, false)
		}
		if known = err == nil; known {
			lost = time.Time{}
			fmt.Fprintf(s.errs, "\r%3d %% of %d MB", 100*at/size, (size+999_999)/1_000_000)
			continue
		}
		if status := tus.StatusOf(err); ctx.Err() != nil ||
			status >= 400 && status < 500 && status != http.StatusConflict {
			return err
		}
		if lost.IsZero() {
			lost = time.Now()
		}
		if time.Since(lost) > patience {
			return fmt.Errorf("the server cannot be reached; what was sent is kept, call it again: %w", err)
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(500 * time.Millisecond):
		}
	}
	fmt.Fprintln(s.errs)
	return nil
}

// settle waits until it is known of which lecture the file is, or that it is of none; after two
// minutes it is left as it is.
func (s *sender) settle(ctx context.Context, out *imported) error {
	out.Address = s.Server + "/files"
	out.State = "looked_into"
	for began := time.Now(); ; {
		var list capturing.Arrivals
		_, err := s.ask(ctx, http.MethodGet, "/api/arrivals", nil, &list)
		if err != nil && (tus.StatusOf(err) != 0 && tus.StatusOf(err) < 500 || time.Since(began) > patience) {
			return err
		}
		if time.Since(began) > patience {
			return nil
		}
		for _, f := range list.Files {
			if f.Track != out.Track || f.State == "looked_into" || f.State == "sending" {
				continue
			}
			out.State, out.Fault, out.Recording = f.State, f.Fault, f.Recording
			if f.Lecture != nil {
				out.Lecture = &f.Lecture.ID
			}
			if f.Recording != nil {
				out.Address = s.Server + "/recordings/" + f.Recording.String()
			}
			return nil
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(300 * time.Millisecond):
		}
	}
}
