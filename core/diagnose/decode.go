package diagnose

import (
	"fmt"
	"math"
	"slices"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/part"
	"glenmist/core/unit"
)

// Outcome is what a run after a move shows.
type Outcome string

// The outcomes of a move.
const (
	// Waiting: the engine has not been observed since the move.
	Waiting Outcome = "waiting"
	// Followed: the misfire went where the part went.
	Followed Outcome = "followed"
	// Stayed: it is where it was.
	Stayed Outcome = "stayed"
	// Both: it is in both places.
	Both Outcome = "both"
	// Gone: it is nowhere. That proves nothing.
	Gone Outcome = "gone"
	// Elsewhere: it is on a cylinder that had no part in the move.
	Elsewhere Outcome = "elsewhere"
	// Unclear: too little was watched to say.
	Unclear Outcome = "unclear"
)

// sure is the probability from which an outcome is said.
const sure = 0.80

// Decode is what was seen after a move, compared with what was seen before it.
type Decode struct {
	// Move is the number of the move's entry.
	Move int
	// Tags are the parts that went From one cylinder To another; the parts that
	// came back in exchange are not listed.
	Tags     []part.Tag
	From, To engine.Cylinder
	Outcome  Outcome
	// P is the probability of the likeliest outcome, also while it is unclear.
	P float64
	// More is how many more revolutions without a misfire would settle that it
	// is gone; 0 when that is not the question, or no run would be long enough.
	More int
}

// Parts names what moved: "coil C2 with boot B2".
func (d Decode) Parts() string {
	s := ""
	for i, t := range d.Tags {
		if i > 0 {
			s += " with "
		}
		s += t.Words()
	}
	return s
}

// Words is the outcome in a short sentence.
func (d Decode) Words() string {
	switch d.Outcome {
	case Waiting:
		return fmt.Sprintf("Waiting for a run: %s is in cylinder %d", d.Tags[0].Words(), d.To)
	case Followed:
		return fmt.Sprintf("The misfire followed %s to cylinder %d", d.Parts(), d.To)
	case Stayed:
		return fmt.Sprintf("The misfire stayed on cylinder %d without %s", d.From, d.Parts())
	case Both:
		return fmt.Sprintf("The misfire is on cylinder %d and on cylinder %d", d.From, d.To)
	case Gone:
		return "The misfire is nowhere: that proves nothing yet"
	case Elsewhere:
		return "The misfire is on a cylinder that had no part in the move"
	}
	return "Too little was watched to say what the move did"
}

// Advice says what to make of an outcome that is no plain answer, or nothing.
func (d Decode) Advice() string {
	switch d.Outcome {
	case Both:
		return "Two faults, a part that came in exchange and is weak too, or something left fouled behind."
	case Gone:
		return "It may come and go, or touching a connector, boot or seat has cured it for a while. Run longer, in the condition where it fails, before anything is condemned."
	case Elsewhere:
		return "Something else was disturbed in the work: look at what was touched on that cylinder."
	case Unclear:
		if d.More > 0 {
			return fmt.Sprintf("If it stays clean, about %s more revolutions would show that it is gone.", unit.Thousands(d.More))
		}
		return "Run longer, in the condition where it fails, with the counters from zero."
	}
	return ""
}

// decodes reads every move against the runs just before and after it. The
// misfire rate is one hidden figure for both, so a short clean run after a slight
// misfire says little. It asks what the run showed, not whether the fault is
// still there: Gone is a clean run, no more.
func decodes(a *Assessment) []Decode {
	epochs := a.codeEpochs(everything)
	var all []Decode
	for i, m := range a.Moments {
		if m.Entry.Move != nil {
			all = append(all, a.decode(i, epochs))
		}
	}
	return all
}

