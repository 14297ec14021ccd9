package capture_test

import (
	"bytes"
	"context"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"latelantern/internal/capture"
	"latelantern/internal/recordings"
	"latelantern/internal/testfilm"
	"latelantern/internal/testhouse"
)

func write(t *testing.T, name string, b []byte) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(path, b, 0o600); err != nil {
		t.Fatal(err)
	}
	return path
}

func film(t *testing.T, name string, f testfilm.Film) string {
	t.Helper()
	f.Width, f.Height = 320, 180
	path := filepath.Join(t.TempDir(), name)
	if err := f.Make(context.Background(), path); err != nil {
		t.Fatal(err)
	}
	return path
}

// TestFilesOfAllKinds takes in what people drop, good and bad. A bad one says why, and what came is kept.
func TestFilesOfAllKinds(t *testing.T) {
	s := testhouse.New(t)
	good := film(t, "a.mp4", testfilm.Film{Length: 4 * time.Second})
	whole, err := os.ReadFile(good)
	s.Must(err)
	webm := []string{"-c:v", "libvpx", "-deadline", "realtime", "-cpu-used", "8", "-b:v", "1M", "-c:a", "libopus"}
	for _, c := range []struct {
		name            string
		path            string
		fault           capture.Fault
		length          time.Duration
		pictures, sound bool
	}{
		{"an mp4", good, "", 4 * time.Second, true, true},
		{"a webm", film(t, "a.webm", testfilm.Film{Length: 4 * time.Second, Encoding: webm}), "", 4 * time.Second, true,
			true},
		{"an mkv", film(t, "a.mkv", testfilm.Film{Length: 4 * time.Second}), "", 4 * time.Second, true, true},
		{"without sound", film(t, "b.mp4", testfilm.Film{Length: 3 * time.Second, NoSound: true}), "", 3 * time.Second,
			true, false},
		{"without a picture",
			film(t, "c.mp3",
				testfilm.Film{Length: 3 * time.Second, NoView: true, Encoding: []string{"-c:a", "libmp3lame"}}), "",
			3 * time.Second, false, true},
		{"half a second", film(t, "d.mp4", testfilm.Film{Length: 500 * time.Millisecond}), "", 500 * time.Millisecond,
			true, true},
		{"pictures of 4:4:4",
			film(t, "e.mp4",
				testfilm.Film{Length: 2 * time.Second,
					Encoding: []string{"-c:v", "libx264", "-preset", "ultrafast", "-pix_fmt", "yuv444p", "-c:a",
						"aac"}}), "", 2 * time.Second, true, true},
		{"an empty file", write(t, "x.mp4", nil), capture.Empty, 0, false, false},
		{"a text called mp4", write(t, "x.mp4", []byte("The tide table of last week")), capture.NoMedia, 0, false,
			false},
		{"a playlist called mp4", write(t, "x.mp4", []byte("#EXTM3U\n#EXTINF:9,\nfile:///etc/passwd\n")), "list", 0,
			false, false},
		{"a script called mp4", write(t, "x.mp4", []byte("ffconcat version 1.0\nfile '"+good+"'\n")), "list", 0, false,
			false},
		{"the head of an mp4 and then noise", write(t, "x.mp4", append(bytes.Clone(whole[:32]), noise(40_000)...)),
			capture.Unfinished, 0, false, false},
		{"an encrypted mp4",
			film(t, "f.mp4",
				testfilm.Film{Length: time.Second,
					Encoding: []string{"-c:v", "libx264", "-preset", "ultrafast", "-c:a", "aac", "-encryption_scheme",
						"cenc-aes-ctr", "-encryption_key", strings.Repeat("ab", 16), "-encryption_kid",
						strings.Repeat("12", 16)}}), capture.Encrypted, 0, false, false},
		{"an mp4 that was cut off", write(t, "x.mp4", whole[:len(whole)/2]), capture.Unfinished, 0, false, false},
	} {
		t.Run(c.name, func(t *testing.T) {
			id, track := s.File(s.Lecture, c.path)
			r := s.Settled(id)
			if r.Fault != string(c.fault) || (r.State == "ready") != (c.fault == "") {
				t.Fatalf("it is %s: %q", r.State, r.Fault)
			}
			if came, _ := os.ReadFile(c.path); !bytes.Equal(log(t, s, track), came) {
				t.Error("what came is not kept as it came")
			}
			if c.fault != "" {
				return
			}
			if r.Video != c.pictures || r.Audio != c.sound {
				t.Errorf("pictures %v, sound %v", r.Video, r.Audio)
			}
			if d := (r.Length - c.length).Abs(); d > 120*time.Millisecond {
				t.Errorf("it is %v long, not %v", r.Length, c.length)
			}
			strip := s.Measured(id)
			if c.sound && len(strip.Peaks) == 0 || c.pictures && len(strip.Slides) == 0 {
				t.Errorf("%d peaks and %d slides were found", len(strip.Peaks), len(strip.Slides))
			}
		})
	}
}

