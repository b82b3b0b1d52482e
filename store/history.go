package store

import (
	"context"
	"time"

	"glenmist/core/evidence"
	"glenmist/core/plan"
	"glenmist/core/score"
	"glenmist/core/unit"
)

// MaxVisits bounds the history of a vehicle, in jobs.
const MaxVisits = 60

// Visit is a job in the history of its vehicle.
type Visit struct {
	Number    string
	Opened    time.Time
	Distance  unit.Kilometres
	Complaint string
	Status    plan.Status
	// Ledger holds its readings, verdicts, renewals and what withdraws them.
	Ledger evidence.Ledger
	// Outcome is what became of its verdict, nil if nothing is known. A job that came back later counts as such.
	Outcome *score.Outcome
}

// historyKinds are the kinds of entries that a history shows, and withdrawals.
var historyKinds = []string{string(evidence.KindReadings), string(evidence.KindVerdict), string(evidence.KindCountersign), string(evidence.KindRenewal), string(evidence.KindWithdraw)}

// History lists the jobs of a vehicle, the newest first, up to [MaxVisits]. It makes two queries.
func (s *Store) History(ctx context.Context, fleet string) (all []Visit, err error) {
	var rows []struct {
		ID         int64
		Number     string
		OpenedAt   time.Time
		DistanceKm float64
		Complaint  string
		State      string
		Status     string
		Outcome    *score.Outcome `gorm:"serializer:case"`
		Back       bool
	}
	err = s.db.WithContext(ctx).Raw(`select j.id, j.number, j.opened_at, j.distance_km, j.complaint, j.state, j.status, j.outcome, exists (`+cameBack+`) as back
		from jobs j join vehicles v on v.id = j.vehicle_id where v.fleet = ? order by j.opened_at desc, j.id desc limit ?`, fleet, MaxVisits).Scan(&rows).Error
	if err != nil || len(rows) == 0 {
		return nil, err
	}
	ids := make([]int64, len(rows))
	at := map[int64]int{}
	for i, r := range rows {
		ids[i], at[r.ID] = r.ID, i
		v := Visit{Number: r.Number, Opened: r.OpenedAt.UTC(), Distance: unit.Kilometres(r.DistanceKm), Complaint: r.Complaint, Status: plan.Status{State: r.State, Words: r.Status}, Outcome: r.Outcome}
		if v.Outcome != nil && r.Back {
			v.Outcome.Result = score.CameBack
		}
		all = append(all, v)
	}
	var entries []entryRow
	if err := s.db.WithContext(ctx).Where("job_id in ? and kind in ?", ids, historyKinds).Order("job_id, seq").Find(&entries).Error; err != nil {
		return nil, err
	}
	for _, e := range entries {
		v := &all[at[e.JobID]]
		v.Ledger = append(v.Ledger, e.entry())
	}
	return all, nil
}
