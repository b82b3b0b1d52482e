package store

import (
	"context"
	"fmt"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"glenmist/core/invalid"
)

// MaxSearches bounds the searches that a person keeps.
const MaxSearches = 20

// Search is a search of jobs that somebody keeps under a name.
type Search struct {
	PersonID int64  `gorm:"primaryKey"`
	Name     string `gorm:"primaryKey"`
	// Query is what stands in the address of the list after the question mark.
	Query string
}

// TableName is for GORM.
func (Search) TableName() string { return "searches" }

// Searches lists what somebody keeps, by name.
func (s *Store) Searches(ctx context.Context, person int64) (all []Search, err error) {
	err = s.db.WithContext(ctx).Where("person_id = ?", person).Order("name").Limit(MaxSearches).Find(&all).Error
	return all, err
}

// KeepSearch keeps a search, in place of one of the same name. Errors are [invalid.Errors].
func (s *Store) KeepSearch(ctx context.Context, one Search) error {
	if n := len([]rune(one.Name)); n == 0 || n > 40 {
		return invalid.Errors{{Field: "name", Expected: "a name for the search, up to 40 letters", Got: invalid.Quote(one.Name)}}
	}
	if len(one.Query) > 2000 {
		return invalid.Errors{{Field: "name", Expected: "a shorter search", Got: fmt.Sprintf("%d characters", len(one.Query))}}
	}
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&one).Error; err != nil {
			return err
		}
		var n int64
		if err := tx.Model(&Search{}).Where("person_id = ?", one.PersonID).Count(&n).Error; err != nil {
			return err
		}
		if n > MaxSearches {
			return invalid.Errors{{Field: "name", Expected: fmt.Sprintf("at most %d searches: remove one first", MaxSearches), Got: "one more"}}
		}
		return nil
	})
}

// DropSearch removes a search; one that is not there is no error.
func (s *Store) DropSearch(ctx context.Context, person int64, name string) error {
	done := s.db.WithContext(ctx).Where("person_id = ? and name = ?", person, name).Delete(&Search{})
	return done.Error
}

// Address is that of the list with the search.
func (s Search) Address() string { return "/jobs?" + s.Query }
