package cluster

import (
	"database/sql"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"
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

func query(t *testing.T, url, statement string) (out string, err error) {
	t.Helper()
	db, err := sql.Open("pgx", url)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = db.Close() }()
	err = db.QueryRow(statement).Scan(&out)
	return out, err
}

// The data outlives the server; a second start on the same data is refused; a
// server that outlived its program is taken over; the password is ours alone.
func TestDataOutlivesTheServer(t *testing.T) {
	dir := reachable(t)
	c, err := Start(t.Context(), dir)
	if err != nil {
		t.Fatal(err)
	}
	db, err := sql.Open("pgx", c.AdminURL)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := db.Exec(`create table kept as select 'still here'::text as what`); err != nil {
		t.Fatal(err)
	}
	_ = db.Close()
	if got, err := query(t, c.AdminURL, `select current_setting('listen_addresses') || current_setting('unix_socket_directories') || current_setting('password_encryption') || current_setting('data_checksums')`); err != nil || got != "127.0.0.1scram-sha-256on" {
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
	c.server.mu.Lock()
	c.server.stopped = true
	c.server.mu.Unlock()
	again, err := Start(t.Context(), dir)
	if err != nil {
		t.Fatal(err)
	}
	<-c.server.exited()
	// The table was the superuser's, as in data of an earlier version.
	if got, err := query(t, again.OwnerURL, `select what from kept`); err != nil || got != "still here" {
		t.Errorf("the data: %q, %v", got, err)
	}
	if _, err := query(t, strings.Replace(again.URL, serving+":", serving+":x", 1), `select 'let in'`); err == nil {
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

// A server that is killed comes back at the same address.
func TestServerIsStartedAgain(t *testing.T) {
	dir := reachable(t)
	c, err := Start(t.Context(), dir)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = c.Stop() }()
	first := c.server.exited()
	if err := c.Kill(); err != nil {
		t.Fatal(err)
	}
	<-first
	tick := time.NewTicker(20 * time.Millisecond)
	defer tick.Stop()
	for {
		got, err := query(t, c.URL, `select 'back'`)
		if err == nil && got == "back" {
			return
		}
		select {
		case <-tick.C:
		case <-t.Context().Done():
			t.Fatal(err)
		}
	}
}

// The role that serves is no superuser and makes no tables; the owner does.
func TestRoles(t *testing.T) {
	c, err := StartThrowaway(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = c.Stop() }()
	for url, want := range map[string]string{c.URL: "glenmist_serve false false", c.OwnerURL: "glenmist_owner false true", c.AdminURL: "glenmist true true"} {
		got, err := query(t, url, `select current_user || ' ' || usesuper || ' ' || has_schema_privilege('public', 'create') from pg_user where usename = current_user`)
		if err != nil || got != want {
			t.Errorf("%q, want %q, %v", got, want, err)
		}
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
