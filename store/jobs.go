package store

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"gorm.io/gorm"

	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/job"
)

// Record is a job as it was read, with the version that a write must name.
type Record struct {
	Job     job.Job
	Version int
	// ImportedBy is who took the job in from a file, "" if it was opened here. ImportedEntries is how many of its entries
	// came with it.
	ImportedBy      string
	ImportedEntries int
}

// Page bounds one list of jobs.
const Page = 50

// Job reads one job by its number, or fails with ErrNotFound.
func (s *Store) Job(ctx context.Context, number string) (Record, error) {
	var row jobRow
	err := s.db.WithContext(ctx).Joins("Vehicle").Where("jobs.number = ?", number).Take(&row).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return Record{}, fmt.Errorf("%w: %s", ErrNotFound, invalid.Quote(number))
	}
	if err != nil {
		return Record{}, err
	}
	var entries []entryRow
	if err := s.db.WithContext(ctx).Where("job_id = ?", row.ID).Order("seq").Find(&entries).Error; err != nil {
		return Record{}, err
	}
	return Record{row.job(entries), row.Version, row.ImportedBy, row.ImportedEntries}, nil
}

// Only reports whether a job is the only one of the workshop.
func (s *Store) Only(ctx context.Context, number string) (bool, error) {
	var others []string
	err := s.db.WithContext(ctx).Model(&jobRow{}).Where("number <> ?", number).Limit(1).Pluck("number", &others).Error
	return len(others) == 0, err
}

// Open writes a new job. With no number it gets the next free one of its year.
// The vehicle is made when its fleet number is new; otherwise its engine must be
// the one on record. It returns the number.
func (s *Store) Open(ctx context.Context, j job.Job) (string, error) { return s.open(ctx, j, false) }

// Import is [Store.Open] for a job from a file. It counts for the score and for learning only if the workshop
// says so.
func (s *Store) Import(ctx context.Context, j job.Job) (string, error) { return s.open(ctx, j, true) }

func (s *Store) open(ctx context.Context, j job.Job, imported bool) (string, error) {
	numbered := j.Number != ""
	if !numbered {
		j.Number = "unnumbered" // replaced below; any valid one will do for the check
	}
	if err := j.Validate(); err != nil {
		return "", err
	}
	m, err := s.summariser(ctx)
	if err != nil {
		return "", err
	}
	sum := m.summary(j)
	err = s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		vehicleID, err := vehicle(tx, j.Vehicle)
		if err != nil {
			return err
		}
		for try := 0; !numbered && try < 1000; try++ {
			var n int64
			if err := tx.Raw("select nextval('job_numbers')").Scan(&n).Error; err != nil {
				return err
			}
			j.Number = fmt.Sprintf("%d-%03d", j.Opened.Year(), n)
			if taken, err := numberTaken(tx, j.Number); err != nil {
				return err
			} else if !taken {
				break
			}
		}
		if taken, err := numberTaken(tx, j.Number); err != nil {
			return err
		} else if taken {
			return fmt.Errorf("%w: %s", ErrNumberTaken, j.Number)
		}
		row := rowOfJob(j, vehicleID)
		row.Sum = sum
		done := JobOpened
		if imported {
			done = JobImported
			row.Imported, row.ImportedBy, row.ImportedEntries = true, ActorOf(ctx).Name, len(j.Ledger)
		}
		row.Sum.Terms = j.Terms().Text // with its number
		if err := tx.Omit("Vehicle").Create(&row).Error; err != nil {
			if errors.Is(err, gorm.ErrDuplicatedKey) {
				return fmt.Errorf("%w: %s", ErrNumberTaken, j.Number)
			}
			return err
		}
		if err := insertMarks(tx, row.ID, j.Worksheet); err != nil {
			return err
		}
		if err := insert(tx, row.ID, j.Ledger); err != nil {
			return err
		}
		return act(tx, done, j.Number, "vehicle %s, %d entries", j.Vehicle.Fleet, len(j.Ledger))
	})
	return j.Number, err
}

// numberTaken reports whether a job has a number, or had it and was deleted.
func numberTaken(tx *gorm.DB, number string) (taken bool, err error) {
	err = tx.Raw("select exists (select 1 from jobs where number = ?) or exists (select 1 from tombstones where number = ?)", number, number).Scan(&taken).Error
	return taken, err
}

// Append adds entries, all or none, to a job that was read at a version. It fails with
// ErrStale when somebody wrote to the job since, and with [invalid.Errors] when
// an entry does not fit. Nothing is written then.
func (s *Store) Append(ctx context.Context, rec Record, entries ...evidence.Entry) (Record, error) {
	longer := rec.Job.Ledger
	for _, e := range entries {
		var err error
		if longer, err = longer.Add(rec.Job.Vehicle.Engine, e); err != nil {
			return rec, err
		}
	}
	m, err := s.summariser(ctx)
	if err != nil {
		return rec, err
	}
	before := len(rec.Job.Ledger)
	next := rec.Job
	next.Ledger = longer
	sum := m.summary(next)
	err = s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		id, err := raiseVersion(tx, rec.Job.Number, rec.Version)
		if err != nil {
			return err
		}
		if err := insert(tx, id, longer[before:]); err != nil {
			return err
		}
		if renewing(longer[before:]) {
			if err := renewParts(tx, id, next); err != nil {
				return err
			}
		}
		return sum.keep(tx, id)
	})
	if err != nil {
		return rec, err
	}
	rec.Job = next
	rec.Version++
	return rec, nil
}

// renewing reports whether entries change which parts a vehicle has: a renewal, or a withdrawal, which may
// be of one.
func renewing(entries evidence.Ledger) bool {
	return slices.ContainsFunc(entries, func(e evidence.Entry) bool { return e.Renewal() != nil || e.Withdraw() != nil })
}

// insert adds entries to a job in one statement.
func insert(tx *gorm.DB, jobID int64, entries evidence.Ledger) error {
	if len(entries) == 0 {
		return nil
	}
	rows := make([]entryRow, len(entries))
	for i, e := range entries {
		rows[i] = rowOfEntry(jobID, e)
	}
	return tx.Create(&rows).Error
}

// Numbers lists the numbers of all jobs, the oldest first.
func (s *Store) Numbers(ctx context.Context) (numbers []string, err error) {
	err = s.db.WithContext(ctx).Model(&jobRow{}).Order("opened_at, id").Pluck("number", &numbers).Error
	return numbers, err
}
