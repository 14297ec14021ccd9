package capture

import (
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
	"latelantern/internal/platform/jobs"
	"latelantern/internal/platform/media"
	"latelantern/internal/platform/postgres"
)

// packLive packages a track while it is captured.
type packLive struct {
	Track uuid.UUID `json:"track"`
}

// Kind names the job.
func (packLive) Kind() string { return "pack_live" }

// InsertOpts says how it is queued.
func (packLive) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: jobs.Live, MaxAttempts: 20_000}
}

// packFile packages a track that is complete.
type packFile struct {
	Track uuid.UUID `json:"track"`
}

// Kind names the job.
func (packFile) Kind() string { return "pack_file" }

// InsertOpts says how it is queued.
func (packFile) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: jobs.Packing, MaxAttempts: 5}
}

// longestRun is how long packaging may take.
const longestRun = 12 * time.Hour

// Register adds the jobs of this package to kinds.
func (s *Service) Register(kinds *river.Workers) {
	jobs.Register(kinds,
		jobs.Kind[packLive]{Limit: longestRun, Do: func(ctx context.Context, in packLive, _ bool) error {
			return s.pack(ctx, in.Track, Desk)
		}, After: soon})
	jobs.Register(kinds,
		jobs.Kind[packFile]{Limit: 6 * time.Hour, Do: func(ctx context.Context, in packFile, _ bool) error {
			return s.pack(ctx, in.Track, File)
		}})
	jobs.Register(kinds, jobs.Kind[makeSmall]{Limit: 6 * time.Hour, Do: s.makeSmall})
	jobs.Register(kinds, jobs.Kind[Look]{Limit: time.Minute, Do: s.lookAfter})
	jobs.Register(kinds, jobs.Kind[sortFile]{Limit: 2 * time.Minute, Do: s.sort})
}

// soon is when a live track is packaged again: someone waits, or speaks. It never gives up, as when
// the disk is full.
func soon(n int) time.Duration { return time.Duration(min(2*n, 30)) * time.Second }

// pack packages a track into a new generation of its files and makes it the one that is
// watched as soon as it holds as much as the one before.
func (s *Service) pack(ctx context.Context, track uuid.UUID, source Source) error {
	state, err := postgres.Value[string](ctx, s.DB, `select state from track where id = $1`, track)
	if errors.Is(err, pgx.ErrNoRows) || err == nil && (state == "ready" || state == "failed") {
		return nil
	}
	if err != nil {
		return fmt.Errorf("read a track: %w", err)
	}
	h, err := s.look(ctx, track, source)
	for err == nil {
		if err = s.packOnce(ctx, track, source, h); !h.encodeFor(err) {
			break
		}
		err = nil
	}
	var fault Fault
	switch {
	case err == nil:
		return nil
	case errors.Is(err, errMore):
		return s.more(ctx, track)
	case errors.As(err, &fault):
	case ctx.Err() == nil && errors.Is(err, media.ErrTool):
		slog.Warn("a track cannot be packaged", "track", track, "error", err)
		fault = Unreadable
	default:
		return fmt.Errorf("package a track: %w", err)
	}
	return s.fail(ctx, track, fault)
}

// more leaves a track of which more came to the job that was queued for it, or tries again.
func (s *Service) more(ctx context.Context, track uuid.UUID) error {
	const query = `select exists (select 1 from job where kind = 'pack_live' and args->>'track' = $1 and waits)`
	queued, err := postgres.Value[bool](ctx, s.DB, query, track.String())
	if err != nil {
		return fmt.Errorf("look for a job: %w", err)
	}
	if !queued {
		return fmt.Errorf("package a track: %w", errMore)
	}
	return nil
}

func (s *Service) fail(ctx context.Context, track uuid.UUID, fault Fault) error {
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `update track set state = 'failed', fault = $2 where id = $1`, track,
			string(fault)); err != nil {
			return fmt.Errorf("keep why a track failed: %w", err)
		}
		return s.notify(ctx, tx, event.Capture, track)
	})
}

