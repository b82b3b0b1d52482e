package workshop

import (
	"log/slog"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"glenmist/backup"
	"glenmist/web/page"
)

// The page of the workshop says whether backups are made, and warns when none is new enough.
func TestBackupWords(t *testing.T) {
	now := time.Date(2026, 12, 1, 9, 0, 0, 0, time.UTC)
	dir := t.TempDir()
	of := &backup.Schedule{Dir: dir, Every: 24 * time.Hour, Keep: 3, Log: slog.New(slog.DiscardHandler), Now: func() time.Time { return now }}
	says := func(b *backup.Schedule, want string, bad bool) {
		t.Helper()
		s := Pages{App: &page.App{Config: page.Config{Backups: b}}}
		if words, is := s.backupWords(); !strings.Contains(words, want) || is != bad {
			t.Errorf("%q, bad %v: want %q, %v", words, is, want, bad)
		}
	}
	says(nil, "--backup-dir names a folder", true)
	says(of, "None yet in "+dir, true)
	if err := os.WriteFile(filepath.Join(dir, "glenmist-20261130T080000Z.zip"), nil, 0o600); err != nil {
		t.Fatal(err)
	}
	says(of, "Kept in "+dir+": 1.", false)
	now = now.Add(30 * time.Hour)
	says(of, "Kept in "+dir+": 1.", true)
	of.Database.Tool = func(string) (string, error) { return "", os.ErrNotExist }
	if err := of.Make(t.Context()); err == nil {
		t.Fatal("it works without a database")
	}
	says(of, "The last try failed: ", true)
}
