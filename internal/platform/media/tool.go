package media

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"os/exec"
	"time"
)

// Call is one call of a tool that reads what was uploaded, or was made of it.
type Call struct {
	Name   string // of the program
	Args   []string
	Stdin  io.Reader
	Stdout io.Writer
	Limit  time.Duration // of wall and processor time; at least a second
	Nice   int           // how far others go before it, from 0 to 19
}

// ErrNoTool says that a program is not on this machine.
var ErrNoTool = errors.New("a program is missing")

// Tool runs a tool on the leash. What it complains of is in the error, cut to its last lines.
func Tool(ctx context.Context, c Call) error {
	if _, err := exec.LookPath(c.Name); err != nil {
		return fmt.Errorf("%w: %s", ErrNoTool, c.Name)
	}
	cmd, cancel := command(ctx, max(c.Limit, time.Second), 0, c.Nice, c.Name, c.Args...)
	defer cancel()
	var complaint tail
	cmd.Stdin, cmd.Stdout, cmd.Stderr = c.Stdin, c.Stdout, &complaint
	if err := cmd.Run(); err != nil {
		if ctx.Err() != nil {
			return ctx.Err()
		}
		return fmt.Errorf("%w: %s: %w: %s", ErrTool, c.Name, err, complaint.String())
	}
	return nil
}

// ToolOutput is Tool with what the tool says as its result.
func ToolOutput(ctx context.Context, c Call) ([]byte, error) {
	var out bytes.Buffer
	c.Stdout = &out
	err := Tool(ctx, c)
	return out.Bytes(), err
}
