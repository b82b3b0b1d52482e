package cluster

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"time"

	_ "github.com/jackc/pgx/v5/stdlib" // the driver "pgx"
)

const (
	database = "glenmist"
	patience = 60 * time.Second // for the server to start or stop
)

// Cluster is a running private server. Stop it. A server that dies is started again.
type Cluster struct {
	// URL connects to its database as the role that serves, OwnerURL as the role that
	// owns the schema, and AdminURL as the superuser.
	URL, OwnerURL, AdminURL string
	// Dir is the folder it lives in.
	Dir string

	lock   *os.File
	server *server
	remove bool
}

// Start starts the cluster that lives in dir, or in a folder named after it
// where the server's user cannot reach dir; it makes it first where there is
// none. The data is kept when it stops.
func Start(ctx context.Context, dir string) (*Cluster, error) {
	return start(ctx, dir, false)
}

// StartThrowaway starts a cluster for tests, which is quick, not durable, and
// gone when it stops.
func StartThrowaway(ctx context.Context) (*Cluster, error) {
	dir, err := os.MkdirTemp(memory(), "glenmist-test-")
	if err != nil {
		return nil, err
	}
	// The server's user passes through to its data.
	if err := os.Chmod(dir, 0o711); err != nil { //nolint:gosec // a folder that another user passes through
		return nil, err
	}
	c, err := start(ctx, dir, true)
	if err != nil {
		_ = os.RemoveAll(dir)
	}
	return c, err
}

// memory returns a file system in memory with 4 GB of room, or "" if there is none. Tests do not need their databases on a disk.
func memory() string {
	const shared, room = "/dev/shm", 4 << 30
	var fs syscall.Statfs_t
	if err := syscall.Statfs(shared, &fs); err != nil || int64(fs.Bavail)*fs.Bsize < room {
		return ""
	}
	return shared
}

// Remove deletes the cluster that lives in dir, with all its data. It refuses
// while the cluster runs.
func Remove(dir string) error {
	acc, err := serverAccount()
	if err != nil {
		return err
	}
	s, err := place(dir, acc)
	if err != nil {
		return err
	}
	lock, err := s.lock()
	if err != nil {
		return err
	}
	defer func() { _ = lock.Close() }()
	if err := s.stopStray(); err != nil {
		return err
	}
	return os.RemoveAll(s.dir)
}

func start(ctx context.Context, dir string, throwaway bool) (*Cluster, error) {
	acc, err := serverAccount()
	if err != nil {
		return nil, err
	}
	s, err := place(dir, acc)
	if err != nil {
		return nil, err
	}
	lock, err := s.lock()
	if err != nil {
		return nil, err
	}
	c := &Cluster{Dir: s.dir, lock: lock, remove: throwaway}
	if err := c.launch(ctx, s, throwaway); err != nil {
		_ = lock.Close()
		return nil, err
	}
	return c, nil
}

func (c *Cluster) launch(ctx context.Context, s state, throwaway bool) error {
	bin, err := programs(s.madeBy())
	if err != nil {
		return err
	}
	passwords := map[string]string{}
	for _, role := range []string{superuser, owner, serving} {
		if passwords[role], err = s.secret(role); err != nil {
			return err
		}
	}
	if s.madeBy() == "" {
		if err := s.initialise(bin, passwords[superuser]); err != nil {
			return err
		}
	} else if err := s.stopStray(); err != nil {
		return err
	}
	port, err := freePort()
	if err != nil {
		return err
	}
	settings := []string{"listen_addresses=127.0.0.1", "port=" + strconv.Itoa(port),
		"unix_socket_directories=", "max_connections=40", "log_timezone=UTC", "timezone=UTC"}
	if throwaway {
		settings = append(settings, "fsync=off", "synchronous_commit=off", "full_page_writes=off")
	}
	args := []string{"-D", s.data()}
	for _, set := range settings {
		args = append(args, "-c", set)
	}
	command := func() *exec.Cmd {
		cmd := s.acc.command(filepath.Join(bin, "postgres"), args...)
		if throwaway {
			cmd.SysProcAttr.Pdeathsig = syscall.SIGINT
		}
		return cmd
	}
	if c.server, err = startServer(command, s.log()); err != nil {
		return err
	}
	c.URL, c.OwnerURL, c.AdminURL = address(serving, passwords[serving], port), address(owner, passwords[owner], port), address(superuser, passwords[superuser], port)
	if err := c.ready(ctx, passwords); err != nil {
		_ = c.server.stop()
		tail, _ := os.ReadFile(s.log())
		return fmt.Errorf("PostgreSQL did not start: %w\n%s", err, lastLines(string(tail), 8))
	}
	c.server.supervise()
	return nil
}

