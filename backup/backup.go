// Package backup writes backups of a database with PostgreSQL's own tools, checks each by restoring it, and restores them.
//
// A backup is a zip with two files: database.dump, an archive of pg_dump in its custom format, and manifest.json, which states how
// many rows each table has and a hash of them.
package backup

import (
	"archive/zip"
	"bytes"
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"github.com/go-json-experiment/json"
	"github.com/go-json-experiment/json/jsontext"
	"github.com/jackc/pgx/v5"

	"glenmist/core/invalid"
)

// The names in a backup, and its format.
const (
	dumpName     = "database.dump"
	manifestName = "manifest.json"
	format       = "glenmist-backup"
	version      = 1
	maxManifest  = 1 << 20
)

// Manifest states what a backup holds.
type Manifest struct {
	Format  string    `json:"format"`
	Version int       `json:"version"`
	Made    time.Time `json:"made"`
	Program string    `json:"program"`
	Tables  []Table   `json:"tables"`
}

// Table is one table: its rows, and a hash of them that does not depend on their order.
type Table struct {
	Name string `json:"name"`
	Rows int64  `json:"rows"`
	Hash string `json:"hash"`
}

// Rows returns the number of rows of a table, 0 if it is not there.
func (m Manifest) Rows(table string) int64 {
	for _, t := range m.Tables {
		if t.Name == table {
			return t.Rows
		}
	}
	return 0
}

// Database is a database and the role that may back it up and restore it.
type Database struct {
	// URL connects to it as a role that reads all of its tables and may create databases.
	URL string
	// Owner is the role that owns the tables of a restored database; "" is that of URL.
	Owner string
	// Tool finds a program of PostgreSQL, such as pg_dump.
	Tool func(name string) (string, error)
}

// Write writes a backup to a file that is not there yet. It is checked: restored into a scratch database, whose rows must be
// those that were read. On an error there is no file.
func Write(ctx context.Context, db Database, program string, now time.Time, file string) (m Manifest, err error) {
	if _, err := os.Stat(file); err == nil {
		return m, fmt.Errorf("%s: expected the name of a new file, it is there already", file)
	}
	part := file + ".part"
	out, err := os.OpenFile(part, os.O_CREATE|os.O_TRUNC|os.O_RDWR, 0o600) //nolint:gosec // the file that was asked for
	if err != nil {
		return m, err
	}
	defer func() { _ = os.Remove(part) }()
	m, err = db.dump(ctx, out, Manifest{Format: format, Version: version, Made: now.UTC().Truncate(time.Second), Program: program})
	if err = errors.Join(err, out.Sync(), out.Close()); err != nil {
		return m, err
	}
	scratch := "glenmist_check_" + strings.ToLower(rand.Text()[:12])
	err = db.restore(ctx, part, m, scratch)
	if err = errors.Join(err, db.drop(context.WithoutCancel(ctx), scratch)); err != nil {
		return m, fmt.Errorf("the backup was not kept, since its check failed: %w", err)
	}
	if err := os.Link(part, file); err != nil { // unlike a rename, it replaces nothing
		return m, err
	}
	return m, syncDir(filepath.Dir(file))
}

// dump writes the zip. Dump and manifest see the same snapshot of the database.
func (db Database) dump(ctx context.Context, out io.Writer, m Manifest) (Manifest, error) {
	conn, err := pgx.Connect(ctx, db.URL)
	if err != nil {
		return m, err
	}
	defer func() { _ = conn.Close(context.WithoutCancel(ctx)) }()
	tx, err := conn.BeginTx(ctx, pgx.TxOptions{IsoLevel: pgx.RepeatableRead, AccessMode: pgx.ReadOnly})
	if err != nil {
		return m, err
	}
	defer func() { _ = tx.Rollback(context.WithoutCancel(ctx)) }()
	var snapshot string
	if err := tx.QueryRow(ctx, "select pg_export_snapshot()").Scan(&snapshot); err != nil {
		return m, err
	}
	if m.Tables, err = tables(ctx, tx); err != nil {
		return m, err
	}
	if !slices.ContainsFunc(m.Tables, func(t Table) bool { return t.Name == "jobs" }) {
		return m, errors.New("expected a database of Glenmist: it has no table of jobs")
	}
	z := zip.NewWriter(out)
	// The dump is compressed already.
	w, err := z.CreateHeader(&zip.FileHeader{Name: dumpName, Method: zip.Store, Modified: m.Made})
	if err != nil {
		return m, err
	}
	if err := db.run(ctx, "pg_dump", nil, w, conn.Config(), "--format=custom", "--no-owner", "--no-privileges", "--snapshot="+snapshot); err != nil {
		return m, err
	}
	if w, err = z.CreateHeader(&zip.FileHeader{Name: manifestName, Method: zip.Deflate, Modified: m.Made}); err != nil {
		return m, err
	}
	if err := json.MarshalWrite(w, m, jsontext.WithIndent("  ")); err != nil {
		return m, err
	}
	return m, z.Close()
}

