package e2e

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"os"
	"os/exec"
	"path/filepath"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/e2e/hand"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/testfilm"
	"latelantern/internal/testhouse"
)

// held is when the lecture of a course in a week begins, by the day of its first.
func (s *stage) held(code string, week int) time.Time {
	s.t.Helper()
	starts, err := postgres.Value[time.Time](context.Background(), s.house.DB,
		`select l.starts_at from lecture l join course c on c.id = l.course_id
			where c.code = $1 and not l.unplanned order by l.starts_at offset $2 limit 1`, code, week-1)
	s.must(err)
	term, err := s.house.Schedule.CurrentTerm(context.Background())
	s.must(err)
	return starts.In(term.Zone)
}

// TestManyFilesAtOnce: each goes to its lecture, or says why not and waits for a hand.
func TestManyFilesAtOnce(t *testing.T) {
	t.Parallel()
	s := newStage(t, "tid-1")
	b := chromium(t)
	folder := t.TempDir()
	film := func(name string, f testfilm.Film, written time.Time) string {
		path := filepath.Join(folder, name)
		s.must(f.Make(context.Background(), path), os.Chtimes(path, written, written))
		return path
	}
	second := s.held("TID 210", 2)
	small := testfilm.Film{Length: 3 * time.Second, Width: 320, Height: 180}
	long := second.AddDate(-1, 0, 0)
	fits := film(second.Add(4*time.Minute).Format("2006-01-02 15.04")+".mp4", small, long)
	small.Length = 4 * time.Second
	none := film("holiday.mkv", small, long)
	notes := filepath.Join(folder, "notes.mp4")
	s.must(os.WriteFile(notes, []byte("These are only notes."), 0o600),
		os.WriteFile(filepath.Join(folder, "nothing.mov"), nil, 0o600))

	p := s.person(b, lecturer)
	s.must(p.Go("/files"), p.See("No recording made elsewhere came"),
		p.Give("Choose files", fits, none, notes, filepath.Join(folder, "nothing.mov")))
	s.must(p.See("found by the time in its name"), p.See("This is not a recording"),
		p.See("Nothing it says of itself fits"), p.See("This file is empty"))
	s.clean(p, "files")
	// The second lecture has a lantern that waits for a trim; the board says that a file waits.
	s.must(p.Go("/board"), p.See("A recording made elsewhere waits for its lecture"),
		p.Click("A recording made elsewhere waits"))
	s.must(p.Click("Another lecture"),
		p.Wait(`document.querySelectorAll('.choice .el-select').length === 2`))
	s.must(p.Set("Lecture", "The tide table and its errors"), p.Click("It is of this lecture"),
		p.Wait(`![...document.querySelectorAll('h2')].some(h => /waits/.test(h.innerText))`),
		p.Wait(`[...document.querySelectorAll('article')].some(a => /holiday/.test(a.innerText) && /The tide table and its errors/.test(a.innerText) && !a.querySelector('.el-progress'))`))
	// What cannot be watched is put away, and can be brought back.
	s.must(p.Click("Put it away"), p.See("notes.mp4 is put away"),
		p.Wait(`!/This is not a recording/.test(document.body.innerText)`), p.Click("Undo"),
		p.See("This is not a recording"))
	// The same file again is known, and whoever leaves it sends nothing.
	// Those that are known keep no other waiting, and can be dropped again.
	more := film("more.mkv", testfilm.Film{Length: 2 * time.Second, Width: 320, Height: 180}, long)
	s.must(p.Give("Choose files", fits, none, more),
		p.Wait(`(document.body.innerText.match(/is already here, with the same content/g) ?? []).length === 2`),
		p.See("more.mkv"), p.See("Nothing it says of itself fits"),
		p.Click("Do not send it again"), p.Click("Do not send it again"),
		p.Wait(`!/is already here/.test(document.body.innerText)`),
		p.Give("Choose files", more), p.See("is already here, with the same content"),
		p.Click("Do not send it again"), p.Wait(`!/is already here/.test(document.body.innerText)`))
	// Another lecture than the one that was found.
	s.must(p.Click("Change the lecture of "+filepath.Base(fits)),
		p.Wait(`document.querySelectorAll('.choice .el-select').length === 2`))
	s.must(p.Set("Lecture", "The tide table and its errors"), p.Click("It is of this lecture"),
		p.Wait(`[...document.querySelectorAll('article')].filter(a => /The tide table and its errors/.test(a.innerText)).length === 2`))
}

