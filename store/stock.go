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

// Stock lists the kept parts that were not fitted since, the newest first, at most [Page]. kinds limits
// it to some kinds; none means all. It is derived from the renewals of all jobs in one query.
func (s *Store) Stock(ctx context.Context, kinds ...part.Kind) ([]Spare, error) {
	var rows []struct {
		Number, Fleet, Tag string
		DoneAt             time.Time
		Parts              []part.Record `gorm:"type:jsonb;serializer:case"`
	}
	letters := ""
	for _, k := range kinds {
		letters += string(part.Spare(k, 1)[:1])
	}
	err := s.db.WithContext(ctx).Raw(`with renewed as (
			select jobs.number, vehicles.fleet, jobs.parts, entries.done_at, one.value as one
			from entries join jobs on jobs.id = entries.job_id join vehicles on vehicles.id = jobs.vehicle_id
				cross join lateral jsonb_array_elements(entries.body->'renewal'->'parts') one
			where entries.kind = 'renewal' and not exists (select 1 from entries w where w.job_id = entries.job_id and w.withdraws = entries.seq))
		select number, fleet, parts, done_at, one->>'out' as tag from renewed
		where one->>'fate' = @kept and (@letters = '' or position(left(one->>'out', 1) in @letters) > 0)
			and not exists (select 1 from renewed taken where taken.one->>'from' = renewed.number || ' ' || (renewed.one->>'out'))
		order by done_at desc, tag limit @page`,
		map[string]any{"kept": string(evidence.Kept), "letters": letters, "page": Page}).Scan(&rows).Error
	if err != nil {
		return nil, err
	}
	var all []Spare
	for _, r := range rows {
		tag := part.Tag(r.Tag)
		known, _ := part.For(r.Parts, tag.Kind(), tag.Home())
		all = append(all, Spare{SpareName(r.Number, tag), tag.Kind(), r.Fleet, r.DoneAt.UTC(), known})
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
