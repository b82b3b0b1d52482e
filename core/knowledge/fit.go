package knowledge

import (
	"fmt"
	"slices"

	"glenmist/core/evidence"
	"glenmist/core/fault"
)

// ShareFit is how many simulated captures with a known fault showed each shape, or gave each answer of a snap. A capture counts
// for several shapes in part, by their posterior.
type ShareFit struct {
	Measure evidence.MeasureID // [evidence.KVWave] or [evidence.KVSnapWave]
	// Row names the row of modes, as [RowKey] does; "" is the row of all other faults and of sound cylinders.
	Row    fault.ModeID
	Counts []CountFit
}

// CountFit is a number of captures. Of is the shape ([WaveID]) or the answer ([evidence.ResultID]).
type CountFit struct {
	Of string
	N  float64
}

// tradeWeight is the number of captures that a row of the trade counts for beside the simulated ones. The shares are the mean
// of the posterior of a multinomial with a Dirichlet prior of that weight (Gelman et al., Bayesian Data Analysis, section 3.4;
// from memory).
const tradeWeight = 60.0

// leastShare keeps what was never seen possible. After the others are scaled it is still [LeastChance] or more.
const leastShare = 1.2 * LeastChance

// Corrected returns the shares of the trade corrected by counts; nil means none.
func Corrected(trade, counts []float64) []float64 {
	if counts == nil {
		return trade
	}
	n, sum := tradeWeight, 0.0
	for _, c := range counts {
		n += c
	}
	all := make([]float64, len(trade))
	for k := range all {
		all[k] = max(leastShare, (tradeWeight*trade[k]+counts[k])/n)
		sum += all[k]
	}
	for k := range all {
		all[k] /= sum
	}
	return all
}

// RowKey names a row by the first mode to which it applies, "" for the row of all others. Of several rows that cover a mode the
// first applies; nil covers all.
func RowKey(rows []fault.Keys, row int) fault.ModeID {
	for _, m := range fault.Catalogue {
		first := slices.IndexFunc(rows, func(k fault.Keys) bool { return k == nil || k.Covers(m.ID) })
		if rows[row] != nil && first == row {
			return m.ID
		}
	}
	return ""
}

// fitted corrects the shares of one row of a measure, which key names.
func fitted[T ~string](measure evidence.MeasureID, key fault.ModeID, trade Chances[T], source string) (Chances[T], string) {
	i := slices.IndexFunc(ShareFits, func(f ShareFit) bool { return f.Measure == measure && f.Row == key })
	if i < 0 {
		return trade, source
	}
	shares, counts, sum := make([]float64, len(trade)), make([]float64, len(trade)), 0.0
	for k := range trade {
		shares[k] = trade[k].P
		for _, c := range ShareFits[i].Counts {
			if c.Of == string(trade[k].Of) {
				counts[k] = c.N
				sum += c.N
			}
		}
	}
	all := slices.Clone(trade)
	for k, p := range Corrected(shares, counts) {
		all[k].P = p
	}
	return all, fmt.Sprintf("%s; corrected by %.0f simulated captures, beside which it counts as %.0f", source, sum, tradeWeight)
}

func fittedWaveChances(trade []WaveChance) []WaveChance {
	all, rows := slices.Clone(trade), TradeOf(evidence.KVWave).Modes
	for i := range all {
		all[i].Shapes, all[i].Source = fitted(evidence.KVWave, RowKey(rows, i), all[i].Shapes, all[i].Source)
	}
	return all
}

func fittedMeasures(trade []MeasureRow) []MeasureRow {
	all, rows, row := slices.Clone(trade), TradeOf(evidence.KVSnapWave).Modes, 0
	for i := range all {
		if all[i].Measure == evidence.KVSnapWave {
			all[i].Answers, all[i].Source = fitted(evidence.KVSnapWave, RowKey(rows, row), all[i].Answers, all[i].Source)
			row++
		}
	}
	return all
}

// Trade is what the trade says of a measure of captures, before any fit.
type Trade struct {
	Of   []string // the shapes or answers
	Rows []*NumberRow
	// Modes are those of each row of shares; Shares are in the order of Of.
	Modes  []fault.Keys
	Shares [][]float64
}

// TradeOf returns what the trade says of a capture ([evidence.KVWave]) or of its snap ([evidence.KVSnapWave]).
func TradeOf(measure evidence.MeasureID) (t Trade) {
	if measure == evidence.KVWave {
		var order []WaveID
		t.Rows = wavesOf(Waves).numbers
		for _, w := range Waves {
			order, t.Of = append(order, w.ID), append(t.Of, string(w.ID))
		}
		for _, r := range tradeWaveChances {
			t.Modes, t.Shares = append(t.Modes, r.Modes), append(t.Shares, r.Shapes.In(order))
		}
		return t
	}
	var order []evidence.ResultID
	for i := range NumberRows {
		if r := &NumberRows[i]; r.Measure == measure {
			order, t.Of, t.Rows = append(order, r.Answer), append(t.Of, string(r.Answer)), append(t.Rows, r)
		}
	}
	for _, r := range tradeMeasures {
		if r.Measure == measure {
			t.Modes, t.Shares = append(t.Modes, r.Modes), append(t.Shares, r.Answers.In(order))
		}
	}
	return t
}
