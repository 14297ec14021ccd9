// Package testhouse is a whole house for tests: a database and a folder of its own, its jobs
// running, and a small college in it.
package testhouse

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/assemble"
	"latelantern/internal/capture"
	"latelantern/internal/platform/blobs"
	"latelantern/internal/platform/passhash"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/recordings"
	"latelantern/internal/testdb"
	"latelantern/internal/testfilm"
)

// Now is what the clock of the college shows when a test begins: a Wednesday in week 4.
var Now = time.Date(2026, 10, 14, 10, 20, 0, 0, time.UTC)

// Password opens every account.
const Password = "a long password"

// Stage is a house and the college in it.
type Stage struct {
	*assemble.House
	T           testing.TB
	Course      uuid.UUID // COU 1: two students in group A, one in B
	Other       uuid.UUID // OTH 2
	Lecture     uuid.UUID // of COU 1, under way
	Later       uuid.UUID // of COU 1, next week
	Elsewhere   uuid.UUID // a lecture of OTH 2
	Lecturer    uuid.UUID // of COU 1
	Colleague   uuid.UUID // lecturer of OTH 2
	Coordinator uuid.UUID
	Student     uuid.UUID // of COU 1, group A
	Second      uuid.UUID // of COU 1, group A
	Third       uuid.UUID // of COU 1, group B
	Outsider    uuid.UUID // student of OTH 2
}

// New is a stage for one test. With idle no jobs run.
func New(t testing.TB, idle ...bool) *Stage {
	t.Helper()
	return build(t, assemble.Settings{Database: testdb.DSN(t), Media: folder(t)}, len(idle) == 0)
}

// NewWith is a stage with settings of its own, but for where its data are.
func NewWith(t testing.TB, s assemble.Settings) *Stage {
	t.Helper()
	s.Database, s.Media = testdb.DSN(t), folder(t)
	return build(t, s, true)
}

// On is a stage on a database and a folder of one's own, on which no jobs run.
func On(t testing.TB, dsn, media string) *Stage {
	t.Helper()
	return build(t, assemble.Settings{Database: dsn, Media: media}, false)
}

// Visit is a stage beside a server that is of another time: on its database as it stands, in which no jobs run.
func Visit(t testing.TB, dsn, media string) *Stage {
	t.Helper()
	h, err := assemble.Beside(context.Background(), assemble.Settings{Database: dsn, Media: media, Clock: Now})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(h.Close)
	s := &Stage{House: h, T: t}
	s.college(context.Background())
	return s
}

// folder is one for media. t.TempDir would be removed before what runs here has ended.
func folder(t testing.TB) string {
	t.Helper()
	f, err := os.MkdirTemp("", "late-lantern-media-")
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { os.RemoveAll(f) })
	return f
}

func build(t testing.TB, settings assemble.Settings, works bool) *Stage {
	t.Helper()
	ctx := context.Background()
	settings.Clock, settings.Public = Now, "https://lectures.college.example"
	h, err := assemble.Open(ctx, settings)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(h.Close)
	s := &Stage{House: h, T: t}
	s.college(ctx)
	if works {
		workers, err := h.Work(ctx, "test")
		if err != nil {
			t.Fatal(err)
		}
		t.Cleanup(func() {
			if err := workers.Stop(); err != nil {
				t.Error(err)
			}
		})
	}
	return s
}

// Must fails the test at the first error.
func (s *Stage) Must(errs ...error) {
	s.T.Helper()
	if err := errors.Join(errs...); err != nil {
		s.T.Fatal(err)
	}
}

// Do runs a statement.
func (s *Stage) Do(sql string, args ...any) {
	s.T.Helper()
	if _, err := s.DB.Exec(context.Background(), sql, args...); err != nil {
		s.T.Fatalf("%s: %v", sql, err)
	}
}

// Person adds a person, with a part in a course unless the part is empty.
func (s *Stage) Person(name string, course uuid.UUID, role, group string) uuid.UUID {
	s.T.Helper()
	id := uuid.Must(uuid.NewV7())
	s.Do(`insert into person (id, email, name) values ($1, $2 || '@college.example', $2)`, id, name)
	s.Do(`insert into account (person_id, password_hash) values ($1, $2)`, id, hash())
	if role != "" {
		s.Do(`insert into membership (course_id, person_id, role, group_name) values ($1, $2, $3, $4)`, course, id,
			role, group)
	}
	return id
}

