package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"time"

	"latelantern/demo"
	"latelantern/internal/assemble"
	"latelantern/internal/platform/cluster"
	"latelantern/internal/platform/mail"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/standin/posttray"
)

// demoOf is the command that runs the demonstration, as its arguments ask for it.
func demoOf(args []string) func(context.Context) error {
	return func(ctx context.Context) error {
		set := flag.NewFlagSet("demo", flag.ContinueOnError)
		set.SetOutput(io.Discard)
		courses := set.Int("courses", 0, "")
		if err := set.Parse(args); err != nil || set.NArg() > 0 || *courses < 0 || *courses > 2000 {
			return errors.New("it can be followed by --courses and a number up to 2000, and by nothing else")
		}
		return runDemo(ctx, *courses)
	}
}

// runDemo runs the demonstration until it is interrupted. It has at least so many courses.
func runDemo(ctx context.Context, courses int) (err error) {
	slog.SetLogLoggerLevel(slog.LevelWarn)
	s, err := assemble.FromEnvironment()
	if err != nil {
		return err
	}
	listener, err := listen(ctx, s) // before the loading, which takes a while
	if err != nil {
		return err
	}
	defer listener.Close()
	folder := filepath.Join("var", "demo")
	fmt.Println("Starting the database")
	server, err := cluster.Start(ctx, filepath.Join(folder, "database"), false)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, server.Stop()) }()
	s.Database, s.Media, s.Worker, s.Work = server.DSN, filepath.Join(folder, "media"), "demo", true
	tray, page, err := openTray(ctx, listener.Addr(), filepath.Join(folder, "post"), &s)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, tray.Close()) }()
	if s.Clock, err = loadOnce(ctx, s); err != nil {
		return err
	}
	h, err := assemble.Open(ctx, s)
	if err != nil {
		return err
	}
	defer h.Close()
	if courses > 0 {
		fmt.Printf("Filling the term up to %d courses, without media\n", courses)
		if err := demo.Fill(ctx, h, demo.Size{Courses: courses, Students: 60}); err != nil {
			return err
		}
	}
	if err := startRecorders(ctx, h, listener.Addr(), filepath.Join(folder, "recorders")); err != nil {
		return fmt.Errorf("start the recorders: %w", err)
	}
	announce(h, listener.Addr(), page)
	return run(ctx, h, s, listener)
}

// loadOnce loads the demonstration unless that was done before, and tells what time it is
// there. One that broke off half way is loaded anew.
func loadOnce(ctx context.Context, s assemble.Settings) (time.Time, error) {
	at, err := demo.Start(time.Now())
	if err != nil {
		return at, err
	}
	s.Clock = at
	h, err := assemble.Open(ctx, s)
	if err != nil {
		return at, err
	}
	defer func() { h.Close() }()
	if before, ok, err := demo.Loaded(ctx, h.DB); err != nil || ok {
		return before, err
	}
	if empty, err := postgres.Value[bool](ctx, h.DB, `select not exists (select 1 from person)`); err != nil {
		return at, fmt.Errorf("look whether the database is empty: %w", err)
	} else if !empty {
		if _, err := h.DB.Exec(ctx, `drop schema public cascade; create schema public`); err != nil {
			return at, fmt.Errorf("clear a demonstration that broke off: %w", err)
		}
		h.Close()
		if err := os.RemoveAll(s.Media); err != nil {
			return at, fmt.Errorf("clear the media of a demonstration that broke off: %w", err)
		}
		if h, err = assemble.Open(ctx, s); err != nil {
			return at, err
		}
	}
	fmt.Println("Loading Skerry Sound College: its people, its term, and twelve captured lectures")
	begun := time.Now()
	workers, err := h.Work(ctx, s.Worker)
	if err != nil {
		return at, err
	}
	if err := errors.Join(demo.Load(ctx, h, at), workers.Stop()); err != nil {
		return at, err
	}
	fmt.Printf("Loaded in %.1f s\n", time.Since(begun).Seconds())
	return at, nil
}

// openTray starts a post tray to which the settings then lead, and a page of its letters on
// the port after that of the application, or else on any.
func openTray(ctx context.Context, at net.Addr, folder string,
	s *assemble.Settings) (tray *posttray.Tray, page net.Addr, err error) {
	var lc net.ListenConfig
	post, err := lc.Listen(ctx, "tcp", "127.0.0.1:0")
	if err != nil {
		return nil, nil, fmt.Errorf("open the post tray: %w", err)
	}
	if tray, err = posttray.Open(post, folder); err != nil {
		return nil, nil, err
	}
	s.Mail = mail.Post{Server: post.Addr().String(), From: "lantern@skerry.example", Plain: true}
	port := 0
	if a, ok := at.(*net.TCPAddr); ok {
		port = a.Port + 1
	}
	listener, err := lc.Listen(ctx, "tcp", fmt.Sprintf("127.0.0.1:%d", port))
	if err != nil {
		if listener, err = lc.Listen(ctx, "tcp", "127.0.0.1:0"); err != nil {
			return nil, nil, errors.Join(fmt.Errorf("show the post tray: %w", err), tray.Close())
		}
	}
	server := &http.Server{Handler: tray, ReadHeaderTimeout: 10 * time.Second}
	go func() { _ = server.Serve(listener) }()
	context.AfterFunc(ctx, func() { _ = server.Close() })
	return tray, listener.Addr(), nil
}

func announce(h *assemble.House, at, post net.Addr) {
	fmt.Printf("\nLate Lantern is at http://%s\n", at)
	fmt.Printf("In Skerry Sound College it is %s UTC.\n\nSign in with the password %s as\n",
		h.Clock.Now().Format("Monday 2 January 2006, 15:04"), demo.Password)
	for _, a := range demo.Accounts {
		fmt.Printf("  %-38s %s\n", a.Email, a.Who)
	}
	fmt.Printf("\nLetters that are sent land in the post tray at http://%s\n", post)
	fmt.Println("\nPress Ctrl-C to stop all of it. To begin afresh, remove var/demo.")
}
