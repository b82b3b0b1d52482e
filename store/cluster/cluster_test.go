package cluster

import (
	"database/sql"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// reachable is a folder that the server's user can pass through to, which the
// test's own folder is not when root runs the tests.
func reachable(t *testing.T) string {
	t.Helper()
	dir, err := os.MkdirTemp("", "glenmist-cluster-")
	if err != nil {
		t.Fatal(err)
	}
	if err := os.Chmod(dir, 0o755); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = os.RemoveAll(dir) })
	return filepath.Join(dir, "state")
}

func query(t *testing.T, c *Cluster, statement string) (out string, err error) {
	t.Helper()
	db, err := sql.Open("pgx", c.URL)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = db.Close() }()
	err = db.QueryRow(statement).Scan(&out)
	return out, err
}

// The data outlives the server; a second start on the same data is refused; a
// server that outlived its program is taken over; the password is ours alone.
func TestLife(t *testing.T) {
	dir := reachable(t)
	c, err := Start(t.Context(), dir)
	if err != nil {
		t.Fatal(err)
	}
	db, err := sql.Open("pgx", c.URL)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := db.Exec(`create table kept as select 'still here'::text as what`); err != nil {
		t.Fatal(err)
	}
	_ = db.Close()
	if got, err := query(t, c, `select current_setting('listen_addresses') || current_setting('unix_socket_directories') || current_setting('password_encryption')`); err != nil || got != "127.0.0.1scram-sha-256" {
		t.Errorf("settings %q, %v", got, err)
	}
	info, err := os.Stat(filepath.Join(c.Dir, "password"))
	if err != nil || info.Mode().Perm() != 0o600 {
		t.Errorf("password file: %v, %v", info.Mode(), err)
	}
	if _, err := Start(t.Context(), dir); err == nil || !strings.Contains(err.Error(), "in use") {
		t.Errorf("a second start: %v", err)
	}
	if err := Remove(dir); err == nil {
		t.Error("it was removed while it runs")
	}

	// As if our program had been killed: the lock is gone, the server runs on.
	if err := c.lock.Close(); err != nil {
		t.Fatal(err)
	}
	again, err := Start(t.Context(), dir)
	if err != nil {
		t.Fatal(err)
	}
	<-c.exited
	if got, err := query(t, again, `select what from kept`); err != nil || got != "still here" {
		t.Errorf("the data: %q, %v", got, err)
	}
	wrong := *again
	wrong.URL = strings.Replace(again.URL, "glenmist:", "glenmist:x", 1)
	if _, err := query(t, &wrong, `select 'let in'`); err == nil {
		t.Error("a wrong password is let in")
	}
	if err := again.Stop(); err != nil {
		t.Fatal(err)
	}
	if err := Remove(dir); err != nil {
		t.Error(err)
	}
	if _, err := os.Stat(again.Dir); !os.IsNotExist(err) {
		t.Errorf("it is still there: %v", err)
	}
}

// Where the server's user cannot reach the folder asked for, another is used.
func TestFolderOutOfReach(t *testing.T) {
	if os.Geteuid() != 0 {
		t.Skip("only root lends the server another user")
	}
	home := filepath.Join(t.TempDir(), "home")
	if err := os.Mkdir(home, 0o700); err != nil {
		t.Fatal(err)
	}
	want := filepath.Join(home, "work", ".state")
	acc, err := serverAccount()
	if err != nil {
		t.Fatal(err)
	}
	s, err := place(want, acc)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = os.RemoveAll(s.dir) })
	if strings.HasPrefix(s.dir, home) || !acc.reaches(s.data()) {
		t.Errorf("placed in %s", s.dir)
	}
	if _, err := os.Stat(want); !os.IsNotExist(err) {
		t.Errorf("left something behind at %s", want)
	}
}

func TestProgramsMissing(t *testing.T) {
	t.Setenv("GLENMIST_PG_BIN", t.TempDir())
	if _, err := programs(""); err == nil || !strings.Contains(err.Error(), "initdb and postgres") {
		t.Errorf("%v", err)
	}
	t.Setenv("GLENMIST_PG_BIN", "")
	if _, err := programs("7"); err == nil || !strings.Contains(err.Error(), "make demo-reset") {
		t.Errorf("data of another version: %v", err)
	}
}
