// Package tus is the sending side of the open tus 1.0.0 protocol for resumable uploads, as the
// server of the house speaks it: core, creation, creation-defer-length and termination.
package tus

import (
	"bytes"
	"context"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"net/http"
	"strconv"
	"strings"

	"github.com/google/uuid"
)

// Refusal is an answer of the server that is no success.
type Refusal struct {
	Status int
	Kind   string // the last word of the problem's type (RFC 9457)
}

func (r Refusal) Error() string { return fmt.Sprintf("refused with %d %s", r.Status, r.Kind) }

// StatusOf is the status of a refusal; 0 when err is none.
func StatusOf(err error) int {
	var r Refusal
	if errors.As(err, &r) {
		return r.Status
	}
	return 0
}

// Client speaks with one server.
type Client struct {
	Server string // its address, without a path
	HTTP   *http.Client
	Before func(*http.Request) error // changes each request, or refuses it; nil for none
}

// most is the longest answer that is read.
const most = 16 << 20

// Call sends a request and gives the body of its answer and its headers. Its error is a
// Refusal when the answer is no success.
func (c *Client) Call(ctx context.Context, method, path string, body []byte,
	headers map[string]string) ([]byte, http.Header, error) {
	r, err := http.NewRequestWithContext(ctx, method, strings.TrimSuffix(c.Server, "/")+path, bytes.NewReader(body))
	if err != nil {
		return nil, nil, err
	}
	for k, v := range headers {
		r.Header.Set(k, v)
	}
	if c.Before != nil {
		if err := c.Before(r); err != nil {
			return nil, nil, err
		}
	}
	answer, err := c.HTTP.Do(r)
	if err != nil {
		return nil, nil, err
	}
	defer answer.Body.Close()
	b, err := io.ReadAll(io.LimitReader(answer.Body, most))
	if err != nil {
		return nil, nil, err
	}
	if answer.StatusCode >= 300 {
		var problem struct {
			Type string `json:"type"`
		}
		_ = json.Unmarshal(b, &problem) // what is no problem has no kind
		return nil, answer.Header, Refusal{answer.StatusCode, problem.Type[strings.LastIndexByte(problem.Type, ':')+1:]}
	}
	return b, answer.Header, nil
}

const base = "/api/append"

func address(track uuid.UUID) string { return base + "/" + track.String() }

func (c *Client) call(ctx context.Context, method, path string, body []byte,
	more map[string]string) (http.Header, error) {
	headers := map[string]string{"Tus-Resumable": "1.0.0"}
	maps.Copy(headers, more)
	_, h, err := c.Call(ctx, method, path, body, headers)
	return h, err
}

// Begin makes a track and gives its name. A length of -1 is not known before the end.
func (c *Client) Begin(ctx context.Context, about map[string]string, length int64) (uuid.UUID, error) {
	var meta []string
	for k, v := range about {
		meta = append(meta, k+" "+base64.StdEncoding.EncodeToString([]byte(v)))
	}
	headers := map[string]string{"Upload-Metadata": strings.Join(meta, ",")}
	if length < 0 {
		headers["Upload-Defer-Length"] = "1"
	} else {
		headers["Upload-Length"] = strconv.FormatInt(length, 10)
	}
	h, err := c.call(ctx, http.MethodPost, base, nil, headers)
	if err != nil {
		return uuid.Nil, err
	}
	at := h.Get("Location")
	id, err := uuid.Parse(at[strings.LastIndexByte(at, '/')+1:])
	if err != nil {
		return id, fmt.Errorf("read where to append: %w", err)
	}
	return id, nil
}

// Stored is how much of a track the server has.
func (c *Client) Stored(ctx context.Context, track uuid.UUID) (int64, error) {
	h, err := c.call(ctx, http.MethodHead, address(track), nil, nil)
	if err != nil {
		return 0, err
	}
	return offset(h)
}

// Send appends bytes at an offset, the last of a track of unknown length when ended, and gives
// how much the server has then.
func (c *Client) Send(ctx context.Context, track uuid.UUID, at int64, b []byte, ended bool) (int64, error) {
	headers := map[string]string{"Content-Type": "application/offset+octet-stream",
		"Upload-Offset": strconv.FormatInt(at, 10)}
	if ended {
		headers["Upload-Length"] = strconv.FormatInt(at+int64(len(b)), 10)
	}
	h, err := c.call(ctx, http.MethodPatch, address(track), b, headers)
	if err != nil {
		return at, err
	}
	return offset(h)
}

// Discard takes back a track that was not completed.
func (c *Client) Discard(ctx context.Context, track uuid.UUID) error {
	_, err := c.call(ctx, http.MethodDelete, address(track), nil, nil)
	return err
}

func offset(h http.Header) (int64, error) {
	n, err := strconv.ParseInt(h.Get("Upload-Offset"), 10, 64)
	if err != nil {
		return 0, fmt.Errorf("read how much is stored: %w", err)
	}
	return n, nil
}