// tables counts and hashes the rows of all tables.
func tables(ctx context.Context, tx pgx.Tx) (all []Table, err error) {
	rows, err := tx.Query(ctx, "select tablename from pg_tables where schemaname = 'public' order by tablename")
	if err != nil {
		return nil, err
	}
	names, err := pgx.CollectRows(rows, pgx.RowTo[string])
	if err != nil {
		return nil, err
	}
	for _, name := range names {
		t := Table{Name: name}
		query := "select count(*), coalesce(sum(hashtextextended(t::text, 0)), 0)::text from " + pgx.Identifier{"public", name}.Sanitize() + " t"
		if err := tx.QueryRow(ctx, query).Scan(&t.Rows, &t.Hash); err != nil {
			return nil, err
		}
		all = append(all, t)
	}
	return all, nil
}

// Open reads the manifest of a backup. Errors are [invalid.Error] if it is none.
func Open(file string) (m Manifest, err error) {
	z, err := zip.OpenReader(file)
	if err != nil {
		if errors.Is(err, os.ErrNotExist) {
			return m, err
		}
		return m, invalid.Error{Expected: "a backup that glenmist backup wrote: a zip with " + dumpName + " and " + manifestName, Got: err.Error()}
	}
	defer func() { _ = z.Close() }()
	f, err := z.Open(manifestName)
	if err != nil {
		return m, invalid.Error{Expected: "a backup with a " + manifestName, Got: "none in it"}
	}
	defer func() { _ = f.Close() }()
	if err := json.UnmarshalRead(io.LimitReader(f, maxManifest), &m, json.RejectUnknownMembers(true)); err != nil {
		return m, invalid.Error{Field: manifestName, Expected: "what a backup holds", Got: err.Error()}
	}
	if m.Format != format || m.Version < 1 || m.Version > version {
		return m, invalid.Error{Field: manifestName, Expected: fmt.Sprintf("format %s, version 1 to %d", format, version), Got: fmt.Sprintf("%s, version %d", invalid.Quote(m.Format), m.Version)}
	}
	return m, nil
}

// Restore brings a backup into the database: it is restored beside it and compared with its manifest, then takes its name. The
// database that was there is kept under the name that is returned, "" if there was none. Nobody may be connected to it.
func Restore(ctx context.Context, db Database, now time.Time, file string) (m Manifest, kept string, err error) {
	if m, err = Open(file); err != nil {
		return m, "", err
	}
	config, err := pgx.ParseConfig(db.URL)
	if err != nil {
		return m, "", err
	}
	name, beside := config.Database, "glenmist_restored_"+strings.ToLower(rand.Text()[:12])
	if err := db.restore(ctx, file, m, beside); err != nil {
		return m, "", errors.Join(err, db.drop(context.WithoutCancel(ctx), beside))
	}
	kept = fmt.Sprintf("%s_before_%s", name, now.UTC().Format("20060102_150405"))
	err = db.admin(ctx, func(conn *pgx.Conn) error {
		var there bool
		if err := conn.QueryRow(ctx, "select exists (select from pg_database where datname = $1)", name).Scan(&there); err != nil {
			return err
		}
		if !there {
			kept = ""
		} else if _, err := conn.Exec(ctx, rename(name, kept)); err != nil {
			return fmt.Errorf("expected that nobody uses the database %s; stop Glenmist first: %w", name, err)
		}
		if _, err := conn.Exec(ctx, rename(beside, name)); err != nil {
			if kept != "" {
				_, back := conn.Exec(ctx, rename(kept, name))
				err = errors.Join(err, back)
			}
			return err
		}
		return nil
	})
	if err != nil {
		return m, "", errors.Join(err, db.drop(context.WithoutCancel(ctx), beside))
	}
	return m, kept, nil
}

