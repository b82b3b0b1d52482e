package knowledge

import (
	"math"
	"slices"
	"testing"

	"glenmist/core/evidence"
	"glenmist/core/fault"
)

// The mean of a Dirichlet posterior is (prior weight · share + count) / (prior weight + all counts): with as many captures as the
// trade counts for, all of one shape, half of the doubt is left (textbook formula).
func TestCorrected(t *testing.T) {
	for _, c := range []struct {
		name                string
		trade, counts, want []float64
	}{
		{"no captures", []float64{0.6, 0.4}, nil, []float64{0.6, 0.4}},
		{"as many as the trade", []float64{0.6, 0.4}, []float64{tradeWeight, 0}, []float64{0.8, 0.2}},
		{"as the trade says", []float64{0.6, 0.4}, []float64{6, 4}, []float64{0.6, 0.4}},
	} {
		got := Corrected(c.trade, c.counts)
		for k := range got {
			if math.Abs(got[k]-c.want[k]) > 1e-12 {
				t.Errorf("%s: %v, want %v", c.name, got, c.want)
			}
		}
	}
}

// Every fitted row is a row of the trade, and counts what that row has.
func TestFittedRowsAreTheTrades(t *testing.T) {
	if len(ShareFits) == 0 {
		t.Fatal("nothing is fitted")
	}
	for _, measure := range []evidence.MeasureID{evidence.KVWave, evidence.KVSnapWave} {
		trade := TradeOf(measure)
		var keys []fault.ModeID
		for r := range trade.Modes {
			key := RowKey(trade.Modes, r)
			if key == "" != (trade.Modes[r] == nil) || slices.Contains(keys, key) {
				t.Errorf("%s: row %d (%v) has the key %q", measure, r, trade.Modes[r], key)
			}
			keys = append(keys, key)
		}
		for _, f := range ShareFits {
			if f.Measure != measure {
				continue
			}
			sum := 0.0
			for _, c := range f.Counts {
				sum += c.N
				if c.N <= 0 || !slices.Contains(trade.Of, c.Of) {
					t.Errorf("%s %q: %+v", measure, f.Row, c)
				}
			}
			if !slices.Contains(keys, f.Row) || sum < 10 {
				t.Errorf("%s: %q is no row, or has few captures: %.1f", measure, f.Row, sum)
			}
		}
	}
}
