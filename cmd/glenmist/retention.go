package main

import (
	"context"
	"fmt"
	"log/slog"
	"time"

	"github.com/spf13/cobra"

	"glenmist/store"
)

// retention deletes jobs that are older than a number of years.
type retention struct {
	years int // 0 keeps all
	now   func() time.Time
	log   *slog.Logger
}

func retentionFlags(cmd *cobra.Command) {
	cmd.Flags().Int("keep-years", 0, "delete jobs in which nothing was recorded for so many years; 0 keeps all")
}

func retentionOf(cmd *cobra.Command, log *slog.Logger) (retention, error) {
	years, err := cmd.Flags().GetInt("keep-years")
	if err == nil && (years < 0 || years > 100) {
		err = usageError{fmt.Errorf("keep-years: expected 0 (keeps all) to 100, got %d", years)}
	}
	return retention{years, time.Now, log}, err
}

// run applies it now and then once a day, until the context ends.
func (r retention) run(ctx context.Context, s *store.Store) {
	for r.years > 0 {
		r.once(ctx, s)
		select {
		case <-ctx.Done():
			return
		case <-time.After(24 * time.Hour):
		}
	}
}

// once deletes the jobs that are too old now. A failure is logged; the next day tries again.
func (r retention) once(ctx context.Context, s *store.Store) {
	before := r.now().AddDate(-r.years, 0, 0)
	n, err := s.Retain(ctx, before)
	if err != nil && ctx.Err() == nil {
		r.log.Error("delete old jobs", "before", before, "error", err)
	}
	if n > 0 {
		r.log.Info("old jobs are deleted", "jobs", n, "before", before)
	}
}
