package backup

import (
	"context"
	"log/slog"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"
)

// The names of scheduled backups: glenmist-20061202T150405Z.zip.
const (
	prefix = "glenmist-"
	layout = "20060102T150405Z"
)

// retry is the wait after a backup that failed.
const retry = time.Hour

// Schedule makes backups of a database in a folder.
type Schedule struct {
	Database Database
	Program  string
	Dir      string
	Every    time.Duration
	// Keep is the number of backups that are kept, the newest ones.
	Keep int
	Log  *slog.Logger
	Now  func() time.Time

	mu     sync.Mutex
	failed string
}

// Status is where the backups stand.
type Status struct {
	Dir string
	// Last is when the newest backup was made, Jobs and Bytes what it holds; zero without one.
	Last  time.Time
	Jobs  int64
	Bytes int64
	Kept  int
	// Failed says why the last try failed; "" if it did not. Late is true if the newest is older than twice the interval.
	Failed string
	Late   bool
}

// Run makes backups until the context ends: at once if the newest is older than the interval.
func (s *Schedule) Run(ctx context.Context) {
	for {
		wait := s.Every - s.Now().Sub(newest(s.kept()))
		if wait <= 0 {
			wait = s.Every
			if err := s.Make(ctx); err != nil {
				s.Log.Error("backup failed", "folder", s.Dir, "error", err)
				wait = min(retry, s.Every)
			}
		}
		timer := time.NewTimer(wait)
		select {
		case <-timer.C:
		case <-ctx.Done():
			timer.Stop()
			return
		}
	}
}

// Make makes one backup, and removes those beyond the number to keep.
func (s *Schedule) Make(ctx context.Context) error {
	now := s.Now()
	err := os.MkdirAll(s.Dir, 0o700)
	var m Manifest
	if err == nil {
		m, err = Write(ctx, s.Database, s.Program, now, filepath.Join(s.Dir, prefix+now.UTC().Format(layout)+".zip"))
	}
	s.mu.Lock()
	if s.failed = ""; err != nil {
		s.failed = err.Error()
	}
	s.mu.Unlock()
	if err != nil {
		return err
	}
	s.Log.Info("backup made and checked", "folder", s.Dir, "jobs", m.Rows("jobs"))
	kept := s.kept()
	for _, old := range kept[:max(0, len(kept)-max(1, s.Keep))] {
		if err := os.Remove(filepath.Join(s.Dir, old)); err != nil {
			return err
		}
	}
	return nil
}

// kept lists the scheduled backups in the folder, the newest last. Other files are none of ours.
func (s *Schedule) kept() (names []string) {
	files, _ := os.ReadDir(s.Dir)
	for _, f := range files {
		if !f.IsDir() && !newest([]string{f.Name()}).IsZero() {
			names = append(names, f.Name())
		}
	}
	slices.Sort(names)
	return names
}

// aside is the folder of backups that were set aside, within that of the schedule.
const aside = "set-aside"

// SetAside moves the scheduled backups of a folder into one within it, where no schedule counts or deletes them. The folder
// may be missing.
func SetAside(dir string) error {
	names := (&Schedule{Dir: dir}).kept()
	if len(names) == 0 {
		return nil
	}
	if err := os.MkdirAll(filepath.Join(dir, aside), 0o700); err != nil {
		return err
	}
	for _, name := range names {
		if err := os.Rename(filepath.Join(dir, name), filepath.Join(dir, aside, name)); err != nil {
			return err
		}
	}
	return nil
}

// newest is the time of the last of some names, zero without one.
func newest(names []string) time.Time {
	if len(names) == 0 {
		return time.Time{}
	}
	text, ok := strings.CutPrefix(names[len(names)-1], prefix)
	if !ok {
		return time.Time{}
	}
	at, err := time.Parse(layout+".zip", text)
	if err != nil {
		return time.Time{}
	}
	return at
}

// Status returns where the backups stand.
func (s *Schedule) Status() Status {
	kept := s.kept()
	st := Status{Dir: s.Dir, Last: newest(kept), Kept: len(kept)}
	if len(kept) > 0 {
		file := filepath.Join(s.Dir, kept[len(kept)-1])
		if m, err := Open(file); err == nil {
			st.Jobs = m.Rows("jobs")
		}
		if info, err := os.Stat(file); err == nil {
			st.Bytes = info.Size()
		}
	}
	s.mu.Lock()
	st.Failed = s.failed
	s.mu.Unlock()
	st.Late = s.Now().Sub(st.Last) > 2*s.Every
	return st
}