var hash = func() func() string {
	var h string
	return func() string {
		if h == "" {
			var err error
			if h, err = passhash.Of(Password); err != nil {
				panic(err)
			}
		}
		return h
	}
}()

// AddLecture adds a lecture of an hour and a half.
func (s *Stage) AddLecture(course uuid.UUID, starts time.Time, topic string) uuid.UUID {
	s.T.Helper()
	id := uuid.Must(uuid.NewV7())
	s.Do(`insert into lecture (id, course_id, hall_id, starts_at, ends_at, topic)
		select $1, $2, id, $3, $3::timestamptz + interval '90 minutes', $4 from hall limit 1`, id, course, starts,
		topic)
	return id
}

// Bare adds a recording to a lecture without any media: what decisions need of one.
func (s *Stage) Bare(lecture uuid.UUID, edition bool, stopped *time.Time) uuid.UUID {
	s.T.Helper()
	recording, capture := uuid.Must(uuid.NewV7()), uuid.Must(uuid.NewV7())
	s.Do(`insert into capture (id, lecture_id, source, started_at, stopped_at) values ($1, $2, 'file', $3, $4)`,
		capture, lecture, Now, stopped)
	s.Do(`insert into track (id, capture_id, media_type, arrived_at) values ($1, $2, '', $3)`, uuid.Must(uuid.NewV7()),
		capture, Now)
	s.Do(`insert into recording (id, lecture_id, created_at, origin_at) values ($1, $2, $3, $3)`, recording, lecture,
		Now)
	s.Do(`insert into recording_capture (recording_id, capture_id, position, start_ms) values ($1, $2, 0, 0)`,
		recording, capture)
	s.Do(`insert into release (recording_id, course_id, own, made_at) select $1, course_id, true, $3 from lecture
		where id = $2`, recording, lecture, Now)
	if edition {
		id := uuid.Must(uuid.NewV7())
		s.Do(`insert into edition (id, recording_id, state, asked_at) values ($1, $2, 'ready', $3)`, id, recording,
			Now)
		s.Do(`insert into recording_edition (recording_id, edition_id) values ($1, $2)`, recording, id)
	}
	return recording
}

// LightRow has a recording be lit for a course, or have been until it was darkened.
func (s *Stage) LightRow(recording, course uuid.UUID, darkened *time.Time) {
	s.T.Helper()
	s.Do(`insert into release (recording_id, course_id, own, made_at) values ($1, $2, false, $3)
		on conflict do nothing`, recording, course, Now)
	s.Do(`insert into lighting (id, recording_id, course_id, lit_at, darkened_at) values ($1, $2, $3, $4, $5)`,
		uuid.Must(uuid.NewV7()), recording, course, Now, darkened)
}

func (s *Stage) college(context.Context) {
	term := uuid.Must(uuid.NewV7())
	s.Do(`insert into term (id, name, first_day, last_day, zone)
		values ($1, 'Term', '2026-09-21', '2026-12-18', 'Atlantic/Faroe')`, term)
	s.Do(`insert into hall (id, name) values ($1, 'Hall')`, uuid.Must(uuid.NewV7()))
	for code, id := range map[string]*uuid.UUID{"COU 1": &s.Course, "OTH 2": &s.Other} {
		*id = uuid.Must(uuid.NewV7())
		s.Do(`insert into course (id, term_id, code, title) values ($1, $2, $3, 'A course')`, *id, term, code)
	}
	s.Lecturer = s.Person("lecturer", s.Course, "lecturer", "")
	s.Student = s.Person("student", s.Course, "student", "A")
	s.Second = s.Person("second", s.Course, "student", "A")
	s.Third = s.Person("third", s.Course, "student", "B")
	s.Colleague = s.Person("colleague", s.Other, "lecturer", "")
	s.Outsider = s.Person("outsider", s.Other, "student", "")
	s.Coordinator = s.Person("coordinator", s.Course, "", "")
	s.Do(`update person set coordinator = true where id = $1`, s.Coordinator)
	s.Lecture = s.AddLecture(s.Course, Now.Add(-5*time.Minute), "Today")
	s.Later = s.AddLecture(s.Course, Now.AddDate(0, 0, 7), "Next week")
	s.Elsewhere = s.AddLecture(s.Other, Now.Add(-2*time.Hour), "Elsewhere")
}

