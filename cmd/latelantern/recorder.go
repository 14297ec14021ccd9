package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"io"
	"log/slog"
	"net"
	"os"
	"os/signal"
	"path/filepath"
	"strings"
	"syscall"
	"time"

	"github.com/google/uuid"

	"latelantern/demo"
	"latelantern/internal/assemble"
	"latelantern/internal/core/texts"
	"latelantern/internal/standin/recorder"
)

// tokenName is where the token of a recorder is read from, so that it stands in no list of processes.
const tokenName = "LATE_LANTERN_RECORDER_TOKEN"

// hallRecorder runs a simulated recorder of a hall, or checks a server against the protocol of
// recorders. The code is 1 when something failed, 2 when it was called wrongly.
func hallRecorder(args []string, out, errs io.Writer) int {
	flags := flag.NewFlagSet("hall-recorder", flag.ContinueOnError)
	flags.SetOutput(errs)
	server := flags.String("server", "http://127.0.0.1:8080", "address of the server")
	check := flags.String("check", "", "address of a server to try against the protocol, in place of recording")
	lecture := flags.String("lecture", "",
		"with -check: the lecture to try a capture with; the first of the plan when empty")
	folder := flags.String("folder", filepath.Join("var", "hall-recorder"), "the disk of the recorder")
	film := flags.String("film", "", "a film with pictures and sound to play; a talk of the demonstration when empty")
	at := flags.String("clock", "",
		"the time that its clock shows now, such as 2026-10-14T10:15:00Z; that of the machine when empty")
	dies := flags.Duration("die-every", 0, "die without closing anything, and start again, after so long")
	var how recorder.Misbehaviour
	flags.BoolVar(&how.Mute, "mute", false, "the microphone hears nothing")
	flags.BoolVar(&how.Black, "black", false, "the camera sees nothing")
	flags.BoolVar(&how.NoLine, "no-line", false, "there is no line to the server")
	flags.BoolVar(&how.WrongOffset, "wrong-offset", false, "one piece of five is sent with a wrong offset")
	flags.DurationVar(&how.ClockOff, "clock-off", 0, "how far its clock is ahead")
	flags.Int64Var(&how.Room, "room", 0, "bytes that its disk holds; as many as there is room for when 0")
	flags.Usage = func() {
		fmt.Fprintf(errs,
			"latelantern hall-recorder [FLAGS]\n\nA simulated recorder of a hall. Its token is read from %s.\n\n",
			tokenName)
		flags.PrintDefaults()
	}
	if err := flags.Parse(args); err != nil || flags.NArg() > 0 {
		return 2
	}
	wrong := func(err error) int {
		fmt.Fprintf(errs, "latelantern hall-recorder: %s\n", texts.English.Error(err))
		return 1
	}
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	token := os.Getenv(tokenName)
	if token == "" {
		fmt.Fprintf(errs, "latelantern hall-recorder: set %s to the token that a coordinator was shown\n", tokenName)
		return 2
	}
	if *check != "" {
		id, err := uuid.Parse(*lecture)
		if *lecture != "" && err != nil {
			return wrong(fmt.Errorf("%q names no lecture", *lecture))
		}
		if !recorder.Check(ctx, *check, token, id, out) {
			return 1
		}
		return 0
	}
	c := recorder.Config{Server: *server, Token: token, Folder: *folder, Lecture: *film, Misbehave: how,
		Log: slog.New(slog.NewTextHandler(errs, nil))}
	if *at != "" {
		now, err := time.Parse(time.RFC3339, *at)
		if err != nil {
			return wrong(fmt.Errorf("%q is no time", *at))
		}
		c.Ahead = time.Until(now)
	}
	if err := runRecorder(ctx, c, *dies); err != nil {
		return wrong(err)
	}
	return 0
}

// runRecorder runs a recorder until ctx ends, or lets it die and start again.
func runRecorder(ctx context.Context, c recorder.Config, dies time.Duration) error {
	if c.Lecture == "" {
		c.Lecture = filepath.Join(c.Folder, "talk.mp4")
		talk, err := demo.Film("tid-3")
		if err == nil {
			err = errors.Join(os.MkdirAll(c.Folder, 0o700), os.WriteFile(c.Lecture, talk, 0o600))
		}
		if err != nil {
			return err
		}
	}
	for {
		d, err := recorder.Open(ctx, c)
		if err != nil {
			return err
		}
		life, end := ctx, func() {}
		if dies > 0 {
			life, end = context.WithTimeout(ctx, dies)
		}
		err = d.Run(life)
		end()
		if err != nil || ctx.Err() != nil {
			return err
		}
	}
}

// stands says in which halls of the demonstration recorders stand, and what is wrong with them.
var stands = []struct {
	hall, name, talk string
	how              recorder.Misbehaviour
}{
	{"Kelp Hall", "Recorder in the lectern", "tid-2", recorder.Misbehaviour{}},
	{"Boathouse 2", "Recorder over the bench", "boa-2", recorder.Misbehaviour{ClockOff: 7 * time.Second}},
}

// startRecorders lets the recorders of the demonstration run until ctx ends. What goes wrong
// with them is said, and ends nothing.
func startRecorders(ctx context.Context, h *assemble.House, at net.Addr, folder string) error {
	all, err := h.Schedule.Halls(ctx)
	if err != nil {
		return err
	}
	states, err := h.Halls.States(ctx)
	if err != nil {
		return err
	}
	for _, x := range stands {
		for _, hall := range all {
			if hall.Name != x.hall {
				continue
			}
			own := filepath.Join(folder, strings.ToLower(strings.ReplaceAll(x.hall, " ", "-")))
			var token string
			if s, ok := states[hall.ID]; ok {
				token, err = h.Halls.Renew(ctx, s.ID)
			} else {
				token, err = h.Halls.Add(ctx, hall.ID, uuid.Nil, x.name)
			}
			if err != nil {
				return err
			}
			talk, err := demo.Film(x.talk)
			if err == nil {
				err = errors.Join(os.MkdirAll(own, 0o700), os.WriteFile(filepath.Join(own, "talk.mp4"), talk, 0o600))
			}
			if err != nil {
				return err
			}
			c := recorder.Config{Server: "http://" + at.String(), Token: token, Folder: own,
				Lecture: filepath.Join(own, "talk.mp4"), Ahead: time.Until(h.Clock.Now()), Misbehave: x.how}
			go func() {
				if err := runRecorder(ctx, c, 0); err != nil && ctx.Err() == nil {
					slog.Warn("a recorder of the demonstration ended", "hall", x.hall, "error", err)
				}
			}()
		}
	}
	return nil
}