func rename(from, to string) string {
	return "alter database " + pgx.Identifier{from}.Sanitize() + " rename to " + pgx.Identifier{to}.Sanitize()
}

// restore makes a database, restores a backup into it and compares its rows with the manifest.
func (db Database) restore(ctx context.Context, file string, want Manifest, name string) error {
	z, err := zip.OpenReader(file)
	if err != nil {
		return err
	}
	defer func() { _ = z.Close() }()
	dump, err := z.Open(dumpName)
	if err != nil {
		return invalid.Error{Expected: "a backup with a " + dumpName, Got: "none in it"}
	}
	defer func() { _ = dump.Close() }()
	create := "create database " + pgx.Identifier{name}.Sanitize() + " template template0"
	role := []string{}
	if db.Owner != "" {
		create += " owner " + pgx.Identifier{db.Owner}.Sanitize()
		role = append(role, "--role="+db.Owner)
	}
	if err := db.admin(ctx, func(conn *pgx.Conn) error {
		_, err := conn.Exec(ctx, create)
		return err
	}); err != nil {
		return fmt.Errorf("expected a role that may create databases, to restore into: %w", err)
	}
	config, err := pgx.ParseConfig(db.URL)
	if err != nil {
		return err
	}
	config.Database = name
	args := append([]string{"--no-owner", "--no-privileges", "--single-transaction", "--exit-on-error", "--dbname=" + name}, role...)
	if err := db.run(ctx, "pg_restore", dump, io.Discard, config, args...); err != nil {
		return err
	}
	conn, err := pgx.ConnectConfig(ctx, config)
	if err != nil {
		return err
	}
	defer func() { _ = conn.Close(context.WithoutCancel(ctx)) }()
	tx, err := conn.Begin(ctx)
	if err != nil {
		return err
	}
	got, err := tables(ctx, tx)
	if err != nil {
		return err
	}
	for i, t := range want.Tables {
		if i >= len(got) || got[i] != t {
			return fmt.Errorf("the table %s does not have the %d rows that the backup states", t.Name, t.Rows)
		}
	}
	if len(got) != len(want.Tables) {
		return fmt.Errorf("%d tables were restored, the backup states %d", len(got), len(want.Tables))
	}
	return nil
}

// drop removes a database, if it is there.
func (db Database) drop(ctx context.Context, name string) error {
	return db.admin(ctx, func(conn *pgx.Conn) error {
		_, err := conn.Exec(ctx, "drop database if exists "+pgx.Identifier{name}.Sanitize()+" with (force)")
		return err
	})
}

// admin connects to the server, but not to the database.
func (db Database) admin(ctx context.Context, do func(conn *pgx.Conn) error) error {
	config, err := pgx.ParseConfig(db.URL)
	if err != nil {
		return err
	}
	config.Database = "postgres"
	conn, err := pgx.ConnectConfig(ctx, config)
	if err != nil {
		return err
	}
	return errors.Join(do(conn), conn.Close(context.WithoutCancel(ctx)))
}

// run runs a program of PostgreSQL against a database. The password goes by its environment, which other users cannot see.
func (db Database) run(ctx context.Context, name string, in io.Reader, out io.Writer, c *pgx.ConnConfig, args ...string) error {
	path, err := db.Tool(name)
	if err != nil {
		return err
	}
	cmd := exec.CommandContext(ctx, path, args...) //nolint:gosec // a program of PostgreSQL, and arguments of ours
	cmd.Env = append(os.Environ(), "PGHOST="+c.Host, fmt.Sprintf("PGPORT=%d", c.Port), "PGUSER="+c.User, "PGPASSWORD="+c.Password, "PGDATABASE="+c.Database, "LC_ALL=C")
	if c.TLSConfig == nil {
		cmd.Env = append(cmd.Env, "PGSSLMODE=disable")
	}
	var words bytes.Buffer
	cmd.Stdin, cmd.Stdout, cmd.Stderr = in, out, &words
	if err := cmd.Run(); err != nil {
		return fmt.Errorf("%s: %w: %s", name, err, strings.TrimSpace(words.String()[:min(words.Len(), 2000)]))
	}
	return nil
}

func syncDir(dir string) error {
	d, err := os.Open(dir) //nolint:gosec // the folder that was asked for
	if err != nil {
		return err
	}
	return errors.Join(d.Sync(), d.Close())
}
