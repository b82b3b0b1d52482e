package store

import (
	"fmt"
	"time"

	"github.com/go-json-experiment/json"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/unit"
)

type vehicleRow struct {
	ID          int64 `gorm:"primaryKey"`
	Fleet       string
	What        string
	Cylinders   int
	Arrangement string
	Mounting    string
	BeltEnd     string
	Ignition    string
	FiringOrder string
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
	Body      string `gorm:"type:jsonb"`
	Withdraws *int
}

func (entryRow) TableName() string { return "entries" }

func rowOfVehicle(v job.Vehicle) vehicleRow {
	e := v.Engine
	return vehicleRow{Fleet: v.Fleet, What: v.What, Cylinders: e.Cylinders, Arrangement: string(e.Arrangement),
		Mounting: string(e.Mounting), BeltEnd: string(e.BeltEnd), Ignition: string(e.Ignition),
		FiringOrder: engine.OrderString(e.FiringOrder)}
}

func (r vehicleRow) vehicle() (job.Vehicle, error) {
	order, err := engine.ParseOrder(r.FiringOrder)
	return job.Vehicle{Fleet: r.Fleet, What: r.What, Engine: engine.Engine{Cylinders: r.Cylinders,
		Arrangement: engine.Arrangement(r.Arrangement), Mounting: engine.Mounting(r.Mounting), BeltEnd: engine.Side(r.BeltEnd),
		Ignition: engine.Ignition(r.Ignition), FiringOrder: order}}, err
}

func rowOfJob(j job.Job, vehicleID int64) jobRow {
	return jobRow{Number: j.Number, VehicleID: vehicleID, DistanceKm: float64(j.Distance), Complaint: j.Complaint,
		FailsWhen: string(j.FailsWhen), OpenedAt: j.Opened, OpenedBy: j.By, Version: len(j.Ledger)}
}

func (r jobRow) job(entries []entryRow) (job.Job, error) {
	v, err := r.Vehicle.vehicle()
	if err != nil {
		return job.Job{}, fmt.Errorf("vehicle %s: %w", r.Vehicle.Fleet, err)
	}
	j := job.Job{Number: r.Number, Vehicle: v, Distance: unit.Kilometres(r.DistanceKm), Complaint: r.Complaint,
		FailsWhen: evidence.Condition(r.FailsWhen), Opened: r.OpenedAt.UTC(), By: r.OpenedBy, Ledger: evidence.Ledger{}}
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
		Condition: string(e.Condition), Note: e.Note}
	if e.Withdraw != nil {
		row.Withdraws = &e.Withdraw.Entry
	}
	body, err := json.Marshal(struct {
		Codes    *evidence.Codes    `json:"codes,omitzero"`
		Counters *evidence.Counters `json:"counters,omitzero"`
		Watch    *evidence.Watch    `json:"watch,omitzero"`
		Move     *evidence.Move     `json:"move,omitzero"`
		Look     *evidence.Look     `json:"look,omitzero"`
		Verdict  *evidence.Verdict  `json:"verdict,omitzero"`
		Withdraw *evidence.Withdraw `json:"withdraw,omitzero"`
	}{e.Codes, e.Counters, e.Watch, e.Move, e.Look, e.Verdict, e.Withdraw}, json.Deterministic(true))
	row.Body = string(body)
	return row, err
}

func (r entryRow) entry() (evidence.Entry, error) {
	e := evidence.Entry{}
	if err := json.Unmarshal([]byte(r.Body), &e); err != nil {
		return e, err
	}
	e.Seq, e.Done, e.By = r.Seq, r.DoneAt.UTC(), r.DoneBy
	e.Condition, e.Note = evidence.Condition(r.Condition), r.Note
	return e, nil
}