// live is a capture as a browser makes it: Matroska, at the pace of the clock or faster.
func live(t *testing.T, length time.Duration) []byte {
	t.Helper()
	path := film(t, "live.mkv",
		testfilm.Film{Length: length,
			Encoding: []string{"-c:v", "libx264", "-preset", "ultrafast", "-bf", "0", "-g", "50", "-c:a", "libopus",
				"-cluster_time_limit", "1000"}})
	b, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	return b
}

// TestALectureCanBeFollowedWhileItRuns, over a restart of the workers, and is whole at once when it stops.
func TestALectureCanBeFollowedWhileItRuns(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t, true)
	workers, err := s.Work(ctx, "first")
	s.Must(err)
	all := live(t, 12*time.Second)
	b, err := s.Capture.Begin(ctx, capture.Start{Lecture: s.Lecture, By: s.Lecturer, Source: capture.Desk})
	s.Must(err)
	send := func(from, to int) {
		t.Helper()
		_, err := s.Capture.Append(ctx, b.Track, int64(from), nil, bytes.NewReader(all[from:to]))
		s.Must(err)
	}
	reaches := func(least time.Duration) *recordings.Presentation {
		t.Helper()
		var r *recordings.Presentation
		s.Until(func() bool {
			var err error
			r, err = s.Recordings.Captured(ctx, b.Recording)
			return err == nil && r.Length >= least
		})
		return r
	}
	half := len(all) / 2
	send(0, half)
	r := reaches(3 * time.Second)
	if r.Ended {
		t.Error("a lecture that runs is said to have ended")
	}
	// The workers end and start again: segments are derived, the log is the truth.
	s.Must(workers.Stop())
	send(half, half+len(all)/4)
	workers, err = s.Work(ctx, "first")
	s.Must(err)
	defer func() { s.Must(workers.Stop()) }()
	reaches(6 * time.Second)
	send(half+len(all)/4, len(all))
	length := int64(len(all))
	stopped := time.Now()
	_, err = s.Capture.Append(ctx, b.Track, length, &length, bytes.NewReader(nil))
	s.Must(err)
	done := s.Settled(b.Recording)
	if took := time.Since(stopped); took > 40*time.Second {
		t.Errorf("it could be watched only %v after the stop", took)
	}
	if done.State != "ready" || (done.Length-12*time.Second).Abs() > 120*time.Millisecond {
		t.Fatalf("it is %s, %v long", done.State, done.Length)
	}
	// Every picture of it is there, once.
	r = reaches(0)
	path := filepath.Join(t.TempDir(), "all.mp4")
	f, err := os.Create(path)
	s.Must(err, s.Recordings.WriteRendition(f, r.Video), f.Close())
	got, err := testfilm.Numbers(ctx, path)
	s.Must(err)
	if len(got) != 300 || got[0] != 0 || got[299] != 299 {
		t.Errorf("%d pictures, from %d to %d", len(got), got[0], got[len(got)-1])
	}
}