// File takes a file in for a lecture and gives its recording and its track.
func (s *Stage) File(lecture uuid.UUID, path string) (recording, track uuid.UUID) {
	s.T.Helper()
	ctx := context.Background()
	f, err := os.Open(path)
	s.Must(err)
	defer f.Close()
	info, err := f.Stat()
	s.Must(err)
	size := info.Size()
	begun, err := s.Capture.Begin(ctx,
		capture.Start{Lecture: lecture, By: s.Lecturer, Source: capture.File, FileName: info.Name(), Length: &size})
	s.Must(err)
	if size > 0 {
		_, err = s.Capture.Append(ctx, begun.Track, 0, nil, f)
		s.Must(err)
	}
	return begun.Recording, begun.Track
}

// Settled waits until a recording is whole, or failed, and gives it.
func (s *Stage) Settled(recording uuid.UUID) recordings.Recording {
	s.T.Helper()
	var r recordings.Recording
	s.Until(func() bool {
		var err error
		r, err = s.Recordings.Recording(context.Background(), recording)
		s.Must(err)
		return r.State == "ready" || r.State == "failed"
	})
	return r
}

// Measured waits until a recording has its strip page.
func (s *Stage) Measured(recording uuid.UUID) recordings.Strip {
	s.T.Helper()
	r := s.Settled(recording)
	var strip recordings.Strip
	s.Until(func() bool {
		var err error
		strip, err = s.Recordings.Strip(context.Background(), recording, r.Length)
		if err != nil && !errors.Is(err, recordings.ErrNotReady) {
			s.T.Fatal(err)
		}
		return err == nil
	})
	return strip
}

// Lit lights a recording for its course and waits for its edition.
func (s *Stage) Lit(recording uuid.UUID) recordings.Recording {
	s.T.Helper()
	ctx := context.Background()
	r, err := s.Recordings.Recording(ctx, recording)
	s.Must(err, s.Releases.Light(ctx, r.CourseID, recording, s.Lecturer))
	s.Until(func() bool {
		r, err = s.Recordings.Recording(ctx, recording)
		s.Must(err)
		if r.MakingFault != "" {
			s.T.Fatalf("the edition could not be made: %s", r.MakingFault)
		}
		return r.Current()
	})
	return r
}

// patience is enough for a job on a slow machine; measurements read an hour.
const patience = 3 * time.Minute

// Until waits for a job, woken by its events.
func (s *Stage) Until(done func() bool) {
	s.T.Helper()
	events, cancel := s.Events.Subscribe()
	defer cancel()
	limit := time.After(patience)
	for !done() {
		select {
		case <-events:
		case <-time.After(100 * time.Millisecond):
		case <-limit:
			s.T.Fatalf("a job did not end within %v", patience)
		}
	}
}

// Count is the number that a query gives.
func (s *Stage) Count(sql string, args ...any) int {
	s.T.Helper()
	n, err := postgres.Value[int](context.Background(), s.DB, sql, args...)
	s.Must(err)
	return n
}

// Talk brings in a lecture of 40 s: seven seconds of a still hall, slides that change at 7, 17 and
// 29 s with speech over them, a break from 17 s to 29 s, and quiet from 35 s on.
func (s *Stage) Talk() uuid.UUID {
	s.T.Helper()
	path := filepath.Join(s.T.TempDir(), "talk.mp4")
	// Speech is imitated by noise that swells four times a second, over the faint noise of a room.
	testfilm.Tool(s.T,
		"-f", "lavfi", "-i", "color=c=0x304050:s=640x360:r=10:d=40",
		"-f", "lavfi", "-i", "anoisesrc=r=48000:a=0.3:d=40:c=pink:seed=4",
		"-f", "lavfi", "-i", "anoisesrc=r=48000:a=0.001:d=40:seed=5",
		"-filter_complex",
		"[0:v]drawbox=60:40:300:200:white:fill:enable='between(t,7,16.99)',drawbox=260:140:340:200:yellow:fill:enable='between(t,17,28.99)',drawbox=20:20:560:120:red:fill:enable='gte(t,29)',format=yuv420p[v];"+
			"[1:a]volume='if(between(t,7,17)+between(t,29,35),0.5+0.5*sin(2*PI*4*t),0)':eval=frame[said];[said][2:a]amix=inputs=2:normalize=0[a]",
		"-map", "[v]", "-map", "[a]", "-c:v", "libx264", "-preset", "veryfast", "-g", "10", "-c:a", "aac", "-b:a",
		"96k", path)
	id, _ := s.File(s.Lecture, path)
	return id
}

// Local is where the bytes of a blob are as a file until the test ends.
func Local(t testing.TB, k blobs.Store, key string) string {
	t.Helper()
	file, done, err := k.Local(key)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(done)
	return file
}
