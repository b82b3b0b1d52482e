package store

import (
	"bytes"
	"compress/gzip"
	"context"
	"errors"
	"fmt"
	"io"
	"time"

	"gorm.io/gorm"

	"glenmist/core/invalid"
)

// MaxDrives bounds the stored runs of a job.
const MaxDrives = 99

// ErrFullDrives says that a job has as many as it may have.
var ErrFullDrives = fmt.Errorf("a job has at most %d recorded runs", MaxDrives)

// ErrWritten says that entries of the ledger write a run down already.
var ErrWritten = errors.New("the run is written down already")

// Drive describes the stored figures of a run.
type Drive struct {
	Number int // in its job, from 1
	Began  time.Time
	// Recorded is true if entries of the ledger write it down.
	Recorded bool
	Seconds  float64
	Samples  int
	// Bytes is what its figures take in the database.
	Bytes int64
}

type driveRow struct {
	JobID    int64 `gorm:"primaryKey"`
	Number   int   `gorm:"primaryKey"`
	BeganAt  time.Time
	Recorded bool
}

func (driveRow) TableName() string { return "drives" }

type drivePartRow struct {
	JobID   int64 `gorm:"primaryKey"`
	Number  int   `gorm:"primaryKey"`
	Part    int   `gorm:"primaryKey"`
	Seconds float64
	Samples int
	Data    []byte
}

func (drivePartRow) TableName() string { return "drive_parts" }

// BeginDrive adds a run without figures and returns its number. It fails with ErrFullDrives.
func (s *Store) BeginDrive(ctx context.Context, job string, began time.Time) (number int, err error) {
	err = s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		id, err := lockJob(tx, job)
		if err != nil {
			return err
		}
		if err := tx.Raw("select coalesce(max(number), 0) + 1 from drives where job_id = ?", id).Scan(&number).Error; err != nil {
			return err
		}
		if number > MaxDrives {
			return ErrFullDrives
		}
		return tx.Create(&driveRow{JobID: id, Number: number, BeganAt: began}).Error
	})
	return number, err
}

// AddToDrive appends rows of CSV to a run.
func (s *Store) AddToDrive(ctx context.Context, job string, number int, rows []byte, seconds float64, samples int) error {
	var small bytes.Buffer
	zip := gzip.NewWriter(&small)
	_, err := zip.Write(rows)
	if err = errors.Join(err, zip.Close()); err != nil {
		return err
	}
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		id, err := driveOf(tx, job, number)
		if err != nil {
			return err
		}
		var last int
		if err := tx.Raw("select coalesce(max(part), 0) from drive_parts where job_id = ? and number = ?", id, number).Scan(&last).Error; err != nil {
			return err
		}
		return tx.Create(&drivePartRow{id, number, last + 1, seconds, samples, small.Bytes()}).Error
	})
}

// driveOf locks a run and returns the id of its job.
func driveOf(tx *gorm.DB, job string, number int) (id int64, err error) {
	var ids []int64
	err = tx.Raw("select d.job_id from drives d join jobs j on j.id = d.job_id where j.number = ? and d.number = ? for update of d", job, number).Scan(&ids).Error
	if err == nil && len(ids) == 0 {
		err = fmt.Errorf("%w: run %d of %s", ErrNotFound, number, invalid.Quote(job))
	}
	if err != nil {
		return 0, err
	}
	return ids[0], nil
}

// MarkDrive says that entries of the ledger write a run down. It fails with ErrWritten if that was said before.
func (s *Store) MarkDrive(ctx context.Context, job string, number int) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		id, err := driveOf(tx, job, number)
		if err != nil {
			return err
		}
		r := tx.Model(&driveRow{}).Where("job_id = ? and number = ? and not recorded", id, number).Update("recorded", true)
		if r.Error == nil && r.RowsAffected == 0 {
			return ErrWritten
		}
		return r.Error
	})
}

// Drives lists the stored runs of a job that have figures, the newest first.
func (s *Store) Drives(ctx context.Context, job string) (all []Drive, err error) {
	var rows []struct {
		Number   int
		BeganAt  time.Time
		Recorded bool
		Seconds  float64
		Samples  int
		Bytes    int64
	}
	err = s.db.WithContext(ctx).Raw(`select d.number, d.began_at, d.recorded, sum(p.seconds) as seconds, sum(p.samples) as samples, sum(length(p.data)) as bytes
		from drives d join jobs j on j.id = d.job_id join drive_parts p on p.job_id = d.job_id and p.number = d.number
		where j.number = ? group by d.number, d.began_at, d.recorded order by d.number desc`, job).Scan(&rows).Error
	for _, r := range rows {
		all = append(all, Drive{r.Number, r.BeganAt.UTC(), r.Recorded, r.Seconds, r.Samples, r.Bytes})
	}
	return all, err
}

// WriteDrive writes the rows of a run, without a head, part by part.
func (s *Store) WriteDrive(ctx context.Context, job string, number int, w io.Writer) (err error) {
	rows, err := s.db.WithContext(ctx).Raw("select p.data from drive_parts p join jobs j on j.id = p.job_id where j.number = ? and p.number = ? order by p.part", job, number).Rows()
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, rows.Close()) }()
	for rows.Next() {
		var data []byte
		if err := rows.Scan(&data); err != nil {
			return err
		}
		zip, err := gzip.NewReader(bytes.NewReader(data))
		if err != nil {
			return err
		}
		if _, err := io.Copy(w, io.LimitReader(zip, maxPart)); err != nil {
			return err
		}
	}
	return rows.Err()
}

// maxPart bounds a part when it is unpacked, in bytes.
const maxPart = 8 << 20
