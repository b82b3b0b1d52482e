package diagnose

import (
	"glenmist/core/evidence"
	"glenmist/core/knowledge"
)

// Deviation is how one cylinder of a capture differs from its siblings, for fitting the tables.
type Deviation struct{ n number }

// Deviations returns one for each reading of a capture ([evidence.KVWave]) or of its snap ([evidence.KVSnapWave]).
func (a *Assessment) Deviations(set evidence.Readings) []Deviation {
	all := make([]Deviation, len(set.Each))
	for i := range set.Each {
		if all[i].n = a.waveNumber(set, i); set.Measure == evidence.KVSnapWave {
			all[i].n = a.snapNumber(set, i)
		}
	}
	return all
}

// Density is the probability density of the reading, given the answer of a row.
func (d Deviation) Density(row *knowledge.NumberRow) float64 { return density(row, d.n) }
