// Package sweep removes bytes that nothing names any more: generations of packaging that were replaced, editions and
// copies that nobody can see, and halves of what was never finished. What is swept is counted.
package sweep

import (
	"context"
	"fmt"
	"log/slog"
	"path"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/riverqueue/river"

	"latelantern/internal/platform/blobs"
	"latelantern/internal/platform/clock"
	"latelantern/internal/platform/jobs"
	"latelantern/internal/platform/postgres"
)

// Editions is what a sweep needs of what is published.
type Editions interface {
	// SourcesOf lists the keys of packaged files of a track that editions have segments of.
	SourcesOf(ctx context.Context, track uuid.UUID) ([]string, error)
	// CopyKeys is where the copies lie that are taken away, by edition.
	CopyKeys(ctx context.Context) (map[uuid.UUID][]string, error)
}

// Service removes what nothing names any more. All its fields are needed. It may be used by many at once. A call
// whose context ends gives its error and has changed nothing.
type Service struct {
	DB       *pgxpool.Pool
	Blobs    blobs.Store
	Clock    clock.Clock
	Editions Editions
}

// Grace is how long what nothing names is left alone: it may be named once it is whole.
const Grace = 12 * time.Hour

// Sweep is the job of sweeping, once an hour.
type Sweep struct{}

// Kind names the job.
func (Sweep) Kind() string { return "sweep_bytes" }

// InsertOpts says how it is queued.
func (Sweep) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: jobs.Small, MaxAttempts: 1, UniqueOpts: river.UniqueOpts{ByPeriod: time.Hour}}
}

// Register adds the job.
func (s *Service) Register(kinds *river.Workers) {
	jobs.Register(kinds, jobs.Kind[Sweep]{Limit: time.Hour, Do: func(ctx context.Context, _ Sweep, _ bool) error {
		_, err := s.Sweep(ctx, time.Now())
		return err
	}})
}

// Swept is what a sweep removed of one kind: log, pack, edition, copy, strip, measure, recorder, playlist or half.
type Swept struct {
	Kind  string
	Blobs int
	Bytes int64
}

// heap are blobs that are named together, or not at all.
type heap struct {
	kind   string
	owner  uuid.UUID // the track, edition, recorder or file of a playlist whose name they bear
	keys   []string
	bytes  int64
	newest time.Time
}

// Sweep removes what nothing names and nobody wrote to for the Grace before now, in real time, and counts it by kind.
// What it does not know it leaves.
func (s *Service) Sweep(ctx context.Context, now time.Time) ([]Swept, error) {
	// First what there is, then what is named: what comes between is not swept.
	heaps := map[string]*heap{}
	for e, err := range s.Blobs.List("") {
		if err != nil {
			return nil, err
		}
		name, kind, owner := heapOf(e.Key)
		if kind == "" {
			continue
		}
		h := heaps[name]
		if h == nil {
			h = &heap{kind: kind, owner: owner}
			heaps[name] = h
		}
		h.keys, h.bytes = append(h.keys, e.Key), h.bytes+e.Size
		if e.Changed.After(h.newest) {
			h.newest = e.Changed
		}
	}
	named, err := s.named(ctx)
	if err != nil {
		return nil, err
	}
	counts := map[string]*Swept{}
	for name, h := range heaps {
		if now.Sub(h.newest) < Grace {
			continue
		}
		keep, err := named.keeps(ctx, name, h)
		if err != nil {
			return nil, err
		}
		if keep {
			continue
		}
		for _, key := range h.keys {
			if err := s.Blobs.Delete(key); err != nil {
				return nil, err
			}
		}
		if counts[h.kind] == nil {
			counts[h.kind] = &Swept{Kind: h.kind}
		}
		counts[h.kind].Blobs += len(h.keys)
		counts[h.kind].Bytes += h.bytes
	}
	return s.count(ctx, counts)
}