func (a *Assessment) decode(last int, epochs []codeEpoch) Decode {
	move := a.Moments[last]
	runs := func(epoch int, sick afflicted) (lik perRate, any bool) {
		for i, m := range a.Moments {
			if m.Epoch == epoch && a.counts(i) {
				addTo(&lik, a.runLikelihood(i, sick, 1), 1)
				any = true
			}
		}
		for _, c := range epochs {
			if a.Moments[c.moment].Epoch == epoch {
				addTo(&lik, coded(c.known, a.Engine, sick, c.history), 1)
				any = any || !c.known.open || c.known.set != 0
			}
		}
		return lik, any
	}
	d := Decode{Move: move.Entry.Seq}
	before := a.lead(&d, move, func(sick afflicted) perRate { lik, _ := runs(move.Epoch-1, sick); return lik })
	joint := func(sick afflicted) float64 {
		lik, _ := runs(move.Epoch, sick)
		addTo(&lik, before, 1)
		return logSum(lik[:])
	}
	if _, any := runs(move.Epoch, 0); !any {
		d.Outcome, d.P = Waiting, 1
		return d
	}
	d.Outcome, d.P = a.classify(d, joint)
	if d.P < sure {
		if d.Outcome == Gone {
			d.More = a.moreToWatch(d, func(sick afflicted) perRate {
				lik, _ := runs(move.Epoch, sick)
				addTo(&lik, before, 1)
				return lik
			})
		}
		d.Outcome = Unclear
	}
	return d
}

// outcomes says how common each outcome of a move is before its run (C; judgement):
// two faults at once and a part disturbed in the work are the rare ones.
var outcomes = []struct {
	outcome Outcome
	before  float64
}{{Followed, 0.32}, {Stayed, 0.32}, {Gone, 0.24}, {Both, 0.06}, {Elsewhere, 0.06}}

// classify finds the likeliest outcome and its probability; joint is the log
// likelihood of a set of afflicted cylinders after the move.
func (a *Assessment) classify(d Decode, joint func(afflicted) float64) (Outcome, float64) {
	logs := make([]float64, len(outcomes))
	for i, o := range outcomes {
		switch o.outcome {
		case Followed:
			logs[i] = joint(only(d.To))
		case Stayed:
			logs[i] = joint(only(d.From))
		case Both:
			logs[i] = joint(only(d.To) | only(d.From))
		case Gone:
			logs[i] = joint(0)
		case Elsewhere:
			var others []float64
			for _, c := range a.Engine.All() {
				if c != d.From && c != d.To {
					others = append(others, joint(only(c)))
				}
			}
			logs[i] = logSum(others) - math.Log(float64(max(1, len(others))))
		}
		logs[i] += math.Log(o.before)
	}
	best := slices.Index(logs, slices.Max(logs))
	return outcomes[best].outcome, math.Exp(logs[best] - logSum(logs))
}

// lead finds which of the parts that moved came from the cylinder that
// misfired, fills in d, and returns the likelihood of the runs before the move.
func (a *Assessment) lead(d *Decode, move evidence.Moment, runs func(afflicted) perRate) perRate {
	best := math.Inf(-1)
	var before perRate
	for _, r := range move.Entry.Move.Parts {
		from := move.Before.Where(r.Tag)
		lik := runs(only(from))
		if p := logSum(lik[:]); p > best+1e-9 {
			best, before, d.From = p, lik, from
			d.To, _ = r.To.Cylinder()
		}
	}
	for _, r := range move.Entry.Move.Parts {
		if to, _ := r.To.Cylinder(); move.Before.Where(r.Tag) == d.From && to == d.To {
			d.Tags = append(d.Tags, r.Tag)
		}
	}
	return before
}

// moreToWatch is how many more clean revolutions would make Gone sure, or 0
// when no bounded run would. so is the likelihood of all that was seen.
func (a *Assessment) moreToWatch(d Decode, so func(afflicted) perRate) int {
	for revs := 500; revs <= int(unit.MaxRevolutions); revs *= 2 {
		clean := evidence.Counters{Revolutions: revs, Counts: make([]int, a.Engine.Cylinders), Fresh: true}
		outcome, p := a.classify(d, func(sick afflicted) float64 {
			lik := so(sick)
			addTo(&lik, counted(clean, sick, 1), 1)
			return logSum(lik[:])
		})
		if outcome == Gone && p >= sure {
			return revs
		}
	}
	return 0
}
