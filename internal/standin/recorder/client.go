package recorder

import (
	"bytes"
	"context"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"strconv"
	"strings"
	"sync/atomic"
	"time"

	"github.com/google/uuid"
)

// refusal is an answer of the server that is no success.
type refusal struct {
	Status int
	Kind   string // the last word of the problem's type
}

func (r refusal) Error() string { return fmt.Sprintf("refused with %d %s", r.Status, r.Kind) }

// statusOf is the status of a refusal; 0 when err is none.
func statusOf(err error) int {
	var r refusal
	if errors.As(err, &r) {
		return r.Status
	}
	return 0
}

var errNoLine = errors.New("the line is cut")

// client speaks the protocol of recorders with a server.
type client struct {
	server string
	token  atomic.Value // string
	cut    atomic.Bool  // the line is cut
	http   *http.Client
}

func newClient(server, token string) *client {
	c := &client{server: strings.TrimSuffix(server, "/"), http: &http.Client{Timeout: 30 * time.Second}}
	c.token.Store(token)
	return c
}

// call sends a request and gives the body of its answer and its headers.
func (c *client) call(ctx context.Context, method, path string, body []byte, headers map[string]string) ([]byte, http.Header, error) {
	if c.cut.Load() {
		return nil, nil, errNoLine
	}
	r, err := http.NewRequestWithContext(ctx, method, c.server+path, bytes.NewReader(body))
	if err != nil {
		return nil, nil, err
	}
	r.Header.Set("Authorization", "Bearer "+c.token.Load().(string))
	for k, v := range headers {
		r.Header.Set(k, v)
	}
	answer, err := c.http.Do(r)
	if err != nil {
		return nil, nil, err
	}
	defer answer.Body.Close()
	b, err := io.ReadAll(io.LimitReader(answer.Body, 16<<20))
	if err != nil {
		return nil, nil, err
	}
	if answer.StatusCode >= 300 {
		var problem struct {
			Type string `json:"type"`
		}
		_ = json.Unmarshal(b, &problem)
		return nil, answer.Header, refusal{answer.StatusCode, problem.Type[strings.LastIndexByte(problem.Type, ':')+1:]}
	}
	return b, answer.Header, nil
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
	answer, _, err := c.call(ctx, http.MethodPut, "/api/recorder/heartbeat", body, map[string]string{"Content-Type": "application/json"})
	if err != nil {
		return told{}, err
	}
	var out told
	return out, json.Unmarshal(answer, &out)
}

func (c *client) picture(ctx context.Context, jpeg []byte) error {
	_, _, err := c.call(ctx, http.MethodPut, "/api/recorder/picture", jpeg, map[string]string{"Content-Type": "image/jpeg"})
	return err
}

func (c *client) plan(ctx context.Context) ([]byte, error) {
	b, _, err := c.call(ctx, http.MethodGet, "/api/recorder/plan.ics", nil, nil)
	return b, err
}

// The resumable append is tus 1.0.0.
func tus(more map[string]string) map[string]string {
	out := map[string]string{"Tus-Resumable": "1.0.0"}
	for k, v := range more {
		out[k] = v
	}
	return out
}

func address(track uuid.UUID) string { return "/api/append/" + track.String() }

// begin makes a track of a name of one's own; to ask again begins nothing twice.
func (c *client) begin(ctx context.Context, about map[string]string) error {
	var meta []string
	for k, v := range about {
		meta = append(meta, k+" "+base64.StdEncoding.EncodeToString([]byte(v)))
	}
	_, _, err := c.call(ctx, http.MethodPost, "/api/append", nil, tus(map[string]string{"Upload-Defer-Length": "1", "Upload-Metadata": strings.Join(meta, ",")}))
	return err
}

// stored is how much of a track the server has.
func (c *client) stored(ctx context.Context, track uuid.UUID) (int64, error) {
	_, h, err := c.call(ctx, http.MethodHead, address(track), nil, tus(nil))
	if err != nil {
		return 0, err
	}
	return strconv.ParseInt(h.Get("Upload-Offset"), 10, 64)
}

// send appends bytes at an offset, the last of the track when ended, and gives how much the server has then.
func (c *client) send(ctx context.Context, track uuid.UUID, at int64, b []byte, ended bool) (int64, error) {
	headers := map[string]string{"Content-Type": "application/offset+octet-stream", "Upload-Offset": strconv.FormatInt(at, 10)}
	if ended {
		headers["Upload-Length"] = strconv.FormatInt(at+int64(len(b)), 10)
	}
	_, h, err := c.call(ctx, http.MethodPatch, address(track), b, tus(headers))
	if err != nil {
		return at, err
	}
	return strconv.ParseInt(h.Get("Upload-Offset"), 10, 64)
}

// discard takes back a track that was not completed.
func (c *client) discard(ctx context.Context, track uuid.UUID) error {
	_, _, err := c.call(ctx, http.MethodDelete, address(track), nil, tus(nil))
	return err
}
