package plan

import (
	"math"
	"strings"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/part"
	"glenmist/core/unit"
)

// Card is a step made concrete for this job.
type Card struct {
	Step Step
	// Title is the step in a few words, readable from afar.
	Title string
	// Target is what the step is done to, such as "coil C2", and Cylinder where.
	Target   string
	Cylinder engine.Cylinder
	// Partner is set for an exchange.
	Partner Partner
	// Parts are the moves of an exchange.
	Parts []part.Relocation
	// Look lists what to look at.
	Look []evidence.Seen
	// Do says what to do, Why why this now.
	Do, Why  string
	Outcomes []Outcome
	// Bits is what the step is expected to tell about which unit is at fault.
	Bits float64
}

// Outcome is one way a step can turn out.
type Outcome struct {
	ID    string
	Words string
	P     float64
	// Means says what it would point at.
	Means string
	// Record is the entry that writes it down with one tap; its number, time and
	// hand are still to be filled in. It is empty where figures are needed.
	Record evidence.Entry
}

// PerMinute is the bits that the step tells for each minute.
func (c Card) PerMinute() float64 { return c.Bits / c.Step.Minutes }

// likelihood is the chance of one outcome in a world.
type likelihood func(diagnose.World) float64

// branch is an outcome with its likelihood.
type branch struct {
	outcome Outcome
	chance  likelihood
}

// weigh fills in the outcomes of a card: how likely each is, what it would point
// at, and how many bits the step is expected to tell about the repair unit.
func (c *Card) weigh(a *diagnose.Assessment, branches []branch) {
	prior := make([]float64, len(a.Suspects))
	for _, w := range a.Worlds {
		prior[w.Suspect] += w.P
	}
	c.Bits = entropy(prior)
	for _, b := range branches {
		after := make([]float64, len(prior))
		total := 0.0
		for _, w := range a.Worlds {
			p := w.P * b.chance(w)
			after[w.Suspect] += p
			total += p
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
		c.Outcomes = append(c.Outcomes, b.outcome)
	}
	c.Bits = max(0, c.Bits)
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

// points says which suspects an outcome would leave in front.
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

// list joins words as a sentence does.
func list(words []string) string {
	if len(words) < 2 {
		return strings.Join(words, "")
	}
	return strings.Join(words[:len(words)-1], ", ") + " and " + words[len(words)-1]
}
