// Package demo is an invented world to try Glenmist in: the workshop of an
// upland bus, post and rescue co-operative. Vehicles and people are made up.
package demo

import (
	"context"
	"fmt"
	"time"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/part"
	"glenmist/core/plan"
	"glenmist/core/trouble"
	"glenmist/core/unit"
	"glenmist/store"
)

// The people of the workshop.
const (
	lead       = "Oda Quillrigg"
	technician = "Bram Tarnside"
	apprentice = "Wyn Fellgarth"
)

// Load writes the demo's jobs into an empty database, dated back from now. It
// leaves a database that holds any job alone, and says whether it loaded.
func Load(ctx context.Context, s *store.Store, now time.Time) (bool, error) {
	have, _, err := s.Jobs(ctx, 0)
	if err != nil || len(have) > 0 {
		return false, err
	}
	jobs, err := Jobs(now)
	if err != nil {
		return false, err
	}
	for _, j := range jobs {
		j.Number = ""
		if _, err := s.Open(ctx, j); err != nil {
			return false, fmt.Errorf("demo job of %s: %w", j.Vehicle.Fleet, err)
		}
	}
	return true, nil
}

func inline(n int, mounting engine.Mounting, beltEnd engine.Side) engine.Engine {
	return engine.Engine{Cylinders: n, Arrangement: engine.Inline, Mounting: mounting, BeltEnd: beltEnd,
		Ignition: engine.CoilOnPlug, FiringOrder: engine.UsualOrder(n)}
}

// intake is a job as it comes in, and what was then found.
type intake struct {
	fleet, what string
	engine      engine.Engine
	distance    unit.Kilometres
	complaint   string
	failsWhen   evidence.Condition
	by          string
	daysAgo     int
	found       []evidence.Entry
}

// The jobs in the order in which they came in: the last is the newest.
var intakes = []intake{
	{"B-03", "valley bus, 16 seats", inline(6, engine.Lengthways, engine.Front), 311_400,
		"Shudders when pulling away from the lower stops, lamp on since the washing bay.", evidence.Load, technician, 6, []evidence.Entry{
			codes("P0305", trouble.Stored, "P0300", trouble.Pending),
			counters(evidence.Load, 4000, 2, 0, 1, 0, 188, 0),
			swapCoil(5, 1),
			counters(evidence.Load, 4200, 203, 0, 0, 1, 1, 0),
			{Look: &evidence.Look{Items: []evidence.Seen{{Tag: "P5", Finding: evidence.PlugNormal}, {Tag: "B5", Finding: evidence.BootSound}}}},
			sign(),
		}},
	{"R-02", "rescue pick-up", inline(4, engine.Lengthways, engine.Front), 142_050,
		"Shook once on the pass in heavy rain, lamp flashed, then ran well again.", evidence.Wet, lead, 5, []evidence.Entry{
			codes("P0303", trouble.Stored),
			swapCoil(3, 1),
			counters(evidence.Idle, 3600, 0, 1, 0, 0),
		}},
	{"P-11", "post van, low roof", inline(3, engine.Crossways, engine.Right), 88_900,
		"Uneven at idle when warm, dull on the hill to the dam.", evidence.Idle, technician, 4, []evidence.Entry{
			codes("P0301", trouble.Stored),
			counters(evidence.Idle, 3500, 121, 0, 2),
			swapCoil(1, 3),
			counters(evidence.Idle, 3500, 117, 1, 0),
		}},
	{"P-04", "post van, high roof", inline(4, engine.Crossways, engine.Left), 203_700,
		"Jerks under load since the last service, smells of fuel.", evidence.Load, apprentice, 3, []evidence.Entry{
			codes("P0304", trouble.Stored),
			counters(evidence.Load, 3000, 1, 0, 0, 96),
			swapCoil(4, 2),
			counters(evidence.Load, 3000, 0, 102, 0, 1),
		}},
	{"S-01", "snow patrol car", inline(5, engine.Crossways, engine.Left), 167_300,
		"Shakes on cold starts, settles after a mile.", evidence.Cold, lead, 2, []evidence.Entry{
			codes("P0302", trouble.Pending),
			counters(evidence.Cold, 2400, 0, 61, 1, 0, 0),
			swapCoil(2, 4),
		}},
	{"P-07", "post van, high roof", inline(4, engine.Crossways, engine.Left), 184_000,
		"Shakes at idle and pulls badly, lamp on since Tuesday.", evidence.Idle, apprentice, 1, []evidence.Entry{
			codes("P0302", trouble.Stored),
		}},
	{"B-09", "school minibus", inline(4, engine.Lengthways, engine.Front), 96_250,
		"Driver feels a light shake at the lights. No lamp.", evidence.Idle, apprentice, 0, nil},
}

// Jobs makes the demo's jobs as they stand at a moment.
func Jobs(now time.Time) ([]job.Job, error) {
	var jobs []job.Job
	for i, in := range intakes {
		opened := now.UTC().Truncate(time.Minute).Add(-time.Duration(in.daysAgo)*24*time.Hour - time.Hour)
		j := job.Job{Number: fmt.Sprintf("demo-%d", i+1), Vehicle: job.Vehicle{Fleet: in.fleet, What: in.what, Engine: in.engine},
			Distance: in.distance, Complaint: in.complaint, FailsWhen: in.failsWhen, Opened: opened, By: in.by, Ledger: evidence.Ledger{}}
		for k, e := range in.found {
			e.Done, e.By = opened.Add(time.Duration(8*(k+1))*time.Minute), in.by
			if e.Move != nil {
				e.Move = &evidence.Move{Cleared: true, Parts: swapParts(j, e.Move.Parts)}
			}
			if e.Verdict != nil {
				signed, err := plan.For(j, diagnose.Assess(j)).Sign()
				if err != nil {
					return nil, fmt.Errorf("demo job of %s: %w", in.fleet, err)
				}
				e.Verdict = signed.Verdict
			}
			longer, err := j.Ledger.Add(in.engine, e)
			if err != nil {
				return nil, fmt.Errorf("demo job of %s: %w", in.fleet, err)
			}
			j.Ledger = longer
		}
		jobs = append(jobs, j)
	}
	return jobs, nil
}

func codes(pairs ...any) evidence.Entry {
	c := &evidence.Codes{}
	for i := 0; i < len(pairs); i += 2 {
		code, _ := trouble.Parse(pairs[i].(string))
		c.Read = append(c.Read, trouble.Reading{Code: code, State: pairs[i+1].(trouble.State)})
	}
	return evidence.Entry{Codes: c}
}

func counters(when evidence.Condition, revolutions int, counts ...int) evidence.Entry {
	return evidence.Entry{Condition: when, Counters: &evidence.Counters{Revolutions: revolutions, Counts: counts, Fresh: true}}
}

// swapCoil notes which cylinders exchange coil and boot; Jobs works out the rest.
func swapCoil(a, b engine.Cylinder) evidence.Entry {
	return evidence.Entry{Move: &evidence.Move{Parts: []part.Relocation{{Tag: part.Of(part.Coil, a), To: engine.At(b)}}}}
}

func swapParts(j job.Job, noted []part.Relocation) []part.Relocation {
	at := j.Ledger.Positions(j.Vehicle.Engine)
	to, _ := noted[0].To.Cylinder()
	return at.Swap(at.Where(noted[0].Tag), to, part.Coil, part.Boot)
}

// sign asks Jobs for the verdict that stands by then.
func sign() evidence.Entry { return evidence.Entry{Verdict: &evidence.Verdict{}} }
