package demo

import (
	"context"
	"fmt"
	"io"
	"math/rand/v2"
	"time"

	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/job"
	"glenmist/core/part"
	"glenmist/core/scope"
	"glenmist/sim/simulator"
	"glenmist/sim/standin"
	"glenmist/store"
)

// recorded holds the captures of one demo job: an engine with a hidden fault at idle with a
// throttle snap, before and after the parts were moved.
var recorded = struct {
	fleet string
	mode  fault.ModeID
	tag   part.Tag
	by    string
	after []int // minutes after the job was opened
}{"L-06", fault.LeadLeaking, "L4", apprentice, []int{12, 20}}

// rateOfCaptures is samples a second.
const rateOfCaptures = 250_000.0

// captures records them with a simulated engine and stores them with the job.
func captures(ctx context.Context, s *store.Store, number string, j job.Job) error {
	e := j.Vehicle.Engine
	var hidden fault.Hypothesis
	for _, h := range fault.Enumerate(e, fault.Complaint{}) {
		if h.Mode.ID == recorded.mode && h.Tag == recorded.tag {
			hidden = h
		}
	}
	b := simulator.New(e, rand.New(rand.NewPCG(6, 5)), hidden) //nolint:gosec // a demo, nothing secret
	for i, minutes := range recorded.after {
		made := j.Opened.Add(time.Duration(minutes) * time.Minute)
		at := j.Ledger.PositionsAt(e, made)
		_, err := s.AddCapture(ctx, number, store.Capture{Name: fmt.Sprintf("trace-%d.csv", i+1), Made: made, By: recorded.by, Condition: evidence.Idle}, func(w io.Writer) error {
			return scope.WriteCSV(w, record(b, at))
		})
		if err != nil {
			return err
		}
	}
	return nil
}

// record returns eight cycles at idle, four of a snap, and two at idle.
func record(b *simulator.Engine, at part.Positions) *scope.Trace {
	r := simulator.Recording{When: evidence.Idle, RPM: 750, Cycles: 8, Scope: simulator.PlainScope(rateOfCaptures, 0.03)}
	whole := b.Capture(at, r)
	r.When, r.RPM, r.Cycles = evidence.Snap, 1500, 4
	whole = whole.Then(b.Capture(at, r), rateOfCaptures)
	r.When, r.RPM, r.Cycles = evidence.Idle, 750, 2
	whole = whole.Then(b.Capture(at, r), rateOfCaptures)
	return standin.Trace(whole, rateOfCaptures)
}
