package postgres

import (
	"context"
	"errors"
	"io"
	"net"
	"strings"

	"github.com/jackc/pgx/v5/pgconn"
)

// Away reports whether an error says that the database cannot be reached, or is about to go, and nothing about what
// was asked.
func Away(err error) bool {
	var connect *pgconn.ConnectError
	var said *pgconn.PgError
	var line net.Error
	switch {
	case err == nil:
		return false
	case errors.As(err, &said): // classes 08, connection exception, and 57P, operator intervention
		return strings.HasPrefix(said.Code, "08") || strings.HasPrefix(said.Code, "57P")
	case errors.As(err, &connect), errors.As(err, &line):
		return true
	}
	return errors.Is(err, context.DeadlineExceeded) || errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) ||
		errors.Is(err, net.ErrClosed) || pgconn.SafeToRetry(err)
}
