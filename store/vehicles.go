package store

import (
	"context"
	"errors"
	"fmt"

	"github.com/go-json-experiment/json"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"glenmist/core/invalid"
	"glenmist/core/job"
)

// ErrNoVehicle says that no vehicle has the number asked for.
var ErrNoVehicle = errors.New("no such vehicle")

// Kept is a vehicle as it was read, with the version that a write must name and
// how many jobs it has had.
type Kept struct {
	Vehicle job.Vehicle
	Version int
	Jobs    int
}

// Vehicles lists the vehicles by number, up to [Page] of them after skipping some,
// and says whether there are more. It makes one query.
func (s *Store) Vehicles(ctx context.Context, skip int) (list []Kept, more bool, err error) {
	var rows []struct {
		Row  vehicleRow `gorm:"embedded"`
		Jobs int
	}
	err = s.db.WithContext(ctx).Raw(`select v.*, (select count(*) from jobs j where j.vehicle_id = v.id) as jobs
		from vehicles v order by v.fleet offset ? limit ?`, skip, Page+1).Scan(&rows).Error
	if err != nil {
		return nil, false, err
	}
	if more = len(rows) > Page; more {
		rows = rows[:Page]
	}
	for _, r := range rows {
		v, err := r.Row.vehicle()
		if err != nil {
			return nil, false, fmt.Errorf("vehicle %s: %w", r.Row.Fleet, err)
		}
		list = append(list, Kept{v, r.Row.Version, r.Jobs})
	}
	return list, more, nil
}

// Vehicle finds a vehicle by its fleet number, or fails with ErrNoVehicle.
func (s *Store) Vehicle(ctx context.Context, fleet string) (Kept, error) {
	var row vehicleRow
	err := s.db.WithContext(ctx).Where("fleet = ?", fleet).Take(&row).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return Kept{}, fmt.Errorf("%w: %s", ErrNoVehicle, invalid.Quote(fleet))
	}
	if err != nil {
		return Kept{}, err
	}
	v, err := row.vehicle()
	return Kept{Vehicle: v, Version: row.Version}, err
}

// SaveVehicle writes what a vehicle is, its engine and its parts, as read at a
// version; version -1 is a new vehicle. All its jobs without a verdict get the new
// engine if their ledger fits it; it returns the numbers of those that do not fit
// and keep their engine. It fails with ErrStale when somebody saved the vehicle
// since.
func (s *Store) SaveVehicle(ctx context.Context, v job.Vehicle, version int) (kept []string, err error) {
	if err := v.Validate(); err != nil {
		return nil, err
	}
	row, err := rowOfVehicle(v)
	if err != nil {
		return nil, err
	}
	err = s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if version < 0 {
			if err := tx.Create(&row).Error; err != nil {
				if errors.Is(err, gorm.ErrDuplicatedKey) {
					return invalid.Errors{{Field: "fleet", Expected: "a number that no other vehicle has", Got: v.Fleet}}
				}
				return err
			}
			return nil
		}
		var ids []int64
		err := tx.Raw(`update vehicles set what = ?, engine = ?, parts = ?, version = version + 1
			where fleet = ? and version = ? returning id`, row.What, row.Engine, row.Parts, row.Fleet, version).Scan(&ids).Error
		if err != nil {
			return err
		}
		if len(ids) == 0 {
			return ErrStale
		}
		kept, err = takeOver(tx, ids[0], v, row)
		return err
	})
	return kept, err
}

// takeOver gives the open jobs of a vehicle its engine and parts as they are now.
// It locks these jobs first and raises their versions, so that an entry that was
// checked against the old engine is refused as stale. Every ledger is checked
// against the new engine; takeOver returns the numbers of the jobs that do not
// fit it and keep their own.
func takeOver(tx *gorm.DB, vehicleID int64, v job.Vehicle, row vehicleRow) (kept []string, err error) {
	var open []jobRow
	err = tx.Clauses(lockRow).Where("vehicle_id = ? and not exists ("+standingVerdict+")", vehicleID).Order("id").Find(&open).Error
	if err != nil {
		return nil, err
	}
	for _, r := range open {
		var entries []entryRow
		if err := tx.Where("job_id = ?", r.ID).Order("seq").Find(&entries).Error; err != nil {
			return nil, err
		}
		r.Vehicle = row
		j, err := r.job(entries)
		if err != nil {
			return nil, err
		}
		j.Vehicle = v
		if j.Validate() != nil {
			kept = append(kept, r.Number)
			continue
		}
		if err := tx.Exec("update jobs set engine = ?, parts = ?, version = version + 1 where id = ?", row.Engine, row.Parts, r.ID).Error; err != nil {
			return nil, err
		}
	}
	return kept, nil
}

// standingVerdict selects the verdicts of a job that have not been withdrawn.
const standingVerdict = `select 1 from entries e where e.job_id = jobs.id and e.kind = 'verdict'
	and not exists (select 1 from entries w where w.job_id = e.job_id and w.withdraws = e.seq)`

// vehicle finds or makes the vehicle of a new job. It holds the vehicle's row until
// the transaction ends, so that the engine on record cannot change meanwhile.
func vehicle(tx *gorm.DB, v job.Vehicle) (int64, error) {
	want, err := rowOfVehicle(v)
	if err != nil {
		return 0, err
	}
	// Two jobs opened at once for a new vehicle both come here; one of them makes it.
	made := tx.Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "fleet"}}, DoNothing: true}).Create(&want)
	if made.Error != nil || made.RowsAffected == 1 {
		return want.ID, made.Error
	}
	var have vehicleRow
	if err := tx.Clauses(lockRow).Where("fleet = ?", v.Fleet).Take(&have).Error; err != nil {
		return 0, err
	}
	known, err := have.vehicle()
	if err != nil {
		return 0, err
	}
	a, err1 := json.Marshal(known.Engine, json.Deterministic(true))
	b, err2 := json.Marshal(v.Engine, json.Deterministic(true))
	if err := errors.Join(err1, err2); err != nil {
		return 0, err
	}
	if string(a) != string(b) {
		return 0, invalid.Errors{{Field: "vehicle.engine", Expected: fmt.Sprintf("the engine on record for %s: %s, belt end at the %s", v.Fleet, known.Engine.Describe(), known.Engine.BeltEnd.Words()),
			Got: v.Engine.Describe() + ", belt end at the " + v.Engine.BeltEnd.Words()}}
	}
	return have.ID, nil
}
