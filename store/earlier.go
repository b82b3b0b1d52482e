package store

import (
	"context"
	"time"

	"glenmist/core/plan"
)

// MaxEarlier bounds the list of a vehicle's earlier jobs.
const MaxEarlier = 10

// Earlier lists the jobs of a vehicle on a complaint that were opened up to a time, the newest first, without the
// job of a number, up to [MaxEarlier]. It makes one query.
func (s *Store) Earlier(ctx context.Context, fleet string, until time.Time, without string) (list []Summary, err error) {
	var rows []jobRow
	err = s.db.WithContext(ctx).Joins("Vehicle").Where(`"Vehicle".fleet = ? and opened_at <= ? and jobs.number <> ? and jsonb_array_length(jobs.planned) = 0`, fleet, until, without).
		Order("opened_at desc, jobs.id desc").Limit(MaxEarlier).Find(&rows).Error
	for _, r := range rows {
		list = append(list, Summary{r.job(nil), plan.Status{State: r.Sum.State, Words: r.Sum.Status}})
	}
	return list, err
}

// CameBackAs lists the numbers of the later jobs on the same trouble as a job, up to [MaxEarlier]. It makes one
// query.
func (s *Store) CameBackAs(ctx context.Context, number string) (numbers []string, err error) {
	err = s.db.WithContext(ctx).Model(&jobRow{}).Where("comeback_of = ?", number).Order("opened_at, id").Limit(MaxEarlier).Pluck("number", &numbers).Error
	return numbers, err
}
