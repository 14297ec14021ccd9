// Command run starts one server for all tests of a run, and runs the command in its arguments with it.
package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"os/signal"

	"latelantern/internal/testdb"
)

func main() {
	code, err := run()
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	os.Exit(code)
}

func run() (code int, err error) {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt)
	defer stop()
	folder, err := os.MkdirTemp("/var/tmp", "late-lantern-test-")
	if err != nil {
		return 1, err
	}
	defer os.RemoveAll(folder)
	if err := os.Chmod(folder, 0o755); err != nil {
		return 1, err
	}
	c, err := testdb.Start(ctx, folder)
	if err != nil {
		return 1, err
	}
	defer func() { err = errors.Join(err, c.Stop()) }()
	cmd := exec.CommandContext(ctx, os.Args[1], os.Args[2:]...)
	cmd.Env = append(os.Environ(), testdb.Server+"="+c.DSN)
	cmd.Stdin, cmd.Stdout, cmd.Stderr = os.Stdin, os.Stdout, os.Stderr
	var exit *exec.ExitError
	if err := cmd.Run(); errors.As(err, &exit) {
		return exit.ExitCode(), nil
	} else if err != nil {
		return 1, err
	}
	return 0, nil
}