func (s *Service) notify(ctx context.Context, tx pgx.Tx, about event.Kind, track uuid.UUID) error {
	const query = `select $2::text as about, l.course_id as course, l.id as lecture, rc.recording_id as recording,
		$1::uuid as track, coalesce(c.started_by, $3) as person
		from track t join capture c on c.id = t.capture_id join lecture l on l.id = c.lecture_id
		join recording_capture rc on rc.capture_id = c.id and rc.from_ms is null where t.id = $1`
	n, err := postgres.One[postgres.Event](ctx, tx, query, track, about, uuid.Nil)
	if err != nil {
		return err
	}
	return postgres.Notify(ctx, tx, n)
}

// packOnce runs the packager over the whole track, until it is complete.
func (s *Service) packOnce(ctx context.Context, track uuid.UUID, source Source, h how) error {
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	gen := path.Join("pack", track.String(), uuid.Must(uuid.NewV7()).String())
	foreign := source == File && (h.encodePictures || h.encodeSound)
	if _, err := s.DB.Exec(ctx,
		`update track
			set state = 'running', expected_ms = $2, video = $3, audio = $4, pack_began_at = $5, encoded = $6
			where id = $1`,
		track, h.probe.Duration.Milliseconds(), h.probe.Video != nil, h.probe.Audio != nil, s.Clock.Now(),
		foreign); err != nil {
		return fmt.Errorf("mark a track as running: %w", err)
	}
	run := media.Run{Limit: longestRun, Input: media.Input{Format: h.format}}
	if source == File {
		file, done, err := s.Blobs.Local(logKey(track))
		if err != nil {
			return err
		}
		defer done()
		run.Input.Path = file
	}
	if foreign {
		run.Nice = 10 // what is captured now goes before a copy
	}
	log := new(logReader)
	if source.Live() {
		var err error
		if log, err = s.follow(ctx, track); err != nil {
			return err
		}
		defer log.Close()
		run.Input.Path, run.Stdin = "pipe:0", log
		run.Nice = 5 // what comes in is taken in before it is cut
		run.Before = []string{"-analyzeduration", "1000000"}
	}
	keep := &packing{s: s, ctx: ctx, track: track, gen: gen}
	if source == File {
		keep.every = 200 * time.Millisecond // a file is packaged a hundred times as fast as it plays
	}
	made, err := segment(ctx, s.Blobs, run, h, source, gen, keep.grown)
	// That no more can be read, as while the database is away, is not where the source ends.
	if log.fault != nil {
		return fmt.Errorf("follow a track: %w", log.fault)
	}
	// A source that breaks off is kept as far as it goes.
	if err != nil && (!errors.Is(err, media.ErrTool) || keep.longest == 0) {
		return err
	}
	return s.finish(ctx, track, gen, made)
}

type closer struct{ *io.PipeWriter }

const fragments = "+delay_moov+default_base_moof"

// Longest is how much of a track is packaged: a file that claims to be of years must not be filled up
// with silence for years.
const Longest = 40 * time.Hour

// longest is Longest in seconds, as the tool takes it.
const longest = "144000"

// bare leaves away what would become a track of its own beside the one that is wanted: the time code
// of a camera, and chapters.
var bare = []string{"-map_metadata", "-1", "-map_chapters", "-1", "-write_tmcd", "0"}

func picturesArgs(h how, source Source) []string {
	args := []string{"-map", "0:V:0"}
	if h.encodePictures {
		args = append(args, "-vf", h.deinterlace()+h.hold()+h.scale()+",format=yuv420p",
			"-fps_mode", "vfr", "-enc_time_base", "1/90000", "-c:v", "libx264", "-preset", "veryfast", "-crf", "23",
			"-bf", "0",
			"-g", "9999", "-sc_threshold", "0", "-force_key_frames", "expr:gte(t,n_forced*2)")
		if source.Live() {
			args = append(args, "-tune", "zerolatency")
		}
	} else {
		args = append(args, "-c:v", "copy")
	}
	args = append(append(args, bare...), "-t", longest, "-avoid_negative_ts", "disabled")
	return append(args, "-f", "mp4", "-movflags", "+frag_keyframe+negative_cts_offsets"+fragments)
}

