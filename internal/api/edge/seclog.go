package edge

import (
	"context"
	"log/slog"
	"net/http"

	"latelantern/internal/signin"

	"github.com/danielgtaylor/huma/v2"
)

// note writes to the security log: who did what about rights and sessions, by their ids. What was typed, names and
// addresses of mail are never in it.
func note(ctx context.Context, event string, more ...any) {
	args := []any{"event", event, "from", signin.Network(ClientOf(ctx))}
	if p, ok := Caller(ctx); ok {
		args = append(args, "by", p.ID)
	}
	if d, ok := DeviceOf(ctx); ok {
		args = append(args, "device", d.ID)
	}
	slog.InfoContext(ctx, "security", append(args, more...)...)
}

// Note writes to the security log what someone did who may do it, with ids alone.
func (e *Edge) Note(ctx context.Context, event string, more ...any) { note(ctx, event, more...) }

// noteRights notes that an operation changed what someone may do, with the ids in its address.
func (e *Edge) noteRights(ctx context.Context, what, operation string) {
	more := []any{"what", what, "operation", operation}
	for _, x := range ginOf(ctx).Params {
		if x.Key != "key" {
			more = append(more, x.Key, x.Value)
		}
	}
	note(ctx, "rights_changed", more...)
}

// noteRefusal notes that someone was kept from a route.
func (e *Edge) noteRefusal(ctx context.Context, route string, err error) {
	said, ok := e.problem(err).(huma.StatusError)
	if !ok || said.GetStatus() != http.StatusForbidden && said.GetStatus() != http.StatusUnauthorized {
		return
	}
	note(ctx, "refused", "route", route, "status", said.GetStatus())
}
