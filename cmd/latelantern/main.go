// Command latelantern is Late Lantern: the server, the workers, and the tools around them.
package main

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"os"
	"os/signal"
	"syscall"
	_ "time/tzdata" // the zones of colleges, also where the machine has none

	"latelantern/internal/api"
	"latelantern/internal/assemble"
	"latelantern/internal/core/texts"
	"latelantern/internal/news"
	"latelantern/internal/roster"
	"latelantern/internal/signin"
	"latelantern/web"
)

const usage = `latelantern COMMAND

  serve      serve the application, and do its jobs unless LATE_LANTERN_WORK is off
  work       only do jobs
  migrate    bring the database to the newest version
  coordinator ADDRESS NAME
             make someone a coordinator of the college, and print the address at which they choose a password
  returned           read a mail that came back, from standard input, so that its address is shown to coordinators
  demo [--courses N]
             run the demonstration: a database of its own under var/, demo data, everything; with --courses the term is
             filled up to N courses that were never captured in earnest
  hall-recorder [FLAGS]
             a simulated recorder of a hall; with -check ADDRESS try a server against docs/recorder-protocol.md
  import FILE --course CODE [--lecture ID]
             send a recording that was made elsewhere to a running server; import -help says more
  contract   print the OpenAPI contract
  texts LANGUAGE
             print what the server says to people, by its codes, as pages read it

Without a database:

  timetable [-zone ZONE] FILE.ics   print each lecture of a calendar: its start in UTC, minutes, title
  probe FILE                        print as JSON what an import would make of a file
  analyse FILE                      print as JSON where someone speaks, what might be struck, when slides begin,
                                    and how loud it is
  cut --keep RANGES FILE OUT.mp4    write what is kept of a file, such as 0:41.2-30:10,40:08-58:02.5
  roster FILE...                    print what importing these files into an empty college would do

The settings are environment variables; see README.md.
`

var commands = map[string]func(context.Context) error{
	"serve": serve, "work": work, "migrate": migrate, "contract": contract, "returned": returned,
}

// tools read files and need nothing else. They give the exit code.
var tools = map[string]func(args []string, out, errs io.Writer) int{
	"timetable": printTimetable, "roster": printRoster, "hall-recorder": hallRecorder, "probe": printProbe,
	"texts": printTexts, "import": importFile, "analyse": printAnalysis, "cut": cutFile,
}

func main() {
	if len(os.Args) > 1 && tools[os.Args[1]] != nil {
		os.Exit(tools[os.Args[1]](os.Args[2:], os.Stdout, os.Stderr))
	}
	if len(os.Args) == 4 && os.Args[1] == "coordinator" {
		commands["coordinator"] = nameCoordinator(os.Args[2], os.Args[3])
	} else if len(os.Args) > 1 && os.Args[1] == "demo" {
		commands["demo"] = demoOf(os.Args[2:])
	} else if len(os.Args) != 2 || commands[os.Args[1]] == nil {
		fmt.Fprint(os.Stderr, usage)
		os.Exit(2)
	}
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	if err := commands[os.Args[1]](ctx); err != nil {
		fmt.Fprintf(os.Stderr, "latelantern %s: %s\n", os.Args[1], texts.English.Error(err))
		os.Exit(1)
	}
}

// inHouse opens the house that the settings name and does something in it.
func inHouse(ctx context.Context, do func(*assemble.House, assemble.Settings) error) error {
	s, err := assemble.FromEnvironment()
	if err := errors.Join(err, s.NeedDatabase()); err != nil {
		return err
	}
	h, err := assemble.Open(ctx, s)
	if err != nil {
		return err
	}
	defer h.Close()
	return do(h, s)
}

func serve(ctx context.Context) error {
	return inHouse(ctx, func(h *assemble.House, s assemble.Settings) error {
		listener, err := listen(ctx, s)
		if err != nil {
			return err
		}
		return run(ctx, h, s, listener)
	})
}

func work(ctx context.Context) error {
	return inHouse(ctx, func(h *assemble.House, s assemble.Settings) error {
		workers, err := h.Work(ctx, s.Worker)
		if err != nil {
			return err
		}
		<-ctx.Done()
		return workers.Stop()
	})
}

// migrate needs to do nothing more: a house is migrated when it is opened.
func migrate(ctx context.Context) error {
	return inHouse(ctx, func(*assemble.House, assemble.Settings) error { return nil })
}

// returned reads what came to the address that letters come from. What is no report of a letter of ours is none of its
// business, and no reason for a mail server to send it back.
func returned(ctx context.Context) error {
	return inHouse(ctx, func(h *assemble.House, _ assemble.Settings) error {
		_, err := h.News.Returned(ctx, os.Stdin)
		if errors.Is(err, news.ErrNotOurs) {
			slog.Info("a message that is no report of a letter that came back")
			return nil
		}
		return err
	})
}

// nameCoordinator is how a college gets its first account.
func nameCoordinator(email, name string) func(context.Context) error {
	return func(ctx context.Context) error {
		return inHouse(ctx, func(h *assemble.House, _ assemble.Settings) error {
			id, err := h.Roster.AddPerson(ctx, roster.PersonForm{Email: email, Name: name})
			if err != nil {
				return err
			}
			if err := h.Roster.Found(ctx, id); err != nil {
				return err
			}
			address, err := h.SignIn.Key(ctx, id, signin.Invitation)
			if err != nil {
				return err
			}
			fmt.Println("Within 14 days, a password is chosen at\n" + address)
			return nil
		})
	}
}

func listen(ctx context.Context, s assemble.Settings) (net.Listener, error) {
	l, err := new(net.ListenConfig).Listen(ctx, "tcp", s.Address)
	if err != nil {
		return nil, fmt.Errorf("serve on LATE_LANTERN_ADDRESS: %w", err)
	}
	return l, nil
}

// run serves a house, and works in it if the settings say so, until ctx ends.
func run(ctx context.Context, h *assemble.House, s assemble.Settings, listener net.Listener) (err error) {
	defer listener.Close()
	edge := h.Edge(web.Files())
	if s.Work {
		workers, err := h.Work(ctx, s.Worker)
		if err != nil {
			return err
		}
		defer func() { err = errors.Join(err, workers.Stop()) }()
	}
	slog.Info("serving", "address", listener.Addr().String())
	return assemble.Serve(ctx, listener, edge)
}

func contract(context.Context) error {
	b, err := api.New(api.Services{}).Contract()
	if err != nil {
		return err
	}
	var out bytes.Buffer
	if err := json.Indent(&out, b, "", "  "); err != nil {
		return fmt.Errorf("write the contract: %w", err)
	}
	_, err = fmt.Println(out.String())
	return err
}

// printTexts writes what the server says as pages read it, in the language that is named.
func printTexts(args []string, out, errs io.Writer) int {
	if len(args) != 1 || texts.Languages[args[0]] == nil {
		fmt.Fprintln(errs, "latelantern texts: name one of the languages, such as: latelantern texts en")
		return 2
	}
	e := json.NewEncoder(out)
	e.SetIndent("", "  ")
	e.SetEscapeHTML(true)
	if err := e.Encode(texts.Languages[args[0]].Vue()); err != nil {
		fmt.Fprintf(errs, "latelantern texts: %v\n", err)
		return 1
	}
	return 0
}
