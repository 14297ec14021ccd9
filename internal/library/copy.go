package library

import (
	"context"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/platform/media"
)

// Copy is the key of an edition as one MP4 file to be taken away. It is put together from
// the published segments, without encoding, when it is first asked for. Its error is
// ErrNotReady when there is no such edition.
func (s *Service) Copy(ctx context.Context, edition uuid.UUID) (string, error) {
	key := editionKey(edition, "copy.mp4")
	if s.Blobs.Size(key) > 0 {
		return key, nil
	}
	r, err := s.Edition(ctx, edition)
	if err != nil {
		return "", err
	}
	folder, err := os.MkdirTemp("", "late-lantern-copy-")
	if err != nil {
		return "", fmt.Errorf("make a folder for a copy: %w", err)
	}
	defer os.RemoveAll(folder)
	var inputs []media.Input
	var maps []string
	for _, rail := range []*Rail{r.Pictures, r.Sound} {
		if rail == nil {
			continue
		}
		path := filepath.Join(folder, fmt.Sprintf("%d.mp4", len(inputs)))
		if err := s.stream(rail, path); err != nil {
			return "", err
		}
		maps = append(maps, "-map", fmt.Sprintf("%d:0", len(inputs)))
		inputs = append(inputs, media.Input{Format: media.MOV, Path: path})
	}
	if len(inputs) == 0 {
		return "", ErrNotReady
	}
	var output []string
	for _, more := range inputs[1:] {
		output = append(output, more.Args()...)
	}
	whole := filepath.Join(folder, "whole.mp4")
	output = append(append(output, maps...), "-c", "copy", "-movflags", "+faststart", "-f", "mp4", whole)
	if _, err := media.FFmpeg(ctx, media.Run{Limit: 5 * time.Minute, Input: inputs[0], Output: output}); err != nil {
		return "", fmt.Errorf("put a copy together: %w", err)
	}
	f, err := os.Open(whole)
	if err != nil {
		return "", fmt.Errorf("read a copy: %w", err)
	}
	defer f.Close()
	return key, s.Blobs.Put(key, f)
}

// stream writes a rail as one fragmented file.
func (s *Service) stream(r *Rail, path string) error {
	f, err := os.Create(path)
	if err != nil {
		return fmt.Errorf("begin a stream: %w", err)
	}
	defer f.Close()
	return s.WriteRail(f, r)
}

// WriteRail writes head and segments of a rail one after another.
func (s *Service) WriteRail(w io.Writer, r *Rail) error {
	if _, err := w.Write(r.Head); err != nil {
		return fmt.Errorf("write a head: %w", err)
	}
	for n := range r.Items {
		b, err := s.Segment(r, n)
		if err != nil {
			return err
		}
		if _, err := w.Write(b); err != nil {
			return fmt.Errorf("write a segment: %w", err)
		}
	}
	return nil
}
