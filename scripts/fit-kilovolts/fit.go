package main

import (
	"fmt"
	"io"
	"slices"

	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/knowledge"
)

// rounds is the number of rounds of the expectation-maximisation.
const rounds = 40

// fit counts how many captures of each row of modes show each shape. The shapes are the trade's. A capture belongs to each by
// its posterior, and each round corrects the trade's shares by the counts: the shares of a mixture by
// expectation-maximisation (Dempster, Laird and Rubin 1977; from memory).
func fit(trade knowledge.Trade, all []sample) (counts [][]float64) {
	shares := trade.Shares
	for range rounds {
		counts = make([][]float64, len(shares))
		for _, s := range all {
			row := rowOf(trade.Modes, s.mode)
			if counts[row] == nil {
				counts[row] = make([]float64, len(trade.Rows))
			}
			for k, p := range posterior(trade.Rows, shares[row], s) {
				counts[row][k] += p
			}
		}
		shares = make([][]float64, len(counts))
		for r := range shares {
			shares[r] = knowledge.Corrected(trade.Shares[r], counts[r])
		}
	}
	return counts
}

// posterior is the probability of each shape of a capture.
func posterior(rows []*knowledge.NumberRow, shares []float64, s sample) []float64 {
	p, sum := make([]float64, len(rows)), 0.0
	for k := range rows {
		p[k] = shares[k] * (s.Density(rows[k]) + 1e-12)
		sum += p[k]
	}
	for k := range p {
		p[k] /= sum
	}
	return p
}

// rowOf is the index of the first row that covers a mode; "" is a sound cylinder, and has the row of all others.
func rowOf(rows []fault.Keys, mode fault.ModeID) int {
	return slices.IndexFunc(rows, func(k fault.Keys) bool { return k == nil || mode != "" && k.Covers(mode) })
}

// writeCounts writes the Go source of the rows.
func writeCounts(w io.Writer, m evidence.MeasureID, trade knowledge.Trade, counts [][]float64) {
	for r, of := range counts {
		if of == nil {
			continue
		}
		fmt.Fprintf(w, "{%q, %q, []CountFit{\n", m, knowledge.RowKey(trade.Modes, r))
		for k, n := range of {
			if n >= 0.05 {
				fmt.Fprintf(w, "{%q, %.1f},", trade.Of[k], n)
			}
		}
		fmt.Fprintln(w, "\n}},")
	}
}
