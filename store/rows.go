package store

import (
	"errors"
	"fmt"
	"time"

	"github.com/go-json-experiment/json"

	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/unit"
)

type vehicleRow struct {
	ID      int64 `gorm:"primaryKey"`
	Fleet   string
	What    string
	Engine  string `gorm:"type:jsonb"`
	Parts   string `gorm:"type:jsonb"`
	Version int
}

func (vehicleRow) TableName() string { return "vehicles" }

type jobRow struct {
	ID         int64 `gorm:"primaryKey"`
	Number     string
	VehicleID  int64
	Vehicle    vehicleRow
	DistanceKm float64
	Complaint  string
	FailsWhen  string
	Signs      string `gorm:"type:jsonb"`
	School     string
	Engine     string `gorm:"type:jsonb"`
	Parts      string `gorm:"type:jsonb"`
	OpenedAt   time.Time
	OpenedBy   string
	Version    int
}

func (jobRow) TableName() string { return "jobs" }

type entryRow struct {
	JobID     int64 `gorm:"primaryKey"`
	Seq       int   `gorm:"primaryKey"`
	Kind      string
	DoneAt    time.Time
	DoneBy    string
	Condition string
	Note      string
	Certainty string
	Body      string `gorm:"type:jsonb"`
	Withdraws *int
}

func (entryRow) TableName() string { return "entries" }

// text is a value as JSON, under the same names as the case file; a list that is
// nil is an empty one.
func text[T any](v T) (string, error) {
	data, err := json.Marshal(v, json.Deterministic(true))
	return string(data), err
}

func rowOfVehicle(v job.Vehicle) (vehicleRow, error) {
	row := vehicleRow{Fleet: v.Fleet, What: v.What}
	var err1, err2 error
	row.Engine, err1 = text(v.Engine)
	row.Parts, err2 = text(v.Parts)
	return row, errors.Join(err1, err2)
}

func (r vehicleRow) vehicle() (job.Vehicle, error) {
	v := job.Vehicle{Fleet: r.Fleet, What: r.What}
	err := errors.Join(json.Unmarshal([]byte(r.Engine), &v.Engine), json.Unmarshal([]byte(r.Parts), &v.Parts))
	if len(v.Parts) == 0 {
		v.Parts = nil
	}
	return v, err
}

func rowOfJob(j job.Job, vehicleID int64) (jobRow, error) {
	row := jobRow{Number: j.Number, VehicleID: vehicleID, DistanceKm: float64(j.Distance), Complaint: j.Complaint,
		FailsWhen: string(j.FailsWhen), School: string(j.School), OpenedAt: j.Opened, OpenedBy: j.By, Version: len(j.Ledger)}
	var err1, err2, err3 error
	row.Signs, err1 = text(j.Signs)
	row.Engine, err2 = text(j.Vehicle.Engine)
	row.Parts, err3 = text(j.Vehicle.Parts)
	return row, errors.Join(err1, err2, err3)
}

func (r jobRow) job(entries []entryRow) (job.Job, error) {
	// The job's own engine and parts: those that it was checked against.
	v, err := vehicleRow{Fleet: r.Vehicle.Fleet, What: r.Vehicle.What, Engine: r.Engine, Parts: r.Parts}.vehicle()
	if err != nil {
		return job.Job{}, fmt.Errorf("vehicle %s: %w", r.Vehicle.Fleet, err)
	}
	j := job.Job{Number: r.Number, Vehicle: v, Distance: unit.Kilometres(r.DistanceKm), Complaint: r.Complaint,
		FailsWhen: evidence.Condition(r.FailsWhen), School: job.School(r.School), Opened: r.OpenedAt.UTC(), By: r.OpenedBy, Ledger: evidence.Ledger{}}
	if err := json.Unmarshal([]byte(r.Signs), &j.Signs); err != nil {
		return job.Job{}, fmt.Errorf("job %s: %w", r.Number, err)
	}
	if len(j.Signs) == 0 {
		j.Signs = nil
	}
	for _, row := range entries {
		e, err := row.entry()
		if err != nil {
			return job.Job{}, fmt.Errorf("job %s, entry %d: %w", r.Number, row.Seq, err)
		}
		j.Ledger = append(j.Ledger, e)
	}
	return j, nil
}

// rowOfEntry keeps the body as JSON, under the same names as the case file.
func rowOfEntry(jobID int64, e evidence.Entry) (entryRow, error) {
	row := entryRow{JobID: jobID, Seq: e.Seq, Kind: string(e.Kind()), DoneAt: e.Done, DoneBy: e.By,
		Condition: string(e.Condition), Note: e.Note, Certainty: string(e.Certainty)}
	if e.Withdraw() != nil {
		row.Withdraws = &e.Withdraw().Entry
	}
	body, err := text(map[evidence.Kind]evidence.Body{e.Kind(): e.Body})
	row.Body = body
	return row, err
}

func (r entryRow) entry() (evidence.Entry, error) {
	e := evidence.Entry{}
	if err := json.Unmarshal([]byte(r.Body), &e); err != nil {
		return e, err
	}
	e.Seq, e.Done, e.By = r.Seq, r.DoneAt.UTC(), r.DoneBy
	e.Condition, e.Note, e.Certainty = evidence.Condition(r.Condition), r.Note, evidence.Certainty(r.Certainty)
	return e, nil
}
