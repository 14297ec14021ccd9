package rss

import (
	"encoding/json"

	"latelantern/internal/core/chapter"
)

// Chapters are chapters as the podcast namespace has them (JSON chapters, version 1.2.0).
func Chapters(list []chapter.Published) ([]byte, error) {
	type one struct {
		Start float64 `json:"startTime"`
		End   float64 `json:"endTime"`
		Title string  `json:"title"`
	}
	out := struct {
		Version  string `json:"version"`
		Chapters []one  `json:"chapters"`
	}{"1.2.0", []one{}}
	for _, c := range list {
		out.Chapters = append(out.Chapters,
			one{float64(c.Start.Milliseconds()) / 1000, float64(c.End.Milliseconds()) / 1000, c.Title})
	}
	return json.MarshalIndent(out, "", "  ")
}

// ChaptersType is the media type of JSON chapters.
const ChaptersType = "application/json+chapters"
