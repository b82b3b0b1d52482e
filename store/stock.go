package store

import (
	"context"
	"slices"
	"time"

	"gorm.io/gorm"

	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/part"
)

// Spare is a part of the workshop's stock: it came off a vehicle, and was kept as tested.
type Spare struct {
	// Name identifies it: the number of its job and its tag, such as "2026-014 C4".
	Name  string
	Kind  part.Kind
	Fleet string
	Kept  time.Time
	// Known is what was recorded of the part while it was fitted.
	Known part.Record
}

// Stock lists the kept parts that were not fitted since, the newest first, at most [Page] of each call.
// It is derived from the renewals of all jobs; it makes one query.
func (s *Store) Stock(ctx context.Context, kinds ...part.Kind) ([]Spare, error) {
	var rows []struct {
		Number, Fleet string
		DoneAt        time.Time
		Body          evidence.JSONBody `gorm:"type:jsonb;serializer:case"`
		Parts         []part.Record     `gorm:"type:jsonb;serializer:case"`
	}
	err := s.db.WithContext(ctx).Raw(`select jobs.number, vehicles.fleet, entries.done_at, entries.body, jobs.parts
		from entries join jobs on jobs.id = entries.job_id join vehicles on vehicles.id = jobs.vehicle_id
		where entries.kind = 'renewal' and not exists (select 1 from entries w where w.job_id = entries.job_id and w.withdraws = entries.seq)
		order by entries.done_at desc`).Scan(&rows).Error
	if err != nil {
		return nil, err
	}
	taken := map[string]bool{}
	for _, r := range rows {
		if body, ok := r.Body.Body.(*evidence.Renewal); ok {
			for _, one := range body.Parts {
				if one.From != "" {
					taken[one.From] = true
				}
			}
		}
	}
	var all []Spare
	for _, r := range rows {
		body, ok := r.Body.Body.(*evidence.Renewal)
		if !ok {
			continue
		}
		for _, one := range body.Parts {
			name := SpareName(r.Number, one.Out)
			if one.Fate != evidence.Kept || taken[name] || len(kinds) > 0 && !slices.Contains(kinds, one.Out.Kind()) || len(all) == Page {
				continue
			}
			known, _ := part.For(r.Parts, one.Out.Kind(), one.Out.Home())
			all = append(all, Spare{name, one.Out.Kind(), r.Fleet, r.DoneAt.UTC(), known})
		}
	}
	return all, nil
}

// SpareName is the name of a kept part in the stock.
func SpareName(number string, t part.Tag) string { return number + " " + string(t) }

// renewParts brings the parts of a vehicle in line with the renewals of a job: new parts with the age
// of that day, or the old record where a renewal was withdrawn.
func renewParts(tx *gorm.DB, jobID int64, j job.Job) error {
	places := j.RenewedPlaces()
	if len(places) == 0 {
		return nil
	}
	var v vehicleRow
	err := tx.Clauses(lockRow).Where("id = (select vehicle_id from jobs where id = ?)", jobID).Take(&v).Error
	if err != nil {
		return err
	}
	now := j.Records()
	for _, at := range places {
		record, own := exact(now, at)
		v.Parts = slices.DeleteFunc(slices.Clone(v.Parts), func(r part.Record) bool { return r.Kind == at.Kind && r.Place == at.Place })
		if own {
			v.Parts = append(v.Parts, record)
		}
	}
	if part.CheckRecords(v.Engine, v.Parts) != nil { // the engine was changed since: its records stay
		return nil
	}
	return tx.Model(&vehicleRow{ID: v.ID}).Select("parts", "version").Updates(vehicleRow{Parts: v.Parts, Version: v.Version + 1}).Error
}

// exact finds the record of one part, not that of all parts of its kind.
func exact(records []part.Record, at job.RenewedPlace) (part.Record, bool) {
	for _, r := range records {
		if r.Kind == at.Kind && r.Place == at.Place {
			return r, true
		}
	}
	return part.Record{}, false
}
