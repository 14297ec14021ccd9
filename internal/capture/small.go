package capture

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"path"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"

	"latelantern/internal/core/event"
	"latelantern/internal/format/fmp4"
	"latelantern/internal/platform/jobs"
	"latelantern/internal/platform/media"
	"latelantern/internal/platform/postgres"
)

// makeSmall makes the small copy of a track: pictures of about 150 kbit/s and sound of 48.
type makeSmall struct {
	Track uuid.UUID `json:"track"`
}

// Kind names the job.
func (makeSmall) Kind() string { return "make_small" }

// InsertOpts says how it is queued.
func (makeSmall) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: jobs.Small, MaxAttempts: 3}
}

func (s *Service) makeSmall(ctx context.Context, in makeSmall, last bool) error {
	err := s.small(ctx, in.Track)
	if err != nil && last && ctx.Err() == nil {
		slog.Warn("a small copy cannot be made", "track", in.Track, "error", err)
		_, failed := s.DB.Exec(ctx, `update track set small_state = 'failed' where id = $1`, in.Track)
		return errors.Join(err, failed)
	}
	return err
}

// AskSmall has the small copy of a track made, as of one that came while none were made.
func (s *Service) AskSmall(ctx context.Context, track uuid.UUID) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error { return s.Queue.Add(ctx, tx, makeSmall{Track: track}) })
}

// Small copies are told of once in so much of them.
const smallStep = 30 * time.Second

// Small pictures stand for an eighth of a second each: that is longer than splice.Pictures
// takes for a picture of a film, so that it cuts them in between, to the moment.

// small makes the small copy from what is packaged, so that both have the same clock.
func (s *Service) small(ctx context.Context, track uuid.UUID) error {
	t, err := postgres.One[struct {
		Pack         string
		Video, Audio bool
		State        string
		SmallState   string
	}](ctx, s.DB, `select pack, video, audio, state, small_state from track where id = $1`, track)
	if errors.Is(err, pgx.ErrNoRows) || err == nil && (t.State != "ready" || t.SmallState == "ready") {
		return nil
	}
	if err != nil {
		return fmt.Errorf("read a track: %w", err)
	}
	gen := path.Join(t.Pack, "small-"+uuid.Must(uuid.NewV7()).String())
	if _, err := s.DB.Exec(ctx, `update track set small_state = 'making', small_ms = 0 where id = $1`,
		track); err != nil {
		return fmt.Errorf("mark a small copy as begun: %w", err)
	}
	last := time.Duration(0)
	keep := func(length time.Duration) error {
		if length-last < smallStep {
			return nil
		}
		last = length
		return s.tellSmall(ctx, track, `update track set small_ms = $2 where id = $1`, length.Milliseconds())
	}
	for _, x := range []struct {
		there bool
		name  string
		args  []string
	}{
		{t.Audio, "sound",
			[]string{"-map", "0:a:0", "-c:a", "aac", "-b:a", "48k", "-ar", "48000", "-ac", "1", "-avoid_negative_ts",
				"disabled", "-f", "mp4", "-frag_duration", "2000000", "-movflags", fragments}},
		{t.Video, "pictures",
			[]string{"-map", "0:v:0", "-vf", "fps=8,scale=-2:'min(360,ih)',format=yuv420p", "-c:v", "libx264",
				"-preset", "veryfast", "-crf", "28", "-maxrate", "150k", "-bufsize", "300k", "-bf", "0",
				"-g", "9999", "-sc_threshold", "0", "-force_key_frames", "expr:gte(t,n_forced*2)", "-threads", "1",
				"-avoid_negative_ts", "disabled", "-f", "mp4", "-movflags",
				"+frag_keyframe+negative_cts_offsets" + fragments}},
	} {
		if !x.there {
			continue
		}
		told := keep
		if x.name == "sound" && t.Video { // quickly made; how far it is says nothing of the whole
			told = func(time.Duration) error { return nil }
		}
		if err := s.smaller(ctx, path.Join(t.Pack, x.name), path.Join(gen, x.name), x.args, x.name == "pictures",
			told); err != nil {
			return fmt.Errorf("make a small copy: %w", err)
		}
	}
	return s.tellSmall(ctx, track,
		`update track set small_state = 'ready', small_ms = packed_ms, small_pack = $2 where id = $1`, gen)
}

func (s *Service) tellSmall(ctx context.Context, track uuid.UUID, sql string, arg any) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, sql, track, arg); err != nil {
			return fmt.Errorf("keep how far a small copy is: %w", err)
		}
		var ready bool
		var capture uuid.UUID
		if err := tx.QueryRow(ctx, `select small_state = 'ready', capture_id from track where id = $1`,
			track).Scan(&ready, &capture); err != nil {
			return fmt.Errorf("read a small copy: %w", err)
		}
		if ready {
			if err := s.Editions.Smaller(ctx, tx, capture); err != nil {
				return err
			}
		}
		return s.notify(ctx, tx, event.Small, track)
	})
}

// smaller encodes one packaged track anew into another.
func (s *Service) smaller(ctx context.Context, from, to string, args []string, pictures bool,
	told func(time.Duration) error) error {
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	f, err := s.Blobs.Open(from + ".mp4")
	if err != nil {
		return err
	}
	defer f.Close()
	side, err := s.Blobs.Open(from + ".index")
	if err != nil {
		return err
	}
	packed, err := fmp4.ReadSidecar(side)
	if err := errors.Join(err, side.Close()); err != nil {
		return err
	}
	k, err := newSink(s.Blobs, to, pictures, told)
	if err != nil {
		return err
	}
	reader, writer := io.Pipe()
	done := make(chan error, 1)
	go func() {
		err := fmp4.Read(reader, k.head, k.fragment)
		if err != nil {
			cancel()
		}
		reader.CloseWithError(err)
		done <- err
	}()
	_, err = media.FFmpeg(ctx, media.Run{
		Limit: 6 * time.Hour, Input: media.Input{Format: media.MOV, Path: "pipe:0"},
		Stdin: io.MultiReader(bytes.NewReader(packed.Init.Raw), f), Stdout: writer, Nice: 19,
		Output: append(args, "pipe:1"),
	})
	writer.Close()
	if read := <-done; read != nil { // what stopped the tool says more than that it stopped
		err = read
	}
	return errors.Join(err, k.close())
}
