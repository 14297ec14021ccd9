// Package cluster runs a PostgreSQL server of our own, on loopback, from Debian's
// packages, for the demonstration and the tests. It never touches a system-wide one.
package cluster

import (
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"net"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"time"
)

// Cluster is a running server.
type Cluster struct {
	DSN    string // of the database "latelantern"
	folder string
	socket string
	run    func(name string, args ...string) *exec.Cmd
	server *exec.Cmd
	ended  chan error
}

// Start runs a server on the data in folder, which it makes if it is not there. With
// volatile nothing is forced to the disk: for tests alone. As root the server runs as
// the user postgres.
func Start(ctx context.Context, folder string, volatile bool) (*Cluster, error) {
	bin, err := binaries()
	if err != nil {
		return nil, err
	}
	folder, err = filepath.Abs(folder)
	if err != nil {
		return nil, fmt.Errorf("find the folder of the database: %w", err)
	}
	if err := os.MkdirAll(folder, 0o755); err != nil {
		return nil, fmt.Errorf("make the folder of the database: %w", err)
	}
	name := fmt.Sprintf("latelantern-%x", sha256.Sum256([]byte(folder)))[:24]
	// The path of a socket may have 107 characters, so it does not lie under the folder.
	c := &Cluster{folder: folder, socket: filepath.Join(os.TempDir(), name),
		run: func(name string, args ...string) *exec.Cmd {
			cmd := exec.Command(filepath.Join(bin, name), args...)
			cmd.SysProcAttr = &syscall.SysProcAttr{}
			return cmd
		}}
	if err := os.MkdirAll(c.socket, 0o700); err != nil {
		return nil, fmt.Errorf("make the folder of the socket: %w", err)
	}
	if os.Geteuid() == 0 {
		if err := c.asPostgres(bin, filepath.Join("/var/tmp", name)); err != nil {
			return nil, err
		}
	}
	port, err := c.port()
	if err != nil {
		return nil, err
	}
	if err := c.begin(port, volatile); err != nil {
		return nil, err
	}
	if err := c.wait(ctx, port); err != nil {
		return nil, errors.Join(err, c.Stop())
	}
	if out, err := c.run("createdb", "-h", "127.0.0.1", "-p", port, "-U", "latelantern",
		"latelantern").CombinedOutput(); err != nil && !strings.Contains(string(out), "already exists") {
		return nil, errors.Join(fmt.Errorf("create the database: %w\n%s", err, out), c.Stop())
	}
	c.DSN = fmt.Sprintf("postgres://latelantern@127.0.0.1:%s/latelantern?sslmode=disable", port)
	return c, nil
}

// begin starts the server, with its files made if there are none.
func (c *Cluster) begin(port string, volatile bool) error {
	data := filepath.Join(c.folder, "data")
	if _, err := os.Stat(filepath.Join(data, "PG_VERSION")); err != nil {
		if out, err := c.run("initdb", "-D", data, "-U", "latelantern", "-E", "UTF8", "--locale=C.UTF-8", "-A", "trust",
			"--no-sync").CombinedOutput(); err != nil {
			return fmt.Errorf("make a database: %w\n%s", err, out)
		}
	}
	settings := []string{"-D", data, "-k", c.socket, "-p", port, "-c", "listen_addresses=127.0.0.1", "-c",
		"max_connections=200", "-c", "unix_socket_permissions=0700"}
	if volatile {
		settings = append(settings, "-c", "fsync=off", "-c", "synchronous_commit=off", "-c", "full_page_writes=off")
	}
	c.server = c.run("postgres", settings...)
	log, err := os.Create(filepath.Join(c.folder, "postgres.log"))
	if err != nil {
		return fmt.Errorf("open the log of the database: %w", err)
	}
	defer log.Close()
	c.server.Stdout, c.server.Stderr = log, log
	c.server.SysProcAttr.Setpgid = true // an interrupt from the terminal reaches us, not the server
	c.server.SysProcAttr.Pdeathsig = syscall.SIGINT
	if err := c.server.Start(); err != nil {
		return fmt.Errorf("start the database: %w", err)
	}
	c.ended = make(chan error, 1)
	go func() {
		c.ended <- c.server.Wait()
		close(c.ended) // whoever asks again is answered too
	}()
	return nil
}

