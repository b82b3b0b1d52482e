package knowledge

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/plug"
	"glenmist/core/unit"
)

// Chance is the probability of one outcome, 0 to 1.
type Chance[K comparable] struct {
	Of K
	P  float64
}

// Chances holds the probabilities of all outcomes. They sum to 1.
type Chances[K comparable] []Chance[K]

// The probability tables, by kind of outcome.
type (
	// Answers is for the answers of a test or measure.
	Answers = Chances[evidence.ResultID]
	// Findings is for the findings of a look.
	Findings = Chances[evidence.Finding]
	// PlugSigns is for the signs of one aspect of a plug.
	PlugSigns = Chances[plug.Sign]
	// ByCondition is for the running conditions.
	ByCondition = Chances[evidence.Condition]
)

// At returns the probability of one outcome, or 0 if it is not listed.
func (c Chances[K]) At(of K) float64 {
	for i := range c {
		if c[i].Of == of {
			return c[i].P
		}
	}
	return 0
}

// In returns the probabilities in the order of the given keys.
func (c Chances[K]) In(order []K) []float64 {
	p := make([]float64, len(order))
	for i, k := range order {
		p[i] = c.At(k)
	}
	return p
}

// figures describes the probabilities as shares of a row.
func (c Chances[K]) figures(words func(K) string) []Figure {
	all := make([]Figure, len(c))
	for i := range c {
		all[i] = Figure{Words: words(c[i].Of), As: Percent, At: &c[i].P, Least: LeastChance, Most: 1, Share: true}
	}
	return all
}

// says lists the probabilities above a minimum: "strong 18 %, weak 2 %".
func (c Chances[K]) says(words func(K) string, least float64) string {
	var all []string
	for _, one := range c {
		if one.P >= least {
			all = append(all, fmt.Sprintf("%s %.3g\u202f%%", words(one.Of), 100*one.P))
		}
	}
	return strings.Join(all, ", ")
}

// copyChances replaces the slice by a copy.
func copyChances[K comparable](c *Chances[K]) { *c = slices.Clone(*c) }

// NormalComponent is a normal distribution of one figure of a reading, or of the logarithm of
// its ratio to the expected value. Spread is the standard deviation.
type NormalComponent struct{ Centre, Spread float64 }

// figures describes the centre and the spread.
func (n *NormalComponent) figures(words string, as Scale) []Figure {
	return []Figure{{Words: words, As: as, At: &n.Centre, Least: -MaxCentre, Most: MaxCentre},
		{Words: words, As: as.spread(), At: &n.Spread, Least: LeastSpread, Most: MaxSpread}}
}

// timesExpected writes a distribution of a logarithm as factors: the median, and the interval
// of one standard deviation.
func (n NormalComponent) timesExpected() string {
	return fmt.Sprintf("%s, mostly %s to %s", unit.Times(math.Exp(n.Centre)), unit.Times(math.Exp(n.Centre-n.Spread)), unit.Times(math.Exp(n.Centre+n.Spread)))
}

// modeWords returns the selected modes in words; a family by its unit.
func modeWords(keys fault.Keys) string {
	var words []string
	for _, key := range keys {
		i := slices.IndexFunc(fault.Catalogue, func(m fault.Mode) bool { return key.Covers(m.ID) })
		switch {
		case i < 0:
			words = append(words, key.String())
		case fault.Catalogue[i].ID.String() == key.String():
			words = append(words, fault.Catalogue[i].Words)
		default:
			words = append(words, string(fault.Catalogue[i].Unit))
		}
	}
	return strings.Join(words, ", ")
}

// whenAtFault describes the faults of a row; no keys means all others.
func whenAtFault(keys fault.Keys) string {
	if keys == nil {
		return "anything else is at fault"
	}
	return modeWords(keys) + " is at fault"
}

// orOther describes the keys of a row; no keys means "other".
func orOther(keys fault.Keys) string {
	if keys == nil {
		return "other"
	}
	return keys.String()
}

// answerWords returns an answer of a test in words.
func answerWords(test evidence.TestID, answer evidence.ResultID) string {
	t, _ := evidence.FindTest(test)
	if r, ok := t.Result(answer); ok {
		return r.Words
	}
	return string(answer)
}
