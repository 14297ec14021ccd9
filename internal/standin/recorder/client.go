package recorder

import (
	"context"
	"encoding/json"
	"errors"
	"net/http"
	"sync/atomic"
	"time"

	"github.com/google/uuid"

	"latelantern/internal/platform/tus"
)

var errNoLine = errors.New("the line is cut")

// client speaks the protocol of recorders with a server.
type client struct {
	tus.Client
	token atomic.Value // string
	cut   atomic.Bool  // the line is cut
}

func newClient(server, token string) *client {
	c := &client{Client: tus.Client{Server: server, HTTP: &http.Client{Timeout: 30 * time.Second}}}
	c.token.Store(token)
	c.Before = func(r *http.Request) error {
		if c.cut.Load() {
			return errNoLine
		}
		r.Header.Set("Authorization", "Bearer "+c.token.Load().(string))
		return nil
	}
	return c
}

// beat is what a recorder says of itself.
type beat struct {
	Now     string     `json:"now"`
	Lecture *uuid.UUID `json:"lecture,omitempty"`
	LevelDB *float64   `json:"level_db,omitempty"`
	Picture string     `json:"picture"`
	Free    int64      `json:"free_bytes"`
	Unsent  int64      `json:"unsent_bytes"`
	Version string     `json:"version"`
}

// order is what a recorder is told to do by hand.
type order struct {
	ID      uuid.UUID  `json:"id"`
	Kind    string     `json:"kind"`
	Lecture *uuid.UUID `json:"lecture"`
	Until   *time.Time `json:"until"`
}

// told is what a recorder is answered.
type told struct {
	Now   time.Time `json:"now"`
	Hall  string    `json:"hall"`
	Order *order    `json:"order"`
}

func (c *client) beat(ctx context.Context, b beat) (told, error) {
	body, err := json.Marshal(b)
	if err != nil {
		return told{}, err
	}
	answer, _, err := c.Call(ctx, http.MethodPut, "/api/recorder/heartbeat", body,
		map[string]string{"Content-Type": "application/json"})
	if err != nil {
		return told{}, err
	}
	var out told
	return out, json.Unmarshal(answer, &out)
}

func (c *client) picture(ctx context.Context, jpeg []byte) error {
	_, _, err := c.Call(ctx, http.MethodPut, "/api/recorder/picture", jpeg,
		map[string]string{"Content-Type": "image/jpeg"})
	return err
}

func (c *client) plan(ctx context.Context) ([]byte, error) {
	b, _, err := c.Call(ctx, http.MethodGet, "/api/recorder/plan.ics", nil, nil)
	return b, err
}

// begin makes a track of a name of one's own; to ask again begins nothing twice.
func (c *client) begin(ctx context.Context, about map[string]string) error {
	_, err := c.Begin(ctx, about, -1)
	return err
}
