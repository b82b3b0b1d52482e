package store

import (
	"context"
	"time"

	"gorm.io/gorm/clause"
)

// sessionTime bounds a query for a session: it runs before the deadline of a page is set.
const sessionTime = 5 * time.Second

type sessionRow struct {
	Token  string `gorm:"primaryKey"`
	Data   []byte
	Expiry time.Time
}

func (sessionRow) TableName() string { return "sessions" }

// Sessions keeps sessions for the session package. It gets digests of the tokens.
type Sessions struct{ s *Store }

// Sessions returns where sessions are kept.
func (s *Store) Sessions() Sessions { return Sessions{s} }

// FindCtx returns the data of a session that has not expired.
func (k Sessions) FindCtx(ctx context.Context, token string) (data []byte, found bool, err error) {
	ctx, cancel := context.WithTimeout(ctx, sessionTime)
	defer cancel()
	var rows []sessionRow
	err = k.s.db.WithContext(ctx).Where("token = ? and expiry > now()", token).Limit(1).Find(&rows).Error
	if err != nil || len(rows) == 0 {
		return nil, false, err
	}
	return rows[0].Data, true, nil
}

// CommitCtx writes a session, and deletes those that have expired.
func (k Sessions) CommitCtx(ctx context.Context, token string, data []byte, expiry time.Time) error {
	ctx, cancel := context.WithTimeout(ctx, sessionTime)
	defer cancel()
	err := k.s.db.WithContext(ctx).Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "token"}}, UpdateAll: true}).Create(&sessionRow{token, data, expiry.UTC()}).Error
	if err != nil {
		return err
	}
	return k.s.db.WithContext(ctx).Exec("delete from sessions where expiry < now()").Error
}

// DeleteCtx ends a session.
func (k Sessions) DeleteCtx(ctx context.Context, token string) error {
	ctx, cancel := context.WithTimeout(ctx, sessionTime)
	defer cancel()
	return k.s.db.WithContext(ctx).Delete(&sessionRow{Token: token}).Error
}

// Find is [Sessions.FindCtx] without a context.
func (k Sessions) Find(token string) ([]byte, bool, error) {
	return k.FindCtx(context.Background(), token)
}

// Commit is [Sessions.CommitCtx] without a context.
func (k Sessions) Commit(token string, data []byte, expiry time.Time) error {
	return k.CommitCtx(context.Background(), token, data, expiry)
}

// Delete is [Sessions.DeleteCtx] without a context.
func (k Sessions) Delete(token string) error { return k.DeleteCtx(context.Background(), token) }