// initialise makes the data folder. Only SCRAM passwords are let in.
func (s state) initialise(bin, secret string) error {
	pw, err := os.CreateTemp(s.dir, "initial-")
	if err != nil {
		return err
	}
	defer func() { _ = os.Remove(pw.Name()) }()
	_, err = pw.WriteString(secret + "\n")
	if err := errors.Join(err, pw.Close(), os.Chmod(pw.Name(), 0o600), s.acc.owns(pw.Name())); err != nil {
		return err
	}
	cmd := s.acc.command(filepath.Join(bin, "initdb"), "-D", s.data(), "--username="+superuser, "--pwfile="+pw.Name(),
		"--auth=scram-sha-256", "--data-checksums", "--encoding=UTF8", "--locale=C", "--no-instructions")
	if out, err := cmd.CombinedOutput(); err != nil {
		return fmt.Errorf("initdb: %w\n%s", err, lastLines(string(out), 8))
	}
	return nil
}

// ready waits until the server lets us in, and makes the roles and the database.
func (c *Cluster) ready(ctx context.Context, passwords map[string]string) error {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	admin, err := sql.Open("pgx", named(c.AdminURL, "postgres"))
	if err != nil {
		return err
	}
	defer func() { _ = admin.Close() }()
	tick := time.NewTicker(50 * time.Millisecond)
	defer tick.Stop()
	for {
		err := admin.PingContext(ctx)
		if err == nil {
			break
		}
		select {
		case <-tick.C:
		case <-c.server.exited():
			return errors.New("it ended at once: see its log")
		case <-ctx.Done():
			return fmt.Errorf("not ready after %s: %w", patience, err)
		}
	}
	if err := makeRoles(ctx, admin, passwords); err != nil {
		return err
	}
	own, err := sql.Open("pgx", c.AdminURL)
	if err != nil {
		return err
	}
	return errors.Join(handOver(ctx, own), own.Close())
}

// Stop stops the server and, for a throwaway one, removes it. One that ran before [Open] goes on.
func (c *Cluster) Stop() error {
	if c.server == nil {
		return nil
	}
	err := c.server.stop()
	if c.remove {
		err = errors.Join(err, os.RemoveAll(c.Dir))
	}
	return errors.Join(err, c.lock.Close())
}

// Kill kills the server as a crash would, for trials. It is started again.
func (c *Cluster) Kill() error { return c.server.signal(syscall.SIGKILL) }

// stopStray stops a server that outlived an earlier run of ours on this data. We
// hold the lock, so nobody else is using it.
func (s state) stopStray() error {
	text, err := os.ReadFile(filepath.Join(s.data(), "postmaster.pid"))
	if err != nil {
		return nil // none runs
	}
	first, _, _ := strings.Cut(string(text), "\n")
	pid, err := strconv.Atoi(strings.TrimSpace(first))
	if err != nil || !s.isServer(pid) {
		return nil // a leftover file; the server replaces it
	}
	if err := syscall.Kill(pid, syscall.SIGINT); err != nil {
		return nil
	}
	deadline := time.Now().Add(patience)
	for time.Now().Before(deadline) {
		if !s.isServer(pid) {
			return nil
		}
		time.Sleep(50 * time.Millisecond)
	}
	return fmt.Errorf("a PostgreSQL left over from an earlier run (process %d) did not stop", pid)
}

// isServer reports whether a process is a server on this data.
func (s state) isServer(pid int) bool {
	cmdline, err := os.ReadFile(fmt.Sprintf("/proc/%d/cmdline", pid))
	return err == nil && strings.Contains(string(cmdline), s.data())
}

func freePort() (int, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, err
	}
	defer func() { _ = l.Close() }()
	return l.Addr().(*net.TCPAddr).Port, nil
}

func lastLines(s string, n int) string {
	lines := strings.Split(strings.TrimRight(s, "\n"), "\n")
	return strings.Join(lines[max(0, len(lines)-n):], "\n")
}
