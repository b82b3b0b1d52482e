package store

import (
	"cmp"
	"context"
	"errors"
	"sync"

	"gorm.io/gorm"

	"glenmist/core/job"
	"glenmist/core/learn"
	"glenmist/core/shop"
)

type shopRow struct {
	ID       int           `gorm:"primaryKey"`
	Settings shop.Settings `gorm:"type:jsonb;serializer:case"`
	Version  int
}

func (shopRow) TableName() string { return "shop" }

// Shop reads what the workshop has set for itself, with its version, and what its closed jobs have shown. It
// returns the default and version 0 where nothing was set yet. It makes one query, and a second one when what became of a
// verdict has changed since the last call.
func (s *Store) Shop(ctx context.Context) (shop.Settings, int, error) {
	var row struct {
		Settings *shop.Settings `gorm:"serializer:case"`
		Version  int
		Outcomes int64
	}
	err := s.db.WithContext(ctx).Raw(`select shop.settings, coalesce(shop.version, 0) as version, (select version from outcome_version) as outcomes
		from (select 1) one left join shop on true`).Scan(&row).Error
	if err != nil {
		return shop.Settings{}, 0, err
	}
	set := shop.Default()
	if row.Settings != nil && row.Version > 0 {
		set = *row.Settings
	}
	set.Seen, err = s.seen(ctx, row.Outcomes, set.CountImported)
	return set, row.Version, err
}

// learnt is what closed jobs have shown, at a version of their outcomes.
type learnt struct {
	mu       sync.Mutex
	version  int64
	imported bool
	seen     learn.Seen
}

// seen counts what closed jobs have shown, if their outcomes have changed since it was counted.
func (s *Store) seen(ctx context.Context, version int64, imported bool) (learn.Seen, error) {
	s.learnt.mu.Lock()
	defer s.learnt.mu.Unlock()
	if s.learnt.version == version && s.learnt.imported == imported {
		return s.learnt.seen, nil
	}
	var row struct {
		Version int64
		Seen    learn.Seen `gorm:"serializer:case"`
	}
	err := s.db.WithContext(ctx).Raw(`select version, coalesce((
		select jsonb_agg(jsonb_build_object('layout', layout, 'unit', unit, 'jobs', jobs)) from (
			select j.outcome->>'layout' as layout, j.outcome->>'learnt' as unit, count(*) as jobs from jobs j
			where j.outcome->>'learnt' <> '' and not exists (`+cameBack+`) and (not j.imported or ?)
			group by 1, 2 order by 1, 2) counted), '[]') as seen
		from outcome_version`, imported).Scan(&row).Error
	if err != nil {
		return nil, err
	}
	s.learnt.version, s.learnt.imported, s.learnt.seen = row.Version, imported, orNil(row.Seen)
	return s.learnt.seen, nil
}

// SetShop writes them, if nobody else has since version; else it fails with ErrStale.
func (s *Store) SetShop(ctx context.Context, set shop.Settings, version int) error {
	if err := set.Validate(); err != nil {
		return err
	}
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if version == 0 {
			err := tx.Create(&shopRow{ID: 1, Settings: set, Version: 1}).Error
			if errors.Is(err, gorm.ErrDuplicatedKey) {
				return ErrStale
			}
			if err != nil {
				return err
			}
			return act(tx, ShopChanged, "workshop", "%s", set.Changes(shop.Default()))
		}
		var was shopRow
		err := tx.Clauses(lockRow).Where("id = 1 and version = ?", version).Take(&was).Error
		if errors.Is(err, gorm.ErrRecordNotFound) {
			return ErrStale
		}
		if err != nil {
			return err
		}
		if err := tx.Model(&was).Select("settings", "version").Updates(shopRow{Settings: set, Version: version + 1}).Error; err != nil {
			return err
		}
		return act(tx, ShopChanged, "workshop", "%s", set.Changes(was.Settings))
	})
}

// SetComplaint replaces the complaint of a job that was read at a version: its words, when
// it fails and its signs. It fails with ErrStale when somebody has written to the job since.
func (s *Store) SetComplaint(ctx context.Context, rec Record, j job.Job) error {
	if err := j.Validate(); err != nil {
		return err
	}
	m, err := s.summariser(ctx)
	if err != nil {
		return err
	}
	sum := m.summary(j)
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		id, err := raiseVersion(tx, rec.Job.Number, rec.Version)
		if err != nil {
			return err
		}
		if err := tx.Model(&jobRow{ID: id}).Select("complaint", "fails_when", "signs").Updates(rowOfJob(j, 0)).Error; err != nil {
			return err
		}
		if err := act(tx, ComplaintChanged, rec.Job.Number, "fails when: %s", cmp.Or(string(j.FailsWhen), "not stated")); err != nil {
			return err
		}
		return sum.keep(tx, id)
	})
}

// SetSchool sets by which school a job is planned; it is no evidence, and changes no
// version.
func (s *Store) SetSchool(ctx context.Context, number string, school job.School) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		done := tx.Model(&jobRow{}).Where("number = ?", number).Update("school", string(school))
		switch {
		case done.Error != nil:
			return done.Error
		case done.RowsAffected == 0:
			return ErrNotFound
		}
		return act(tx, SchoolChanged, number, "%s", cmp.Or(string(school), "the workshop's"))
	})
}