// heapOf is the heap that a blob lies on; its kind is "" for one of which nothing is known.
func heapOf(key string) (name, kind string, owner uuid.UUID) {
	if strings.HasPrefix(path.Base(key), blobs.Unfinished) {
		return key, "half", uuid.Nil
	}
	parts := strings.Split(key, "/")
	if len(parts) < 2 {
		return "", "", uuid.Nil
	}
	owner, err := uuid.Parse(strings.TrimSuffix(parts[1], ".jpg"))
	if err != nil {
		return "", "", uuid.Nil
	}
	switch kind = parts[0]; {
	case kind == "pack" && len(parts) > 3:
		return path.Join(parts[:3]...), kind, owner
	case kind == "edition" && len(parts) == 3 && strings.HasPrefix(parts[2], "copy"):
		return key, "copy", owner
	case kind == "log" || kind == "edition" || kind == "strip" || kind == "measure" || kind == "recorder" ||
		kind == "playlist":
		return path.Join(parts[:2]...), kind, owner
	}
	return "", "", uuid.Nil
}

// names are what the database names.
type names struct {
	editions Editions
	tracks   map[uuid.UUID]track
	living   map[uuid.UUID]bool // editions that are there, or being made
	copies   map[uuid.UUID][]string
	devices  map[uuid.UUID]bool
	files    map[uuid.UUID]bool // in playlists
}

type track struct {
	ID              uuid.UUID
	Pack, SmallPack string
}

func (s *Service) named(ctx context.Context) (*names, error) {
	out := &names{editions: s.Editions, tracks: map[uuid.UUID]track{}, living: map[uuid.UUID]bool{},
		devices: map[uuid.UUID]bool{}, files: map[uuid.UUID]bool{}}
	tracks, err := postgres.All[track](ctx, s.DB, `select id, pack, small_pack from track`)
	if err != nil {
		return nil, fmt.Errorf("read which tracks there are: %w", err)
	}
	for _, t := range tracks {
		out.tracks[t.ID] = t
	}
	for query, to := range map[string]map[uuid.UUID]bool{
		`select id from edition where state in ('making', 'ready')`: out.living,
		`select id from device`:                   out.devices,
		`select distinct blob from playlist_file`: out.files,
	} {
		ids, err := postgres.Values[uuid.UUID](ctx, s.DB, query)
		if err != nil {
			return nil, fmt.Errorf("read what is named: %w", err)
		}
		for _, id := range ids {
			to[id] = true
		}
	}
	out.copies, err = s.Editions.CopyKeys(ctx)
	return out, err
}

// keeps reports whether a heap is named.
func (n *names) keeps(ctx context.Context, name string, h *heap) (bool, error) {
	t, known := n.tracks[h.owner]
	switch h.kind {
	case "log", "strip", "measure":
		return known, nil
	case "pack":
		if !known {
			return false, nil
		}
		if name == t.Pack || name == t.SmallPack {
			return true, nil
		}
		// An edition goes on being made of the generation that was there when it was published.
		sources, err := n.editions.SourcesOf(ctx, h.owner)
		for _, key := range sources {
			if strings.HasPrefix(key, name+"/") {
				return true, err
			}
		}
		return false, err
	case "edition":
		return n.living[h.owner], nil
	case "copy":
		return n.living[h.owner] && slices.Contains(n.copies[h.owner], name), nil
	case "recorder":
		return n.devices[h.owner], nil
	case "playlist":
		return n.files[h.owner], nil
	}
	return false, nil
}

// count keeps what was swept.
func (s *Service) count(ctx context.Context, counts map[string]*Swept) ([]Swept, error) {
	var out []Swept
	for _, c := range counts {
		const keep = `insert into swept (id, at, kind, blobs, bytes) values ($1, $2, $3, $4, $5)`
		if _, err := s.DB.Exec(ctx, keep, uuid.Must(uuid.NewV7()), s.Clock.Now(), c.Kind, c.Blobs,
			c.Bytes); err != nil {
			return out, fmt.Errorf("count what was swept: %w", err)
		}
		slog.Info("swept bytes that nothing names", "kind", c.Kind, "blobs", c.Blobs, "bytes", c.Bytes)
		out = append(out, *c)
	}
	return out, nil
}