// asPostgres makes every program of the server run as the user postgres and gives it its
// folders. Where that user cannot reach the folder, as below the home of root, the data
// lie in elsewhere.
func (c *Cluster) asPostgres(bin, elsewhere string) error {
	u, err := user.Lookup("postgres")
	if err != nil {
		return fmt.Errorf("find the user postgres, as which the database runs: %w", err)
	}
	uid, _ := strconv.Atoi(u.Uid)
	gid, _ := strconv.Atoi(u.Gid)
	c.run = func(name string, args ...string) *exec.Cmd {
		path := name
		if !filepath.IsAbs(name) {
			path = filepath.Join(bin, name)
		}
		cmd := exec.Command(path, args...)
		cmd.SysProcAttr = &syscall.SysProcAttr{Credential: &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}}
		cmd.Dir = "/"
		return cmd
	}
	if err := c.run("/usr/bin/test", "-x", c.folder).Run(); err != nil {
		c.folder = elsewhere
	}
	for _, f := range []string{c.folder, c.socket} {
		if err := os.MkdirAll(f, 0o700); err != nil {
			return fmt.Errorf("make a folder for the database: %w", err)
		}
		if err := os.Chown(f, uid, gid); err != nil {
			return fmt.Errorf("give a folder to the database: %w", err)
		}
	}
	return nil
}

func (c *Cluster) wait(ctx context.Context, port string) error {
	deadline := time.Now().Add(30 * time.Second)
	for time.Now().Before(deadline) {
		if c.run("pg_isready", "-q", "-h", "127.0.0.1", "-p", port).Run() == nil {
			return nil
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case err := <-c.ended:
			log, _ := os.ReadFile(filepath.Join(c.folder, "postgres.log"))
			return fmt.Errorf("the database ended at once: %w\n%s", err, log)
		case <-time.After(50 * time.Millisecond):
		}
	}
	return errors.New("the database did not answer within 30 s")
}

// Stop ends the server and waits for it. To stop it again does nothing.
func (c *Cluster) Stop() error {
	if c.server.Process == nil {
		return nil
	}
	if err := c.server.Process.Signal(syscall.SIGINT); err != nil && !errors.Is(err, os.ErrProcessDone) {
		return fmt.Errorf("stop the database: %w", err)
	}
	select {
	case <-c.ended:
	case <-time.After(20 * time.Second):
		_ = c.server.Process.Kill()
		<-c.ended
	}
	return os.RemoveAll(c.socket)
}

// binaries is the folder of the newest server that Debian installed.
func binaries() (string, error) {
	found, err := filepath.Glob("/usr/lib/postgresql/*/bin/postgres")
	if err != nil || len(found) == 0 {
		return "", errors.New("PostgreSQL is not installed (Debian's package postgresql)")
	}
	best, newest := "", 0
	for _, f := range found {
		dir := filepath.Dir(f)
		if v, err := strconv.Atoi(filepath.Base(filepath.Dir(dir))); err == nil && v > newest {
			best, newest = dir, v
		}
	}
	return best, nil
}

// port is where the server listened the last time, if that is still free, so that whoever
// uses it finds it again; else another.
func (c *Cluster) port() (string, error) {
	kept := c.socket + ".port"
	if b, err := os.ReadFile(kept); err == nil {
		if l, err := net.Listen("tcp", "127.0.0.1:"+string(b)); err == nil {
			return string(b), l.Close()
		}
	}
	port, err := freePort()
	if err != nil {
		return "", err
	}
	if err := os.WriteFile(kept, []byte(port), 0o600); err != nil {
		return "", fmt.Errorf("keep the port of the database: %w", err)
	}
	return port, nil
}

func freePort() (string, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return "", fmt.Errorf("find a free port: %w", err)
	}
	defer l.Close()
	_, port, err := net.SplitHostPort(l.Addr().String())
	return port, err
}
