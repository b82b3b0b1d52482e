// Package standin is a simulated meter and spark tester for practice and tests. It reads a
// simulated engine whose hidden fault fits the evidence of the job. A real instrument would
// implement the same two methods.
package standin

import (
	"hash/fnv"
	"strings"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/invalid"
	"glenmist/core/job"
	"glenmist/core/part"
	"glenmist/sim/simulator"
)

// Standin reads simulated engines. Chance makes a source of random numbers from two seeds.
type Standin struct {
	Chance func(a, b uint64) simulator.Rand
}

// symptoms are the kinds of entry that the hidden fault is drawn by: not what instruments
// have read, so that it does not change from one reading to the next.
func symptom(e evidence.Entry) bool {
	switch e.Kind() {
	case evidence.KindCodes, evidence.KindCounters, evidence.KindWatch, evidence.KindMove, evidence.KindCovers, evidence.KindWithdraw:
		return true
	}
	return false
}

// Engine returns the simulated engine of a job as it is now, or as it came in, with its parts at their positions. It has one
// fault, drawn from the evidence of runs and moves up to the first signed verdict, and is the same for the same job and evidence.
// Places that were put right are sound.
func (s Standin) Engine(j job.Job, came bool) (*simulator.Engine, part.Positions) {
	if !came {
		return s.engine(j)
	}
	b := s.began(j)
	return b, part.Home(j.Vehicle.Engine)
}

// began returns the engine as it came in.
func (s Standin) began(j job.Job) *simulator.Engine {
	draw := s.Chance(seed(j), 1)
	return simulator.New(j.Vehicle.Engine, draw, hidden(j, draw.Float64())...)
}

// seed is a number from the number of a job.
func seed(j job.Job) uint64 {
	h := fnv.New64a()
	_, _ = h.Write([]byte(j.Number))
	return h.Sum64()
}

func (s Standin) engine(j job.Job) (*simulator.Engine, part.Positions) {
	now := j.Ledger.Positions(j.Vehicle.Engine)
	b := s.began(j)
	for _, at := range now.All() { // fitted spares are sound
		b.Fit([]part.Relocation{{Tag: at.Tag}})
	}
	gone := j.Ledger.Withdrawn()
	for _, e := range j.Ledger {
		if _, out := gone[e.Seq]; out || e.Fit() == nil {
			continue
		}
		unit := e.Fit().Unit
		at := strings.LastIndexByte(unit, ' ')
		b.Repair(engine.Kind(unit[:max(at, 0)]), engine.Place(unit[at+1:]))
	}
	return b.With(s.Chance(seed(j), uint64(len(j.Ledger))+2)), now
}

// hidden returns the fault at a quantile of what the evidence of runs and moves makes likely, up to the first signed verdict.
func hidden(j job.Job, u float64) []fault.Hypothesis {
	seen := j
	seen.Ledger = nil
	gone := j.Ledger.Withdrawn()
	for _, e := range j.Ledger {
		_, out := gone[e.Seq]
		if e.Verdict() != nil && !out {
			break
		}
		if !out && symptom(e) && e.Kind() != evidence.KindWithdraw {
			e.Seq = len(seen.Ledger) + 1
			seen.Ledger = append(seen.Ledger, e)
		}
	}
	sum := 0.0
	var faults []diagnose.Fault
	a := diagnose.Assess(seen)
	for _, f := range a.Faults {
		if f.Hypothesis.Mode.Unit != fault.Else && f.Hypothesis.Mode.Unit != fault.NoFault {
			faults = append(faults, f)
			sum += f.P
		}
	}
	u *= sum
	for _, f := range faults {
		if u -= f.P; u < 0 {
			return []fault.Hypothesis{f.Hypothesis}
		}
	}
	return nil
}

// Read returns one reading of a meter, gauge or clamp at one part or place.
func (s Standin) Read(j job.Job, id evidence.MeasureID, on evidence.Reading) (evidence.Readings, error) {
	m, err := evidence.ParseMeasure(j.Vehicle.Engine, string(id))
	if err != nil {
		return evidence.Readings{}, err
	}
	if ok, why := m.Sense(j.Vehicle.Engine); !ok {
		return evidence.Readings{}, invalid.Error{Field: "measure", Expected: "what can be measured on this engine", Got: why}
	}
	b, now := s.engine(j)
	for _, one := range m.Each(j.Vehicle.Engine, now) {
		if one.Tag == on.Tag && one.Place == on.Place {
			return b.Meter(id, []evidence.Reading{one}, now), nil
		}
	}
	return evidence.Readings{}, invalid.Error{Field: "on", Expected: "a part or a place that this measures", Got: invalid.Quote(string(on.Tag) + string(on.Place))}
}

// Spark returns the result of a tester at one cylinder.
func (s Standin) Spark(j job.Job, test evidence.Sparks, at engine.Place) (evidence.ResultID, error) {
	c, ok := at.Cylinder()
	if !ok || int(c) > j.Vehicle.Engine.Cylinders {
		return "", invalid.Error{Field: "on", Expected: "a cylinder of this engine, such as cyl-1", Got: invalid.Quote(string(at))}
	}
	b, now := s.engine(j)
	test, err := b.Sparks(test, []engine.Place{at}, now)
	if err != nil {
		return "", err
	}
	return test.Each[0].Seen, nil
}