// TestACaptureThatBreaksOff in the middle of a cluster is kept as far as it goes.
func TestACaptureThatBreaksOff(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t)
	all := live(t, 8*time.Second)
	for _, share := range []float64{0.3, 0.61, 0.97} {
		b, err := s.Capture.Begin(ctx, capture.Start{Lecture: s.Lecture, By: s.Lecturer, Source: capture.Desk})
		s.Must(err)
		n := int64(float64(len(all)) * share)
		_, err = s.Capture.Append(ctx, b.Track, 0, &n, bytes.NewReader(all[:n]))
		s.Must(err)
		r := s.Settled(b.Recording)
		if least := time.Duration(share*8*float64(time.Second)) - 1500*time.Millisecond; r.State != "ready" ||
			r.Length < least {
			t.Errorf("of %.0f %% it is %s, %v long: %s", share*100, r.State, r.Length, r.Fault)
		}
	}
}

// TestAnOutageIsNotTheEnd: while it cannot be asked how much has come, the packager reaches no end;
// when that can be asked again, all is packaged.
func TestAnOutageIsNotTheEnd(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t)
	all := live(t, 8*time.Second)
	for _, share := range []int{50, 3} { // with something packaged before, and with nothing
		b, err := s.Capture.Begin(ctx,
			capture.Start{Lecture: s.AddLecture(s.Course, testhouse.Now, ""), By: s.Lecturer, Source: capture.Desk})
		s.Must(err)
		half, length := int64(len(all)*share/100), int64(len(all))
		_, err = s.Capture.Append(ctx, b.Track, 0, nil, bytes.NewReader(all[:half]))
		s.Must(err)
		attempts := func() int {
			return s.Count(`select coalesce(sum(coalesce(array_length(errors, 1), 0) + (state = 'completed')::int), 0)
				from river_job where kind = 'pack_live' and args->>'track' = $1`, b.Track.String())
		}
		if share == 50 {
			s.Until(func() bool { return s.Count(`select packed_ms from track where id = $1`, b.Track) > 1000 })
		} else {
			s.Until(func() bool {
				return s.Count(`select count(*) from track where id = $1 and state = 'running'`, b.Track) == 1
			})
		}
		s.Do(`alter table capture rename device_id to device_away`)
		s.Until(func() bool { return attempts() > 0 })
		s.Do(`alter table capture rename device_away to device_id`)
		_, err = s.Capture.Append(ctx, b.Track, half, &length, bytes.NewReader(all[half:]))
		s.Must(err)
		if r := s.Settled(b.Recording); r.State != "ready" || (r.Length-8*time.Second).Abs() > 300*time.Millisecond {
			t.Errorf("after an outage at %d %% it is %s, %v long: %s", share, r.State, r.Length, r.Fault)
		}
	}
}

// TestTwoSeconds is a capture that was stopped at once.
func TestTwoSeconds(t *testing.T) {
	ctx := context.Background()
	s := testhouse.New(t)
	all := live(t, 2*time.Second)
	length := int64(len(all))
	b, err := s.Capture.Begin(ctx, capture.Start{Lecture: s.Lecture, By: s.Lecturer, Source: capture.Desk})
	s.Must(err)
	_, err = s.Capture.Append(ctx, b.Track, 0, &length, bytes.NewReader(all))
	s.Must(err)
	r := s.Settled(b.Recording)
	if r.State != "ready" || (r.Length-2*time.Second).Abs() > 120*time.Millisecond {
		t.Fatalf("it is %s, %v long: %s", r.State, r.Length, r.Fault)
	}
	s.Measured(b.Recording)
	s.Lit(b.Recording)
	empty, err := s.Capture.Begin(ctx, capture.Start{Lecture: s.Lecture, By: s.Lecturer, Source: capture.Desk})
	s.Must(err)
	none := int64(0)
	_, err = s.Capture.Append(ctx, empty.Track, 0, &none, bytes.NewReader(nil))
	s.Must(err)
	if r := s.Settled(empty.Recording); r.Fault != string(capture.Empty) {
		t.Errorf("a capture of nothing is %s: %q", r.State, r.Fault)
	}
}
