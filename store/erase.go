package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"

	"glenmist/core/invalid"
)

// Tombstone is what is kept of a deleted job.
type Tombstone struct {
	Number    string `gorm:"primaryKey"`
	DeletedAt time.Time
	DeletedBy string
	Reason    string
}

// TableName is for GORM.
func (Tombstone) TableName() string { return "tombstones" }

// Tombstone finds what is kept of a deleted job, or fails with ErrNotFound.
func (s *Store) Tombstone(ctx context.Context, number string) (t Tombstone, err error) {
	err = s.db.WithContext(ctx).Where("number = ?", number).Take(&t).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return t, fmt.Errorf("%w: %s", ErrNotFound, invalid.Quote(number))
	}
	return t, err
}

// DeleteJob deletes a job with all that belongs to it, for good, and keeps a tombstone. reason has 1 to 400 characters. It
// fails with ErrNotFound.
func (s *Store) DeleteJob(ctx context.Context, number, reason string) error {
	if err := (invalid.Text("reason", reason, "why it is deleted, in a few words", 400, false)); err != nil {
		return err
	}
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if _, err := lockJob(tx, number); err != nil {
			return err
		}
		if err := tx.Exec("select erase_job(?, ?, ?)", number, ActorOf(ctx).Name, reason).Error; err != nil {
			return err
		}
		return act(tx, JobDeleted, number, "%s", reason)
	})
}

// ForgetPerson replaces somebody's name wherever it stands, and ends their access. It returns what stands there now. It fails
// with ErrNoPerson, and with ErrLast for the last administrator.
func (s *Store) ForgetPerson(ctx context.Context, id int64) (becomes string, err error) {
	err = s.changePerson(ctx, id, func(tx *gorm.DB, row *personRow) error {
		becomes = fmt.Sprintf("person %d", id)
		if err := tx.Exec("select forget_person(?, ?, ?)", id, row.Name, becomes).Error; err != nil {
			return err
		}
		row.Name, row.PasswordHash, row.PINHash, row.FeedHash, row.Gone = becomes, "", "", "", true
		row.Epoch++
		return act(tx, PersonForgotten, becomes, "the name is replaced")
	})
	return becomes, err
}

// ForgetOwner replaces the number of a vehicle, and removes the complaints, notes and photos of its jobs. It returns the new
// number. It fails with ErrNoVehicle.
func (s *Store) ForgetOwner(ctx context.Context, fleet string) (becomes string, err error) {
	err = s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var row vehicleRow
		err := tx.Clauses(lockRow).Select("id").Where("fleet = ?", fleet).Take(&row).Error
		if errors.Is(err, gorm.ErrRecordNotFound) {
			return fmt.Errorf("%w: %s", ErrNoVehicle, invalid.Quote(fleet))
		}
		if err != nil {
			return err
		}
		becomes = fmt.Sprintf("vehicle-%d", row.ID)
		if err := tx.Exec("select forget_owner(?, ?)", fleet, becomes).Error; err != nil {
			return err
		}
		return act(tx, OwnerForgotten, becomes, "number, complaints, notes and photos")
	})
	return becomes, err
}

// Old lists the numbers of jobs that nothing was recorded in since a time, the oldest first, at most most.
func (s *Store) Old(ctx context.Context, before time.Time, most int) (numbers []string, err error) {
	err = s.db.WithContext(ctx).Model(&jobRow{}).Where("opened_at < ? and not exists (select 1 from entries e where e.job_id = jobs.id and e.done_at >= ?)", before, before).
		Order("opened_at, id").Limit(most).Pluck("number", &numbers).Error
	return numbers, err
}

// retained is how many jobs are deleted in one go.
const retained = 100

// Retain deletes the jobs that nothing was recorded in since a time, and returns how many.
func (s *Store) Retain(ctx context.Context, before time.Time) (n int, err error) {
	ctx = WithActor(ctx, Actor{Name: "the retention"})
	for {
		numbers, err := s.Old(ctx, before, retained)
		if err != nil || len(numbers) == 0 {
			return n, err
		}
		for _, number := range numbers {
			if err := s.DeleteJob(ctx, number, "older than jobs are kept: nothing recorded since "+before.Format("2006-01-02")); err != nil {
				return n, err
			}
			n++
		}
	}
}