// TestAForeignFileIsWatchedWhileItIsCopied, from its beginning, with its end in sight.
func TestAForeignFileIsWatchedWhileItIsCopied(t *testing.T) {
	s := newStage(t, "tid-1")
	b := chromium(t)
	path := filepath.Join(t.TempDir(), "foreign.mkv")
	s.must(testfilm.Film{Length: 24 * time.Second, Width: 1280, Height: 720,
		Encoding: []string{"-c:v", "libx264", "-preset", "ultrafast", "-pix_fmt", "yuv422p", "-g", "250", "-c:a",
			"libvorbis"}}.Make(context.Background(), path))
	second := s.held("TID 210", 2)
	named := filepath.Join(filepath.Dir(path), second.Format("20060102_150405")+".mkv")
	s.must(os.Rename(path, named))
	p := s.person(b, lecturer)
	s.must(p.Go("/files"), p.Give("Choose files", named), p.See("An own copy is made"),
		p.Click("Spring tides and neap tides"))
	s.must(p.See("can be watched already"), p.Wait(`document.querySelector('video')?.readyState > 1`))
	length, err := hand.Ask[float64](p,
		`(() => { const v = document.querySelector('video'); v.muted = true; v.play(); return v.seekable.end(0) })()`)
	if err != nil || length <= 0 || length > 22 {
		t.Errorf("it is watched when %v s of it are there (%v)", length, err)
	}
	s.must(p.Wait(`document.querySelector('video').currentTime > 1`), p.See("more."))
	if at, err := hand.Ask[float64](p, `document.querySelector('video').currentTime`); err != nil || at > 20 {
		t.Errorf("it plays at %v s (%v)", at, err)
	}
	s.must(p.WaitFor(`document.querySelectorAll('.strip [data-band]').length > 0`, 90*time.Second),
		p.See("0:24 captured"), p.See("The original is kept"))
	s.clean(p, "a foreign file")
}

// TestAServerThatDiesWhileItImports loses nothing: what was acknowledged is gone on from, and
// a copy that was begun is made to its end.
func TestAServerThatDiesWhileItImports(t *testing.T) {
	ctx := context.Background()
	s := newStage(t, "tid-1")
	second := s.held("TID 210", 2)
	path := filepath.Join(t.TempDir(), second.Format("20060102_150405")+".mkv")
	s.must(testfilm.Film{Length: 12 * time.Second, Width: 640, Height: 360,
		Scene: "testsrc2=s=640x360:r=25,noise=alls=60:allf=t",
		Encoding: []string{"-c:v", "libx264", "-preset", "ultrafast", "-crf", "3", "-pix_fmt", "yuv444p", "-c:a",
			"libvorbis"}}.Make(ctx, path))
	whole, err := os.ReadFile(path)
	s.must(err)
	if len(whole) < 30_000_000 {
		t.Fatalf("the file has only %d bytes", len(whole))
	}
	bin, err := binary()
	s.must(err)
	cmd := exec.Command(bin, "import", path, "--course", "tid210", "--server", s.base())
	cmd.Env = append(os.Environ(), "LATE_LANTERN_EMAIL=maren.oduya@skerry.example",
		"LATE_LANTERN_PASSWORD=late-lantern")
	var out, errs bytes.Buffer
	cmd.Stdout, cmd.Stderr = &out, &errs
	s.must(cmd.Start())
	await := func(what, sql string) {
		t.Helper()
		s.until(what, func() bool {
			ok, err := postgres.Value[bool](ctx, s.house.DB,
				`select exists (select 1 from track t join arrival a on a.track_id = t.id
					join capture c on c.id = t.capture_id where c.file_name like '%.mkv' and `+sql+`)`)
			s.must(err)
			return ok
		})
	}
	await("some has come", `t.stored > 0 and t.stored < t.length`)
	s.kill()
	s.start()
	await("a copy was begun", `t.state = 'running' and t.packed_ms > 0`)
	s.kill()
	s.start()
	if err := cmd.Wait(); err != nil {
		t.Fatalf("%v\n%s", err, errs.String())
	}
	var done struct {
		Track     uuid.UUID  `json:"track_id"`
		Recording *uuid.UUID `json:"recording_id"`
	}
	s.must(json.Unmarshal(out.Bytes(), &done))
	if done.Recording == nil {
		t.Fatalf("it is of no lecture: %s", out.String())
	}
	await("all of it can be watched", `t.state = 'ready'`)
	kept, err := os.ReadFile(testhouse.Local(s.t, s.house.Blobs, "log/"+done.Track.String()))
	if err != nil || !bytes.Equal(kept, whole) {
		t.Errorf("%d bytes are kept of %d (%v)", len(kept), len(whole), err)
	}
	r, err := s.house.Recordings.Recording(ctx, *done.Recording)
	if err != nil || r.Length < 11*time.Second || r.Length > 13*time.Second || !r.Audio || !r.Video {
		t.Errorf("%+v %v", r, err)
	}
	if n, err := postgres.Value[int](ctx, s.house.DB,
		`select count(*)::int from arrival a join track t on t.id = a.track_id join capture c on c.id = t.capture_id
			where c.file_name like '%.mkv'`); err != nil || n != 1 {
		t.Errorf("%d files were begun (%v)", n, errors.Join(err))
	}
	// Sent again it is known.
	again := exec.Command(bin, "import", path, "--course", "TID 210", "--server", s.base())
	again.Env = cmd.Env
	if b, err := again.CombinedOutput(); err == nil || !bytes.Contains(b, []byte("there already")) {
		t.Errorf("sent again: %v %s", err, b)
	}
}
