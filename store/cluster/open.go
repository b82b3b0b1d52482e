package cluster

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
)

// Owner is the role that owns the tables.
const Owner = owner

// Open connects to the cluster that lives in dir: the one that runs there, or else it is started. Stop does not stop one that
// ran before. Unlike [Start] it makes none.
func Open(ctx context.Context, dir string) (*Cluster, error) {
	acc, err := serverAccount()
	if err != nil {
		return nil, err
	}
	s, err := place(dir, acc)
	if err != nil {
		return nil, err
	}
	if s.madeBy() == "" {
		return nil, fmt.Errorf("%s: expected the folder of a private PostgreSQL, as make demo makes it; --state names another, --database-url a database", s.dir)
	}
	port, runs := s.port()
	if !runs {
		return Start(ctx, dir)
	}
	c := &Cluster{Dir: s.dir}
	for role, at := range map[string]*string{serving: &c.URL, owner: &c.OwnerURL, superuser: &c.AdminURL} {
		password, err := s.secret(role)
		if err != nil {
			return nil, err
		}
		*at = address(role, password, port)
	}
	return c, nil
}

// address is that of the database for a role.
func address(role, password string, port int) string {
	return (&url.URL{Scheme: "postgres", User: url.UserPassword(role, password),
		Host: net.JoinHostPort("127.0.0.1", strconv.Itoa(port)), Path: "/" + database, RawQuery: "sslmode=disable"}).String()
}

// port is the port of the server that runs on the data; false if none runs.
func (s state) port() (port int, runs bool) {
	text, err := os.ReadFile(filepath.Join(s.data(), "postmaster.pid"))
	if err != nil {
		return 0, false
	}
	lines := strings.Split(string(text), "\n") // process, folder, start, port
	if len(lines) < 4 {
		return 0, false
	}
	pid, err1 := strconv.Atoi(strings.TrimSpace(lines[0]))
	port, err2 := strconv.Atoi(strings.TrimSpace(lines[3]))
	return port, errors.Join(err1, err2) == nil && s.isServer(pid)
}

// Program finds a program of PostgreSQL, such as pg_dump: beside the server's programs, else on the path.
func Program(name string) (string, error) {
	if dir, err := programs(""); err == nil {
		path := filepath.Join(dir, name)
		if _, err := os.Stat(path); err == nil { //nolint:gosec // a program of PostgreSQL
			return path, nil
		}
	}
	path, err := exec.LookPath(name)
	if err != nil {
		return "", fmt.Errorf("expected PostgreSQL's %s: install Debian's package postgresql-client, or set GLENMIST_PG_BIN to its folder", name)
	}
	return path, nil
}
