package backup

import (
	"archive/zip"
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"

	"glenmist/store"
	"glenmist/store/cluster"
	"glenmist/store/demo"
)

var now = time.Date(2026, 12, 1, 9, 30, 0, 0, time.UTC)

// server is a throwaway one with the demo's jobs, for all tests.
var server *cluster.Cluster

func TestMain(m *testing.M) {
	code := 1
	if err := start(context.Background()); err != nil {
		fmt.Fprintln(os.Stderr, err)
	} else {
		code = m.Run()
	}
	if server != nil {
		_ = server.Stop()
	}
	os.Exit(code)
}

func start(ctx context.Context) (err error) {
	if server, err = cluster.StartThrowaway(ctx); err != nil {
		return err
	}
	if _, err := store.MigrateAs(ctx, server.OwnerURL, server.URL); err != nil {
		return err
	}
	s, err := store.Open(server.URL)
	if err != nil {
		return err
	}
	_, err = demo.Load(ctx, s, now)
	return errors.Join(err, s.Close())
}

func database() Database {
	return Database{URL: server.AdminURL, Owner: cluster.Owner, Tool: cluster.Program}
}

// do runs a statement as the superuser and returns its first value.
func do(t *testing.T, c *cluster.Cluster, statement string) (value string) {
	t.Helper()
	conn, err := pgx.Connect(t.Context(), c.AdminURL)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = conn.Close(context.WithoutCancel(t.Context())) }()
	if err := conn.QueryRow(t.Context(), statement).Scan(&value); err != nil {
		t.Fatalf("%s: %v", statement, err)
	}
	return value
}

// rewritten is a backup with one of its files changed.
func rewritten(t *testing.T, file, name string, change func(string) string) string {
	t.Helper()
	z, err := zip.OpenReader(file)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = z.Close() }()
	other := filepath.Join(t.TempDir(), "changed.zip")
	out, err := os.Create(other)
	if err != nil {
		t.Fatal(err)
	}
	w := zip.NewWriter(out)
	for _, f := range z.File {
		in, _ := f.Open()
		data, _ := io.ReadAll(in)
		if f.Name == name {
			data = []byte(change(string(data)))
		}
		to, _ := w.Create(f.Name)
		_, _ = to.Write(data)
	}
	if err := w.Close(); err != nil {
		t.Fatal(err)
	}
	_ = out.Close()
	return other
}

// What is backed up comes back as it was, owned by the role that migrates, and what was there is kept. A backup that does not
// hold what it states is refused, and so is one while somebody uses the database; neither leaves anything behind.
func TestBackupAndRestore(t *testing.T) {
	c, db := server, database()
	file := filepath.Join(t.TempDir(), "b.zip")
	m, err := Write(t.Context(), db, "test", now, file)
	if err != nil {
		t.Fatal(err)
	}
	jobs := do(t, c, "select count(*)::text from jobs")
	if m.Rows("jobs") == 0 || m.Rows("entries") < m.Rows("jobs") || m.Rows("captures") == 0 {
		t.Errorf("%+v", m)
	}
	if _, err := Write(t.Context(), db, "test", now, file); err == nil {
		t.Error("it replaces a file")
	}
	_ = do(t, c, "with gone as (update jobs set summary_of = 'changed' returning 1) select count(*)::text from gone")
	for what, bad := range map[string]struct{ file, words string }{
		"another hash":      {rewritten(t, file, manifestName, func(s string) string { return strings.Replace(s, `"hash": "`, `"hash": "9`, 1) }), "does not have the"},
		"a broken dump":     {rewritten(t, file, dumpName, func(s string) string { return s[:len(s)/2] }), "pg_restore"},
		"another format":    {rewritten(t, file, manifestName, func(s string) string { return strings.Replace(s, format, "other", 1) }), "expected format glenmist-backup"},
		"a newer version":   {rewritten(t, file, manifestName, func(s string) string { return strings.Replace(s, `"version": 1`, `"version": 2`, 1) }), "version 1 to 1"},
		"no manifest":       {rewritten(t, file, manifestName, func(string) string { return "" }), "what a backup holds"},
		"no zip":            {"backup_test.go", "expected a backup that glenmist backup wrote"},
		"a file of nowhere": {filepath.Join(t.TempDir(), "none.zip"), "no such file"},
	} {
		if _, _, err := Restore(t.Context(), db, now, bad.file); err == nil || !strings.Contains(err.Error(), bad.words) {
			t.Errorf("%s: %v", what, err)
		}
	}
	user, err := pgx.Connect(t.Context(), c.URL)
	if err != nil {
		t.Fatal(err)
	}
	if _, _, err := Restore(t.Context(), db, now, file); err == nil || !strings.Contains(err.Error(), "stop Glenmist first") {
		t.Errorf("while it is used: %v", err)
	}
	_ = user.Close(t.Context())
	if left := do(t, c, "select count(*)::text from pg_database where datname like 'glenmist\\_%'"); left != "0" {
		t.Errorf("%s databases are left behind", left)
	}

	back, kept, err := Restore(t.Context(), db, now, file)
	if err != nil || kept != "glenmist_before_20261201_093000" || back.Rows("jobs") != m.Rows("jobs") {
		t.Fatalf("%v, kept as %q", err, kept)
	}
	if got := do(t, c, "select count(*)::text from jobs where summary_of <> 'changed'"); got != jobs {
		t.Errorf("%s jobs as they were, of %s", got, jobs)
	}
	if owner := do(t, c, "select tableowner from pg_tables where tablename = 'entries'"); owner != cluster.Owner {
		t.Errorf("the entries belong to %s", owner)
	}
	// The rules of the ledger are back too, and the program goes on with it.
	if _, err := store.MigrateAs(t.Context(), c.OwnerURL, c.URL); err != nil {
		t.Fatal(err)
	}
	conn, err := pgx.Connect(t.Context(), c.AdminURL)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = conn.Close(context.WithoutCancel(t.Context())) }()
	if _, err := conn.Exec(t.Context(), "delete from entries"); err == nil {
		t.Error("entries can be deleted in what was restored")
	}
}

