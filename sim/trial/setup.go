package trial

import (
	"slices"
	"time"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/job"
	"glenmist/core/part"
	"glenmist/core/plan"
	"glenmist/sim/simulator"
)

// Setup holds the settings of a run.
type Setup struct {
	Engine engine.Engine
	Hidden []fault.Hypothesis
	// World is how the engine, its instruments and people behave; the zero value is the middle world.
	World simulator.World
	// Wrong is the probability of a wrong observation on top of the world's: a random result of a look or test, or
	// counters shifted by one cylinder.
	Wrong float64
	// Contradict makes the first run after a move show the misfire in the wrong one of its two places.
	Contradict bool
	// Shop holds the costs and tools for planning.
	Shop plan.Shop
}

const drive = 6000 // revolutions since the codes were last cleared, before the job

// felt is the misfire share below which nobody notices, in every condition. A job exists
// because somebody noticed it or a lamp came on (C; judgement: one misfire in two hundred is felt by few).
const felt = 0.004

// simulated returns the engine with its hidden faults, each of a noticeable severity.
func (s Setup) simulated(rng simulator.Rand) *simulator.Engine {
	b := simulator.In(s.world(), s.Engine, rng, s.Hidden...)
	for range 50 {
		if len(s.Hidden) == 0 || s.most(b) >= felt || s.silent() {
			break
		}
		b = simulator.In(s.world(), s.Engine, rng, s.Hidden...)
	}
	return b
}

// silent reports whether no hidden fault ever shows.
func (s Setup) silent() bool {
	return !slices.ContainsFunc(s.Hidden, func(h fault.Hypothesis) bool { return h.Affected(part.Home(s.Engine)) != 0 })
}

// most returns the highest misfire rate of a cylinder in any condition.
func (s Setup) most(b *simulator.Engine) (most float64) {
	home := part.Home(s.Engine)
	for _, row := range evidence.Conditions {
		for _, h := range s.Hidden {
			for _, c := range h.Affected(home).List() {
				most = max(most, b.Rate(c, home, row.Condition))
			}
		}
	}
	return most
}

// intake returns the new job. The driver usually states when it fails.
func (s Setup) intake(b *simulator.Engine, rng simulator.Rand) job.Job {
	when, most := evidence.AnyCondition, 0.0
	for _, row := range evidence.Conditions {
		if row.Condition == evidence.Snap {
			continue // it lasts a second, so it is reported and driven as under load
		}
		for _, h := range s.Hidden {
			for _, c := range h.Affected(part.Home(s.Engine)).List() {
				if rate := b.Rate(c, part.Home(s.Engine), row.Condition); rate > most+0.02 {
					when, most = row.Condition, rate
				}
			}
		}
	}
	var signs []evidence.Sign
	said := rng.Float64() >= s.world().Unstated
	if said && rng.Float64() < s.world().Loose { // a condition at random
		if when = evidence.AnyCondition; rng.IntN(3) > 0 {
			when = loose[rng.IntN(len(loose))]
		}
	}
	switch {
	case !said:
		when = evidence.AnyCondition
	case when == evidence.AnyCondition: // no condition has a higher rate than another
		signs = append(signs, evidence.AlwaysThere)
	}
	return job.Job{Number: "bench", Complaint: "misfires", By: "bench", FailsWhen: when, Signs: signs, Opened: time.Date(2026, 1, 1, 8, 0, 0, 0, time.UTC),
		Vehicle: job.Vehicle{Fleet: "bench", What: "bench", Engine: s.Engine}}
}

// loose lists the conditions that a driver may name at random.
var loose = []evidence.Condition{evidence.Idle, evidence.Load, evidence.Hot, evidence.Cold, evidence.Wet}

func (s Setup) wrong(rng simulator.Rand) bool {
	p := s.Wrong + s.world().Wrong
	return p > 0 && rng.Float64() < p
}

func (s Setup) world() simulator.World {
	if s.World.Name == "" {
		return simulator.Middle
	}
	return s.World
}
