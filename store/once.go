package store

import (
	"context"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// keepRequests is how long a repeated request is recognised.
const keepRequests = 7 * 24 * time.Hour

type requestRow struct {
	Key    string `gorm:"primaryKey"`
	Answer string
}

func (requestRow) TableName() string { return "requests" }

// Together runs do in one transaction: all that do writes through the store it is
// given is kept, or nothing of it.
func (s *Store) Together(ctx context.Context, do func(*Store) error) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		return do(&Store{db: tx, sql: s.sql, program: s.program, learnt: &learnt{}}) // what it counts may be undone
	})
}

// Once is [Store.Together] for a request that may be sent twice. key is 64 lower-case
// hexadecimal digits; do returns the answer, at most 400 characters. A second call with
// the same key waits for the first, writes nothing and returns the first one's answer.
func (s *Store) Once(ctx context.Context, key string, do func(*Store) (answer string, err error)) (answer string, err error) {
	err = s.Together(ctx, func(s *Store) error {
		made := s.db.WithContext(ctx).Clauses(clause.OnConflict{DoNothing: true}).Create(&requestRow{Key: key})
		if made.Error != nil {
			return made.Error
		}
		if made.RowsAffected == 0 {
			return s.db.WithContext(ctx).Model(&requestRow{}).Where("key = ?", key).Pluck("answer", &answer).Error
		}
		if answer, err = do(s); err != nil {
			return err
		}
		if err := s.db.WithContext(ctx).Exec("delete from requests where made_at < now() - make_interval(secs => ?)", keepRequests.Seconds()).Error; err != nil {
			return err
		}
		return s.db.WithContext(ctx).Model(&requestRow{}).Where("key = ?", key).Update("answer", answer).Error
	})
	return answer, err
}
