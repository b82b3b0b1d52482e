package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"

	"glenmist/core/job"
)

// ErrFullMarks says that a worksheet has as many marks as it may have.
var ErrFullMarks = fmt.Errorf("a worksheet has at most %d marks", job.MaxMarks)

type markRow struct {
	JobID  int64 `gorm:"primaryKey"`
	N      int   `gorm:"primaryKey"`
	Step   string
	Do     string `gorm:"column:do_what"`
	Value  string
	Reason string
	Photo  int
	DoneAt time.Time
	DoneBy string
}

func (markRow) TableName() string { return "marks" }

func rowOfMark(jobID int64, m job.Mark) markRow {
	return markRow{jobID, m.N, m.Step, string(m.Do), m.Value, m.Reason, m.Photo, m.Done, m.By}
}

func (r markRow) mark() job.Mark {
	return job.Mark{N: r.N, Step: r.Step, Do: job.Do(r.Do), Value: r.Value, Reason: r.Reason, Photo: r.Photo, Done: r.DoneAt.UTC(), By: r.DoneBy}
}

// Marks lists the marks of a job's worksheet, in order.
func (s *Store) Marks(ctx context.Context, number string) ([]job.Mark, error) {
	var rows []markRow
	err := s.db.WithContext(ctx).Joins("join jobs on jobs.id = marks.job_id").Where("jobs.number = ?", number).Order("marks.n").Find(&rows).Error
	var all []job.Mark
	for _, r := range rows {
		all = append(all, r.mark())
	}
	return all, err
}

// AddMark appends a mark to a job's worksheet, with the next number. seen is the number of the newest
// mark of its step when it was read: it fails with ErrStale when somebody has marked the step since,
// unless check is false. It does not raise the job's version, since a mark is no evidence.
func (s *Store) AddMark(ctx context.Context, number string, m job.Mark, seen int, check bool) (job.Mark, error) {
	if err := m.Check(); err != nil {
		return m, err
	}
	err := s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		id, err := lockJob(tx, number)
		if err != nil {
			return err
		}
		var last struct{ N, Step int }
		err = tx.Raw("select coalesce(max(n), 0) as n, coalesce(max(n) filter (where step = ?), 0) as step from marks where job_id = ?", m.Step, id).Scan(&last).Error
		if err != nil {
			return err
		}
		switch {
		case check && last.Step != seen:
			return ErrStale
		case last.N >= job.MaxMarks:
			return ErrFullMarks
		}
		m.N = last.N + 1
		row := rowOfMark(id, m)
		err = tx.Create(&row).Error
		if errors.Is(err, gorm.ErrDuplicatedKey) {
			return ErrStale
		}
		return err
	})
	return m, err
}

// insertMarks adds the marks of an imported job.
func insertMarks(tx *gorm.DB, jobID int64, marks []job.Mark) error {
	if len(marks) == 0 {
		return nil
	}
	rows := make([]markRow, len(marks))
	for i, m := range marks {
		rows[i] = rowOfMark(jobID, m)
	}
	return tx.CreateInBatches(&rows, 500).Error
}