// The schedule keeps the newest backups and leaves other files alone; a failure is stated, and removes none.
func TestSchedule(t *testing.T) {
	db := database()
	at := now
	s := &Schedule{Database: db, Program: "test", Dir: filepath.Join(t.TempDir(), "backups"), Every: 24 * time.Hour, Keep: 2,
		Log: slog.New(slog.DiscardHandler), Now: func() time.Time { return at }}
	if st := s.Status(); !st.Late || !st.Last.IsZero() {
		t.Errorf("without one: %+v", st)
	}
	for range 3 {
		at = at.Add(24 * time.Hour)
		if err := s.Make(t.Context()); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(filepath.Join(s.Dir, "glenmist-notes.zip"), nil, 0o600); err != nil {
			t.Fatal(err)
		}
	}
	if st := s.Status(); st.Kept != 2 || !st.Last.Equal(at) || st.Jobs == 0 || st.Bytes == 0 || st.Late || st.Failed != "" {
		t.Errorf("%+v", st)
	}
	at = at.Add(49 * time.Hour)
	s.Database.Tool = func(name string) (string, error) { return "/nowhere/" + name, nil }
	if err := s.Make(t.Context()); err == nil {
		t.Error("it works without its tools")
	}
	files, _ := os.ReadDir(s.Dir)
	if st := s.Status(); !st.Late || st.Kept != 2 || !strings.Contains(st.Failed, "pg_dump") || len(files) != 3 {
		t.Errorf("%+v, %d files", st, len(files))
	}
	// It runs at once when one is due, and ends with its context.
	ctx, cancel := context.WithCancel(t.Context())
	s.Database, s.Log = db, slog.New(slog.NewTextHandler(stopper{cancel}, nil))
	s.Run(ctx)
	if st := s.Status(); !st.Last.Equal(at) || st.Late {
		t.Errorf("after it ran: %+v", st)
	}
	// Backups of a database that was deleted no longer count.
	kept := s.Status().Kept
	if err := SetAside(s.Dir); err != nil {
		t.Fatal(err)
	}
	moved, _ := os.ReadDir(filepath.Join(s.Dir, aside))
	if st := s.Status(); st.Kept != 0 || !st.Last.IsZero() || len(moved) != kept {
		t.Errorf("set aside: %+v, %d of %d files", st, len(moved), kept)
	}
	if err := SetAside(filepath.Join(s.Dir, "missing")); err != nil {
		t.Error(err)
	}
}

// stopper ends a context when something is logged.
type stopper struct{ stop context.CancelFunc }

func (s stopper) Write(p []byte) (int, error) {
	s.stop()
	return len(p), nil
}
