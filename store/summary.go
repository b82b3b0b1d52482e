package store

import (
	"context"
	"errors"
	"fmt"

	"gorm.io/gorm"

	"glenmist/core/job"
	"glenmist/core/plan"
	"glenmist/core/shop"
)

// summary is the state of a job, stored with it. It is derived from the ledger by one version
// of the program and of the workshop's settings.
type summary struct {
	State     string
	Status    string
	SummaryOf string
}

// summariser computes summaries.
type summariser struct {
	set shop.Settings
	of  string
}

// SetProgram names the program whose reasoning the summaries come from: those of another are worked
// out anew by [Store.Refresh]. Call it before the store is used.
func (s *Store) SetProgram(version string) { s.program = version }

func (s *Store) summariser(ctx context.Context) (summariser, error) {
	set, version, err := s.Shop(ctx)
	return summariser{set, fmt.Sprintf("%.80s/%d", s.program, version)}, err
}

func (m summariser) summary(j job.Job) summary {
	status := m.set.Status(j)
	return summary{status.State, fmt.Sprintf("%.200s", status.Words), m.of}
}

// Summary is a job in a list, with its state.
type Summary struct {
	Job    job.Job // without its ledger
	Status plan.Status
}

// Jobs lists jobs, the newest first, up to [Page] of them after skipping some, and says whether
// there are more. It makes one query.
func (s *Store) Jobs(ctx context.Context, skip int) (list []Summary, more bool, err error) {
	var rows []jobRow
	err = s.db.WithContext(ctx).Joins("Vehicle").Order("opened_at desc, jobs.id desc").Offset(skip).Limit(Page + 1).Find(&rows).Error
	if err != nil {
		return nil, false, err
	}
	if more = len(rows) > Page; more {
		rows = rows[:Page]
	}
	for _, r := range rows {
		list = append(list, Summary{r.job(nil), plan.Status{State: r.Sum.State, Words: r.Sum.Status}})
	}
	return list, more, nil
}

// refreshed is the number of summaries that one call of Refresh computes.
const refreshed = 20

// Refresh works out some summaries that another program or other settings have left, the newest jobs
// first, and says whether there may be more.
func (s *Store) Refresh(ctx context.Context) (more bool, err error) {
	m, err := s.summariser(ctx)
	if err != nil {
		return false, err
	}
	var numbers []string
	err = s.db.WithContext(ctx).Model(&jobRow{}).Where("summary_of <> ?", m.of).Order("opened_at desc, id desc").Limit(refreshed).Pluck("number", &numbers).Error
	if err != nil {
		return false, err
	}
	for _, number := range numbers {
		rec, err := s.Job(ctx, number)
		if errors.Is(err, ErrNotFound) {
			continue
		}
		if err != nil {
			return false, err
		}
		// A job that was written to meanwhile already has a new summary.
		err = s.db.WithContext(ctx).Model(&jobRow{}).Where("number = ? and version = ?", number, rec.Version).Select(summaryColumns).
			Updates(jobRow{Sum: m.summary(rec.Job)}).Error
		if err != nil {
			return false, err
		}
	}
	return len(numbers) == refreshed, nil
}

var summaryColumns = []string{"state", "status", "summary_of"}

// keep stores the summary of a job.
func (sum summary) keep(tx *gorm.DB, id int64) error {
	return tx.Model(&jobRow{ID: id}).Select(summaryColumns).Updates(jobRow{Sum: sum}).Error
}
