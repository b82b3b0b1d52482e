package store

import (
	"errors"
	"fmt"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"glenmist/core/invalid"
)

// lockRow locks the selected rows until the transaction ends. Rows that only refer to
// them can still be added.
var lockRow = clause.Locking{Strength: "NO KEY UPDATE", Table: clause.Table{Name: clause.CurrentTable}}

// lockJob locks a job by its number, or fails with ErrNotFound.
func lockJob(tx *gorm.DB, number string) (id int64, err error) {
	var row jobRow
	err = tx.Clauses(lockRow).Select("id").Where("number = ?", number).Take(&row).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return 0, fmt.Errorf("%w: %s", ErrNotFound, invalid.Quote(number))
	}
	return row.ID, err
}

// raiseVersion raises the version of a job that was read at a version and returns the
// job's id. It fails with ErrStale when somebody has written to the job since. The row
// stays locked until the transaction ends.
func raiseVersion(tx *gorm.DB, number string, version int) (id int64, err error) {
	var ids []int64
	err = tx.Raw("update jobs set version = version + 1 where number = ? and version = ? returning id", number, version).Scan(&ids).Error
	if err != nil {
		return 0, err
	}
	if len(ids) == 0 {
		return 0, ErrStale
	}
	return ids[0], nil
}