func soundArgs(h how) []string {
	args := []string{"-map", "0:a:0"}
	if h.encodeSound {
		args = append(args, "-af", "aresample=async=1:first_pts=0", "-c:a", "aac", "-b:a", "96k", "-ar", "48000", "-ac",
			"2")
	} else {
		args = append(args, "-c:a", "copy", "-bsf:a", "aac_adtstoasc")
	}
	args = append(append(args, bare...), "-t", longest, "-avoid_negative_ts", "disabled")
	return append(args, "-f", "mp4", "-frag_duration", "2000000", "-movflags", fragments)
}

// scale brings pictures to a size that can be encoded: their own, but no larger than a screen. Where
// they change it midway, what follows is fitted into the size of the first.
func (h how) scale() string {
	if !h.changing {
		return "scale='trunc(min(1920,iw)/2)*2':-2"
	}
	w, height := h.probe.Video.Width, h.probe.Video.Height
	if w > 1920 {
		w, height = 1920, height*1920/w
	}
	return fmt.Sprintf("scale=%[1]d:%[2]d:force_original_aspect_ratio=decrease:force_divisible_by=2,pad=%[1]d:%[2]d:-1:-1,setsar=1", max(2, w/2*2), max(2, height/2*2))
}

// hold has the first picture stand from the beginning where pictures begin late, and the last one until
// the sound ends, so that nothing of what is said is without its place.
func (h how) hold() string {
	var filter string
	if h.before > 0 {
		filter = fmt.Sprintf("setpts=PTS-STARTPTS,fps=25,tpad=start_mode=clone:start_duration=%.3f,",
			h.before.Seconds())
	}
	if h.after > 0 {
		filter += fmt.Sprintf("fps=25,tpad=stop_mode=clone:stop_duration=%.3f,", h.after.Seconds())
	}
	return filter
}

func (h how) held() bool { return h.before > 0 || h.after > 0 }

// deinterlace begins the filters of pictures that come as two half pictures.
func (h how) deinterlace() string {
	if h.probe.Video.Interlaced {
		return "yadif=deint=interlaced,"
	}
	return ""
}

// errMore says that more of a track came while it was being finished, or is still to come.
var errMore = errors.New("more of the track came")

// finish makes the generation durable and the one that is watched.
func (s *Service) finish(ctx context.Context, track uuid.UUID, gen string, made packed) error {
	var pictures, sound bool
	var length time.Duration
	for _, k := range made.sinks {
		if len(k.index.Segments) == 0 {
			continue
		}
		if k.pictures {
			pictures = true
			length = k.index.Duration()
		} else {
			sound = true
			if !pictures {
				length = k.index.Duration()
			}
		}
	}
	if !pictures && !sound {
		return Unreadable
	}
	for _, d := range made.differs {
		slog.Warn("not all that came can be watched", "track", track, "what", d.What, "came", d.Came.Length(), "made",
			d.Made.Length())
	}
	return postgres.InTx(ctx, s.DB, func(tx pgx.Tx) error {
		const update = `update track
			set state = 'ready', pack = $2, packed_ms = $3, video = $4, audio = $5, small_state = '',
			small_pack = '', small_ms = 0, packed_at = $6, differs = $7
			where id = $1 and length = stored returning capture_id`
		capture, err := postgres.Value[uuid.UUID](ctx, tx, update, track, gen, length.Milliseconds(), pictures, sound,
			s.Clock.Now(), made.differs)
		if errors.Is(err, pgx.ErrNoRows) {
			return errMore
		}
		if err != nil {
			return fmt.Errorf("mark a track as ready: %w", err)
		}
		if err := s.Recordings.Packed(ctx, tx, capture); err != nil {
			return err
		}
		if s.Small {
			if err := s.Queue.Add(ctx, tx, makeSmall{Track: track}); err != nil {
				return err
			}
		}
		return s.notify(ctx, tx, event.Capture, track)
	})
}
