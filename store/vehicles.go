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

// Kept is a stored vehicle, with its version and its number of jobs.
type Kept struct {
	Vehicle job.Vehicle
	Version int
	Jobs    int
}

// Vehicles lists the vehicles by number, up to [Page] of them after skipping some,
// and reports whether there are more. It makes one query.
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
		list = append(list, Kept{r.Row.vehicle(), r.Row.Version, r.Jobs})
	}
	return list, more, nil
}

// Vehicle finds a vehicle by its fleet number, or returns ErrNoVehicle.
func (s *Store) Vehicle(ctx context.Context, fleet string) (Kept, error) {
	var row vehicleRow
	err := s.db.WithContext(ctx).Where("fleet = ?", fleet).Take(&row).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return Kept{}, fmt.Errorf("%w: %s", ErrNoVehicle, invalid.Quote(fleet))
	}
	if err != nil {
		return Kept{}, err
	}
	return Kept{Vehicle: row.vehicle(), Version: row.Version}, nil
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
	row := rowOfVehicle(v)
	m, err := s.summariser(ctx)
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
			return act(tx, VehicleAdded, row.Fleet, "%s", v.Engine.Describe())
		}
		var have vehicleRow
		err := tx.Clauses(lockRow).Select("id").Where("fleet = ? and version = ?", row.Fleet, version).Take(&have).Error
		if errors.Is(err, gorm.ErrRecordNotFound) {
			return ErrStale
		}
		if err != nil {
			return err
		}
		row.Version = version + 1
		if err := tx.Model(&have).Select("what", "engine", "parts", "version").Updates(row).Error; err != nil {
			return err
		}
		if kept, err = takeOver(tx, have.ID, v, row, m); err != nil {
			return err
		}
		if err := act(tx, VehicleChanged, row.Fleet, "%s; %d jobs keep their engine", v.Engine.Describe(), len(kept)); err != nil {
			return err
		}
		// Closed jobs are found by the vehicle's new words after the next refresh.
		return tx.Model(&jobRow{}).Where("vehicle_id = ? and exists ("+standingVerdict+")", have.ID).Update("summary_of", "").Error
	})
	return kept, err
}

// takeOver updates the open jobs of a vehicle with its current engine and parts. It locks
// these jobs first and raises their versions, so that an entry checked against the old engine
// is rejected as stale. Every ledger is checked against the new engine. It returns the numbers
// of the jobs that do not fit and keep their engine.
func takeOver(tx *gorm.DB, vehicleID int64, v job.Vehicle, row vehicleRow, m summariser) (kept []string, err error) {
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
		j := r.job(entries)
		j.Vehicle = v
		if j.Validate() != nil {
			kept = append(kept, r.Number)
			continue
		}
		next := jobRow{Engine: row.Engine, Parts: row.Parts, Version: r.Version + 1, Sum: m.summary(j)}
		if err := tx.Model(&jobRow{ID: r.ID}).Select(append([]string{"engine", "parts", "version"}, summaryColumns...)).Updates(next).Error; err != nil {
			return nil, err
		}
	}
	return kept, nil
}

// standingVerdict selects the verdicts of a job that have not been withdrawn.
const standingVerdict = `select 1 from entries e where e.job_id = jobs.id and e.kind = 'verdict'
	and not exists (select 1 from entries w where w.job_id = e.job_id and w.withdraws = e.seq)`

// vehicle finds or makes the vehicle of a new job. It locks the vehicle until the transaction
// ends, so that its engine cannot change meanwhile.
func vehicle(tx *gorm.DB, v job.Vehicle) (int64, error) {
	want := rowOfVehicle(v)
	// If two jobs for a new vehicle are opened at once, one of them inserts it.
	made := tx.Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "fleet"}}, DoNothing: true}).Create(&want)
	if made.Error != nil {
		return 0, made.Error
	}
	if made.RowsAffected == 1 {
		return want.ID, act(tx, VehicleAdded, v.Fleet, "%s", v.Engine.Describe())
	}
	var have vehicleRow
	if err := tx.Clauses(lockRow).Where("fleet = ?", v.Fleet).Take(&have).Error; err != nil {
		return 0, err
	}
	known := have.vehicle()
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
