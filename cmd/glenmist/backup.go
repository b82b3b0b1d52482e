package main

import (
	"errors"
	"fmt"
	"log/slog"
	"os"
	"path/filepath"
	"time"

	"github.com/spf13/cobra"

	"glenmist/backup"
	"glenmist/core/casefile"
	"glenmist/store"
	"glenmist/store/cluster"
)

func backupCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "backup FILE", Short: "Write a checked backup of the whole database", Args: cobra.ExactArgs(1),
		Long: "Writes a backup of the whole database: jobs, photos, captures and settings. It is checked by restoring it into a scratch database.\n" +
			"Without a database it backs up the private PostgreSQL of make demo, also while it runs.",
		RunE: func(cmd *cobra.Command, args []string) error {
			return withWhole(cmd, func(db backup.Database, _ roles) error {
				m, err := backup.Write(cmd.Context(), db, version, time.Now(), args[0])
				if err != nil {
					return err
				}
				fmt.Fprintf(cmd.OutOrStdout(), "%s: %d jobs and %d entries in %d tables, restored and compared.\n", args[0], m.Rows("jobs"), m.Rows("entries"), len(m.Tables))
				return nil
			})
		}}
	wholeFlags(cmd)
	return cmd
}

func restoreCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "restore FILE", Short: "Bring back a backup; the database that is there is kept under another name", Args: cobra.ExactArgs(1),
		Long: "Brings back a backup. It is restored beside the database and compared first, then it takes its name. Stop Glenmist before.\n" +
			"Restore only backups of your own: what is in them is run by the database.",
		RunE: func(cmd *cobra.Command, args []string) error {
			return withWhole(cmd, func(db backup.Database, as roles) error {
				m, kept, err := backup.Restore(cmd.Context(), db, time.Now(), args[0])
				if err != nil {
					return err
				}
				if _, err := store.MigrateAs(cmd.Context(), as.owner, as.serving); err != nil { // a backup may have an older schema
					return fmt.Errorf("the backup is restored; migrate: %w", err)
				}
				fmt.Fprintf(cmd.OutOrStdout(), "Restored %d jobs and %d entries of %s.\n", m.Rows("jobs"), m.Rows("entries"), m.Made.Local().Format("2 Jan 2006 15:04"))
				if kept != "" {
					fmt.Fprintf(cmd.OutOrStdout(), "What was there is the database %s now.\n", kept)
				}
				return nil
			})
		}}
	wholeFlags(cmd)
	return cmd
}

// wholeFlags are those of commands that need all of a database.
func wholeFlags(cmd *cobra.Command) {
	cmd.Flags().String("admin-url", "", "the same database as a role that reads all tables and may create databases; without it that of --migrate-url or --database-url")
	cmd.Flags().String("state", ".state", "folder of the private PostgreSQL, when no database is named")
	migrateFlags(cmd)
}

// roles are the addresses of a database for the role that owns its tables and the one that serves.
type roles struct{ owner, serving string }

// withWhole runs a command with the database of the flags, or the private one.
func withWhole(cmd *cobra.Command, do func(db backup.Database, as roles) error) (err error) {
	db, ok := wholeDatabase(cmd)
	if !ok {
		state, _ := cmd.Flags().GetString("state")
		c, err := cluster.Open(cmd.Context(), state)
		if err != nil {
			return err
		}
		defer func() { err = errors.Join(err, c.Stop()) }()
		db.URL, db.Owner = c.AdminURL, cluster.Owner
		return do(db, roles{c.OwnerURL, c.URL})
	}
	var as roles
	as.owner, _ = cmd.Flags().GetString("migrate-url")
	if as.serving, _ = cmd.Flags().GetString("database-url"); as.serving == "" {
		as.serving = db.URL
	}
	return do(db, as)
}

// wholeDatabase is the database of the flags with the role to back it up; ok is false if none is named.
func wholeDatabase(cmd *cobra.Command) (db backup.Database, ok bool) {
	db.Tool = cluster.Program
	for _, flag := range []string{"admin-url", "migrate-url", "database-url"} {
		if db.URL, _ = cmd.Flags().GetString(flag); db.URL == "" {
			continue
		}
		if owner, _ := cmd.Flags().GetString("migrate-url"); owner != "" && flag == "admin-url" {
			db.Owner = store.RoleOf(owner)
		}
		return db, true
	}
	return db, false
}

func scheduleFlags(cmd *cobra.Command, dir string) {
	cmd.Flags().String("backup-dir", dir, "folder for backups that are made while serving; with \"\" none are made")
	cmd.Flags().Duration("backup-every", 24*time.Hour, "time from backup to backup")
	cmd.Flags().Int("backup-keep", 14, "number of backups to keep, the newest ones")
	cmd.Flags().String("admin-url", "", "the same database as a role that reads all tables and may create databases, for backups")
}

// scheduled starts the backups of the flags, until the command ends. It returns nil if there are none.
func scheduled(cmd *cobra.Command, db backup.Database, log *slog.Logger) (*backup.Schedule, error) {
	dir, _ := cmd.Flags().GetString("backup-dir")
	if dir == "" {
		return nil, nil //nolint:nilnil // none is no error
	}
	every, _ := cmd.Flags().GetDuration("backup-every")
	keep, _ := cmd.Flags().GetInt("backup-keep")
	if every < time.Minute || keep < 1 || keep > 10_000 {
		return nil, usageError{fmt.Errorf("backups: expected --backup-every of a minute or more and --backup-keep from 1 to 10 000, got %s and %d", every, keep)}
	}
	s := &backup.Schedule{Database: db, Program: version, Dir: dir, Every: every, Keep: keep, Log: log, Now: time.Now}
	go s.Run(cmd.Context())
	return s, nil
}

// exportEvery writes the case files of all jobs into a folder.
func exportEvery(cmd *cobra.Command, s *store.Store, dir string) error {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return err
	}
	numbers, err := s.Numbers(cmd.Context())
	if err != nil {
		return err
	}
	for _, number := range numbers {
		if err := exportTo(cmd, s, number, filepath.Join(dir, fileName(number))); err != nil {
			return fmt.Errorf("%s: %w", number, err)
		}
	}
	fmt.Fprintf(cmd.OutOrStdout(), "%d case files in %s\n", len(numbers), dir)
	return nil
}

// fileName is the name of a job's case file. What a file name cannot have becomes a dash.
func fileName(number string) string {
	clean := []rune(number)
	for i, r := range clean {
		if r != '-' && r != '_' && (r < '0' || r > '9') && (r < 'A' || r > 'Z') && (r < 'a' || r > 'z') {
			clean[i] = '-'
		}
	}
	return string(clean) + ".json"
}

// exportTo writes one case file that is not there yet.
func exportTo(cmd *cobra.Command, s *store.Store, number, file string) error {
	rec, err := s.Job(cmd.Context(), number)
	if err != nil {
		return err
	}
	if rec.Job.Worksheet, err = s.Marks(cmd.Context(), number); err != nil {
		return err
	}
	f, err := os.OpenFile(file, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600) //nolint:gosec // in the folder that was asked for
	if err != nil {
		return err
	}
	return errors.Join(casefile.Write(f, rec.Job), f.Close())
}
