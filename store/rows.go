package store

import (
	"time"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/part"
	"glenmist/core/unit"
)

type vehicleRow struct {
	ID      int64 `gorm:"primaryKey"`
	Fleet   string
	What    string
	Engine  engine.Engine `gorm:"type:jsonb;serializer:case"`
	Parts   []part.Record `gorm:"type:jsonb;serializer:case"`
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
	Signs      []evidence.Sign `gorm:"type:jsonb;serializer:case"`
	School     string
	Planned    []engine.Kind `gorm:"type:jsonb;serializer:case"`
	Engine     engine.Engine `gorm:"type:jsonb;serializer:case"`
	Parts      []part.Record `gorm:"type:jsonb;serializer:case"`
	OpenedAt   time.Time
	OpenedBy   string
	Version    int
	Imported   bool
	ImportedBy string
	// ImportedEntries is how many entries came with it.
	ImportedEntries int
	Sum             summary `gorm:"embedded"`
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
	Body      evidence.JSONBody `gorm:"type:jsonb;serializer:case"`
	Withdraws *int
}

func (entryRow) TableName() string { return "entries" }

func rowOfVehicle(v job.Vehicle) vehicleRow {
	return vehicleRow{Fleet: v.Fleet, What: v.What, Engine: v.Engine, Parts: v.Parts}
}

func (r vehicleRow) vehicle() job.Vehicle {
	return job.Vehicle{Fleet: r.Fleet, What: r.What, Engine: r.Engine, Parts: orNil(r.Parts)}
}

// orNil makes an empty list nil, as a job that was never kept has it.
func orNil[T any](list []T) []T {
	if len(list) == 0 {
		return nil
	}
	return list
}

func rowOfJob(j job.Job, vehicleID int64) jobRow {
	return jobRow{Number: j.Number, VehicleID: vehicleID, DistanceKm: float64(j.Distance), Complaint: j.Complaint, FailsWhen: string(j.FailsWhen), Signs: j.Signs,
		School: string(j.School), Planned: j.Planned, Engine: j.Vehicle.Engine, Parts: j.Vehicle.Parts, OpenedAt: j.Opened, OpenedBy: j.By, Version: len(j.Ledger)}
}

// job is the row with its entries. The engine and the parts are the job's own: those that it was
// checked against.
func (r jobRow) job(entries []entryRow) job.Job {
	j := job.Job{Number: r.Number, Vehicle: vehicleRow{Fleet: r.Vehicle.Fleet, What: r.Vehicle.What, Engine: r.Engine, Parts: r.Parts}.vehicle(),
		Distance: unit.Kilometres(r.DistanceKm), Complaint: r.Complaint, FailsWhen: evidence.Condition(r.FailsWhen), Signs: orNil(r.Signs),
		School: job.School(r.School), Planned: orNil(r.Planned), Opened: r.OpenedAt.UTC(), By: r.OpenedBy, Ledger: evidence.Ledger{}}
	for _, row := range entries {
		j.Ledger = append(j.Ledger, row.entry())
	}
	return j
}

func rowOfEntry(jobID int64, e evidence.Entry) entryRow {
	row := entryRow{JobID: jobID, Seq: e.Seq, Kind: string(e.Kind()), DoneAt: e.Done, DoneBy: e.By,
		Condition: string(e.Condition), Note: e.Note, Certainty: string(e.Certainty), Body: evidence.JSONBody{Body: e.Body}}
	if w := e.Withdraw(); w != nil {
		row.Withdraws = &w.Entry
	}
	return row
}

func (r entryRow) entry() evidence.Entry {
	return evidence.Entry{Seq: r.Seq, Done: r.DoneAt.UTC(), By: r.DoneBy, Condition: evidence.Condition(r.Condition), Note: r.Note,
		Certainty: evidence.Certainty(r.Certainty), Body: r.Body.Body}
}
