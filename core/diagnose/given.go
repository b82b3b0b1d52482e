package diagnose

import (
	"slices"

	"glenmist/core/knowledge"
)

// answerChances is an answer to a test that came, as one fault gives it: how often it gives each answer, and
// how well what was found fits each of them.
type answerChances struct {
	mine, fits []float64
	// sound is how well it fits a sound item.
	sound float64
	turn  *knowledge.RateAnswer
}

// at is how often it gives each answer if it misfires at some rate.
func (g answerChances) at(rate float64) []float64 {
	if g.turn == nil {
		return g.mine
	}
	t, mine := g.turn, slices.Clone(g.mine)
	second, either := t.By.Of(rate), mine[t.Seldom]+mine[t.Often]
	mine[t.Seldom], mine[t.Often] = (1-second)*either, second*either
	return mine
}

// row is its row, if it shows wherever it is asked.
func (g answerChances) row() likelihoodRow {
	k := likelihoodRow{sound: g.sound, seen: 1}
	if t := g.turn; t != nil {
		either := g.mine[t.Seldom] + g.mine[t.Often]
		k.seldom, k.often, k.by = either*g.fits[t.Seldom], either*g.fits[t.Often], t.By
	}
	for i, p := range g.mine {
		if g.turn == nil || i != g.turn.Seldom && i != g.turn.Often {
			k.odds += p * g.fits[i]
		}
	}
	return k
}
