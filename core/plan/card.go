package plan

import (
	"cmp"
	"math"
	"slices"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/forbid"
	"glenmist/core/part"
	"glenmist/core/unit"
)

// Card is a step made concrete for this job.
type Card struct {
	Step Step
	// Title is the step in a few words, readable from afar.
	Title string
	// Target is what the step is done to, such as "coil C2", and Cylinder where; 0
	// is no cylinder in particular.
	Target   string
	Cylinder engine.Cylinder
	// Minutes is the step's, with what covers cost that still have to come off;
	// Covers names those.
	Minutes float64
	Covers  []string
	// Partner is set for an exchange; a split move has a second one.
	Partner Partner
	Second  Partner
	// Parts are the moves of an exchange.
	Parts []part.Relocation
	// Look lists what to look at.
	Look []evidence.Seen
	// Test is set for a test with a plain answer.
	Test evidence.TestID
	// Place is where that is made.
	Place engine.Place
	// Do is the action, Why the reason.
	Do, Why  string
	Outcomes []Outcome
	// Bits is what the step is expected to tell about which unit is at fault.
	Bits float64
	// Condition is where a run is made.
	Condition evidence.Condition
	// Worksheet is true if the step is done by the worksheet of the repair.
	Worksheet bool
	// Finished is true if nothing is left but to hand the vehicle back with its finding.
	Finished bool
	// Ban is the finding that forbids turning the engine, nil for none.
	Ban *forbid.Ban
	// Closed is true if the job has ended.
	Closed bool
	// Recheck is in how many days a recheck is proposed; 0 for none.
	Recheck int
	// Proof is how far the runs since the repair prove it; nil before a repair.
	Proof *Proof

	// chances is, for each outcome, its chance in each of the assessment's joint hypotheses.
	chances [][]float64
	// later fills in the outcomes, which cost more than the rest.
	later func(*Card)
}

// weighed is the card with its outcomes.
func (c Card) weighed() Card {
	if c.later != nil {
		c.later(&c)
		c.later = nil
	}
	return c
}

func weighed(cards []Card) []Card {
	for i := range cards {
		cards[i] = cards[i].weighed()
	}
	return cards
}

// Outcome is one way a step can turn out.
type Outcome struct {
	ID    string
	Words string
	P     float64
	// Means is the suspect that it would point to.
	Means string
	// Record is the entry that writes it down with one tap; its number, time and
	// hand are still to be filled in. It is empty where figures are needed.
	Record evidence.Entry

	rows []int // of the card's chances
}

// Chances is the probability of each outcome, one row each, in each joint hypothesis of the
// assessment.
func (c Card) Chances() [][]float64 { return slices.Clone(c.chances) }

// at makes a card of a step that is done at some places, with what has to come off
// to reach them.
func at(a *diagnose.Assessment, id string, places ...engine.Place) Card {
	c := Card{Step: Find(id)}
	if a.Engine.Ignition != engine.Magneto {
		c.Step.Cautions = slices.DeleteFunc(slices.Clone(c.Step.Cautions), func(words string) bool { return words == blade })
	}
	c.Minutes = StepMinutes(a.Beliefs, id)
	off := slices.Clone(a.Off)
	for _, p := range places {
		covers, minutes := a.Engine.Access(p, off)
		c.Minutes += minutes
		for _, cover := range covers {
			off = append(off, cover.Name)
			c.Covers = append(c.Covers, cover.Name)
		}
	}
	return c
}

// likelihood is the chance of one outcome in a joint hypothesis.
type likelihood func(*diagnose.JointHypothesis) float64

// branch is an outcome with its likelihood; none stands for what the branches
// before it have left.
type branch struct {
	outcome Outcome
	chance  likelihood
}

// negligible is the probability below which a joint hypothesis is not asked what it would show.
const negligible = 1e-6

// weigh fills in the outcomes of a card: how likely each is, what it would point
// at, and how many bits the step is expected to tell about the repair unit.
func (c *Card) weigh(a *diagnose.Assessment, branches []branch) {
	prior := make([]float64, len(a.Suspects))
	left := make([]float64, len(a.JointHypotheses)) // of each joint hypothesis's chance
	all := 0.0
	for i := range a.JointHypotheses {
		if w := &a.JointHypotheses[i]; w.P >= negligible {
			all += w.P
			left[i] = 1
		}
	}
	for i := range a.JointHypotheses {
		prior[a.JointHypotheses[i].Faults[0].Suspect] += a.JointHypotheses[i].P * left[i] / all
	}
	c.Bits = entropy(prior)
	after := make([]float64, len(prior))
	for _, b := range branches {
		clear(after)
		total := 0.0
		row := make([]float64, len(a.JointHypotheses))
		for i := range a.JointHypotheses {
			w := &a.JointHypotheses[i]
			if w.P < negligible {
				continue
			}
			chance := left[i]
			if b.chance != nil {
				chance = min(left[i], b.chance(w))
				left[i] -= chance
			}
			row[i] = chance
			after[w.Faults[0].Suspect] += w.P * chance / all
			total += w.P * chance / all
		}
		if total <= 0 {
			continue
		}
		for i := range after {
			after[i] /= total
		}
		c.Bits -= total * entropy(after)
		b.outcome.P = total
		if b.outcome.Means == "" {
			b.outcome.Means = points(a, after)
		}
		b.outcome.rows = []int{len(c.chances)}
		c.Outcomes = append(c.Outcomes, b.outcome)
		c.chances = append(c.chances, row)
	}
	c.Bits = max(0, c.Bits)
}

// mostOutcomes is how many outcomes of a run are listed.
const mostOutcomes = 8

// keepLikeliest keeps the likeliest outcomes in their order and merges the others into one. It keeps at least one outcome
// for each cylinder and one for a clean run.
func (c *Card) keepLikeliest(cylinders int) {
	most := max(mostOutcomes, cylinders+2)
	if len(c.Outcomes) <= most {
		return
	}
	byChance := make([]int, len(c.Outcomes))
	for i := range byChance {
		byChance[i] = i
	}
	slices.SortStableFunc(byChance, func(x, y int) int { return cmp.Compare(c.Outcomes[y].P, c.Outcomes[x].P) })
	likely := map[int]bool{}
	for _, i := range byChance[:most-1] {
		likely[i] = true
	}
	var kept []Outcome
	other := Outcome{ID: "other", Words: "Something else", Means: "enter what was seen in full"}
	for i, o := range c.Outcomes {
		if likely[i] {
			kept = append(kept, o)
		} else {
			other.P += o.P
			other.rows = append(other.rows, o.rows...)
		}
	}
	c.Outcomes = append(kept, other)
}

func entropy(p []float64) float64 {
	h := 0.0
	for _, x := range p {
		if x > 0 {
			h -= x * math.Log2(x)
		}
	}
	return h
}

// points lists the leading suspects after an outcome.
func points(a *diagnose.Assessment, p []float64) string {
	first, second := -1, -1
	for i := range p {
		switch {
		case first < 0 || p[i] > p[first]:
			first, second = i, first
		case second < 0 || p[i] > p[second]:
			second = i
		}
	}
	say := func(i int) string { return a.Suspects[i].Name() + " " + unit.Percent(p[i]) }
	if p[first] >= 0.75 || second < 0 {
		return "points at " + say(first)
	}
	return "leaves " + say(first) + ", then " + say(second)
}
